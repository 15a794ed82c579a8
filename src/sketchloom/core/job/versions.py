"""Versions: states of a job that a maker keeps by name, to come back to and to compare."""

from collections.abc import Sequence

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job.recipe import Recipe

__all__ = ["LONGEST_NAME", "MOST_VERSIONS", "Version", "check_room", "check_versions", "free_version_name"]

MOST_VERSIONS = 200
LONGEST_NAME = 60
_MOST_BYTES = 32_000_000
"""Of all of them as JSON; a job that holds more could not be read again."""


class Version(msgspec.Struct, frozen=True):
    """All that was done to the picture at a time; the picture itself never changes."""

    name: str
    recipe: Recipe
    at: int = 0
    """When it was kept, s since 1970."""

    def check(self) -> "Version":
        """Give it back if it can be come back to; raises ArgumentError."""
        if not self.name.strip() or len(self.name) > LONGEST_NAME or not self.name.isprintable():
            raise ArgumentError(f"{self.name[:20]!a} is no name for a version; type 1 to {LONGEST_NAME} letters.")
        self.recipe.check()
        return self


def check_versions(versions: Sequence[Version]) -> tuple[Version, ...]:
    """Give versions back if each can be come back to, and no two share a name; raises ArgumentError."""
    if len(versions) > MOST_VERSIONS:
        raise ArgumentError(f"A job keeps at most {MOST_VERSIONS} versions; remove some that are not needed.")
    if len({version.check().name.casefold() for version in versions}) < len(versions):
        raise ArgumentError("Two versions of a job have one name; give each its own.")
    return tuple(versions)


def check_room(versions: Sequence[Version]) -> None:
    """See that a job can hold versions; raises ArgumentError."""
    if len(msgspec.json.encode(tuple(versions))) > _MOST_BYTES:
        raise ArgumentError("The versions of this job take more room than a job has; remove some first.")


def free_version_name(versions: Sequence[Version], name: str = "") -> str:
    """A name like this that none of the versions has; without one, ``Version`` and a number."""
    taken = {version.name.casefold() for version in versions}
    stem = " ".join(name.split())[: LONGEST_NAME - 5] or "Version"
    numbers = range(2 if name else 1, len(versions) + 3)
    names = (*([stem] if name else []), *(f"{stem} {number}" for number in numbers))
    return next(free for free in names if free.casefold() not in taken)
