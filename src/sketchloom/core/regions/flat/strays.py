"""Find the inks of flat art from its even patches and from what these cannot explain.

Compression leaves a patch of one colour exactly even, unless an edge is near;
so even patches show most inks, near shades too. Pixels by the edges are then
explained as blends of these inks. Where no blend fits, something was drawn
that is too small for an even patch: the strays become an ink of their own if
they hang together, noise does not.
"""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.colour import lab_of
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.evidence import pack
from sketchloom.core.regions.flat.cells import ColourCells
from sketchloom.core.regions.flat.explain import RIDGE, Blends, blend_at, settled
from sketchloom.core.regions.flat.hairlines import exact_lines, is_repeated
from sketchloom.core.regions.flat.patches import EvenPatches
from sketchloom.core.regions.flat.stored import fitted_ink, light_first

__all__ = ["CLEAN", "separate_compressed", "separate_thin"]

_CORE_REACH = 2.5
"""Distance, light first, within which a pixel of a compressed picture shows an ink."""
_STRAIGHT = 2.0
"""Steps of a line along itself in a clean picture."""
_NEAR_INK = 6.0
"""Strays this near (CIE76) to an ink are that ink where they are no ink of their own."""
_BLEED, _BLEED_CHROMA, _SAME_LIGHT = 10.0, 18.0, 3.0
"""Distance to an ink within which strays may be its colour bled; as light as the ink, within the second."""
_BLEED_SIDE, _BLEED_OWN = 5, 25
"""What may have bled must fill so many pixels of squares of that side."""
_MOSTLY, _THIN, _LINE_SHARE = 0.85, 0.2, 0.3
"""Shares: of an ink explained by others, of it in 3x3 squares, and of a pixel that a thin line covers."""
_WINDOW = 512
_ROUNDS = 60
_MOST_STRAYS = 0.35
"""Of a picture; more strays mean that it is no flat art."""
_MOST = 48
_REACH = 6


class _Terms(NamedTuple):
    """What makes pixels an ink of their own."""

    stray: float  # farther off its blend than this a pixel is a stray
    chroma: float  # weight of chroma beside light
    gather: float  # distance (CIE76) within which strays are alike
    least: int  # strays alike
    own: int  # of these, in 2x2 squares, and touching each other
    ridge: float  # least share of a line thinner than a pixel


_COMPRESSED = _Terms(stray=14.0, chroma=0.5, gather=8.0, least=14, own=8, ridge=0.42)
"""Chroma is stored at half the size and blurs over edges, so it counts less than light."""
CLEAN = _Terms(stray=7.0, chroma=1.0, gather=3.0, least=4, own=3, ridge=RIDGE)


def separate_compressed(evidence: Bytes, patches: EvenPatches, tick: Tick = no_tick) -> tuple[Bytes, Floats] | None:
    """Find the inks and give every pixel to one.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
    patches : EvenPatches
        With at least one colour.

    Returns
    -------
    labels : (H, W) uint8
        1 + ink.
    colours : (K, 3) float64

    None where so much strays from the even patches that it is no flat art.
    """
    space = light_first(_COMPRESSED.chroma)
    colours = patches.colours[:_MOST]
    search = _Search(evidence, colours, _nearest(pack(evidence), colours, space), _COMPRESSED)
    if search.strays > _MOST_STRAYS * search.cores.size:
        return None
    tick(0.5)
    search.gather_all(lambda done: tick(0.5 + 0.4 * done))
    search.prune()
    labels = search.settle()
    tick(0.95)
    return labels, search.refitted(labels)


def separate_thin(evidence: Bytes, colours: Floats, cores: Bytes, tick: Tick = no_tick) -> tuple[Bytes, Floats]:
    """Give every pixel of a clean picture to an ink, and find the inks that are drawn in thin lines only.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
    colours : (K, 3) float
    cores : (H, W) uint8
        1 + ink at core pixels, 0 elsewhere.

    Returns
    -------
    As `separate_compressed`; never None.
    """
    search = _Search(evidence, colours, cores.copy(), CLEAN)
    tick(0.6)
    search.gather_all(lambda done: tick(0.6 + 0.4 * done))
    search.prune()
    search.take_exact_lines()
    return search.settle(), search.colours


class _Search:
    """Inks known so far, and the pixels by the edges with the blends that explain them.

    Attributes
    ----------
    colours : (K, 3) float64
    cores : (H, W) uint8
        1 + ink where a pixel surely shows one.
    places : (n,) int
        The pixels that are no cores of the even patches.
    blends : Blends
        Of these.
    """

    def __init__(self, evidence: Bytes, colours: Floats, cores: Bytes, terms: _Terms) -> None:
        self.evidence, self.colours, self.cores, self.terms = evidence, colours, cores, terms
        self._even = len(colours)
        self.space = light_first(terms.chroma)
        self.places = np.flatnonzero(self.cores.ravel() == 0)
        self._packed = pack(evidence).ravel()
        self.blends = self._explained(self.places)
        self._rows = np.flatnonzero(self.blends.off > terms.stray**2)
        self._rough = _roughness(evidence, self.places[self._rows])
        if terms is CLEAN:  # a line is even along itself, the blends at its edges are not
            even = self._rough <= _STRAIGHT
            self._rows, self._rough = self._rows[even], self._rough[even]
        self._lab = _lab_at(evidence, self.places[self._rows])
        self._cells = ColourCells(self._lab, 1 / (1 + (self._rough / 3) ** 2))
        self._done = np.zeros(len(self._rows), bool)

    def _explained(self, places: Ints, any_ink: bool = False, without: int = 0) -> Blends:
        if not without:
            return blend_at(places, self.evidence, self.cores, self.colours, self.terms.stray, self.space, any_ink)
        colours = self.colours.copy()
        colours[without - 1] = colours[0]
        blends = blend_at(places, self.evidence, self.cores, colours, self.terms.stray, self.space, any_ink)
        for ends in (blends.first, blends.second):
            ends[ends == without] = 1
        return blends

    @property
    def strays(self) -> int:
        """Pixels that the even patches cannot explain."""
        return len(self._rows)

    def gather_all(self, tick: Tick) -> None:
        """Gather until no strays are left that could be an ink."""
        for turn in range(_ROUNDS):
            if not self.gather():
                return
            tick(turn / _ROUNDS)

    def gather(self) -> bool:
        """Make an ink of the densest colour among the strays; False when there are none left to try."""
        live = np.flatnonzero((self.blends.off[self._rows] > self.terms.stray**2) & ~self._done)
        if len(live) < self.terms.least or len(self.colours) >= _MOST:
            return False
        peak = self._cells.densest(live)
        alike = live[((self._lab[live] - peak) ** 2).sum(1) < self.terms.gather**2]
        if len(alike) < self.terms.least:
            return False
        self._done[alike] = True
        own = self._rows[alike]
        flattest = own[np.argsort(self._rough[alike], kind="stable")[: max(9, int(0.4 * len(own)))]]
        colour = np.median(self.evidence.reshape(-1, 4)[self.places[flattest], :3], axis=0)
        gap = lab_of(self.colours) - lab_of(colour)
        apart = np.sqrt((gap**2).sum(1))
        nearest = int(apart.argmin())
        bleeds = apart[nearest] < (_BLEED_CHROMA if abs(gap[nearest, 0]) < _SAME_LIGHT else _BLEED)
        if self._is_ring(own, apart[nearest]) or self._hangs_together(own, bleeds):
            self.colours = np.vstack([self.colours, colour])
            self._mark(own, len(self.colours))
        elif apart[nearest] < _NEAR_INK or (bleeds and self._hangs_together(own, False)):
            self._mark(own, nearest + 1)
        return True

    def prune(self) -> None:
        """Drop gathered inks that are, after all, blends of inks gathered later."""
        for label in range(len(self.colours), self._even, -1):
            rows = np.flatnonzero(self.cores.ravel()[self.places] == label)
            self.cores.ravel()[self.places[rows]] = 0
            thin = self._filled(rows, 3) < _THIN * len(rows)
            blends = self._explained(self.places[rows], any_ink=thin, without=label)
            own = (blends.off <= self.terms.stray**2).mean() < _MOSTLY
            lab = lab_of(self.colours)
            apart = np.linalg.norm(np.delete(lab, label - 1, 0) - lab[label - 1], axis=1).min()
            if own or self._is_ring(rows, float(apart), label):
                self.cores.ravel()[self.places[rows]] = label
                continue
            self.blends.put(rows, blends)
            others = np.flatnonzero((self.blends.first == label) | (self.blends.second == label))
            self.blends.put(others, self._explained(self.places[others], without=label))
            if thin:
                self._give_lines(rows, blends)
            self.colours = np.delete(self.colours, label - 1, 0)
            for labels in (self.cores, self.blends.first, self.blends.second):
                labels[labels > label] -= 1

    def take_exact_lines(self) -> None:
        """Make inks of lines a pixel wide that show one exact colour again and again."""
        for rows in exact_lines(self.evidence, self.colours, self.places):
            colour = self.evidence.reshape(-1, 4)[self.places[rows[0]], :3].astype(float)
            apart = np.linalg.norm(lab_of(self.colours) - lab_of(colour), axis=1)
            if len(self.colours) < _MOST and apart.min() >= _NEAR_INK:
                self.colours = np.vstack([self.colours, colour])
                self._mark(rows, len(self.colours))

    def _give_lines(self, rows: Ints, blends: Blends) -> None:
        """Give thin parts to the ink they are drawn in: a blend of it with what lies around, at no place pure."""
        drawn = np.where(blends.first == blends.second, 0, blends.part)
        ink = int(np.bincount(blends.second, drawn).argmax())
        line = (blends.second == ink) & (drawn >= _LINE_SHARE)
        if line.mean() > 0.5:
            self._mark(rows[line], ink)

    def _hangs_together(self, rows: Ints, bleeds: bool) -> bool:
        """Whether pixels fill squares and touch each other; near another ink's colour they must fill larger ones."""
        if self.terms is CLEAN:
            # where two inks meet a renderer lets the ground shine through: no line, as another ink lies on either side
            alone = (self.blends.first[rows] == self.blends.second[rows]).mean()
            return alone > 0.5 or self._filled(rows, 2) >= self.terms.own
        if self._filled(rows, 2) < self.terms.own or self._most_near(rows) < self.terms.own:
            return False
        return not bleeds or self._filled(rows, _BLEED_SIDE) >= _BLEED_OWN

    def _is_ring(self, rows: Ints, apart: float, without: int = 0) -> bool:
        """Whether pixels so far from every ink are one of their own that lies between two others, a pixel wide.

        What lies alone on one ink may be a thinner line of an ink elsewhere, whose shares repeat too.
        """
        if self.terms is not CLEAN or apart < _NEAR_INK or not len(rows):
            return False
        near = self._explained(self.places[rows], without=without) if without else self.blends.at(rows)
        if (near.first != near.second).mean() <= 0.5:
            return False
        codes, counts = np.unique(self._packed[self.places[rows]], return_counts=True)
        odd = np.flatnonzero(self.blends.off > self.terms.stray**2)
        odd = odd[self._packed[self.places[odd]] == codes[counts.argmax()]]
        return is_repeated(self._packed, self.cores.shape[1], self.places[np.union1d(rows, odd)])

    def _held(self, rows: Ints, side: int) -> Bools:
        """Which pixels of the square to the right of and below each of some are among them; (side * side, n) bool."""
        width, places = self.cores.shape[1], self.places[rows]
        steps = (np.arange(side)[:, None] * width + np.arange(side)).reshape(-1, 1)
        wanted = places + steps
        if not len(places):
            return np.zeros(wanted.shape, bool)
        at = np.minimum(np.searchsorted(places, wanted), len(places) - 1)
        return places[at] == wanted

    def _filled(self, rows: Ints, side: int) -> int:
        """How many of some pixels lie in squares of them."""
        width, places = self.cores.shape[1], self.places[rows]
        whole = places[self._held(rows, side).all(0)]
        steps = (np.arange(side)[:, None] * width + np.arange(side)).reshape(-1, 1)
        return len(np.unique(whole + steps))

    def _most_near(self, rows: Ints) -> int:
        """The most of some pixels that lie in one square of 5."""
        return int(self._held(rows, 5).sum(0).max(initial=0))

    def _mark(self, rows: Ints, label: int) -> None:
        """Make cores of an ink, and explain what lies around them anew."""
        self.cores.ravel()[self.places[rows]] = label
        full = np.full(len(rows), label, np.uint8)
        self.blends.put(rows, Blends(full, full, np.zeros(len(rows), np.float32), np.zeros(len(rows), np.float32)))
        y, x = np.divmod(self.places[rows], self.cores.shape[1])
        top, left = max(0, y.min() - _REACH), max(0, x.min() - _REACH)
        mask = np.zeros((y.max() - top + 1 + _REACH, x.max() - left + 1 + _REACH), np.uint8)
        mask[y - top, x - left] = 1
        mask = cv2.dilate(mask, np.ones((2 * _REACH + 1, 2 * _REACH + 1), np.uint8))
        y, x = np.divmod(self.places, self.cores.shape[1])
        inside = (y >= top) & (y < top + mask.shape[0]) & (x >= left) & (x < left + mask.shape[1])
        again = np.flatnonzero(inside & (self.blends.off > 16.0))
        again = again[mask[y[again] - top, x[again] - left] > 0]
        if len(again):
            fresh = self._explained(self.places[again])
            better = fresh.off < self.blends.off[again]
            self.blends.put(again[better], fresh.at(better))

    def settle(self) -> Bytes:
        """Give every pixel to an ink; what no blend explains may take one from anywhere."""
        lost = np.flatnonzero(self.blends.off > self.terms.stray**2)
        if len(lost):
            places = self.places[lost]
            self.blends.put(lost, self._explained(places, any_ink=True))
        return settled(self.cores, self.places, self.blends, self.terms.ridge)

    def refitted(self, labels: Bytes) -> Floats:
        """Fit the colours of inks without an even patch to the picture they make once it is compressed; (K, 3)."""
        turn = light_first(1.0)
        mix = self.colours @ turn.T
        for ink in range(self._even, len(mix)):
            y, x = np.divmod(np.flatnonzero(labels.ravel() == ink + 1), labels.shape[1])
            if not len(y):
                continue
            top, left = (max(0, int(np.median(at)) - _WINDOW // 2) & ~1 for at in (y, x))
            window = slice(top, top + _WINDOW), slice(left, left + _WINDOW)
            seen = self.evidence[window][..., :3].astype(np.float32) @ turn.T.astype(np.float32)
            mix[ink] = fitted_ink(seen, labels[window], mix.astype(np.float32), ink)
        fitted: Floats = np.rint(np.clip(mix @ np.linalg.inv(turn).T, 0, 255))
        fitted[: self._even] = self.colours[: self._even]
        return fitted


def _nearest(packed: np.ndarray, colours: Floats, space: Floats) -> Bytes:
    """1 + the ink a pixel shows but for rounding, else 0; by runs of equal pixels."""
    flat = packed.ravel()
    starts = np.append(0, np.flatnonzero(flat[1:] != flat[:-1]) + 1)
    codes, which = np.unique(flat[starts], return_inverse=True)
    seen = np.stack([codes & 255, codes >> 8 & 255, codes >> 16 & 255], -1).astype(np.float32) @ space.T
    best = np.full(len(codes), _CORE_REACH**2)
    label = np.zeros(len(codes), np.uint8)
    for ink, middle in enumerate(colours @ space.T):
        off = ((seen - middle) ** 2).sum(1)
        nearer = off < best
        label[nearer], best[nearer] = ink + 1, off[nearer]
    return np.repeat(label[which], np.diff(starts, append=flat.size)).reshape(packed.shape)


def _lab_at(evidence: Bytes, places: Ints) -> Floats:
    """L*a*b* of some pixels; (n, 3) float32."""
    codes, which = np.unique(pack(evidence).ravel()[places], return_inverse=True)
    seen = np.stack([codes & 255, codes >> 8 & 255, codes >> 16 & 255], -1)
    return lab_of(seen).astype(np.float32)[which]


def _roughness(evidence: Bytes, places: Ints) -> Floats:
    """Largest step to either side in the direction in which it is smallest; a thin line is smooth along itself."""
    height, width = evidence.shape[:2]
    y, x = np.divmod(places, width)
    here = evidence[y, x, :3].astype(np.int16)
    least = np.full(len(places), 255, np.int16)
    for down, right in ((0, 1), (1, 0), (1, 1), (1, -1)):
        largest = np.zeros(len(places), np.int16)
        for way in (-1, 1):
            at = np.clip(y + way * down, 0, height - 1), np.clip(x + way * right, 0, width - 1)
            np.maximum(largest, np.abs(evidence[(*at, slice(3))] - here).max(1), out=largest)
        np.minimum(least, largest, out=least)
    return least.astype(np.float32)
