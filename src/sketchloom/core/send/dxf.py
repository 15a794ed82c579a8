"""DXF R2010: a DXF layer a layer, one closed entity a contour, in mm.

Straight contours are LWPOLYLINEs; where one has curves it is one SPLINE,
which is the same curve: cubics joined with knots of multiplicity three
(Piegl and Tiller 1997, The NURBS Book, 5.3).
"""

import io
import re
from collections.abc import Iterator

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.send.page import Item, Page
from sketchloom.core.units import FINEST

__all__ = ["DxfWriter"]

_SAME = 1e-6
"""mm"""
_REJECTED = re.compile(r'[<>/\\":;?*|=,`\x00-\x1f]+')
"""What names of DXF layers must not hold (DXF reference, symbol table names)."""
_MM, _METRIC = 4, 1
_LONGEST = 200


class DxfWriter:
    """A page as DXF, y up, its lower left corner at the origin."""

    ending = ".dxf"
    name = "DXF"
    lost = "lines have no width, areas are their outlines"
    read_by = "a reader of its group codes"

    def write(self, page: Page) -> bytes:
        """Write a page."""
        import ezdxf
        from ezdxf import colors

        ezdxf.options.write_fixed_meta_data_for_testing = True  # no time and no random number
        document = ezdxf.new("R2010", units=_MM)
        document.header["$INSUNITS"], document.header["$MEASUREMENT"] = _MM, _METRIC
        space = document.modelspace()
        document.header["$EXTMIN"], document.header["$EXTMAX"] = (0, 0, 0), (*page.size, 0)
        space.reset_extents((0, 0, 0), (*page.size, 0))
        space.reset_limits((0, 0), page.size)
        for item, layer in _named(page):
            if layer not in document.layers:
                document.layers.add(layer, color=_nearest(item.rgb), true_color=colors.rgb2int(item.rgb))
            for contour, straight, closed in zip(item.path.contours, item.path.straight, item.path.closed, strict=True):
                points = _up(contour, page.size[1])
                if straight.all():
                    space.add_lwpolyline(
                        points[:-1:3] if closed else points[::3], "xy", close=closed, dxfattribs={"layer": layer}
                    )
                else:
                    spline = space.add_spline(dxfattribs={"layer": layer})
                    spline.set_open_uniform(points.tolist(), 3)
                    spline.knots = _knots(len(straight))
                    spline.closed = closed
        classes = document.classes
        classes.add_required_classes(document.dxfversion)
        classes.classes = dict(sorted(classes.classes.items()))  # ezdxf adds some from a set, in any order
        out = io.StringIO()
        document.write(out)
        return out.getvalue().encode()

    def is_right(self, data: bytes, page: Page) -> bool:
        """Read the group codes, and compare layers and every contour."""
        found = list(_read(data.decode()))
        meant = [
            (layer, closed, straight.all(), _up(contour, page.size[1]))
            for item, layer in _named(page)
            for contour, straight, closed in zip(item.path.contours, item.path.straight, item.path.closed, strict=True)
        ]
        unit, size = _header(data.decode(), "$INSUNITS"), _header(data.decode(), "$EXTMAX")
        if len(found) != len(meant) or unit != [_MM] or not np.allclose(size[:2], page.size, rtol=0, atol=_SAME):
            return False
        return all(
            one.layer == layer and one.closed == closed and one.is_spline is not bool(straight)
            and _same(one.points, (points[:-1:3] if closed else points[::3]) if straight else points)
            and (not one.is_spline or _same(one.knots, np.array(_knots((len(points) - 1) // 3))))
            for one, (layer, closed, straight, points) in zip(found, meant, strict=True)
        )  # fmt: skip


def _named(page: Page) -> Iterator[tuple[Item, str]]:
    """Items with the names of their DXF layers; no two layers share one."""
    taken: dict[str, str] = {}
    for item in page.items:
        words = f"{item.title} {item.group}" if item.group not in ("", "cuts") else item.title
        plain = " ".join(_REJECTED.sub(" ", words).split())[:_LONGEST] or item.id
        name, many = plain, 1
        key = item.layer or item.id
        while taken.setdefault(name.lower(), key) != key:
            many += 1
            name = f"{plain} {many}"
        yield item, name


def _up(contour: Floats, height: float) -> Floats:
    return np.asarray(np.round(np.column_stack([contour[:, 0], height - contour[:, 1]]), FINEST) + 0.0)


def _knots(many: int) -> list[float]:
    """Knots of so many cubics joined: each end of one three times, the outermost four times."""
    inner = [float(at) for at in range(1, many) for _ in range(3)]
    return [0.0] * 4 + inner + [float(many)] * 4


def _nearest(rgb: tuple[int, ...]) -> int:
    """Index of the nearest of the 255 colours that readers without true colour know."""
    from ezdxf import colors

    table = np.array([colors.aci2rgb(index) for index in range(1, 256)], float)
    return 1 + int(((table - np.array(rgb)) ** 2).sum(1).argmin())


def _same(found: Floats, meant: Floats) -> bool:
    return found.shape == meant.shape and bool(np.abs(found - meant).max(initial=0) < _SAME)


def _header(text: str, name: str) -> list[float]:
    """Values of a variable of the header."""
    found = re.search(rf"  9\n{re.escape(name)}\n((?:\s*[1-9]0\n.*\n)+)", text)
    return [float(value) for value in found[1].splitlines()[1::2]] if found else []


class _Entity:
    """A SPLINE or LWPOLYLINE as its group codes tell it."""

    def __init__(self, kind: str) -> None:
        self.is_spline, self.layer, self.flags = kind == "SPLINE", "", 0
        self._x: list[float] = []
        self._y: list[float] = []
        self._knots: list[float] = []

    def take(self, code: int, value: str) -> None:
        """Take a group."""
        if code == 8:
            self.layer = value
        elif code == 70:
            self.flags = int(value)
        elif code in (10, 20, 40):
            {10: self._x, 20: self._y, 40: self._knots}[code].append(float(value))

    @property
    def closed(self) -> bool:
        """Whether its flags say so."""
        return bool(self.flags & 1)

    @property
    def points(self) -> Floats:
        """Vertices or controls; (N, 2)."""
        return np.column_stack([self._x, self._y])

    @property
    def knots(self) -> Floats:
        """Of a SPLINE."""
        return np.array(self._knots)


def _read(text: str) -> Iterator[_Entity]:
    """Entities of a DXF by its group codes (DXF reference, ENTITIES section); raises ValueError for any other."""
    lines = text.splitlines()
    pairs = zip(map(int, lines[::2]), lines[1::2], strict=True)
    section, entity = "", None
    for code, value in pairs:
        if code == 0:
            if entity is not None:
                yield entity
            entity = None
            if value == "SECTION":
                section = "?"
            elif value == "ENDSEC":
                section = ""
            elif section == "ENTITIES":
                if value not in ("SPLINE", "LWPOLYLINE"):
                    raise ValueError(value)
                entity = _Entity(value)
        elif code == 2 and section == "?":
            section = value
        elif entity is not None:
            entity.take(code, value)
