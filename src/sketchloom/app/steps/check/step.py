"""The Check step: what spoils the cut or is worth a look, and what mends it."""

from collections.abc import Callable, Iterator

from PySide6.QtCore import Signal

from sketchloom.app.checks import Checks
from sketchloom.app.commands import Command
from sketchloom.app.frame import Frame
from sketchloom.app.job_model import JobModel
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.check.file import FileCard
from sketchloom.app.steps.check.limits import AsideCard, LimitsCard, MendsCard
from sketchloom.app.steps.check.listed import FindingsCard, ReadyCard
from sketchloom.app.steps.check.one import OneCard
from sketchloom.app.warp import StepState
from sketchloom.core.inspect import Finding, readiness
from sketchloom.core.job import Checked, Result, to_source

__all__ = ["CheckStep"]

_ROUND, _LEAST_SEEN = 6.0, 12.0
"""Times its size that is shown of a finding's place, and mm that are shown at least."""


class CheckStep(Step):
    """Will it cut, weed and hold together."""

    key, name, view, needs = "check", "Check", "Layers", ("mended",)
    go_to = Signal(object, float)
    """A place of the source to look at, and how many mm of what is round it to show."""

    def __init__(self, model: JobModel, unit: Callable[[], str]) -> None:
        self.checks = Checks(model)
        self._place = -1
        self._in_hand: Finding | None = None
        self._seen: Checked | None = None
        super().__init__(model, unit)
        self.checks.changed.connect(self._on_changed)

    def build(self) -> None:
        """Make the cards."""
        self.shelf = self.model.shelf
        self.ready, self.findings, self.one = ReadyCard(self), FindingsCard(self), OneCard(self)
        self.mends, self.left, self.limits, self.file = (
            MendsCard(self),
            AsideCard(self),
            LimitsCard(self),
            FileCard(self),
        )
        self.shelf.changed.connect(self.refresh)
        self.findings.chosen.connect(self.look_at)
        self.findings.narrowed.connect(lambda: self.look_at(self._place))
        for card in (self.ready, self.findings, self.one):
            self.add(card)
        for card in (self.mends, self.left, self.limits, self.file):
            self.add(card, folded=card is not self.file)

    def attach(self, frame: Frame) -> None:
        """Tell what is known, go to places, and ask for files."""
        self.changed.connect(frame.status.refresh)
        self.changed.connect(frame.warn)
        self.go_to.connect(lambda at, mm: frame.step is self and frame.canvas.show_round(at, mm))
        self.file.ask_open.connect(lambda: frame.dialogs.check_file(self.file))
        self.file.ask_save.connect(lambda: frame.dialogs.save_mended(self.file))

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give what can be done with findings."""
        have = lambda: bool(self._open)  # noqa: E731
        walk = self.findings.walk
        yield "check-next", Command("Check: next finding", self.here(lambda: walk(1)), ".", can=have)
        yield "check-last", Command("Check: finding before", self.here(lambda: walk(-1)), ",", can=have)
        yield "check-mend", Command("Check: mend this place", self.here(self.mend_one), can=have)
        yield "check-all", Command("Check: mend all that is safe", self.here(self.mend_all), can=have)
        yield "check-leave", Command("Check: leave this place so", self.here(self.leave_one), can=have)
        yield "check-file", Command("Check a file…", self.here(self.file.ask_open.emit), help="SVG or DXF")

    @property
    def _open(self) -> tuple[Finding, ...]:
        checked = self.checks.checked
        return checked.open if checked is not None else ()

    @property
    def finding(self) -> Finding | None:
        """The finding in hand."""
        checked = self.checks.checked
        known = checked is not None and 0 <= self._place < len(checked.findings)
        return self.checks.finding(self._place) if known else None

    def look_at(self, place: int) -> None:
        """Take a finding in hand, and go to its place."""
        self._place = place
        self._show()
        self._follow()

    @property
    def ended(self) -> bool:
        """Whether it is known what was found in the newest result."""
        return self.checks.checked is not None

    @property
    def warning(self) -> str:
        """What spoils the cut, in a sentence, or that this is not known yet; empty where nothing does."""
        if not self.ended:
            return self.checks.trouble or "Check has not ended yet; what it finds is told here."
        spoils = [one for one in self._open if one.severity == "spoils"]
        return readiness(spoils) if spoils else ""

    def _follow(self) -> None:
        finding, result = self.finding, self.checks.result
        if finding is None or result is None:
            return
        self.checks.try_fixes([self._place, *self._untried()])
        at = to_source(result.picture, result.finished, result.stack, [finding.at])[0]
        left, top, right, bottom = finding.box
        self.go_to.emit(at, max(_ROUND * max(right - left, bottom - top), _LEAST_SEEN))

    def _untried(self) -> list[int]:
        checked = self.checks.checked
        return [p for p in range(min(60, len(checked.findings))) if p not in checked.aside] if checked else []

    def mend_one(self, number: int = 0) -> None:
        """Do a fix of the finding in hand, once it is known to hold."""
        finding = self.finding
        if finding is None or not self.checks.is_sure(self._place):
            self.model.said.emit("What mends this place is still tried; a moment.")
        elif number >= len(finding.fixes):
            self.model.said.emit("Nothing mends this place by itself; its sentence says why.")
        else:
            self.checks.mend(self._place, number)

    def mend_kind(self) -> None:
        """Mend all of the kind in hand."""
        finding = self.finding
        if finding is not None:
            kind = finding.kind
            self.checks.mend_many(f"Mend all: {self.one.title.text().lower()}", lambda one: one.kind == kind)

    def mend_all(self) -> None:
        """Mend all that can safely be mended."""
        self.checks.mend_many("Mend all that is safe", lambda one: True)

    def leave_one(self) -> None:
        """Leave the finding in hand so."""
        if self.finding is not None:
            self.checks.leave(self._place, self.one.word.text().strip())
            self.one.word.clear()

    def new_job(self) -> None:
        """Let go of the finding in hand."""
        super().new_job()
        self._place, self._in_hand, self._seen = -1, None, None

    def close_down(self) -> None:
        """End the thread."""
        self.checks.close()

    def _on_changed(self) -> None:
        self._show()
        self.changed.emit()

    changed = Signal()
    """What is known of the findings is known anew."""

    def _show(self) -> None:
        checked = self.checks.checked
        if checked is not None and checked is not self._seen:  # another list: the finding in hand is found again
            old, self._seen = self._in_hand, checked
            again = [place for place, one in enumerate(checked.findings) if old is not None and one.is_still(old)]
            self._place = again[0] if again else self._place
        self._place = self.findings.show_checked(checked, self._place)
        self._in_hand = self.finding or self._in_hand
        self.ready.show_checked(checked, self.checks.trouble)
        self.one.show_finding(checked, self.finding, self.checks.is_sure(self._place))
        self.left.show_checked(checked)

    def show_result(self, result: Result) -> None:
        """Show all cards."""
        self._show()
        self.limits.show_result(result)
        self.mends.show_result(result)
        self.file.show_stocks(self.shelf.things)

    def state(self, result: Result | None, stale: bool) -> StepState:
        """The worst that was found."""
        state = super().state(result, stale)
        checked = self.checks.checked
        if state.state != "done" or checked is None:
            return state
        found = checked.open
        spoils = sum(one.severity == "spoils" for one in found)
        if spoils:
            return StepState(f"{spoils} spoil{'s' * (spoils == 1)} the cut", "spoils")
        return StepState(f"{len(found)} to look at", "worth") if found else StepState("in order", "done")

    def figure(self, result: Result) -> str:
        """While nothing is known yet."""
        return "checking"
