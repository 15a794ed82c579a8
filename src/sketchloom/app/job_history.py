"""Changes of the job in hand: made, taken back, gone to, and kept as versions."""

import time
from typing import Any

import msgspec
from PySide6.QtCore import SignalInstance

from sketchloom.app.held import Held
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Change, History, Job, Recipe, Version
from sketchloom.core.picture import Row

__all__ = ["JobHistory"]

_NONE = History(Recipe())
"""Where no job is open."""


class JobHistory:
    """What of the model changes the recipe, by name, so that undo knows it."""

    current: Held | None
    recipe_changed: SignalInstance
    said: SignalInstance

    @property
    def job(self) -> Job | None:
        """The job in hand."""
        raise NotImplementedError

    def _changed(self, gesture: int | None) -> None:
        """Work out what a change makes of the picture."""
        raise NotImplementedError

    @property
    def _history(self) -> History:
        return self.current.history if self.current else _NONE

    @property
    def recipe(self) -> Recipe:
        """The recipe in force."""
        return self._history.recipe

    @property
    def undo_name(self) -> str | None:
        """What undo takes back."""
        return self._history.undo_name

    @property
    def redo_name(self) -> str | None:
        """What redo does again."""
        return self._history.redo_name

    def change(self, name: str, stage: str, gesture: int | None = None, **changes: Any) -> None:
        """Make a change of one stage's settings, named for undo.

        While a gesture goes on, only fast previews run; when it rests, or
        `rest` ends it, the full result comes.
        """
        if self.job is None or not self._history.push(name, self.recipe.with_(stage, **changes), gesture):
            return
        self._changed(gesture)

    def change_recipe(self, name: str, recipe: Recipe) -> None:
        """Make a change that may reach over several stages, as one step of undo."""
        if self.job is not None and self._history.push(name, recipe):
            self._changed(None)

    def change_rows(self, name: str, rows: tuple[Row, ...], gesture: int | None = None) -> None:
        """Change the rows of Prepare."""
        recipe = msgspec.structs.replace(self.recipe, prepare=rows)
        if self.job is not None and self._history.push(name, recipe, gesture):
            self._changed(gesture)

    @property
    def changes(self) -> tuple[Change, ...]:
        """All changes of the job in hand, oldest first."""
        return self._history.changes

    @property
    def place(self) -> int:
        """After how many of them it stands."""
        return self._history.place

    def jump(self, place: int) -> None:
        """Go to the state after so many changes."""
        if self._history.jump(place):
            self._changed(None)

    def undo(self) -> None:
        """Take the last change back."""
        if self._history.undo():
            self._changed(None)

    def redo(self) -> None:
        """Make it again."""
        if self._history.redo():
            self._changed(None)

    @property
    def versions(self) -> tuple[Version, ...]:
        """States of the job in hand that are kept by name, oldest first."""
        return self._history.versions

    def keep_version(self, name: str = "") -> None:
        """Keep the job in hand as it stands, to come back to."""
        if self.job is None:
            return
        try:
            version = self._history.keep_version(name, int(time.time()))
        except ArgumentError as error:
            self.said.emit(str(error))
            return
        self.said.emit(f"Kept “{version.name}” in this job. Saving the job saves it too.")
        self.recipe_changed.emit()

    def take_version(self, name: str) -> None:
        """Come back to a version; undo leads to where the job stands now."""
        version = self._history.version(name)
        if version is not None:
            self.change_recipe(f"Back to “{name}”", version.recipe)

    def remove_version(self, name: str) -> None:
        """Keep a version no longer."""
        self._history.remove_version(name)
        self.recipe_changed.emit()

    def rename_version(self, old: str, new: str) -> None:
        """Give a version another name, if it can have it."""
        try:
            self._history.rename_version(old, " ".join(new.split()))
        except ArgumentError as error:
            self.said.emit(str(error))
        self.recipe_changed.emit()
