"""Undo and redo: a list of recipes, each with the name of what led to it."""

from collections.abc import Callable
from typing import NamedTuple

from sketchloom.core.job.recipe import Recipe

__all__ = ["Change", "History"]

_STEP = {"finish": "size", "checks": "check", "look": "layers"}
"""What a part of a recipe is called, where not by its own name."""


class Change(NamedTuple):
    """A change as a list of them tells it."""

    name: str
    step: str
    """Where it was made; empty of what is outside the recipe, such as a shelf."""


class _Step(NamedTuple):
    name: str
    recipe: Recipe
    gesture: int | None
    back: Callable[[], object] | None = None  # takes back what it did outside the recipe
    forth: Callable[[], object] | None = None  # does that again


class History:
    """Where in the list of recipes we stand.

    Changes that belong to one gesture, such as a drag of a slider, are one
    step.
    """

    def __init__(self, recipe: Recipe) -> None:
        self._steps = [_Step("", recipe, None)]
        self._at = 0

    @property
    def recipe(self) -> Recipe:
        """The recipe in force."""
        return self._steps[self._at].recipe

    @property
    def place(self) -> int:
        """After how many changes we stand."""
        return self._at

    @property
    def changes(self) -> tuple[Change, ...]:
        """All changes, oldest first, those that were taken back too."""
        pairs = zip(self._steps, self._steps[1:], strict=False)
        return tuple(Change(step.name, _step_of(before.recipe, step.recipe)) for before, step in pairs)

    def jump(self, place: int) -> bool:
        """Go to the state after so many changes, one by one; False if we stand there, or there are not as many."""
        if place == self._at or not 0 <= place < len(self._steps):
            return False
        while self._at > place:
            self.undo()
        while self._at < place:
            self.redo()
        return True

    @property
    def undo_name(self) -> str | None:
        """What undo would take back, or None."""
        return self._steps[self._at].name if self._at else None

    @property
    def redo_name(self) -> str | None:
        """What redo would do again, or None."""
        return self._steps[self._at + 1].name if self._at + 1 < len(self._steps) else None

    def push(self, name: str, recipe: Recipe, gesture: int | None = None) -> bool:
        """Make a change; False if it changes nothing."""
        now = self._steps[self._at]
        if gesture is not None and now.gesture == gesture:
            if recipe == now.recipe:
                return False
            del self._steps[self._at :]
            if recipe == self._steps[-1].recipe:  # dragged out and back
                self._at -= 1
            else:
                self._steps.append(_Step(name, recipe, gesture))
            return True
        if recipe == now.recipe:
            return False
        del self._steps[self._at + 1 :]
        self._steps.append(_Step(name, recipe, gesture))
        self._at += 1
        return True

    def push_beside(self, name: str, back: Callable[[], object], forth: Callable[[], object]) -> None:
        """Remember a change outside the recipe, which was made already: what takes it back, and what makes it again."""
        del self._steps[self._at + 1 :]
        self._steps.append(_Step(name, self.recipe, None, back, forth))
        self._at += 1

    def undo(self) -> bool:
        """Go one step back; False at the first."""
        if not self._at:
            return False
        step = self._steps[self._at]
        self._at -= 1
        if step.back is not None:
            step.back()
        return True

    def redo(self) -> bool:
        """Go one step forward; False at the last."""
        if self._at + 1 == len(self._steps):
            return False
        self._at += 1
        step = self._steps[self._at]
        if step.forth is not None:
            step.forth()
        return True


def _step_of(before: Recipe, after: Recipe) -> str:
    """The part of a recipe that a change was made in; of several the first."""
    for part in before.__struct_fields__:
        old, new = getattr(before, part), getattr(after, part)
        if old is not new and old != new:
            return _STEP.get(part, part)
    return ""
