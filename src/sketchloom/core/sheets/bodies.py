"""What is laid of a group: bodies that fit, parts of what was too large, and what fits nowhere."""

import dataclasses
from collections.abc import Sequence
from typing import NamedTuple

import shapely

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.sheets.filling import Filling
from sketchloom.core.sheets.layout import Group
from sketchloom.core.sheets.parts import Body, Item, bodies_within
from sketchloom.core.sheets.pieces import Part, parts_of, stroke_of
from sketchloom.core.sheets.seams import Parting, Seam, SeamLine, number_strokes, overlapping, parted
from sketchloom.core.sheets.settings import SheetSettings
from sketchloom.core.sheets.work import Work

__all__ = ["Bodies", "in_copies", "items_of", "sorted_bodies"]

_MOST_ITEMS = 100_000
_SLIP = 1.0
"""mm that an upper layer may be laid off by hand, so that what it hides is less; common practice."""
_ROOM = 0.1
"""mm that parts of a piece are smaller than a sheet."""


class Bodies(NamedTuple):
    """What is laid of the cuts of a group."""

    fitting: list[Body]
    too_large: list[Body]
    apart: list[str]  # keys of layers that fit only piece by piece
    seams: list[Seam]
    idle: list[SeamLine]  # seams by hand that part nothing


def _one_by_one(body: Body, work: Work) -> list[Body]:
    """Give the pieces of a body, each with what is drawn on it, then its lines; marks are left out."""
    solids = [part for part in body.parts if part.cut.kind == "cut" and not part.role]
    piece, known = {id(one.part): one.piece for one in work.lying}, {id(part) for part in solids}
    rows = [[part] for part in solids]
    for part in body.parts:
        if part.role or id(part) in known:
            continue
        if id(part) in piece and solids:
            rows[piece[id(part)] if len(solids) > 1 else 0].append(part)
        else:
            rows.append([part])
    return [Body(body.layer, row) for row in rows]


def _bodies_of(group: Group, work: Work) -> list[Body]:
    """Give what is laid of a group: piece by piece, or each cut in register with its marks; with what is drawn on it.

    Drawn lines are never laid line by line; where the layer that they are of
    is laid in register, they go with it.
    """
    strokes = [cut for cut in group.cuts if cut.is_strokes and cut.path.contours]
    drawn: dict[tuple[str, int], list[Part]] = {}
    alone: dict[str, list[Part]] = {}
    for one in work.lying:
        if one.on:
            drawn.setdefault((one.on, one.piece), []).append(one.part)
        elif (one.part.cut.stock, one.part.cut.colour) == (group.stock, group.colour):
            alone.setdefault(one.part.cut.key, []).append(one.part)
    out: list[Body] = []
    for cut in group.cuts:
        if cut.kind != "cut":
            continue
        rows = [[part, *drawn.get((cut.key, piece), [])] for piece, part in enumerate(parts_of(cut))]
        if group.nested:
            out += [Body(cut.key, row) for row in rows]
        elif rows:
            with_it = [line for line in strokes if line.ink.key == cut.ink.key]
            strokes = [line for line in strokes if line.ink.key != cut.ink.key]
            marks = work.marks_of(cut.key)
            marked = [_marks_of(cut, marks)] if marks is not None else []
            parts = [*(row[0] for row in rows), *(part for row in rows for part in row[1:])]
            out.append(Body(cut.key, [*parts, *map(stroke_of, with_it), *marked]))
    out += [Body(key, parts) for key, parts in alone.items()]
    return out + [Body(cut.key, [stroke_of(cut)]) for cut in strokes]


def _marks_of(cut: Cut, marks: Path) -> Part:
    """The marks of a layer, as what they cover."""
    own = dataclasses.replace(cut, key=f"{cut.key} marks", path=marks, known=None)
    return stroke_of(own)._replace(role="marks")


def sorted_bodies(group: Group, filling: Filling, work: Work, tick: Tick = no_tick) -> Bodies:
    """Give the bodies of a group: what is too large in register goes piece by piece, and a piece that is, in parts."""
    out = Bodies([], [], [], [], [])
    lines = _lines_by_layer(group, filling.settings, work)
    for body in _bodies_of(group, work):
        if filling.fits(body):
            out.fitting.append(body)
            continue
        pieces = _one_by_one(body, work)
        out.fitting.extend(piece for piece in pieces if filling.fits(piece))
        larger = [piece for piece in pieces if not filling.fits(piece)]
        for piece in larger:
            own = _taken(lines.get(body.layer, []), piece)
            first = 1 + sum(seam.layer == body.layer for seam in out.seams)
            parts, seams, idle = _seamed(piece, filling, work, [one.points for one in own], first, tick)
            out.fitting.extend(parts)
            out.seams.extend(seams)
            out.idle.extend(own[number].of for number in idle)
            if not parts:
                out.too_large.append(piece)
        if not larger:
            out.apart.append(body.layer)
    out.idle.extend(one.of for left in lines.values() for one in left)
    return out


class _Line(NamedTuple):
    """A seam by hand, and where it runs, mm."""

    of: SeamLine
    points: tuple[Point, ...]


def _lines_by_layer(group: Group, settings: SheetSettings, work: Work) -> dict[str, list[_Line]]:
    keys = {cut.key for cut in group.cuts}
    out: dict[str, list[_Line]] = {}
    for one in settings.seams:
        if one.layer in keys:
            points = work.on_page([one.layer] * len(one.line), one.line).tolist()
            out.setdefault(one.layer, []).append(_Line(one, tuple(map(tuple, points))))
    return out


def _taken(lines: list[_Line], piece: Body) -> list[_Line]:
    """Take from the seams by hand those that run over a piece."""
    shape = piece.parts[0].shape
    own = [one for one in lines if shapely.intersects(shapely.linestrings(one.points), shape)]
    lines[:] = [one for one in lines if one not in own]
    return own


def _seamed(
    piece: Body, filling: Filling, work: Work, lines: Sequence[tuple[Point, ...]], first: int, tick: Tick
) -> tuple[list[Body], tuple[Seam, ...], Sequence[int]]:
    """Part a piece that is too large where upper layers hide it; nothing where that is not asked for, or not to be.

    Which lines of a hand part nothing is told beside.
    """
    settings, part, every = filling.settings, piece.parts[0], range(len(lines))
    if settings.seam == "none" or part.cut.kind != "cut" or part.shape.geom_type != "Polygon":
        return [], (), every
    above = [shape for cut in work.above(piece.layer) for shape in cut.polygons.shapes]
    covered = shapely.union_all(above)
    overlap = settings.seam_overlap + settings.ready.kerf  # the tool takes its width along the seam too
    less = overlap + _ROOM
    turns = {turn % 180 for turn in filling.turns(piece)}
    sides = filling.width - less, filling.height - less
    rooms = (sides, sides[::-1]) if 90.0 in turns else (sides,)
    found = parted(Parting(piece.layer, part.shape, covered, _SLIP, rooms, settings.seam, tuple(lines)), tick)
    if found is None:
        return [], (), every
    seams = tuple(seam._replace(number=number) for number, seam in enumerate(found.seams, first))
    bodies = []
    for shape in overlapping(found.parts, seams, overlap):
        strokes = number_strokes(shape, seams, covered) if settings.seam_numbers else []
        bodies += bodies_within(part, shape, piece.parts[1:], strokes)
    return (bodies, seams, found.idle) if all(map(filling.fits, bodies)) else ([], (), every)


def in_copies(bodies: Bodies, settings: SheetSettings, work: Work) -> list[Item]:
    """Give bodies as often as they are laid; raises ArgumentError where that is too often."""
    copies = [work.copies_of(body.layer, settings.copies) for body in bodies.fitting]
    many = sum(copies)
    if many > _MOST_ITEMS:
        raise ArgumentError(
            f"{many} pieces are more than can be laid; take fewer copies, {_MOST_ITEMS} pieces at most."
        )
    return [
        Item(body, copy)
        for copy in range(1, max(copies, default=0) + 1)
        for body, most in zip(bodies.fitting, copies, strict=True)
        if copy <= most
    ]


def items_of(group: Group, settings: SheetSettings, work: Work) -> list[Item]:
    """Give all that is to be laid of a group and fits on its sheets."""
    return in_copies(sorted_bodies(group, Filling(group, settings, []), work), settings, work)
