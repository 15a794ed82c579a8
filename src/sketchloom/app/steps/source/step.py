"""The Source step: what was opened, and what it is good for."""

from collections.abc import Sequence

from PySide6.QtCore import Signal

from sketchloom.app.fields import Card, faded
from sketchloom.app.frame import Frame
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.source.drawings import DrawingsCard
from sketchloom.app.steps.source.history import HistoryCard
from sketchloom.app.steps.source.kind import KindCard
from sketchloom.app.steps.source.left import LeftCard
from sketchloom.app.steps.source.open_jobs import OpenJobsCard
from sketchloom.app.steps.source.picture import PictureCard
from sketchloom.app.steps.source.recent import RecentCard
from sketchloom.app.steps.source.report import ReportCard
from sketchloom.app.steps.source.start import StartCard
from sketchloom.app.steps.source.versions import VersionsCard
from sketchloom.core.job import Result
from sketchloom.core.picture import Point

__all__ = ["SourceStep"]


class SourceStep(Step):
    """The picture, its report at the finished size, its kind, and what else is open."""

    put_away = Signal(object)
    """An open job to close."""

    key, name, view, needs, threads = "source", "Source", "Picture", (), False

    def build(self) -> None:
        """Make the cards."""
        self.left = LeftCard()
        self.add(self.left)
        self.start = StartCard()
        self.add(self.start)
        self.picture, self.report, self.kind = PictureCard(self), ReportCard(self), KindCard(self)
        self.drawings, self.open_jobs = DrawingsCard(self), OpenJobsCard(self)
        self._filled = (self.picture, self.report, self.kind)
        for card in (*self._filled, self.drawings, self.open_jobs):
            self.add(card).hide()
        self.versions = VersionsCard()
        self.versions.kept.connect(lambda: self.model.keep_version())
        self.versions.wanted.connect(self.model.take_version)
        self.versions.removed.connect(self.model.remove_version)
        self.versions.renamed.connect(self.model.rename_version)
        self.add(self.versions, folded=True).hide()
        self.history = HistoryCard()
        self.history.jumped.connect(self.model.jump)
        self.model.recipe_changed.connect(self._show_history)
        self.add(self.history, folded=True).hide()
        self.recent = RecentCard(self.unit)
        self.add(self.recent).hide()
        rights = self.add(Card("Before you cut", "rights"), folded=True)
        rights.body.addWidget(
            faded("Make sure you may use the picture. Keep an untouched copy; this program never changes it.")
        )

    def shown_as(self, view: str) -> str:
        """Show the picture as it was opened."""
        return "Source" if view == "Picture" else view

    def marks(self) -> Sequence[tuple[Point, Point]]:
        """Give the drawings that lie on the page."""
        return self.model.drawings

    def attach(self, frame: Frame) -> None:
        """Open and close jobs."""
        for button in (self.picture.open, self.start.open):
            button.clicked.connect(frame.dialogs.open)
        self.start.demo_chosen.connect(frame.open_demo)
        self.start.offer_last(frame.settings.last, lambda paths: frame.open(*paths))
        self.recent.wanted.connect(frame.open)
        self.recent.forgotten.connect(frame.forget)
        self.recent.show_recent(frame.settings.recent)
        self.put_away.connect(frame.dialogs.put_away)
        self.versions.compare.clicked.connect(frame.show_beside)
        self.left.wanted.connect(frame.keeper.bring_back)
        frame.keeper.found.connect(self.left.show_left)
        frame.keeper.pictured.connect(self.left.show_image)
        self._recent = lambda: self.recent.show_recent(frame.settings.recent)

    def pixels(self) -> str:
        """Say how many pixels the opened picture has."""
        picture = self.model.picture
        return f"{picture.width} × {picture.height} px" if picture else ""

    def show_result(self, result: Result) -> None:
        """Show all that is known of the picture."""
        if self.model.job is None:
            return
        if not self.start.isHidden():
            self.start.hide()
            self.recent.fold(True)  # what is open comes first
        for card in self._filled:
            card.show()
        for card in (*self._filled, self.drawings, self.open_jobs):
            card.show_result(result)
        self._recent()
        self._show_history()

    def _show_history(self) -> None:
        """Show the changes of the job in hand."""
        self.history.show_history(self.model.changes, self.model.place)
        self.versions.show_versions(self.model.versions, self.model.recipe)

    def close_down(self) -> None:
        """End the thread that looks at files."""
        self.recent.close_down()

    def figure(self, result: Result) -> str:
        """Pixels."""
        return self.pixels()
