"""Undo and redo: a list of recipes, each with the name of what led to it; and the versions that are kept by name."""

from collections.abc import Callable
from typing import NamedTuple

import msgspec

from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.versions import Version, check_room, check_versions, free_version_name

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

    Attributes
    ----------
    versions : tuple of Version
        In the order in which they were kept.
    """

    def __init__(self, recipe: Recipe, versions: tuple[Version, ...] = ()) -> None:
        self._steps = [_Step("", recipe, None)]
        self._at = 0
        self.versions = versions

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

    def version(self, name: str) -> Version | None:
        """Give a version by its name, or None."""
        return next((version for version in self.versions if version.name == name), None)

    def keep_version(self, name: str, at: int) -> Version:
        """Keep what stands as a version, under a free name; undo does not take it away. Raises ArgumentError.

        `at` in s since 1970.
        """
        version = Version(free_version_name(self.versions, name), self.recipe, at)
        check_room((*self.versions, version))
        self.versions = check_versions((*self.versions, version))
        return version

    def remove_version(self, name: str) -> None:
        """Keep a version no longer, which undo takes back; what was undone before can still be done again."""
        version = self.version(name)
        if version is None:
            return
        place = self.versions.index(version)

        def back() -> None:
            again = msgspec.structs.replace(version, name=free_version_name(self.versions, version.name))
            self.versions = (*self.versions[:place], again, *self.versions[place:])

        def forth() -> None:
            self.versions = tuple(one for one in self.versions if one.name != version.name)

        self._do_beside(f"Version “{name}” removed", back, forth)

    def rename_version(self, old: str, new: str) -> None:
        """Give a version another name, which undo takes back; raises ArgumentError for one that it cannot have."""
        if old == new or self.version(old) is None:
            return
        check_versions(self._renamed(old, new))

        def back() -> None:
            self.versions = self._renamed(new, free_version_name(self._without(new), old))

        def forth() -> None:
            self.versions = self._renamed(old, free_version_name(self._without(old), new))

        self._do_beside(f"Version “{old}” renamed", back, forth)

    def _without(self, name: str) -> tuple[Version, ...]:
        return tuple(version for version in self.versions if version.name != name)

    def _renamed(self, old: str, new: str) -> tuple[Version, ...]:
        return tuple(
            msgspec.structs.replace(version, name=new) if version.name == old else version for version in self.versions
        )

    def _do_beside(self, name: str, back: Callable[[], object], forth: Callable[[], object]) -> None:
        """Make a change beside the recipe; changes that were taken back stay, to be made again after it."""
        forth()
        self._steps.insert(self._at + 1, _Step(name, self.recipe, None, back, forth))
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
