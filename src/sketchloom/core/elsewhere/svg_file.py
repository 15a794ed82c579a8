"""SVG files of other programs: transforms, groups, styles, uses, strokes, viewBox and units are honoured."""

import io
import math
from collections.abc import Iterator
from functools import cache
from typing import Any

import numpy as np

from sketchloom.core.cut import CutStack
from sketchloom.core.elsewhere.drawing import Contour, Drawing, Object, banded, contour_of, layers_of
from sketchloom.core.elsewhere.guarded import guarded_svg
from sketchloom.core.errors import ArgumentError
from sketchloom.core.palette import colour_of
from sketchloom.core.regions import name_of

__all__ = ["read_svg"]

_PX = 25.4 / 96
"""mm; a CSS pixel (CSS Values and Units Level 3, 5.2)."""
_LINE = 0.3
"""mm; a thinner stroke is a line that is cut, a wider one a shape."""
_MITRE = 4.0
"""SVG 2, 13.5.5: the mitre limit where none is given."""


def read_svg(data: bytes, name: str) -> Drawing:
    """Read an SVG file.

    A filled object is cut along its outline; a stroke under 0.3 mm with no
    fill is a line that is cut as it is, a wider one a shape of that width.

    Raises
    ------
    ArgumentError
        For what cannot be read; names the file.
    NothingToCutError
        If it has no outline.

    References
    ----------
    .. [1] W3C, "Scalable Vector Graphics (SVG) 2".
    """
    from svgelements import SVG, Shape

    guarded = guarded_svg(data, name)
    try:
        root = SVG.parse(io.BytesIO(guarded.text), ppi=96.0, reify=True)
        shapes = [element for element in root.elements() if isinstance(element, Shape)]
        found = [one for shape in shapes for one in _objects(shape) if one.contours]
    except (
        ValueError,
        TypeError,
        IndexError,
        AttributeError,
        KeyError,
        ZeroDivisionError,
        OverflowError,
        RecursionError,
    ):
        raise ArgumentError(f"{name} holds something that cannot be read as SVG; save it anew as plain SVG.") from None
    notes = []
    if guarded.bitmaps:
        many = "a bitmap" if guarded.bitmaps == 1 else f"{guarded.bitmaps} bitmaps"
        notes.append(f"{name} holds {many}, which cannot be cut; open the picture itself to trace it.")
    if guarded.texts:
        notes.append(f"{name} holds text, which is no outline; turn it to outlines where it was drawn.")
    if guarded.clipped:
        notes.append(f"{name} clips or masks objects; they are checked whole, as a cutter takes them.")
    wide = sum(one.widened for one in found)
    if wide:
        many = "a stroke" if wide == 1 else f"{wide} strokes"
        notes.append(f"{name} draws {many} that is checked as a shape of its width; most cutters follow its middle.")
    layers = layers_of(found)
    return Drawing(CutStack(layers, _size(root, layers)), tuple(notes))


def _size(root: Any, layers: tuple[Any, ...]) -> tuple[float, float]:
    width, height = (float(side) * _PX if side else 0.0 for side in (root.width, root.height))
    if not (0 < width < 1e6 and 0 < height < 1e6):
        boxes = np.array([layer.path.bounds for layer in layers])
        width, height = float(boxes[:, 2].max()), float(boxes[:, 3].max())
    return round(width, 3), round(height, 3)


def _objects(shape: Any) -> Iterator[Object]:
    """What a shape is to a cutter: its fill, its stroke, or both."""
    if shape.values.get("visibility") in ("hidden", "collapse") or shape.values.get("display") == "none":
        return
    contours = tuple(_contours(shape))
    fill, stroke = _paint(shape.fill), _paint(shape.stroke)
    width = float(shape.stroke_width or 0.0) * _PX if stroke else 0.0
    rule = "evenodd" if str(shape.values.get("fill-rule", "")).strip() == "evenodd" else "nonzero"
    # a straight line has a fill that nobody sees; where it has a stroke too, that is what it is
    filled = tuple(one for one in contours if not (stroke and one.is_flat)) if fill else ()
    if filled:
        yield _object(fill, filled, rule)
    if stroke and width >= _LINE:
        cap, join = str(shape.values.get("stroke-linecap", "butt")), str(shape.values.get("stroke-linejoin", "miter"))
        yield _object(stroke, banded(contours, width, cap, join, _MITRE), "nonzero")._replace(widened=True)
    elif stroke:
        lines = tuple(one for one in contours if one.is_flat) if filled else contours
        yield _object(stroke, lines, "lines")


def _object(colour: str, contours: tuple[Contour, ...], rule: str) -> Object:
    return Object(colour, _name(colour), colour, contours, rule)


@cache
def _name(colour: str) -> str:
    return name_of(colour_of(colour))


def _paint(paint: Any) -> str:
    """A colour as #rrggbb; empty for none, and for what cannot be seen."""
    if paint is None or paint.value is None or paint.alpha == 0:
        return ""
    return f"#{paint.red:02x}{paint.green:02x}{paint.blue:02x}"


def _contours(shape: Any) -> Iterator[Contour]:
    """Its subpaths, in mm."""
    from svgelements import Arc, Close, CubicBezier, Line, Move, Path, QuadraticBezier

    path = shape if isinstance(shape, Path) else Path(shape)
    control: list[Any] = []
    straight: list[bool] = []
    closes = False

    def ends(line: Any) -> Any:
        return line.start, line.start, line.end, line.end  # `contour_of` puts controls on the chord

    def done() -> Contour | None:
        if not control:
            return None
        points = np.array([[(point.x, point.y) for point in one] for one in control], float) * _PX
        return contour_of(points, np.array(straight, bool), closes)

    for segment in path:
        if isinstance(segment, Move):
            if (contour := done()) is not None:
                yield contour
            control, straight, closes = [], [], False
        elif isinstance(segment, Close):
            if segment.start is not None and segment.end is not None and segment.start != segment.end:
                control.append(ends(segment))
                straight.append(True)
            closes = True
            if (contour := done()) is not None:
                yield contour
            control, straight, closes = [], [], False
        elif isinstance(segment, Line):
            control.append(ends(segment))
            straight.append(True)
        elif isinstance(segment, CubicBezier):
            control.append((segment.start, segment.control1, segment.control2, segment.end))
            straight.append(False)
        elif isinstance(segment, QuadraticBezier):
            a, b, c = segment.start, segment.control, segment.end
            control.append((a, a + (b - a) * (2 / 3), c + (b - c) * (2 / 3), c))
            straight.append(False)
        elif isinstance(segment, Arc):
            quarters = max(1, math.ceil(abs(float(segment.sweep)) / (math.pi / 2) - 1e-6))
            for curve in segment.as_cubic_curves(quarters):
                control.append((curve.start, curve.control1, curve.control2, curve.end))
                straight.append(False)
    if (contour := done()) is not None:
        yield contour
