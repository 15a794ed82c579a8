"""Small array operations that several rooms share."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

__all__ = ["Bools", "Bytes", "Floats", "Ints", "connected_parts", "cycles_of", "dots", "kd_tree", "looked_up",
           "near_pairs", "nearest", "places_of", "ranges", "rank_chains"]  # fmt: skip

Floats = NDArray[np.floating[Any]]
Ints = NDArray[np.integer[Any]]
Bytes = NDArray[np.uint8]
Bools = NDArray[np.bool_]
_FEW_PAIRS = 20_000
"""Pairs of a point and a place that are compared at a time."""


def kd_tree(points: Floats) -> Any:
    """Make scipy's tree for the nearest of some points, (N, D).

    It is imported when the first is made: most pictures need none, and the
    import takes as long as tracing a small one.
    """
    from scipy.spatial import KDTree

    return KDTree(points)


def nearest(places: Floats, points: Floats, reach: float) -> Ints:
    """Tell which of some places, (K, D), lies nearest to each of some points, (N, D); (N,) int.

    A tree would do it too, but importing SciPy's takes as long as tracing a
    small picture.

    Parameters
    ----------
    places, points : (K, D), (N, D) float
        Their first two columns are those in which they are looked for.
    reach : float
        How far most of them lie at most, in all columns; the others take longer.
    """
    if len(places) * len(points) <= _FEW_PAIRS:
        return _nearest(places, points)
    of, place = near_pairs(points[:, :2], places[:, :2], reach)
    apart = points[of] - places[place]
    away = dots(apart, apart)
    least = np.full(len(points), reach * reach)  # what lies farther off may not be the nearest in all columns
    np.minimum.at(least, of, away)
    best = away == least[of]
    out = np.full(len(points), len(places))
    np.minimum.at(out, of[best], place[best])
    rest = np.flatnonzero(out == len(places))
    lot = max(1, _FEW_PAIRS // len(places))
    for at in range(0, len(rest), lot):
        out[rest[at : at + lot]] = _nearest(places, points[rest[at : at + lot]])
    return out


def _nearest(places: Floats, points: Floats) -> Ints:
    away = np.zeros((len(points), len(places)))
    for mine, theirs in zip(points.T, places.T, strict=True):
        apart = mine[:, None] - theirs
        away += np.multiply(apart, apart, out=apart)
    return np.argmin(away, axis=1)


def near_pairs(points: Floats, others: Floats, reach: float) -> tuple[Ints, Ints]:
    """Pairs of points of two sets that lie within a distance of each other.

    Parameters
    ----------
    points, others : (N, 2), (M, 2) float
    reach : float

    Returns
    -------
    i, j : (P,) int
        ``points[i]`` lies near ``others[j]``; in no order that says anything.

    Notes
    -----
    The others are sorted into a grid of that size; three neighbouring cells of
    a row stand in a row.
    """
    pairs: list[tuple[Ints, Ints]] = [(np.zeros(0, np.int64), np.zeros(0, np.int64))]
    if len(points) and len(others):
        low = others.min(0)
        cell = np.floor((others - low) / reach).astype(np.int64) + 2
        width, height = (cell.max(0) + 3).tolist()
        code = cell[:, 1] * width + cell[:, 0]
        order = np.argsort(code, kind="stable")
        code = code[order]
        own = np.clip(np.floor((points - low) / reach) + 2, 1, (width - 2, height - 2)).astype(np.int64)
        for row in (-1, 0, 1):
            at = (own[:, 1] + row) * width + own[:, 0]
            begins = np.searchsorted(code, at - 1, "left")
            many = np.searchsorted(code, at + 1, "right") - begins
            i, j = np.repeat(np.arange(len(points)), many), order[ranges(begins, many)[0]]
            away = points[i] - others[j]
            near = dots(away, away) <= reach * reach
            pairs.append((i[near], j[near]))
    i, j = (np.concatenate(part) for part in zip(*pairs, strict=True))
    return i, j


def places_of(mask: Bools) -> tuple[Ints, Ints]:
    """Rows and columns of what is true in a plane, in order; as `np.nonzero`, in a third of its time."""
    rows, columns = np.divmod(np.flatnonzero(mask), mask.shape[1])
    return rows, columns


def connected_parts(count: int, one: Ints, other: Ints) -> tuple[int, Ints]:
    """Tell the connected parts of a graph.

    Parameters
    ----------
    count : int
        Of nodes.
    one, other : (E,) int
        The ends of each edge.

    Returns
    -------
    number, part : int, (count,) int
        How many parts there are, and which of them each node is of, in the order of their first nodes.

    References
    ----------
    .. [1] Y. Shiloach and U. Vishkin, "An O(log n) parallel connectivity algorithm", 1982.
    """
    first = np.arange(count)
    one, other = np.asarray(one), np.asarray(other)
    while True:
        a, b = first[one], first[other]
        apart = a != b
        if not apart.any():
            break
        one, other, a, b = one[apart], other[apart], a[apart], b[apart]
        np.minimum.at(first, np.maximum(a, b), np.minimum(a, b))
        while not ((up := first[first]) == first).all():
            first = up
    leads = first == np.arange(count)
    return int(leads.sum()), (np.cumsum(leads) - 1)[first]


def looked_up(table: Any, labels: Bytes) -> Bytes:
    """Give ``table[labels]``, as bytes, of a table of up to 256 of them; in a tenth of the time that indexing takes."""
    whole = np.zeros(256, np.uint8)
    whole[: len(table)] = table
    return np.asarray(cv2.LUT(labels, whole), np.uint8)


def dots(a: Floats, b: Floats) -> Floats:
    """Inner product of each two rows; (N, D) and (N, D) to (N,)."""
    return np.asarray(np.einsum("ij,ij->i", a, b))


def ranges(starts: Ints, lengths: Ints) -> tuple[Ints, Ints]:
    """Concatenate index ranges.

    Parameters
    ----------
    starts, lengths : (S,) int
        First index and number of indices of each range.

    Returns
    -------
    index, offset : (sum of lengths,) and (S,) int
        The indices one range after the other, and where each range begins.
    """
    lengths = np.asarray(lengths, np.int64)
    offset = np.cumsum(lengths) - lengths
    index = np.arange(int(lengths.sum()), dtype=np.int64)
    index += np.repeat(np.asarray(starts, np.int64) - offset, lengths)
    return index, offset


def rank_chains(follow: Ints) -> tuple[Ints, Ints]:
    """Find the last link of each chain and the number of steps to it.

    Some links, about one in eight and the ends of all chains, are rulers: each
    walks to the next ruler and tells the links on its way how far it has
    come. Only the rulers then need pointer jumping, in which every round
    doubles how far each sees.

    Parameters
    ----------
    follow : (N,) int
        The next link; the last link of a chain points to itself. Every chain must end.

    Returns
    -------
    last, steps : (N,) int32

    References
    ----------
    .. [1] J. C. Wyllie, "The complexity of parallel computations", 1979 (list ranking).
    .. [2] M. Reid-Miller, "List ranking and list scan on the Cray C-90", 1996 (sparse rulers).
    """
    follow = np.asarray(follow, np.int32)
    every = np.arange(len(follow), dtype=np.int32)
    ruler = every.astype(np.uint32) * np.uint32(2654435769) < np.uint32(1 << 29)  # by a hash of its place
    ruler |= follow == every
    begins = np.ones(len(follow), bool)
    begins[follow] = False
    ruler |= begins
    rulers = np.flatnonzero(ruler).astype(np.int32)
    owner, walked = np.zeros(len(follow), np.int32), np.zeros(len(follow), np.int32)
    owner[rulers] = np.arange(len(rulers))
    ahead, gap = follow[rulers], (follow[rulers] != rulers).astype(np.int32)
    going = np.flatnonzero(~ruler[ahead]).astype(np.int32)
    while len(going):
        here = ahead[going]
        owner[here], walked[here] = going, gap[going]
        ahead[going] = follow[here]
        gap[going] += 1
        going = going[~ruler[ahead[going]]]
    last, steps = _jumped(owner[ahead], gap)
    return rulers[last][owner], steps[owner] - walked


def _jumped(last: Ints, steps: Ints) -> tuple[Ints, Ints]:
    """Follow links with a length each to the end of their chains."""
    going = np.flatnonzero(steps).astype(np.int32)
    while len(going):
        ahead = last[going]
        more = steps[ahead]
        moved = more > 0
        going, ahead, more = going[moved], ahead[moved], more[moved]
        if not len(going):
            break
        beyond = last[ahead]
        steps[going] += more
        last[going] = beyond
    return last, steps


def cycles_of(follow: Ints) -> tuple[Ints, Ints]:
    """Write each cycle of a permutation as a run of indices.

    Parameters
    ----------
    follow : (N,) int
        A permutation.

    Returns
    -------
    order, offset : (N,) and (C + 1,) int
        The indices, cycle after cycle, each from its smallest on, cycles by
        their smallest index; and where each begins.
    """
    count = len(follow)
    if not count:
        return np.zeros(0, np.int64), np.zeros(1, np.int64)
    smallest = np.minimum(np.arange(count, dtype=np.int32), np.asarray(follow, np.int32))
    jump = np.asarray(follow, np.int32)
    reach = 1
    while reach < count:
        jumped = np.minimum(smallest, smallest[jump])
        jump = jump[jump]
        reach *= 2
        if np.array_equal(jumped, smallest):
            break
        smallest = jumped
    cut = np.asarray(follow, np.int32).copy()
    closing = cut == smallest
    cut[closing] = np.flatnonzero(closing)
    _, steps = rank_chains(cut)
    order = np.lexsort((-steps, smallest))
    heads = np.flatnonzero(np.diff(smallest[order], prepend=-1))
    return order, np.append(heads, count)
