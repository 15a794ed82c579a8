"""Gradients drawn anew as even bands.

A gradient has no edge inside; where its colour passes from one tone to the
next is chance, and in a compressed picture a frayed one. So its tones are put
together again, every pixel's place along the gradient is smoothed, and bands
of equal steps are drawn there as a renderer of flat art would: from then on
the picture is flat art like any other.
"""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, dots
from sketchloom.core.palette import Colour, hex_of
from sketchloom.core.regions.shading.ramps import SHORTEST, Ramp, find_ramps

__all__ = ["Shading", "drawn_in_bands", "find_shading", "shading_of"]

_MOST_OFF = 14.0
"""How far nine of ten pixels may lie off the ramp's colours, 8-bit steps."""
_HOLE = 40
"""px; smaller holes of a ramp are its own crumbs."""
_QUANTUM = 0.35
"""CIE76 of about one 8-bit step."""
_CALM = 5.0
"""px over which a ramp's noise is told."""
_RIDGE = 0.01
_RIM = 2
"""px on either side of a ramp's outline where pixels show both it and what lies beside."""


class Shading(NamedTuple):
    """Where the gradients of a picture are."""

    ramps: tuple[Ramp, ...]
    where: Bytes  # (H, W), 1 + ramp; 0 where there is none
    along: Floats  # (H, W) float32, place along the ramp of this pixel or of one beside
    steep: Floats  # (H, W) float32, what a pixel's step adds to `along`
    owner: Bytes  # (H, W), 1 + ramp whose colour has a share here
    cover: Bytes  # (H, W), that share, of 255
    rest: Bytes  # (H, W, 4), what the pixel shows without it


def find_shading(
    seen: Bytes, evidence: Bytes, labels: Bytes, colours: Floats, keys: tuple[str, ...], alone: Bools
) -> Shading | None:
    """Find the gradients among a picture's tones; None where there are none.

    Parameters
    ----------
    seen : (H, W, 4) uint8
        The picture as it came.
    evidence : (H, W, 4) uint8
        The picture as it was labelled: the same, or drawn anew.
    labels : (H, W) uint8
        1 + tone.
    colours : (K, 3) float
        sRGB of each tone.
    keys : tuple of str
        Of the tones.
    alone : (K,) bool
        Tones that belong to no gradient.
    """
    ramps = find_ramps(seen, labels, colours, keys, alone, worn=seen is not evidence)
    return shading_of(seen, evidence, labels, colours, keys, ramps) if ramps else None


def shading_of(
    seen: Bytes, evidence: Bytes, labels: Bytes, colours: Floats, keys: tuple[str, ...], ramps: tuple[Ramp, ...]
) -> Shading | None:
    """Find where known ramps are; those without a key are new, and are measured, or left out if they are none."""
    shape = labels.shape
    where, owner, cover = (np.zeros(shape, np.uint8) for _ in range(3))
    along, steep = np.zeros(shape, np.float32), np.ones(shape, np.float32)
    rest = evidence.copy()
    kept: list[Ramp] = []
    for ramp in ramps:
        own = np.isin(np.arange(len(keys) + 1) - 1, [keys.index(key) for key in ramp.tones if key in keys])
        there = own[labels] & (where == 0)
        placed = _placed(seen, there, ramp, _RIM if seen is evidence else 2 * _RIM)
        if placed is None:
            continue
        place, slope, measured = placed
        there |= _crumbs(seen, there, measured.at(place)) & (where == 0)
        if not ramp.key:
            taken = {other.key for other in kept}
            number, key = 2, measured.key
            while measured.key in taken:
                measured, number = measured._replace(key=f"{key}-{number}"), number + 1
        kept.append(measured)
        share, rim = _share(evidence, seen is not evidence, labels, colours, there, own, measured.at(place))
        where[there] = len(kept)
        zone = there | ((share > 0) & (owner == 0))
        owner[zone], cover[zone] = len(kept), np.rint(share[zone] * 255)
        along[zone], steep[zone] = place[zone], slope[zone]
        lone = evidence[..., :3] - share[..., None] * rim
        rest[zone, :3] = np.clip(np.rint(lone[zone]), 0, 255)
    return Shading(tuple(kept), where, along, steep, owner, cover, rest) if kept else None


def _placed(seen: Bytes, there: Bools, ramp: Ramp, rim: int) -> tuple[Floats, Floats, Ramp] | None:
    """Give smoothed places along a ramp, and how steep they are, each (H, W) float32; and the ramp, measured.

    Within `rim` px of its outline colours are mixed with what lies beside.
    None where the pixels are not of the ramp's colours.
    """
    core = cv2.erode(there.view(np.uint8), np.ones((2 * rim + 1,) * 2, np.uint8)) > 0
    if not core.any():
        return None
    place, off = _along(seen[there][:, :3].astype(np.float32), ramp)
    raw = np.zeros(there.shape, np.float32)
    raw[there] = place
    if np.percentile(off[core[there]], 90) > _MOST_OFF:
        return None
    weight = (core + np.float32(1e-3) * there).astype(np.float32)
    calm, steep = _plane(raw, weight, _CALM)
    noise = 1.48 * float(np.median(np.abs(raw - calm)[core]))
    slope = steep[core]
    rise = float((slope**2).sum() / max(1e-9, slope.sum()))
    reach = float(np.clip((_QUANTUM + noise) / max(rise, 1e-6), 1.5, 12.0))
    place, steep = _plane(raw, weight, reach)
    steep = np.maximum(steep, np.float32(1e-4))
    if not ramp.key:
        first, last = np.percentile(place[core], [0.1, 99.9])
        ends = float(first), float(last)
        if ends[1] - ends[0] < SHORTEST:
            return None
        ramp = ramp._replace(ends=ends, levels=_levels(seen, core, place))
        red, green, blue = (int(value) for value in np.rint(ramp.at(np.array(sum(ends) / 2))))
        ramp = ramp._replace(key=hex_of((red, green, blue)))
    return place, steep, ramp


def _crumbs(seen: Bytes, there: Bools, shown: Floats) -> Bools:
    """Small holes of a ramp that show its own colours, as compression leaves them; (H, W) bool."""
    count, parts, stats, _ = cv2.connectedComponentsWithStats((~there).view(np.uint8), connectivity=4)
    small = stats[:, cv2.CC_STAT_AREA] <= _HOLE
    small[0] = False
    some = np.flatnonzero(small[parts])
    off = np.linalg.norm(seen.reshape(-1, 4)[some, :3] - shown.reshape(-1, 3)[some], axis=1)
    which = parts.ravel()[some]
    mean = np.bincount(which, off, count) / np.maximum(np.bincount(which, minlength=count), 1)
    crumbs: Bools = (small & (mean <= _MOST_OFF))[parts]
    return crumbs


def _along(colours: Floats, ramp: Ramp) -> tuple[Floats, Floats]:
    """Place of colours along a ramp, and how far off its path they are; (n,) each."""
    best, place = np.full(len(colours), np.inf, np.float32), np.zeros(len(colours), np.float32)
    last = len(ramp.path) - 2
    for i in range(last + 1):
        first, way = ramp.path[i].astype(np.float32), (ramp.path[i + 1] - ramp.path[i]).astype(np.float32)
        rest = colours - first
        part = dots(rest, np.broadcast_to(way, rest.shape)) / max(1e-6, float(way @ way))
        part = np.clip(part, -np.inf if i == 0 else 0, np.inf if i == last else 1)  # the ends go on
        rest -= part[:, None] * way
        off = dots(rest, rest)
        closer = off < best
        best[closer] = off[closer]
        place[closer] = ramp.along[i] + part[closer] * (ramp.along[i + 1] - ramp.along[i])
    return place, np.sqrt(best)


def _plane(values: Floats, weight: Floats, reach: float) -> tuple[Floats, Floats]:
    """Fit a plane around each pixel to what has weight: its value there and how steep it is; (H, W) float32 each.

    A plain mean is drawn inwards where all that has weight lies on one side,
    as it does at every outline; a plane is not.

    References
    ----------
    .. [1] H. Knutsson and C.-F. Westin, "Normalized and differential convolution", 1993.
    """
    far = int(np.ceil(3 * reach))
    step = np.arange(-far, far + 1, dtype=np.float32)
    bell = np.exp(-0.5 * (step / reach) ** 2)
    bell /= bell.sum()
    kernels = bell, bell * step, bell * step**2

    def moment(plane: Floats, x: int, y: int) -> Floats:
        return np.asarray(cv2.sepFilter2D(plane, cv2.CV_32F, kernels[x], kernels[y], borderType=cv2.BORDER_CONSTANT))

    held = np.maximum(moment(weight, 0, 0), 1e-12)
    x, y, xx, xy, yy = (moment(weight, *of) / held for of in ((1, 0), (0, 1), (2, 0), (1, 1), (0, 2)))
    seen = (values * weight).astype(np.float32)
    mean, xv, yv = (moment(seen, *of) / held for of in ((0, 0), (1, 0), (0, 1)))
    hold = _RIDGE * reach**2  # keeps the plane level where hardly anything has weight
    xx, xy, yy = xx - x * x + hold, xy - x * y, yy - y * y + hold
    xv, yv = xv - x * mean, yv - y * mean
    whole = xx * yy - xy * xy
    along_x, along_y = (yy * xv - xy * yv) / whole, (xx * yv - xy * xv) / whole
    return mean - along_x * x - along_y * y, np.hypot(along_x, along_y)


def _levels(seen: Bytes, core: Bools, place: Floats) -> tuple[tuple[float, Colour, float], ...]:
    """Even parts of a ramp: colours that many of its pixels have exactly, or nearly in a noisy picture."""
    colours, codes = seen[core][:, :3], place[core]
    packed = (colours[:, 0].astype(np.int64) << 16) | (colours[:, 1].astype(np.int64) << 8) | colours[:, 2]
    values, which, counts = np.unique(packed, return_inverse=True, return_counts=True)
    levels = []
    for i in np.flatnonzero(counts >= 0.02 * len(packed)):
        code = int(values[i])
        middle = float(np.median(codes[which == i]))
        levels.append((middle, (code >> 16, code >> 8 & 255, code & 255), float(counts[i] / len(packed))))
    return tuple(levels)


def _share(
    evidence: Bytes, anew: bool, labels: Bytes, colours: Floats, there: Bools, own: Bools, shown: Floats
) -> tuple[Floats, Floats]:
    """Share of each pixel that a ramp has, (H, W), and the colour that it has there, (H, W, 3).

    At its rim a pixel is a blend of the ramp's colour and of what lies beside.
    """
    kernel = np.ones((2 * _RIM + 1,) * 2, np.uint8)
    mask = there.view(np.uint8)
    rim = (cv2.dilate(mask, kernel) > 0) & (cv2.erode(mask, kernel) == 0)
    beside_it = _nearest(labels, ~there, ~own[labels])
    share = there.astype(np.float32)
    mix = np.vstack([np.zeros(3), colours]).astype(np.float32)
    if anew:  # drawn in the tones, not in the gradient's own colours
        shown = mix[_nearest(labels, there, own[labels])]
    shown = shown.astype(np.float32)
    other = mix[beside_it[rim]]
    way = other - shown[rim]
    length = dots(way, way)
    rest = evidence[rim][:, :3].astype(np.float32) - shown[rim]
    part = np.clip(1 - dots(rest, way) / np.maximum(length, 1e-6), 0, 1)
    share[rim] = np.where((length > 12**2) & (beside_it[rim] > 0), part, share[rim])
    return share, shown


def _nearest(labels: Bytes, there: Bools, usable: Bools) -> Bytes:
    """Label of the nearest pixel that lies `there` and is `usable`; (H, W) uint8, 0 where there is none."""
    good = there & usable
    if not good.any():
        return np.zeros_like(labels)
    _, near = cv2.distanceTransformWithLabels((~good).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    table = np.zeros(int(near.max()) + 1, np.uint8)
    table[near[good]] = labels[good]
    return table[near]


def drawn_in_bands(
    shading: Shading, labels: Bytes, own: Bools, counts: list[int], first: int
) -> tuple[Bytes, Bytes, Floats]:
    """Draw the ramps of a picture in even bands.

    Parameters
    ----------
    shading : Shading
    labels : (H, W) uint8
        1 + tone.
    own : (L,) bool
        By label, whether it is a tone of a ramp, that gives way.
    counts : list of int
        Bands of each ramp.
    first : int
        Label of the first band of the first ramp.

    Returns
    -------
    labels : (H, W) uint8
    evidence : (H, W, 4) uint8
    colours : (sum of counts, 3) float
    """
    labels, evidence = labels.copy(), shading.rest.copy()
    every: list[Floats] = []
    gives_way = own[labels] | ((shading.where > 0) & (shading.cover == 255))
    for number, (ramp, count) in enumerate(zip(shading.ramps, counts, strict=True), 1):
        colours = np.rint(ramp.band_colours(count))
        at = np.flatnonzero(shading.owner.ravel() == number)
        place, slope = shading.along.ravel()[at], shading.steep.ravel()[at]
        band = np.zeros(len(at), np.int64)
        shown = np.repeat(colours[:1], len(at), axis=0)
        for i, cut in enumerate(ramp.cuts(count)):
            beyond = np.clip(0.5 + (place - np.float32(cut)) / slope, 0, 1)
            shown += beyond[:, None] * (colours[i + 1] - colours[i])
            band += place >= cut
        share = shading.cover.ravel()[at].astype(np.float32)[:, None] / 255
        flat = evidence.reshape(-1, 4)
        flat[at, :3] = np.clip(np.rint(flat[at, :3] + share * shown), 0, 255)
        inside = (shading.where.ravel()[at] == number) & gives_way.ravel()[at]
        labels.ravel()[at[inside]] = first + sum(counts[: number - 1]) + band[inside]
        every.append(colours)
    return labels, evidence, np.vstack(every)
