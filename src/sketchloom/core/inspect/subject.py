"""What is checked: layers in mm, with what is known of where they came from."""

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.inspect.balls import Side, Tiled, tiled
from sketchloom.core.inspect.narrow import Narrow, narrow_places, step_length
from sketchloom.core.inspect.outline import Outline, leads_nowhere, outline_of
from sketchloom.core.inspect.recall import Recall
from sketchloom.core.inspect.steps import steps_of
from sketchloom.core.layers import AnyMend, Beside, mend_cuts
from sketchloom.core.threads import threads

__all__ = ["FromPicture", "Memory", "Subject"]

_SIDES: tuple[Side, Side] = ("inside", "outside")
_ALIKE = 2.5
"""Times the smaller of two limits that the larger is, up to which steps of one length do for both."""
_BEYOND = 2.0
"""Times a width, within which lies what a place of that width hangs on."""
_MENDED = 4
"""Lots of mends whose outcome is kept: what was tried as a whole is done next."""
_BESIDE = 0.1
"""mm between outlines that run side by side."""


class Memory(NamedTuple):
    """What checks remember, by content."""

    outlines: Recall
    tiles: Recall
    findings: Recall
    mended: Recall

    @classmethod
    def new(cls) -> "Memory":
        """Give one that knows nothing yet."""
        return cls(Recall(48), Recall(), Recall(4000), Recall(_MENDED))

    @property
    def bytes_kept(self) -> int:
        """About what it holds."""
        return sum(part.bytes_kept for part in self)


@dataclass(frozen=True, eq=False)
class FromPicture:
    """What is known of layers that were made from a picture.

    Attributes
    ----------
    px_per_mm : float
        True pixels a mm.
    away : (A,) float
        Largest distance of each curve from the picture's edges, mm.
    away_at : (A, 2) float
        Where, mm on the page.
    away_keys : tuple of str
        A layer that each curve bounds.
    smoothness : float
        mm, that it was traced with.
    build : str
    edges : tuple of str
        Keys of layers that are one line, cut on both sides.
    locked : frozenset of str
        Keys of layers that are not changed by hand.
    """

    px_per_mm: float
    away: Floats
    away_at: Floats
    away_keys: tuple[str, ...]
    smoothness: float
    build: str
    edges: tuple[str, ...] = ()
    locked: frozenset[str] = frozenset()


@dataclass(frozen=True, eq=False)
class Subject:
    """Layers that are checked together, bottom first.

    Attributes
    ----------
    layers : tuple of Cut
    limits : mapping of str to mapping of str to float
        By layer, and then by kind of finding.
    size : (float, float)
        Of the page, mm.
    memory : Memory
    origin : FromPicture or None
        None for a file from elsewhere.
    stencil : bool
        Whether the one layer is a sheet with openings.
    carries : Beside
        What a mend of one layer carries to others.
    apart : frozenset of str
        Layers of no ink of their own: a base, a sheet, copies.
    bare : bool
        Whether no fixes are thought of: what is only judged needs none.
    """

    layers: tuple[Cut, ...]
    limits: Mapping[str, Mapping[str, float]]
    size: tuple[float, float]
    memory: Memory
    origin: FromPicture | None = None
    stencil: bool = False
    carries: Beside = field(default_factory=Beside)
    apart: frozenset[str] = frozenset()
    bare: bool = False

    def limit(self, layer: Cut, kind: str) -> float:
        """Give the limit of a kind of finding for a layer."""
        return self.limits[layer.key][kind]

    def is_plain(self, layer: Cut) -> bool:
        """Whether a layer is of an ink, and no base, sheet or copy."""
        return layer.key not in self.apart

    def outline(self, layer: Cut) -> Outline:
        """Give the outlines of a layer."""
        known: Outline | None = self.memory.outlines.get(layer.digest)
        if known is None:
            known = outline_of(layer)
            self.memory.outlines.put(layer.digest, known)
        return known

    def narrow(self, layer: Cut, side: Side) -> list[Narrow]:
        """Give the narrow places of a layer, up to the widest that any kind asks for."""
        inside, outside = self._widest(layer)
        widest = inside if side == "inside" else outside
        key = ("narrow", layer.digest, side, inside, outside)
        known: list[Narrow] | None = self.memory.findings.get(key)
        if known is None:
            outline = self.outline(layer)
            of = outline.piece if side == "inside" else outline.window
            places = narrow_places(self._laid(layer, side), of, widest, side, self.memory.tiles)
            known = [place for place in places if not leads_nowhere(outline, place, side)]
            self.memory.findings.put(key, known)
        return known

    def narrow_parts(self, layer: Cut) -> tuple[Floats, Floats]:
        """Give the widths and extents, mm, of a layer's narrow material, whole pieces aside; (n,) and (4, n)."""
        key = ("narrow parts", layer.digest, *self._widest(layer))
        known: tuple[Floats, Floats] | None = self.memory.findings.get(key)
        if known is None:
            parts = [place for place in self.narrow(layer, "inside") if not place.whole]
            known = np.array([one.width for one in parts]), np.array([one.box for one in parts]).reshape(-1, 4).T
            self.memory.findings.put(key, known)
        return known

    def _widest(self, layer: Cut) -> tuple[float, float]:
        """Up to which width narrow places are looked for, in the material and in the ground beside it, mm."""
        limits = self.limits[layer.key]
        least = max(limits["fine"] / self.origin.px_per_mm if self.origin else 0.0, limits["cut-twice"])
        return max(limits["neck"], least), max(limits["gap"], least)

    def _laid(self, layer: Cut, side: Side) -> Tiled:
        """Give the steps of a layer's outlines; where limits are not far apart, the same for both sides."""
        outline = self.outline(layer)
        both = self._widest(layer)
        alike = max(both) <= _ALIKE * min(both)
        widest = max(both) if alike else both[0] if side == "inside" else both[1]
        longest = step_length(min(both) if alike else widest, outline.length)
        key = ("laid", layer.digest, longest, widest)
        known: Tiled | None = self.memory.outlines.get(key)
        if known is None:
            known = tiled(steps_of(outline.points, outline.first, outline.sense, longest, _BEYOND * widest), widest)
            self.memory.outlines.put(key, known)
        return known

    def warm(self) -> None:
        """Find the narrow places of all layers, several at once: array code lets go of the interpreter lock."""
        jobs: list[tuple[Cut, Side]] = [(layer, side) for layer in self.layers for side in _SIDES]
        with ThreadPoolExecutor(max_workers=min(len(jobs), threads())) as pool:
            list(pool.map(lambda layer: self._laid(layer, "inside"), self.layers))
            list(pool.map(lambda job: self.narrow(*job), jobs))

    def layer(self, key: str) -> Cut | None:
        """Give a layer by its key."""
        return next((layer for layer in self.layers if layer.key == key), None)

    def beside(self, layer: Cut, shape: Any) -> dict[str, float]:
        """How much of the outline of a shape, mm, runs along each other layer's material."""
        others = [other for other in self.layers if other.key != layer.key and self.is_plain(other)]
        if not others:
            return {}
        out = {}
        edge, own = shape.boundary, shapely.to_wkb(shape)
        room = shapely.box(*shapely.buffer(shape.envelope, 1.0).bounds)
        for other in others:
            outline = self.outline(other)
            near = outline.tree.query(shape, predicate="dwithin", distance=_BESIDE)
            if len(near):
                pieces = outline.pieces.shapes[np.sort(near)]
                key = "beside", own, b"".join(shapely.to_wkb(pieces).tolist())
                length: float | None = self.memory.findings.get(key)
                if length is None:
                    here = shapely.intersection(shapely.union_all(pieces), room)
                    length = float(edge.intersection(shapely.buffer(here, _BESIDE)).length)
                    self.memory.findings.put(key, length)
                if length > 0:
                    out[other.key] = length
        return out

    def near(self, boxes: Floats) -> "Subject":
        """Give the pieces that reach into any of some boxes, as a subject of its own.

        Parameters
        ----------
        boxes : (B, 4) float
            Left, top, right, bottom, mm.
        """
        room = shapely.box(*boxes.T)
        layers = []
        for layer in self.layers:
            pieces = layer.polygons
            if not (pieces.valid and pieces.sound.all()) or layer.path.open:
                layers.append(layer)
                continue
            kept = np.unique(self.outline(layer).tree.query(room, predicate="intersects")[1])
            if len(kept) == len(pieces.shapes):
                layers.append(layer)
            elif len(kept):
                layers.append(
                    layer.with_path(layer.path.part(np.flatnonzero(np.isin(pieces.of_contour, kept)).tolist()))
                )
        return replace(self, layers=tuple(layers))

    def mended(self, mends: tuple[AnyMend, ...]) -> "Subject":
        """The same after mends whose places are mm on the page."""
        bearers, flush = self.carries
        key = tuple((layer.key, layer.digest) for layer in self.layers), mends, tuple(sorted(bearers.items())), flush
        changed: dict[str, Path] | None = self.memory.mended.get(key)
        if changed is None:
            there = lambda points: np.array(points, float).reshape(-1, 2)  # noqa: E731
            changed, _ = mend_cuts(self.layers, mends, there, self.carries)
            self.memory.mended.put(key, changed)
        united = {mend.layer for mend in mends if mend.unites}
        layers = []
        for layer in self.layers:
            if layer.key in changed:
                layer = layer.with_path(changed[layer.key])
                layer = replace(layer, objects=1) if layer.key in united else layer
            if layer.path.contours:
                layers.append(layer)
        return replace(self, layers=tuple(layers))
