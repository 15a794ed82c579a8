"""Shades: inks that follow each other like shading, told as one group."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.colour import lab_of

__all__ = ["MOST_BANDS", "Shades", "beside", "borders", "components", "count_of", "flat_shades", "in_order"]

MOST_BANDS = 12
"""Of one gradient."""
_NEAR = 25.0
"""CIE76; two shades that follow each other are at most so far apart."""
_BESIDE = 0.15
"""Part of the smaller one's border that two neighbours share at least."""
_COLOURED, _HUE, _PALE = 12.0, 25.0, 15.0
"""Chroma from which a colour has a hue, degrees between hues of one shading, and chroma between others."""
_STRAY = 0.35
"""How far shades may lie off one line, as part of its length."""


class Shades(NamedTuple):
    """A group of inks that follow each other, from dark to light or from one end of a gradient to the other."""

    key: str
    """What settings know it by: of a gradient the colour of its middle, of flat shades the key of the largest."""
    keys: tuple[str, ...]
    """Of its inks, in order."""
    gradient: bool
    most: int
    """Inks that it can have."""


def borders(labels: Bytes, count: int) -> Ints:
    """Count the pixel sides along which each two labels meet; (count + 1, count + 1), symmetric, 0 on the diagonal."""
    size = count + 1
    total = np.zeros(size * size, np.int64)
    flat, width = np.ravel(labels), labels.shape[1]
    across, down = np.flatnonzero(labels[:, :-1] != labels[:, 1:]), np.flatnonzero(labels[:-1] != labels[1:])
    for at, step in ((across + across // max(width - 1, 1), 1), (down, width)):
        total += np.bincount(flat[at].astype(np.int64) * size + flat[at + step], minlength=size * size)
    square: Ints = total.reshape(size, size)
    return square + square.T


def beside(border: Ints) -> Bools:
    """Which labels share so much of the smaller one's border that they are neighbours; (K, K), without label 0."""
    around = border.sum(1)
    least = np.minimum(around[:, None], around[None])
    linked: Bools = border[1:, 1:] >= np.maximum(4, _BESIDE * least[1:, 1:])
    return linked


def components(linked: Bools) -> list[Ints]:
    """Groups of what is linked, each of two or more, in order of their first."""
    reach = linked | linked.T | np.eye(len(linked), dtype=bool)
    for _ in range(int(np.ceil(np.log2(max(2, len(linked)))))):
        reach = (reach.astype(np.int32) @ reach.astype(np.int32)) > 0
    first = reach.argmax(1)
    return [group for head in np.unique(first) if len(group := np.flatnonzero(first == head)) > 1]


def in_order(colours: Floats, linked: Bools) -> Ints:
    """Order tones along their shading, dark end first.

    The tones are a chain whose links pull the more the nearer two colours
    are; the slowest swing of such a chain (the Fiedler vector of its graph)
    runs from one end to the other, whatever way the colours take.

    References
    ----------
    .. [1] M. Fiedler, "A property of eigenvectors of nonnegative symmetric matrices", 1975.
    """
    labs = lab_of(colours)
    pull = np.where(linked | linked.T, 1 / np.maximum(((labs[:, None] - labs[None]) ** 2).sum(2), 1.0), 0.0)
    np.fill_diagonal(pull, 0.0)
    _, swings = np.linalg.eigh(np.diag(pull.sum(1)) - pull)
    order: Ints = np.argsort(swings[:, 1], kind="stable")
    return order[::-1] if labs[order[0], 0] > labs[order[-1], 0] else order


def flat_shades(labels: Bytes, colours: Floats, keys: tuple[str, ...], alone: Bools) -> list[Shades]:
    """Group the even tones that follow each other like shading.

    Parameters
    ----------
    labels : (H, W) uint8
        1 + tone.
    colours : (K, 3) float
        sRGB.
    keys : tuple of str
        Of the tones.
    alone : (K,) bool
        Tones that belong to no group.
    """
    count = len(colours)
    if count < 2:
        return []
    labs = lab_of(colours)
    apart = np.linalg.norm(labs[:, None] - labs[None], axis=2)
    linked = beside(borders(labels, count)) & (apart <= _NEAR) & _like_hues(labs)
    linked &= ~(alone[:, None] | alone[None])
    np.fill_diagonal(linked, False)
    areas = np.bincount(labels.ravel(), minlength=count + 1)[1:]
    groups = []
    for group in components(linked):
        if _off_line(labs[group]):
            continue
        chain = group[in_order(colours[group], linked[np.ix_(group, group)])]
        largest = keys[int(group[np.argmax(areas[group])])]
        groups.append(Shades(largest, tuple(keys[tone] for tone in chain), False, len(chain)))
    return groups


def _like_hues(labs: Floats) -> Bools:
    """Which two colours may be shades of one another; (K, K)."""
    chroma, hue = np.hypot(labs[:, 1], labs[:, 2]), np.arctan2(labs[:, 2], labs[:, 1])
    turn = np.abs(np.rad2deg(np.angle(np.exp(1j * (hue[:, None] - hue[None])))))
    coloured = np.minimum(chroma[:, None], chroma[None]) > _COLOURED
    alike: Bools = np.where(coloured, turn <= _HUE, np.abs(chroma[:, None] - chroma[None]) <= _PALE)
    return alike


def _off_line(labs: Floats) -> bool:
    """Whether colours lie off one line too far to be one shading."""
    rest = labs - labs.mean(0)
    _, _, axes = np.linalg.svd(rest, full_matrices=False)
    along = rest @ axes[0]
    off = np.linalg.norm(rest - along[:, None] * axes[0], axis=1)
    return bool(off.max() > max(8.0, _STRAY * (along.max() - along.min())))


def count_of(shades: tuple[tuple[str, int], ...], key: str) -> int | None:
    """Number of inks that a maker asked for in a group, or in all groups, whose key is empty; None if in neither."""
    chosen = dict(shades)
    return chosen.get(key, chosen.get(""))
