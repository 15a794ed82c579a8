"""Small array operations that several rooms share."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["Bools", "Bytes", "Floats", "Ints", "cycles_of", "dots", "ranges", "rank_chains"]

Floats = NDArray[np.floating[Any]]
Ints = NDArray[np.integer[Any]]
Bytes = NDArray[np.uint8]
Bools = NDArray[np.bool_]


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

    Pointer jumping: every round doubles how far each link sees.

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
    """
    last = np.asarray(follow, np.int32).copy()
    steps = (last != np.arange(len(last), dtype=np.int32)).astype(np.int32)
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
