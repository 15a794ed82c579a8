"""The cards with limits, with what is left so, and with what was mended."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, Field, LengthField, faded
from sketchloom.app.more_fields import AreaField
from sketchloom.app.steps.check.desk import CheckDesk
from sketchloom.app.steps.check.words import measure_words
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import KINDS, check_limit, limits_for
from sketchloom.core.job import Checked, Result
from sketchloom.core.measures import in_words

__all__ = ["AsideCard", "LimitsCard", "MendsCard"]

_MOST_SHOWN = 40


class _NumberField(Field):
    """A plain number."""

    committed = Signal(float)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setToolTip(name)
        self.editingFinished.connect(self._commit)

    def _commit(self) -> None:
        if not self.isModified():
            return
        try:
            value = float(self.text().strip().rstrip("°×").replace(",", ".").split()[0])
        except (ValueError, IndexError):
            self.put_back()
            return
        self.setModified(False)
        self.committed.emit(value)


class LimitsCard(Card):
    """Limits of the job, kind by kind."""

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("Limits")
        self._step = step
        self.fields: dict[str, Field] = {}
        self.resets: dict[str, QPushButton] = {}
        self.body.addWidget(faded("Layers on a stock take its own narrowest piece and gap, until you set them here."))
        for kind, about in KINDS.items():
            if not about.what:
                continue
            line = QHBoxLayout()
            line.setSpacing(6)
            label = QLabel(about.what)
            label.setWordWrap(True)
            field: Field
            if about.unit == "mm":
                field = LengthField(about.what, step.unit, decimals=2)
                field.committed.connect(lambda mm, kind=kind: self.set_limit(kind, mm))
            elif about.unit == "mm2":
                field = AreaField(about.what, step.unit)
                field.committed.connect(lambda mm2, kind=kind: self.set_limit(kind, mm2))
            else:
                field = _NumberField(about.what)
                field.committed.connect(lambda value, kind=kind: self.set_limit(kind, value))
            field.setFixedWidth(86)
            reset = icon_button("undo-2", f"Back to the usual limit: {about.what}", lambda kind=kind: self.reset(kind))
            policy = reset.sizePolicy()
            policy.setRetainSizeWhenHidden(True)
            reset.setSizePolicy(policy)
            line.addWidget(label, 1)
            line.addWidget(field)
            line.addWidget(reset)
            self.body.addLayout(line)
            self.fields[kind], self.resets[kind] = field, reset

    @property
    def _limits(self) -> tuple[tuple[str, float], ...]:
        return self._step.model.recipe.checks.limits

    def set_limit(self, kind: str, limit: float) -> None:
        """Set a limit of the job, if it can be one."""
        try:
            check_limit(kind, limit)
        except ArgumentError as error:
            self._step.model.said.emit(str(error))
            self.show_result(None)
            return
        kept = tuple(pair for pair in self._limits if pair[0] != kind)
        self._step.model.change(f"Limit: {KINDS[kind].what.lower()}", "checks", limits=(*kept, (kind, limit)))

    def reset(self, kind: str) -> None:
        """Take the limit that the stock, or the program, has."""
        kept = tuple(pair for pair in self._limits if pair[0] != kind)
        self._step.model.change(f"Usual limit: {KINDS[kind].what.lower()}", "checks", limits=kept)

    def show_result(self, result: Result | None) -> None:
        """Show the limits that count for a layer on the stock of the stack."""
        recipe = self._step.model.recipe
        limits = limits_for(recipe.layers.stock, self._limits, recipe.sheets.ready.kerf)
        changed = dict(self._limits)
        for kind, field in self.fields.items():
            if isinstance(field, LengthField | AreaField):
                field.show_value(limits[kind])
            else:
                field.show_text(measure_words(limits[kind], KINDS[kind].unit, "mm"))
            self.resets[kind].setVisible(kind in changed)
        self.aside.setText(f"{len(changed)} changed" if changed else "")


class AsideCard(Card):
    """Findings that are left so."""

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("Left so")
        self._step = step
        self._shown: object = None
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)

    def show_checked(self, checked: Checked | None) -> None:
        """List them; those whose place has changed are findings again."""
        asides = self._step.model.recipe.checks.aside
        self.setVisible(bool(asides))
        held = list(checked.aside.values()) if checked is not None else []
        if (asides, held) == self._shown:
            return
        self._shown = (asides, held)
        with refilled(self.rows):
            for place, aside in enumerate(asides[:_MOST_SHOWN]):
                words = KINDS[aside.kind].title + (f": {aside.word}" if aside.word else "")
                words += "" if aside in held or checked is None else " (its place has changed)"
                back = icon_button("x", f"Take back: {words}", lambda place=place: self.take_back(place), side=22)
                self.rows.addWidget(ListRow(words, behind=(back,)))
        self.aside.setText(str(len(asides)))

    def take_back(self, place: int) -> None:
        """Make it a finding again."""
        asides = self._step.model.recipe.checks.aside
        self._step.model.change("Not left so", "checks", aside=(*asides[:place], *asides[place + 1 :]))


class MendsCard(Card):
    """What was mended, and can be taken back by itself."""

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("Mended")
        self._step = step
        self._shown: object = None
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.more = faded()
        self.body.addWidget(self.more)
        self.all = QPushButton("Take all back")
        self.all.clicked.connect(lambda: step.model.change("Take all mends back", "checks", mends=()))
        self.body.addWidget(self.all)

    def show_result(self, result: Result | None) -> None:
        """List the mends of the recipe in force; what found no place is said to be so."""
        mends = self._step.model.recipe.checks.mends
        self.setVisible(bool(mends))
        known = result is not None and result.has("mended") and result.recipe.checks.mends == mends
        lost = set(result.lost_mends) if known and result is not None else set()
        there = result is not None and result.has("mended")
        names = {layer.key: layer.name for layer in result.stack.layers} if there else {}
        if (mends, lost, names) == self._shown:
            return
        self._shown = (mends, lost, names)
        with refilled(self.rows):
            first = max(0, len(mends) - _MOST_SHOWN)
            for place in range(first, len(mends)):
                mend = mends[place]
                words = f"{in_words(mend.sentence, self._step.unit())}, {names.get(mend.layer, mend.layer)}"
                words += ": no place found" if place in lost else ""
                back = icon_button("x", f"Take back: {words}", lambda place=place: self.take_back(place), side=22)
                self.rows.addWidget(ListRow(words, behind=(back,)))
        self.more.setText(f"and {first} earlier ones")
        self.more.setVisible(first > 0)
        self.aside.setText(str(len(mends)))

    def take_back(self, place: int) -> None:
        """Take one mend back."""
        mends = self._step.model.recipe.checks.mends
        self._step.model.change("Take a mend back", "checks", mends=(*mends[:place], *mends[place + 1 :]))
