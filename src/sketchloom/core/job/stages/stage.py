"""What a stage is: its name, what it needs, the settings that it hangs on, its work, and the step that shows it."""

import hashlib
from collections.abc import Callable
from typing import Any, Literal, NamedTuple, Protocol

import msgspec
import numpy as np

from sketchloom.core.inspect import Memory
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick

__all__ = ["PREVIEW_PIXELS", "Ask", "Stage", "digest_of", "itself", "key_of", "stage"]

PREVIEW_PIXELS = 250_000
"""A larger picture is reduced for a preview; one that is not is its own."""


class Ask(Protocol):
    """What the work of a stage asks for: results of the stages that it needs, by name."""

    opened: Picture
    preview: bool
    memory: Memory

    def key(self, name: str) -> str:
        """Give the key of a stage's result."""

    def __call__(self, name: str) -> Any:
        """Give the result of a stage."""

    def full(self, name: str) -> Any:
        """Give the result of a stage on the full picture; of a run that is no preview, None."""

    def once(self, name: str, needs: tuple[str, ...], settings: Any, work: Callable[[Tick], Any]) -> Any:
        """Give a part of a stage's result that is remembered by itself."""


Needs = tuple[str, ...] | Callable[[Recipe, Callable[[], str]], tuple[str, ...]]
Work = Callable[[Ask, Any, Tick], Any]
Outcome = Callable[[Ask, Any, Any], Any]
Preview = Literal["anew", "guided", "full"]


def _nothing(recipe: Recipe) -> None:
    return None


class Stage(NamedTuple):
    """One stage.

    Attributes
    ----------
    name : str
    step : str
        The step of the window that shows it, and its failures.
    needs : tuple of str, or callable
        Stages whose results it takes; as a callable, of the recipe and of a
        function that gives the road the picture takes.
    hangs_on : callable
        Picks the settings it hangs on from a recipe.
    work : callable
        Takes `Ask`, the settings, and `Tick`; gives the result.
    preview : {'anew', 'guided', 'full'}
        In a preview: worked out anew on the reduced picture, the same with
        the decisions of the full one, or taken from the full one.
    outcome : callable, optional
        Gives what the result comes to, as what can be written as JSON, where
        that is less than all that went in; while it stays, the stages below
        are not run again.
    """

    name: str
    step: str
    needs: Needs
    hangs_on: Callable[[Recipe], Any]
    work: Work
    preview: Preview = "anew"
    outcome: Outcome | None = None


def stage(
    name: str,
    step: str,
    needs: Needs,
    hangs_on: Callable[[Recipe], Any] = _nothing,
    preview: Preview = "anew",
    outcome: Outcome | None = None,
) -> Callable[[Work], Stage]:
    """Declare the function that follows as the work of a stage; see `Stage`."""

    def declared(work: Work) -> Stage:
        return Stage(name, step, needs, hangs_on, work, preview, outcome)

    return declared


def key_of(name: str, *parts: Any) -> str:
    """Make a key of a name and of what can be written as JSON."""
    digest = hashlib.blake2b(name.encode(), digest_size=16)
    for part in parts:
        digest.update(b"\0" + msgspec.json.encode(part))
    return digest.hexdigest()


def digest_of(*arrays: np.ndarray | None) -> str:
    """Make a key of the values of arrays."""
    digest = hashlib.blake2b(digest_size=16)
    for array in arrays:
        if array is not None:
            digest.update(repr(array.shape).encode())
            digest.update(np.ascontiguousarray(array).data)
    return digest.hexdigest()


def itself(ask: Ask, settings: Any, value: Any) -> Any:
    """An outcome that is the whole result."""
    return value
