"""A drawing read from a file of another program: contours by colour, in mm."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import areas_below, straight_thirds
from sketchloom.core.cut import Cut, CutStack, flatten, pieces_of, refitted, solid
from sketchloom.core.elsewhere.filled import filled, fills, windings_beside
from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.palette import Ink, colour_of

__all__ = ["CLOSED", "Contour", "Drawing", "Object", "banded", "layers_of", "scaled"]

CLOSED = 0.01
"""mm between two ends that are one."""
_SHORTEST = 1e-6
"""mm"""
_SOME = 300
"""Steps whose crossings are counted."""
_MOST_CROSSINGS = 200_000
_MOST_LAYERS = 400
FARTHEST = 100_000.0
"""mm from the page's corner that anything may lie."""


class Contour(NamedTuple):
    """One line of a drawing, mm."""

    control: Floats  # (n, 4, 2)
    straight: Bools  # (n,)
    closed: bool

    @property
    def is_flat(self) -> bool:
        """Whether it lies on one straight line, and encloses nothing."""
        points = self.control.reshape(-1, 2) - self.control[0, 0]
        along = points[int(np.argmax((points * points).sum(1)))]
        off = np.abs(points[:, 0] * along[1] - points[:, 1] * along[0])
        return bool((off <= _SHORTEST * np.hypot(*along)).all())

    def reversed(self) -> "Contour":
        """The same the other way round."""
        return Contour(self.control[::-1, ::-1], self.straight[::-1], self.closed)


class Object(NamedTuple):
    """What a drawing has as one object.

    Attributes
    ----------
    key : str
        What its layer is known by.
    name, colour : str
    contours : tuple of Contour
    rule : {'nonzero', 'evenodd', 'lines'}
        How they enclose anything; lines do it together with all lines of their layer.
    widened : bool
        Whether it is the outline of a wide stroke.
    """

    key: str
    name: str
    colour: str
    contours: tuple[Contour, ...]
    rule: str
    widened: bool = False


class Drawing(NamedTuple):
    """A drawing of another program.

    Attributes
    ----------
    stack : CutStack
        Its layers, the first at the bottom.
    notes : tuple of str
        What of the file is not in it, a sentence each.
    """

    stack: CutStack
    notes: tuple[str, ...] = ()


def contour_of(control: Floats, straight: Bools, closed: bool) -> Contour | None:
    """Put segments together to a contour; None where nothing is left of it."""
    with np.errstate(invalid="ignore"):  # what is without end is refused below
        kept = np.hypot(*np.moveaxis(np.ptp(control, axis=1), 1, 0)) > _SHORTEST
    control, straight = control[kept].copy(), straight[kept].copy()
    if not len(control) or not np.isfinite(control).all():
        return None
    gap = float(np.hypot(*(control[0, 0] - control[-1, 3])))
    if gap <= CLOSED:
        control[-1, 3] = control[0, 0]
        closed = True
    elif closed:
        ends = np.array([control[-1, 3], control[0, 0]])
        third = (ends[1] - ends[0]) / 3
        control = np.concatenate([control, [[ends[0], ends[0] + third, ends[1] - third, ends[1]]]])
        straight = np.append(straight, True)
    straight_thirds(control, straight)
    return Contour(control, straight, closed)


def _check_reach(contours: Sequence[Contour], width: float = 0.0) -> None:
    """Refuse what lies farther than `FARTHEST`; a number that is no number does too."""
    if not all(np.abs(contour.control).max() + width <= FARTHEST for contour in contours):
        raise ArgumentError(
            f"Something in this file lies more than {FARTHEST / 1000:g} m from its corner; move it back."
        )


def banded(contours: Sequence[Contour], width: float, cap: str, join: str, mitre: float) -> tuple[Contour, ...]:
    """The outline of a stroke of a width along contours."""
    _check_reach(contours, width)
    path = path_of(contours)
    lines = []
    for ring, contour, closed in zip(flatten(path).rings, path.contours, path.closed, strict=True):
        points = np.vstack([ring, contour[-1:]])
        lines.append(shapely.linearrings(points) if closed and len(ring) > 2 else shapely.linestrings(points))
    caps = {"butt": "flat", "round": "round", "square": "square"}
    joins = {"miter": "mitre", "round": "round", "bevel": "bevel"}
    shape: Any = shapely.union_all([
        shapely.buffer(line, width / 2, quad_segs=24, cap_style=caps.get(cap, "flat"),
                       join_style=joins.get(join, "mitre"), mitre_limit=mitre)
        for line in lines
    ])  # fmt: skip
    return contours_of(refitted(shape))


def path_of(contours: Sequence[Contour]) -> Path:
    """Put contours together to a path."""
    points = [np.vstack([one.control[:, :3].reshape(-1, 2), one.control[-1:, 3]]) for one in contours]
    is_open = tuple(not one.closed for one in contours)
    return Path(tuple(points), tuple(one.straight for one in contours), is_open if any(is_open) else ())


def contours_of(path: Path) -> tuple[Contour, ...]:
    """Take a path apart to contours."""
    out = []
    for points, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
        index = 3 * np.arange(len(straight))[:, None] + np.arange(4)
        out.append(Contour(points[index], straight, closed))
    return tuple(out)


def layers_of(objects: Sequence[Object]) -> tuple[Cut, ...]:
    """Put objects together to layers, in the order in which they first appear.

    Outer contours of every object run as those of our own layers do, holes the
    other way, whatever the rule by which the file tells them apart.
    """
    if not objects:
        raise NothingToCutError("There is nothing in this file to cut: it has no outline.")
    for one in objects:
        _check_reach(one.contours)
    by_key: dict[str, list[Object]] = {}
    for one in objects:
        by_key.setdefault(one.key, []).append(one)
    if len(by_key) > _MOST_LAYERS:
        raise ArgumentError(
            f"This file has {len(by_key)} colours or layers; up to {_MOST_LAYERS} can be checked, so use fewer."
        )
    out = []
    for key, own in by_key.items():
        colour = colour_of(own[0].colour)
        ink = Ink(key, own[0].name, colour, colour)
        path = _path_of_objects(_gathered(own))
        out.append(Cut(key=key, name=own[0].name, ink=ink, path=path, objects=len(own)))
    return tuple(out)


def _gathered(own: Sequence[Object]) -> list[Object]:
    """Objects of a layer, its lines as one."""
    shapes = [one for one in own if one.rule != "lines"]
    lines = tuple(contour for one in own if one.rule == "lines" for contour in one.contours)
    return [*shapes, own[0]._replace(contours=lines, rule="lines")] if lines else shapes


def _path_of_objects(objects: Sequence[Object]) -> Path:
    """The path of a layer; where its outlines cross or overlap it says what its objects fill together."""
    _check_tangle(path_of([contour for one in objects for contour in one.contours]))
    path = path_of([contour for one in objects for contour in _turned(one.contours, one.rule)])
    if _is_plain(path):
        return path
    return replace(path, meant=solid(shapely.union_all([_filled_by(one) for one in objects])))


def _check_tangle(path: Path) -> None:
    """Refuse what crosses itself too often to be mended, told by some of its steps; raises ArgumentError."""
    flat = flatten(path)
    ends = np.roll(flat.points, -1, axis=0)
    ends[flat.first[1:] - 1] = flat.points[flat.first[:-1]]
    steps = shapely.linestrings(np.stack([flat.points, ends], 1))
    some = steps[:: max(1, len(steps) // _SOME)]
    crossed = len(shapely.STRtree(steps).query(some, predicate="crosses")[0])
    if crossed * len(steps) / max(len(some), 1) / 2 > _MOST_CROSSINGS:
        raise ArgumentError("Outlines of this file cross each other hundreds of thousands of times; unite them.")


def _is_plain(path: Path) -> bool:
    """Whether its outlines go round what they enclose once, and cross nothing."""
    pieces = pieces_of(flatten(path))
    return pieces.valid and bool(pieces.sound.all())


def _rings_of(contours: Sequence[Contour]) -> list[Floats]:
    rings = flatten(path_of([one for one in contours if one.closed])).rings
    return [ring for ring in rings if len(ring) > 2]


def _filled_by(one: Object) -> Any:
    """What an object fills, as polygons; lines fill what they go round."""
    rings = _rings_of(one.contours)
    if not rings:
        return shapely.Polygon()
    if one.rule == "lines":
        return shapely.union_all(pieces_of(flatten(path_of(_turned(one.contours, "lines")))).shapes)
    return filled(rings, one.rule)


def _turned(contours: Sequence[Contour], rule: str) -> list[Contour]:
    """Turn contours so that what is no hole runs as `Path.areas` counts it positive, and holes the other way."""
    if len(contours) == 1 and contours[0].closed:
        (one,) = contours
        return [one if areas_below(one.control).sum() <= 0 else one.reversed()]
    out = list(contours)
    places = [place for place, one in enumerate(contours) if one.closed]
    flat = flatten(path_of([contours[place] for place in places])).rings if places else []
    places = [place for place, ring in zip(places, flat, strict=True) if len(ring) > 2]
    rings = [ring for ring in flat if len(ring) > 2]
    if not places:
        return out
    outside, inside = windings_beside(rings)
    rule = "evenodd" if rule == "lines" else rule
    is_hole = fills(outside, rule) & ~fills(inside, rule)
    for place, turn in zip(places, ((inside > outside) != is_hole).tolist(), strict=True):
        if turn:
            out[place] = out[place].reversed()
    return out


def scaled(drawing: Drawing, width: float) -> Drawing:
    """Bring a drawing to a width of what is cut, mm."""
    boxes = np.array([cut.path.bounds for cut in drawing.stack.cuts])
    now = float(boxes[:, 2].max() - boxes[:, 0].min())
    factor = width / now if now > 0 else 1.0
    cuts = tuple(cut.with_path(cut.path.scaled(factor)) for cut in drawing.stack.cuts)
    size = drawing.stack.size[0] * factor, drawing.stack.size[1] * factor
    return drawing._replace(stack=CutStack(cuts, size))
