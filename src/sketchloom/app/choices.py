"""The maker's own choices: kept between starts, and in force at once."""

from typing import Any

import msgspec
from PySide6.QtWidgets import QWidget

from sketchloom.app.canvas import Canvas
from sketchloom.app.fields import LengthField
from sketchloom.app.job_model import JobModel
from sketchloom.app.more_fields import AreaField
from sketchloom.app.over import OverPage
from sketchloom.app.settings import Settings, save_settings
from sketchloom.app.theme import theme
from sketchloom.core.job import Recipe
from sketchloom.core.threads import use_threads

__all__ = ["Choices"]


class Choices:
    """What of the window knows them."""

    settings: Settings
    model: JobModel
    unit: str
    by_key: dict[str, Any]
    canvas: Canvas
    pages: tuple[OverPage, ...]

    def choose(self, **changes: object) -> None:
        """Take other preferences, and keep them."""
        self._remember(**changes)
        self.take_choices()

    def take_choices(self) -> None:
        """Bring the window to what is chosen."""
        now = self.settings
        if theme.choice != now.theme:
            theme.choose(now.theme)
        use_threads(now.threads)
        self._show_unit(now.unit)
        self.by_key["send"].folder.take_paper(now.paper)

    def _refresh(self) -> None:
        raise NotImplementedError

    def first_recipe(self) -> Recipe:
        """What is done to a new picture at first: it gets the stock and the cutter that are chosen."""
        stock = self.model.shelf.thing(self.settings.stock)
        cutter = self.model.machines.thing(self.settings.cutter)
        return Recipe().with_("layers", stock=stock).with_("sheets", cutter=cutter)

    def toggle_theme(self) -> None:
        """Switch between light and dark, and keep it."""
        self.choose(theme="light" if theme.is_dark else "dark")

    def next_unit(self) -> None:
        """Show lengths in the next unit."""
        units = ("mm", "cm", "in")
        self.choose(unit=units[(units.index(self.unit) + 1) % 3])

    def _show_unit(self, unit: str) -> None:
        if unit == self.unit:
            return
        self.unit = unit
        assert isinstance(self, QWidget)
        for field in (*self.findChildren(LengthField), *self.findChildren(AreaField)):
            field.follow_unit()
        for page in self.pages:
            page.follow_unit()
        self._refresh()
        self.canvas.update()

    def _remember(self, **changes: object) -> None:
        self.settings = msgspec.structs.replace(self.settings, **changes)
        save_settings(self.settings)

    def _remember_fold(self, name: str, folded: bool) -> None:
        self._remember(folds=(*(fold for fold in self.settings.folds if fold[0] != name), (name, folded)))

    def remember_start(self) -> None:
        """Show no demo at the next start."""
        self._remember(started_before=True)
