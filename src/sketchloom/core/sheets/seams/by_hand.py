"""Seams that a hand laid, kept by their lines in source coordinates."""

from collections.abc import Sequence

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.picture import Point
from sketchloom.core.sheets.seams.parting import Seam
from sketchloom.core.sheets.work import Work

__all__ = ["SeamLine", "with_seam", "without_seams"]


class SeamLine(msgspec.Struct, frozen=True):
    """A seam that a hand laid."""

    layer: str
    """Key."""
    line: tuple[Point, ...]
    """From edge to edge of what it parts; its ends run on. Source coordinates."""


def with_seam(
    before: Sequence[SeamLine], seams: Sequence[Seam], place: int, line: Floats, work: Work, only_before: bool = False
) -> tuple[SeamLine, ...]:
    """Give the lines of hands after one seam is laid elsewhere.

    The others of its layer are held where they are, so that they do not jump.

    Parameters
    ----------
    before : sequence of SeamLine
    seams : sequence of Seam
        As they are now.
    place : int
        Of the seam among them.
    line : (N, 2) float
        Where it shall run, mm in the design.
    work : Work
    only_before : bool
        Whether those that follow it are found anew.
    """
    layer = seams[place].layer
    held = [(at, seam) for at, seam in enumerate(seams) if seam.layer == layer and (at <= place or not only_before)]
    lines = [line if at == place else seam.line for at, seam in held]
    back = [work.in_source([layer] * len(one), list(map(tuple, one.tolist()))) for one in lines]
    others = [one for one in before if one.layer != layer]
    return (*others, *(SeamLine(layer, tuple(map(tuple, one.tolist()))) for one in map(np.asarray, back)))


def without_seams(before: Sequence[SeamLine], layer: str) -> tuple[SeamLine, ...]:
    """Give the lines of hands without those of a layer."""
    return tuple(one for one in before if one.layer != layer)
