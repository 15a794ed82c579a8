"""What a maker has, a shelf a kind, as the window shows and changes it."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import msgspec
from PySide6.QtCore import QObject, Signal

from sketchloom.core.errors import SketchLoomError
from sketchloom.core.stock import MOST_THINGS, ShelfKind

__all__ = ["OwnShelf"]


class OwnShelf(QObject):
    """Reads a shelf once, and keeps every change of it.

    Parameters
    ----------
    kind : ShelfKind
    """

    changed = Signal()
    kept = Signal(str, object, object)
    """A change that can be undone: its name, and what was on the shelf before and after it."""
    said = Signal(str)

    def __init__(self, kind: ShelfKind) -> None:
        super().__init__()
        self.kind = kind
        self.things: tuple[Any, ...] = kind.generic
        self.trouble = ""
        try:
            self.things = kind.read()
        except SketchLoomError as error:
            self.trouble = f"{error} The {kind.many} that come with the program are shown; yours stay as they are."

    def thing(self, name: str) -> Any | None:
        """Give a thing by its name, or None."""
        return next((thing for thing in self.things if thing.name == name), None)

    def free_name(self, name: str) -> str:
        """A name like this that no thing here has."""
        taken = {thing.name.casefold() for thing in self.things}
        number, free = 2, name[:34]
        while free.casefold() in taken:
            free, number = f"{name[:34]} {number}", number + 1
        return free

    def add(self, thing: Any) -> Any:
        """Put a thing on the shelf under a free name, and give it as it is there."""
        own = msgspec.structs.replace(thing, name=self.free_name(thing.name))
        self._keep(f"{self.kind.one.capitalize()} added", (*self.things, own))
        return own

    def change(self, name: str, /, **values: object) -> bool:
        """Change a thing; what cannot be is said, and left."""
        old = self.thing(name)
        if old is None:
            return False
        new = msgspec.structs.replace(old, **values)
        try:
            self.kind.check(new)
        except SketchLoomError as error:
            self.said.emit(str(error))
            return False
        if new.name.casefold() != name.casefold() and self.free_name(new.name) != new.name:
            self.said.emit(f"There is a {self.kind.one} “{new.name}” already; give this one another name.")
            return False
        things = tuple(new if thing is old else thing for thing in self.things)
        return self._keep(f"{self.kind.one.capitalize()} changed", things)

    def remove(self, name: str) -> None:
        """Take a thing off the shelf; jobs that hold it keep it."""
        self._keep(f"{self.kind.one.capitalize()} removed", tuple(one for one in self.things if one.name != name))

    def take_in(self, path: Path) -> None:
        """Add the things of a file."""
        try:
            found = self.kind.read(path)
        except SketchLoomError as error:
            self.said.emit(str(error))
            return
        many = self.take(found)
        if many is not None:
            self.said.emit(f"{many} {self.kind.one if many == 1 else self.kind.many} added from {path.name}.")

    def take(self, found: Sequence[Any]) -> int | None:
        """Add things that are not here already, under free names; how many, or None if that could not be kept."""
        fresh: list[Any] = []
        for thing in found:
            if thing not in self.things:
                taken = {other.name.casefold() for other in (*self.things, *fresh)}
                name, number = thing.name, 2
                while name.casefold() in taken:
                    name, number = f"{thing.name[:34]} {number}", number + 1
                fresh.append(msgspec.structs.replace(thing, name=name))
        kept = self._keep(f"{self.kind.many.capitalize()} added", (*self.things, *fresh))
        return len(fresh) if kept else None

    def give_out(self, path: Path) -> None:
        """Write the shelf to a file."""
        try:
            path.write_bytes(self.kind.encode(self.things))
            self.said.emit(f"Saved {len(self.things)} {self.kind.many} as {path.name} in {path.parent}.")
        except OSError as error:
            self.said.emit(f"{path.name} cannot be written: {(error.strerror or str(error)).lower()}.")

    def _keep(self, name: str, things: tuple[Any, ...]) -> bool:
        before = self.things
        if not self.put(things):
            return False
        if things != before:
            self.kept.emit(name, before, things)
        return True

    def put(self, things: tuple[Any, ...]) -> bool:
        """Keep other things on the shelf; whether that could be done."""
        if len(things) > MOST_THINGS:
            self.said.emit(f"At most {MOST_THINGS} {self.kind.many} can be kept; take some off the shelf first.")
            return False
        try:
            self.kind.write(things)
        except OSError as error:
            self.said.emit(f"Your {self.kind.many} cannot be kept: {(error.strerror or str(error)).lower()}.")
            return False
        self.things = things
        self.changed.emit()
        return True
