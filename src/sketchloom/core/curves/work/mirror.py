"""Make the two halves of a drawing alike where they nearly are."""

from typing import Any

import numpy as np

from sketchloom.core.arrays import Floats, kd_tree
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.path import points_at, straight_thirds
from sketchloom.core.curves.pieces import begun_at, cut_piece, from_line, joined, measured, with_arcs
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["even_halves"]

_STEPS = 24


def even_halves(planar: PlanarMap, curves: ArcCurves, most: float, tick: Tick = no_tick) -> ArcCurves:
    """Mirror the left half over the upright middle where the right is nowhere more than `most` off.

    Works arc by arc, so parts that are not alike stay as they are: an arc
    that crosses the middle is made of its left half twice, one on the right
    is made of its fellow on the left, and vertices go with their fellows.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        px.
    most : float
        px.
    """
    within = (planar.left > 0) & (planar.right > 0)
    inner = np.flatnonzero(within)
    if not len(inner):
        return curves
    on_frame = set(np.concatenate([planar.tail[~within], planar.head[~within]]).tolist())  # these stay where they are
    pieces = {int(arc): arc_piece(curves, int(arc)) for arc in inner}
    lines = {arc: _line(piece) for arc, piece in pieces.items()}
    every = np.concatenate(list(lines.values()))
    middle = float(every[:, 0].min() + every[:, 0].max()) / 2
    fellows = _Fellows(lines, middle, most)
    changed: dict[int, Piece] = {}
    vertices = {name: at for name, at in _vertices(planar, pieces, middle, most).items() if name not in on_frame}
    for place, arc in enumerate(inner.tolist()):
        tick(0.9 + 0.1 * place / len(inner))
        piece = _with_ends(pieces[arc], vertices.get(int(planar.tail[arc])), vertices.get(int(planar.head[arc])))
        fellow = fellows.of(arc)
        if fellow == arc:
            whole = _twice(piece, bool(planar.loops[arc]), middle) or piece
            ends = (piece.control[0, 0], piece.control[-1, 3])
            held = [
                at if int(name) in on_frame else None
                for name, at in zip((planar.tail[arc], planar.head[arc]), ends, strict=True)
            ]
            piece = _with_ends(whole, held[0], held[1])
        elif fellow is not None and _box_middle(lines[arc])[0] > middle:
            own = _with_ends(
                pieces[fellow], vertices.get(int(planar.tail[fellow])), vertices.get(int(planar.head[fellow]))
            )
            image = _turned_like(_mirror(own, middle), piece, bool(planar.loops[arc]))
            # its ends may have no fellows where it has one
            piece = image if planar.loops[arc] else _with_ends(image, piece.control[0, 0], piece.control[-1, 3])
        if piece is not pieces[arc]:
            changed[arc] = piece
    return measured(with_arcs(curves, changed), sorted(changed))


class _Fellows:
    """Finds for each arc the one that lies where its mirror image does."""

    def __init__(self, lines: dict[int, Floats], middle: float, most: float) -> None:
        self._names, self._lines = list(lines), lines
        self._middle, self._most = middle, most
        self._box = np.array([(*line.min(0), *line.max(0)) for line in lines.values()])
        self._step = {arc: float(np.hypot(*np.diff(line, axis=0).T).max()) for arc, line in lines.items()}
        self._trees: dict[int, Any] = {}
        self._tree = kd_tree(np.array([_box_middle(line) for line in lines.values()]))

    def of(self, arc: int) -> int | None:
        """Give the fellow of an arc, which may be itself, or None."""
        image = _over(self._lines[arc], self._middle)
        box = np.array([*image.min(0), *image.max(0)])
        near = np.sort(np.array(self._tree.query_ball_point(_box_middle(image), 2 * self._most + 2), np.int64))
        # lines that are alike to a length reach as far on every side, to that length
        near = near[np.abs(self._box[near] - box).max(1, initial=0.0) <= self._most]
        reach = np.maximum(self._box[near, 2:], box[2:]) - np.minimum(self._box[near, :2], box[:2])
        small = np.hypot(*reach.T) <= self._most  # all of both lies within that length
        for place, sure in zip(near.tolist(), small.tolist(), strict=True):
            other = self._names[place]
            # how far one image lies from the other line is how far their images lie apart
            if sure or (self._within(image, other) and self._within(_over(self._lines[other], self._middle), arc)):
                return other
        return None

    def _within(self, points: Floats, arc: int) -> bool:
        """Whether points lie nowhere farther from an arc's line than they may."""
        line = self._lines[arc]
        if arc not in self._trees:
            self._trees[arc] = kd_tree(line)
        to_corner = float(self._trees[arc].query(points)[0].max())  # not much farther than to the line itself
        if to_corner <= self._most or to_corner - self._step[arc] / 2 > self._most:
            return to_corner <= self._most
        return float(from_line(points, line).max()) <= self._most


def _line(piece: Piece) -> Floats:
    return points_at(piece.control, np.linspace(0, 1, _STEPS)).reshape(-1, 2)


def _box_middle(line: Floats) -> Floats:
    return np.asarray((line.min(0) + line.max(0)) / 2)


def _over(points: Floats, middle: float) -> Floats:
    return np.stack([2 * middle - points[..., 0], points[..., 1]], -1)


def _mirror(piece: Piece, middle: float) -> Piece:
    return Piece(_over(piece.control, middle), piece.straight)


def _vertices(planar: PlanarMap, pieces: dict[int, Piece], middle: float, most: float) -> dict[int, Floats]:
    """Where junctions go: those on the right to the mirror images of their fellows, those on the middle onto it."""
    at: dict[int, Floats] = {}
    for arc, piece in pieces.items():
        if not planar.loops[arc]:
            at[int(planar.tail[arc])] = piece.control[0, 0]
            at[int(planar.head[arc])] = piece.control[-1, 3]
    if not at:
        return {}
    names, places = list(at), np.array(list(at.values()))
    away, near = kd_tree(places).query(_over(places, middle))
    out: dict[int, Floats] = {}
    for row, name in enumerate(names):
        fellow = int(near[row])
        if away[row] > most or int(near[fellow]) != row:
            continue
        if fellow == row:
            out[name] = np.array([middle, places[row, 1]])
        elif places[row, 0] > middle:
            out[name] = _over(places[fellow], middle)
    return out


def _with_ends(piece: Piece, start: Floats | None, stop: Floats | None) -> Piece:
    """A piece whose ends, with their handles, have moved; the same one where nothing moves."""
    control = piece.control.copy()
    if start is not None:
        control[0, :2] += start - control[0, 0]
    if stop is not None:
        control[-1, 2:] += stop - control[-1, 3]
    if np.array_equal(control, piece.control):
        return piece
    return _lines_straight(Piece(control, piece.straight))


def _lines_straight(piece: Piece) -> Piece:
    return Piece(straight_thirds(piece.control.copy(), piece.straight), piece.straight)


def _crossings(piece: Piece, middle: float) -> list[float]:
    """Segments gone along a piece to each place where it crosses the middle."""
    found = []
    for row, control in enumerate(piece.control):
        x = control[:, 0] - middle
        roots = np.roots([x[3] - 3 * x[2] + 3 * x[1] - x[0], 3 * (x[2] - 2 * x[1] + x[0]), 3 * (x[1] - x[0]), x[0]])
        real = roots[np.abs(roots.imag) < 1e-9].real
        found += [row + float(t) for t in real if -1e-9 <= t < 1 - 1e-9]
    return sorted(max(0.0, place) for place in found)


def _twice(piece: Piece, loop: bool, middle: float) -> Piece | None:
    """A piece that crosses the middle once, or a loop that does twice, made of its left half and that mirrored."""
    places = _crossings(piece, middle)
    if loop and len(places) == 2:
        piece = begun_at(piece, places[0])
        places = [place for place in _crossings(piece, middle) if 0.01 < place < len(piece.control) - 0.01]
    if len(places) != 1:
        return None
    first, last = cut_piece(piece, places[0])
    if not len(first.control) or not len(last.control):
        return None
    left_first = first.control[:, :, 0].mean() < middle
    half = first if left_first else last
    half = Piece(half.control.copy(), half.straight)
    other = _mirror(half, middle).reversed()
    whole = joined(half, other) if left_first else joined(other, half)
    return _level_at(whole, len(first.control) if left_first else len(other.control), loop)


def _level_at(piece: Piece, place: int, loop: bool) -> Piece:
    """Let curves pass the middle level where they nearly do, so that the halves meet without a kink."""
    control = piece.control.copy()
    seams: list[tuple[int, int]] = [(place - 1, place)] + ([(len(control) - 1, 0)] if loop else [])
    for before, after in seams:
        middle = (control[before, 3] + control[after, 0]) / 2
        control[before, 3] = control[after, 0] = middle
        way = control[after, 1] - middle
        if abs(way[1]) < 0.35 * abs(way[0]) and not piece.straight[after]:
            control[after, 1, 1] = control[before, 2, 1] = middle[1]
    return _lines_straight(Piece(control, piece.straight))


def _turned_like(image: Piece, piece: Piece, loop: bool) -> Piece:
    """A mirror image run in the direction of the piece that it replaces."""
    if loop:
        return image if _signed(image) * _signed(piece) > 0 else image.reversed()
    ahead = np.hypot(*(image.control[0, 0] - piece.control[0, 0]))
    behind = np.hypot(*(image.control[-1, 3] - piece.control[0, 0]))
    return image if ahead <= behind else image.reversed()


def _signed(piece: Piece) -> float:
    """Signed area, about."""
    x, y = _line(piece).T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)))
