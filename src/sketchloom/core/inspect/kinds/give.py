"""Ways to be rid of a piece."""

from typing import Any

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Fix, Spot
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import TakePiece

__all__ = ["given_away"]

_JOINED = 0.3
"""Share of a piece's outline that lies beside another layer, from which on it joins that one."""


def given_away(subject: Subject, layer: Cut, shape: Any, at: Spot) -> tuple[Fix, ...]:
    """Ways to be rid of a piece: it joins the layer that it lies beside, or goes."""
    if subject.bare:
        return ()
    beside = subject.beside(layer, shape)
    whole = shape.length
    best = max(beside, key=lambda key: (beside[key], key), default="")
    drop = Fix("drop", "Drop it", (TakePiece(layer=layer.key, at=at),))
    other = subject.layer(best)
    if other is not None and beside[best] >= _JOINED * whole:
        return (Fix("join", f"Give it to {other.name}", (TakePiece(layer=layer.key, at=at, to=best),)), drop)
    return (drop,)
