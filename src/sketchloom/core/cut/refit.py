"""Polygons back to paths: what is known is taken over, the rest goes through the program's own fitter."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves import Path, find_crossings
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut.fits import Fits
from sketchloom.core.cut.polygons import Flat
from sketchloom.core.cut.rings import Known, Run, loosened, met, on_sources, parted, rings_of, settled
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.units import DECIMALS

__all__ = ["Request", "refitted", "refitted_apart", "refitted_together"]

_CLOSER = 0.25
"""Of the bound, that what crosses is fitted again within."""
_TOLERANCE = 0.006
"""mm that a fitted curve may leave its polygon, so that it stays within a hundredth of what was meant."""
_FLAT = 1e-9
"""mm that a straight segment may lie beside the one before and still come back on it."""


class Request(NamedTuple):
    """Polygons that are to be a path again.

    Attributes
    ----------
    shape : Polygon, MultiPolygon or GeometryCollection
        mm.
    sources : sequence of Flat
        Paths that its outlines may run along.
    within : float
        mm that a fitted curve may leave the polygons.
    layer : int
        Whose it is; outlines of one layer must not cross.
    """

    shape: Any
    sources: Sequence[Flat] = ()
    within: float = _TOLERANCE
    layer: int = 0


def refitted(shape: Any, sources: Sequence[Flat] = (), tick: Tick = no_tick, within: float = _TOLERANCE) -> Path:
    """Bring polygons back to a path; see `refitted_together`."""
    return refitted_together([Request(shape, sources, within)], tick)[0]


def refitted_together(requests: Sequence[Request], tick: Tick = no_tick) -> list[Path]:
    """Bring polygons back to paths, those of layers that lie beside each other with the same curves between them.

    Where an outline runs along a curve that it came from, over the whole of a
    segment, that segment is taken over as it is; the rest is fitted within a
    hundredth of a mm by the program's own fitter, corners kept. What then
    crosses is fitted more closely, and at last is the polygon itself. A
    stretch that two shapes share is fitted once, within the larger of their
    bounds.
    """
    rings: list[Floats] = []
    owner: list[int] = []
    for number, request in enumerate(requests):
        own = list(rings_of(request.shape))
        own = settled(on_sources(own, request.sources) if len(requests) > 1 else own)
        rings += own
        owner += [number] * len(own)
    if len(requests) > 1:
        rings = met(rings)
    known = [Known(request.sources) for request in requests]
    runs = [known[number].runs(ring) for number, ring in zip(owner, rings, strict=True)]
    if len(requests) > 1:
        runs = parted(loosened(runs))
    fits = Fits(runs, [requests[number].within for number in owner], tick)
    made = [_contour(fits.parts(row)) for row in range(len(runs))]
    layers = np.array([requests[number].layer for number in owner], np.int64)
    _uncrossed(fits, made, layers, [np.flatnonzero(layers == layer).tolist() for layer in np.unique(layers)])
    return _by_owner(made, owner, len(requests))


def refitted_apart(shapes: Sequence[Any], within: float) -> list[Path]:
    """Bring polygons back to paths, each as if it were alone; see `refitted_together`."""
    rings, owner = [], []
    for number, shape in enumerate(shapes):
        own = settled(rings_of(shape))
        rings += own
        owner += [number] * len(own)
    fits = Fits([[Run(ring, closed=True)] for ring in rings], [within] * len(rings), no_tick)
    made = [_contour(fits.parts(row)) for row in range(len(rings))]
    _uncrossed(fits, made, np.array(owner, np.int64), [list(range(len(rings)))])
    return _by_owner(made, owner, len(shapes))


def _uncrossed(
    fits: Fits, made: list[tuple[Floats, Bools] | None], of: Ints, searched: Sequence[Sequence[int]]
) -> None:
    """Fit anew the contours that cross themselves or another of the same shape.

    Parameters
    ----------
    fits : Fits
    made : list of contour
        Is changed.
    of : (rows,) int
        Which shape each contour is of.
    searched : sequence of sequence of int
        Contours that are searched together.
    """
    for closer in (_CLOSER, 0.0):  # at last the polygon itself, which crosses nothing
        bad = [row for rows in searched for row in _crossed(made, rows, of)]
        if not bad:
            break
        for row in fits.closer(bad, closer):
            made[row] = _contour(fits.parts(row))


def _by_owner(made: Sequence[tuple[Floats, Bools] | None], owner: Sequence[int], count: int) -> list[Path]:
    """Contours as one path for each of their owners."""
    own: list[list[tuple[Floats, Bools]]] = [[] for _ in range(count)]
    for one, number in zip(made, owner, strict=True):
        if one is not None:
            own[number].append(one)
    return [_path_of(contours) for contours in own]


def _path_of(contours: Sequence[tuple[Floats, Bools]]) -> Path:
    return Path(tuple(contour for contour, _ in contours), tuple(straight for _, straight in contours))


def _contour(parts: list[tuple[Floats, Bools]]) -> tuple[Floats, Bools] | None:
    """Fitted runs as one closed contour, rounded; None where nothing is left of it."""
    control: Floats = np.round(np.concatenate([control for control, _ in parts]), DECIMALS) + 0.0
    straight = np.concatenate([flag for _, flag in parts])
    control[1:, 0] = control[:-1, 3]
    control[0, 0] = control[-1, 3]
    kept = ~straight | (np.abs(control[:, 3] - control[:, 0]).max(1) > 0)
    control, straight = _without_spikes(control[kept], straight[kept])
    if len(control) < 2:
        return None
    straight_thirds(control, straight)
    return np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]]), straight


def _without_spikes(control: Floats, straight: Bools) -> tuple[Floats, Bools]:
    """Without straight segments on which an outline goes out and comes straight back, as rounding leaves slivers."""
    while len(control) > 2:
        ahead = np.roll(control, -1, axis=0)
        out, back = control[:, 3] - control[:, 0], ahead[:, 3] - ahead[:, 0]
        cross = np.abs(out[:, 0] * back[:, 1] - out[:, 1] * back[:, 0])
        folds = straight & np.roll(straight, -1) & (cross <= _FLAT * np.hypot(*back.T)) & ((out * back).sum(1) < 0)
        if not folds.any():
            break
        at = int(np.argmax(folds))
        following = (at + 1) % len(control)
        control[at, 3] = control[following, 3]
        control, straight = np.delete(control, following, axis=0), np.delete(straight, following)
        nothing = straight & (np.abs(control[:, 3] - control[:, 0]).max(1) == 0)
        control, straight = control[~nothing], straight[~nothing]
    return control, straight


def _crossed(made: Sequence[tuple[Floats, Bools] | None], rows: Sequence[int], of: Ints) -> list[int]:
    """Which of some contours cross themselves, or others of the same shape."""
    own = [(row, one) for row in rows if (one := made[row]) is not None]
    path = _path_of([one for _, one in own])
    contour = np.repeat([row for row, _ in own], [len(straight) for straight in path.straight]).astype(np.int64)
    pairs = contour[find_crossings(path.segments).segments]
    found: list[int] = np.unique(pairs[of[pairs[:, 0]] == of[pairs[:, 1]]]).tolist()
    return found
