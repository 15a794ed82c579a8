"""Pages over the work: which there are, and that one at a time is shown."""

from typing import Any

from PySide6.QtWidgets import QWidget

from sketchloom.app.beside import BesidePage
from sketchloom.app.canvas import Canvas
from sketchloom.app.job_model import JobModel
from sketchloom.app.ledger import Ledger
from sketchloom.app.log_model import LogModel
from sketchloom.app.logbook import LogbookPage
from sketchloom.app.many import BatchPage
from sketchloom.app.over import OverPage
from sketchloom.app.preferences import PreferencesPage
from sketchloom.app.settings import Settings

__all__ = ["Paged"]


class Paged:
    """What of the window lies over the work."""

    model: JobModel
    log: LogModel
    canvas: Canvas
    ledger: Ledger
    dialogs: Any
    settings: Settings
    unit: str

    def make_pages(self, parent: QWidget) -> None:
        """Make all pages; none shows yet."""
        self.beside = BesidePage(self.model, lambda: self.unit, parent)
        self.beside.wants_file.connect(self.dialogs.choose_job)
        self.logbook = LogbookPage(self.model, self.log, parent)
        self.logbook.wants_csv.connect(self.dialogs.save_csv)
        self.logbook.wants_photo.connect(self.dialogs.choose_photo)
        self.preferences = PreferencesPage(self.model, lambda: self.settings, parent)
        self.preferences.changed.connect(lambda changes: self.choose(**changes))
        self.preferences.said.connect(self.say)
        self.many = BatchPage(self.model, parent)
        self.many.said.connect(self.say)
        self.pages: tuple[OverPage, ...] = (self.beside, self.logbook, self.preferences, self.many)

    def say(self, sentence: str) -> None:
        """Show a sentence for a while."""
        raise NotImplementedError

    def choose(self, **changes: object) -> None:
        """Take other preferences."""
        raise NotImplementedError

    def show_beside(self) -> None:
        """Show two versions, or two jobs, side by side."""
        self._show_page(self.beside)

    def show_logbook(self) -> None:
        """Show the logbook."""
        self._show_page(self.logbook)

    def show_preferences(self) -> None:
        """Show the preferences."""
        self._show_page(self.preferences)

    def _show_page(self, page: OverPage) -> None:
        for other in self.pages:
            if other is not page and other.isVisible():
                other.put_away()
        self._place_pages()
        page.open()

    def _place_pages(self) -> None:
        """Pages lie over the canvas and the ledger; the steps and their cards stay in reach."""
        for page in self.pages:
            page.setGeometry(self.canvas.geometry().united(self.ledger.geometry()))

    def show_many(self) -> None:
        """Show the page that does more pictures."""
        self._show_page(self.many)

    @property
    def page(self) -> OverPage | None:
        """The one that shows."""
        return next((page for page in self.pages if page.isVisible()), None)

    def close_pages(self) -> None:
        """End what they work with."""
        self.beside.close_down()
        self.many.close_down()
