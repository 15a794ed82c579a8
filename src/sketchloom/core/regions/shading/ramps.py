"""Gradients of flat art: chains of tones across whose borders the colour goes on changing."""

from itertools import pairwise
from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, places_of
from sketchloom.core.colour import lab_of
from sketchloom.core.palette import Colour
from sketchloom.core.regions.flat.patches import even_patches
from sketchloom.core.regions.shading.shades import beside, borders, components, in_order

__all__ = ["SHORTEST", "Ramp", "find_ramps", "usual_count"]

_NEAR = 25.0
"""CIE76; neighbouring tones of a ramp are at most so far apart."""
_NEXT = 10.0
"""CIE76; a tone so near the last one of a ramp goes with it where nothing tells."""
SHORTEST = 10.0
"""CIE76 from end to end of a ramp."""
_SLOW, _STEADY = 0.6, 0.65
"""Most of the way from tone to tone that the lesser span covers on a ramp; or most that it covers of what the larger
does."""
_ACROSS = (3, 4), (7, 8)
"""px before and behind a crossing from tone to tone: of an edge, even a soft one, the first holds nearly all."""
_RIM = 3
"""px beside the outline of two tones in a worn picture that show what lies beside them."""
_HALF, _BETWEEN = 0.25, 0.2
"""Of the way from tone to tone, what is a tone's own; and of all pixels, the most that an edge has between the two."""
_FAR, _FAR_SHARE = 3.0, 0.3
"""px from either tone, and the part of the pixels between that lie farther on a gradient."""
_EVEN = 0.05
"""Of a tone's pixels, exactly even in a square of 5, where the tone is more than a part of a passage."""
_WORN = 8.0
"""CIE76 between tones that compression does not make of one gradient by its own steps."""
_STEP, _FEWEST, _USUAL = 15.0, 2, 5
"""CIE76 of a usual band, and the fewest and most bands taken unless chosen."""
_PLATEAU = 0.3
"""Part of a band that has one colour, from which the band takes it."""
_LARGE = 0.1
"""Part of a ramp's area in one colour that is a thing of its own."""
_SAMPLES = 4000


class Ramp(NamedTuple):
    """A gradient's colours from one end to the other."""

    key: str
    tones: tuple[str, ...]  # keys of the tones it was found as
    path: Floats  # (P, 3), sRGB
    along: Floats  # (P,), CIE76 from its first point
    ends: tuple[float, float]  # where the picture's colours begin and end along it
    levels: tuple[tuple[float, Colour, float], ...] = ()  # even parts: place along, colour, part of the ramp's area

    def cuts(self, count: int) -> Floats:
        """Where one of `count` bands goes over into the next, along the ramp; (count - 1,).

        Bands are alike, but two large even parts, as a body and the paper
        that its shadow falls on, share none as long as there are bands enough.
        """
        first, last = self.ends
        inner: Floats = np.linspace(first, last, count + 1)[1:-1]
        free = np.ones(len(inner), bool)
        places = sorted(place for place, _, part in self.levels if part >= _LARGE)
        for one, other in pairwise(places):
            between = (inner > one) & (inner < other)
            nearest = np.where(free, np.abs(inner - (one + other) / 2), np.inf)
            if not between.any() and free.any():
                inner[int(np.argmin(nearest))] = (one + other) / 2
            free[(inner > one) & (inner < other)] = False
        return np.sort(inner)

    def at(self, along: Floats) -> Floats:
        """Colour at places along it; (..., 3)."""
        return np.stack([np.interp(along, self.along, self.path[:, channel]) for channel in range(3)], -1)

    def band_colours(self, count: int) -> Floats:
        """Colour of each of `count` bands: its middle's, or that of an even part that fills much of it; (count, 3)."""
        edges = np.concatenate(([self.ends[0]], self.cuts(count), [self.ends[1]]))
        colours = self.at((edges[:-1] + edges[1:]) / 2)
        last = np.full(count, _PLATEAU / count)
        for place, colour, part in self.levels:
            band = int(np.clip(np.searchsorted(edges[1:-1], place, "right"), 0, count - 1))
            if part > last[band]:
                colours[band], last[band] = colour, part
        return colours


def usual_count(ramp: Ramp) -> int:
    """Bands that a ramp has unless a number is chosen."""
    large = sum(part >= _LARGE for _, _, part in ramp.levels)
    return int(np.clip(round((ramp.ends[1] - ramp.ends[0]) / _STEP), max(_FEWEST, min(large, _USUAL)), _USUAL))


def find_ramps(
    seen: Bytes, labels: Bytes, colours: Floats, keys: tuple[str, ...], alone: Bools, worn: bool = False
) -> tuple[Ramp, ...]:
    """Find the gradients among a picture's tones, not yet measured; arguments as for `find_shading`.

    A `worn` picture was drawn anew; there an edge may have become as slow as a gradient.
    """
    count = len(colours)
    if count < 2:
        return ()
    labs = lab_of(colours)
    near = np.linalg.norm(labs[:, None] - labs[None], axis=2) <= _NEAR
    near &= ~(alone[:, None] | alone[None])
    near &= beside(borders(labels, count))
    np.fill_diagonal(near, False)
    linked = _gradual(seen, labels, colours, near)
    if worn and linked.any():
        even = even_patches(seen).even
        far = np.linalg.norm(labs[:, None] - labs[None], axis=2) >= _WORN
        for one, other in np.argwhere(np.triu(linked & far)).tolist():
            if _is_worn_edge(seen, labels, colours, even, one, other):
                linked[one, other] = linked[other, one] = False
    found = []
    for group in components(linked):
        order = group[in_order(colours[group], linked[np.ix_(group, group)])]
        path = colours[order]
        along = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(lab_of(path), axis=0), axis=1)))
        if along[-1] >= SHORTEST:
            found.append(Ramp("", tuple(keys[tone] for tone in order), path, along, (0.0, float(along[-1]))))
    return tuple(found)


def _gradual(seen: Bytes, labels: Bytes, colours: Floats, near: Bools) -> Bools:
    """Tell which neighbours a slow passage of colour parts, and no edge; (K, K) bool."""
    count = len(colours)
    wanted = np.zeros((count + 1, count + 1), bool)
    wanted[1:, 1:] = near
    beyond = _beyond(colours, near)
    short: dict[tuple[int, int], list[Floats]] = {}
    for turned in (False, True):
        tones = np.ascontiguousarray(labels.T) if turned else labels
        picture = np.swapaxes(seen, 0, 1) if turned else seen
        far = _ACROSS[-1][0]
        if tones.shape[1] <= 2 * far + 2:
            continue
        one, other = tones[:, far : -far - 1], tones[:, far + 1 : -far]
        before, behind = (tones[:, start:][:, : one.shape[1]] for start in (far - _ACROSS[0][0], far + _ACROSS[0][1]))
        rows, columns = places_of(one != other)
        some = wanted[one[rows, columns], other[rows, columns]]
        rows, columns = rows[some], columns[some]
        at = one[rows, columns], other[rows, columns], before[rows, columns], behind[rows, columns]
        whole = beyond[at[1], at[0], at[2]] & beyond[at[0], at[1], at[3]]  # else something thin lies there
        rows, columns = rows[whole], columns[whole]
        pair = one[rows, columns].astype(np.int64) * (count + 1) + other[rows, columns]
        for code in np.unique(pair):
            here = np.flatnonzero(pair == code)
            here = here[:: max(1, len(here) // _SAMPLES)]
            a, b = int(code) // (count + 1), int(code) % (count + 1)
            way = colours[b - 1] - colours[a - 1]
            way = way / max(1e-9, float(way @ way))
            y, x = rows[here], columns[here] + far
            steps = [
                (picture[y, x + right, :3].astype(float) - picture[y, x - left, :3].astype(float)) @ way
                for left, right in _ACROSS
            ]
            short.setdefault((min(a, b), max(a, b)), []).append(np.stack(steps, 1))
    linked, told = (np.zeros((count, count), bool) for _ in range(2))
    for (a, b), parts in short.items():
        few, more = np.median(np.concatenate(parts), axis=0)
        told[[a - 1, b - 1], [b - 1, a - 1]] = True
        linked[[a - 1, b - 1], [b - 1, a - 1]] = few < _SLOW or few < _STEADY * more
    apart = np.linalg.norm(lab_of(colours)[:, None] - lab_of(colours)[None], axis=2)
    open_ones = near & ~told & (apart <= _NEXT)  # a ramp's last tones may lie too near an outline to be told
    while True:
        of_ramp = np.flatnonzero(linked.any(1))
        known = int(linked.sum())
        linked[of_ramp] |= open_ones[of_ramp]
        linked[:, of_ramp] |= open_ones[:, of_ramp]
        if int(linked.sum()) == known:
            return linked


def _is_worn_edge(seen: Bytes, labels: Bytes, colours: Floats, even: Bools, one: int, other: int) -> bool:
    """Whether two tones meet at an edge that compression made slow.

    At an edge both are even somewhere, hardly a pixel lies in the middle half
    of the way from tone to tone, and those that do are what compression
    scattered beside one of the two. On a gradient a third of the pixels lie
    there, or some of them far from both.
    """
    either = (labels == one + 1) | (labels == other + 1)
    rows, columns = np.flatnonzero(either.any(1)), np.flatnonzero(either.any(0))
    window = slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1)
    inner = cv2.erode(either[window].view(np.uint8), np.ones((2 * _RIM + 1,) * 2, np.uint8), borderValue=1) > 0
    way = colours[other] - colours[one]
    part = (seen[window][..., :3] - colours[one].astype(np.float32)) @ (way / max(1e-9, way @ way)).astype(np.float32)
    own = inner & (np.abs(part) <= _HALF), inner & (np.abs(part - 1) <= _HALF)
    between = inner & (part > _HALF) & (part < 1 - _HALF)
    counts = [int(side.sum()) for side in own]
    if min(counts) == 0 or min(float(even[window][side].mean()) for side in own) < _EVEN:
        return False
    among = int(between.sum())
    if among > _BETWEEN * (among + sum(counts)):
        return False
    far = cv2.distanceTransform((~(own[0] | own[1])).view(np.uint8), cv2.DIST_L2, 5)[between] > _FAR
    return not among or float(far.mean()) < _FAR_SHARE


def _beyond(colours: Floats, near: Bools) -> Bools:
    """Which labels go on in the way from one label to the next: [from, to, beyond], (K + 1, K + 1, K + 1) bool."""
    count = len(colours)
    way = colours[None] - colours[:, None]
    part = np.einsum("abc,blc->abl", way, way)  # way[b, l] leads from the second one on to the third
    goes_on = np.zeros((count + 1,) * 3, bool)
    goes_on[1:, 1:, 1:] = (part >= 0) & (near | np.eye(count, dtype=bool))[None]
    return goes_on
