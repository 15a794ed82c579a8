"""Steps of a photograph with simple outlines: short where contrast is weak, and no piece too small or narrow to cut."""

import heapq
from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats, Ints
from sketchloom.core.progress import Tick, no_tick

__all__ = ["FOLLOWED", "LEAST_DETAIL", "Simple", "least_piece", "simpler_steps", "without_bits", "working_scale"]

LEAST_DETAIL = 1.5
"""px; with less nothing can be simplified."""
_GRID = 3.2
"""px that the detail is worked at: finer says no more, and takes longer."""
_SHORTEN, _CUT_OFF, _WEIGHT = 0.9, 2.0, 0.6
"""Gauss that outlines are shortened with, in details; steps off at which a pixel insists no more; weight of a step."""
_ROUNDS, _ROUNDS_AFTER, _STILL = 6, 2, 2e-5
_OPEN, _AREA, _WIDTH = 0.4, 6.0, 1.5
"""Of what is too narrow, the radius; of what is too small, the area; of what is too thin, twice the area over the
outline: in details, and in their square."""
_LAST = 0.85
"""Gauss of the indicators that the edges are read from, in details."""
_LEFT_AREA, _LEFT_WIDTH, _SMALL = 4.5, 1.5, 16.0
"""The same, of what smoothing or a cut has left of a piece, and the area from which on it may be thin."""
FOLLOWED = 0.5
"""How closely curves follow simplified edges, in details."""
_CRACKS = 0.79
"""Length of an outline over that of the pixel sides along it, over all directions (pi / 4)."""


class Simple(NamedTuple):
    """Steps, simplified."""

    labels: Bytes  # (H, W), 0 the darkest step
    shares: Floats  # (K, H, W), of each step round every pixel; adding up to 1


def simpler_steps(off: Floats, shape: tuple[int, int], detail: float, tick: Tick = no_tick) -> Simple:
    """Simplify steps, at the size that the detail needs, and enlarge them smoothly.

    Threshold dynamics move the outlines as a flow by curvature would, but
    hold them where a pixel is far from every other step; what is narrower
    than the detail is opened, what is too small or too thin joins the
    neighbour that it is least unlike.

    Parameters
    ----------
    off : (K, h, w) float
        How far each pixel is off each step, 0 at its own, in steps.
    shape : (int, int)
        Height and width that are wanted.
    detail : float
        px of `off`.

    References
    ----------
    .. [1] B. Merriman, J. Bence, S. Osher, "Diffusion generated motion by mean curvature", 1992.
    .. [2] S. Esedoglu, F. Otto, "Threshold dynamics for networks with arbitrary surface tensions", 2015.
    """
    off = np.minimum(off, _CUT_OFF).astype(np.float32)
    labels = off.argmin(0).astype(np.uint8)
    labels = _shortened(labels, off, _SHORTEN * detail, _ROUNDS)
    tick(0.3)
    least = _Least(_AREA * detail**2, _WIDTH * detail)
    for turn in (1, 2):
        labels = _opened(labels, len(off), _OPEN * detail)
        labels = _merged(labels, off, least)
        labels = _shortened(labels, off, _SHORTEN * detail, _ROUNDS_AFTER)
        labels = _merged(labels, off, least)
        tick(0.3 + 0.3 * turn)
    shares = _smooth(labels, len(off), _LAST * detail)
    if shares.shape[1:] != shape:
        shares = np.stack([cv2.resize(one, shape[::-1], interpolation=cv2.INTER_CUBIC) for one in shares])
        shares = np.clip(shares, 0, 1)
        shares /= shares.sum(0)
    labels = shares.argmax(0).astype(np.uint8)
    whole = without_bits(labels, len(shares), detail * shape[1] / off.shape[2])
    y, x = np.nonzero(whole != labels)
    shares[:, y, x] = 0
    shares[whole[y, x], y, x] = 1
    return Simple(whole, shares)


def least_piece(detail: float) -> float:
    """The area of what smoothing or a cut has left of a piece, for it to stay; px of where the detail is given."""
    return _LEFT_AREA * detail**2


def without_bits(labels: Bytes, count: int, detail: float, clear: int | None = None) -> Bytes:
    """Give bits that are too small or too thin to the neighbour along most of their outline.

    Parameters
    ----------
    labels : (H, W) uint8
        0 to `count` - 1.
    count : int
    detail : float
        px.
    clear : int, optional
        A label that takes no bit, and whose own stay.
    """
    alike = np.broadcast_to(np.float32(0), (count, *labels.shape))
    least = _Least(least_piece(detail), _LEFT_WIDTH * detail, _SMALL * detail**2)
    return _merged(labels, alike, least, clear)


def working_scale(detail: float) -> float:
    """Size to work at, as a share of a picture where the detail is so many px."""
    return min(1.0, _GRID / detail)


def _smooth(labels: Bytes, count: int, sigma: float) -> Floats:
    """Gauss of where each label is; (K, h, w) float32."""
    return np.stack(
        [
            cv2.GaussianBlur((labels == k).astype(np.float32), (0, 0), max(sigma, 0.3), borderType=cv2.BORDER_REFLECT)
            for k in range(count)
        ]
    )


def _shortened(labels: Bytes, off: Floats, sigma: float, rounds: int) -> Bytes:
    """Threshold dynamics."""
    for _ in range(rounds):
        fresh = np.argmin(_WEIGHT * off - _smooth(labels, len(off), sigma), 0).astype(np.uint8)
        moved = np.count_nonzero(fresh != labels)
        labels = fresh
        if moved < _STILL * labels.size:
            break
    return labels


def _opened(labels: Bytes, count: int, radius: float) -> Bytes:
    """Take away what no disc fits in, and give it to the nearest that is left."""
    reach = int(np.ceil(radius))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    disc = (x * x + y * y <= radius * radius + 0.25).astype(np.uint8)
    border = reach + 2
    known = np.zeros(labels.shape, bool)
    for k in range(count):
        own = cv2.copyMakeBorder((labels == k).view(np.uint8), *(border,) * 4, cv2.BORDER_REPLICATE)
        known |= cv2.morphologyEx(own, cv2.MORPH_OPEN, disc)[border:-border, border:-border] > 0
    if known.all() or not known.any():
        return labels
    _, near = cv2.distanceTransformWithLabels((~known).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    owner = np.zeros(int(near.max()) + 1, np.uint8)
    owner[near[known]] = labels[known]
    return np.asarray(owner[near])


class _Least(NamedTuple):
    """What a piece must have to stay; px."""

    area: float
    width: float  # twice the area over the outline
    small: float = np.inf  # a larger one may be thinner


class _Pieces:
    """Pieces and what parts them, joined one by one."""

    def __init__(self, labels: Bytes, off: Floats) -> None:
        piece = np.zeros(labels.shape, np.int64)
        count = 0
        for k in range(len(off)):
            found, own = cv2.connectedComponents((labels == k).view(np.uint8), connectivity=4)
            piece[own > 0] = own[own > 0] + count - 1
            count += found - 1
        self.piece, self.parent = piece, np.arange(count)
        flat = piece.ravel()
        self.area = np.bincount(flat, minlength=count).astype(float)
        self.step = np.zeros(count, np.int64)
        self.step[flat] = labels.ravel()
        # what each piece is off each step, all its pixels together
        self.off = np.stack([np.bincount(flat, one.ravel(), count) for one in off], 1)
        self.beside: list[dict[int, float]] = [{} for _ in range(count)]
        pairs = np.concatenate(
            [np.stack([a.ravel(), b.ravel()], 1) for a, b in ((piece[:, 1:], piece[:, :-1]), (piece[1:], piece[:-1]))]
        )
        pairs = np.sort(pairs[pairs[:, 0] != pairs[:, 1]], axis=1)
        codes, many = np.unique(pairs[:, 0] * count + pairs[:, 1], return_counts=True)
        for code, sides in zip(codes.tolist(), many.tolist(), strict=True):
            a, b = divmod(code, count)
            self.beside[a][b] = self.beside[b][a] = sides * _CRACKS
        self.outline = np.array([sum(one.values()) for one in self.beside])
        for edge in (piece[0], piece[-1], piece[:, 0], piece[:, -1]):
            self.outline += np.bincount(edge, minlength=count)

    def is_bad(self, one: int, least: "_Least") -> bool:
        """Whether a piece is too small or too thin."""
        area = self.area[one]
        return bool(area < least.area or (area < least.small and 2 * area < least.width * self.outline[one]))

    def best_neighbour(self, one: int, clear: int | None) -> int | None:
        """The neighbour whose step the piece is least unlike, for the outline that goes; None where all are clear."""
        lost = self.off[one] - self.off[one][self.step[one]]
        return min(
            (other for other in self.beside[one] if self.step[other] != clear),
            key=lambda other: (lost[self.step[other]] / self.beside[one][other], -self.beside[one][other], other),
            default=None,
        )

    def join(self, one: int, other: int) -> int:
        """Give a piece the step of a neighbour; it joins all its neighbours of that step. What they are then."""
        group = [near for near in self.beside[one] if self.step[near] == self.step[other]]
        kept = max(group, key=lambda near: (self.area[near], -near))
        for gone in (one, *(near for near in group if near != kept)):
            shared = self.beside[gone].pop(kept, 0.0)
            self.beside[kept].pop(gone, None)
            self.outline[kept] += self.outline[gone] - 2 * shared
            for near, sides in self.beside[gone].items():
                del self.beside[near][gone]
                self.beside[kept][near] = self.beside[near][kept] = self.beside[kept].get(near, 0.0) + sides
            self.beside[gone] = {}
            self.area[kept] += self.area[gone]
            self.off[kept] += self.off[gone]
            self.parent[gone] = kept
        return kept

    def labels(self) -> Bytes:
        """Step of every pixel."""
        root: Ints = self.parent
        while not np.array_equal(root, root[root]):
            root = root[root]
        return np.asarray(self.step[root][self.piece].astype(np.uint8))


def _merged(labels: Bytes, off: Floats, least: _Least, clear: int | None = None) -> Bytes:
    """Join pieces that are too small or too thin to a neighbour, the smallest first."""
    pieces = _Pieces(labels, off)
    queue = [(size, one) for one, size in enumerate(pieces.area.tolist()) if pieces.is_bad(one, least)]
    heapq.heapify(queue)
    while queue:
        size, one = heapq.heappop(queue)
        if pieces.parent[one] != one or size != pieces.area[one] or not pieces.beside[one]:
            continue
        if not pieces.is_bad(one, least) or pieces.step[one] == clear:
            continue
        other = pieces.best_neighbour(one, clear)
        if other is None:
            continue
        kept = pieces.join(one, other)
        if pieces.is_bad(kept, least):
            heapq.heappush(queue, (float(pieces.area[kept]), kept))
    return pieces.labels()
