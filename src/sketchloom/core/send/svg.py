"""SVG 1.1: a page in mm, one compound path a layer."""

import io
from collections.abc import Iterator
from itertools import groupby
from xml.etree import ElementTree

import numpy as np
from fontTools.pens.recordingPen import RecordingPen

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.send.page import Item, Page
from sketchloom.core.units import FINEST

__all__ = ["SvgWriter", "number", "path_data", "reads_as"]

_NAMESPACE = "{http://www.w3.org/2000/svg}"
_STEP = 0.001
"""mm; what coordinates are written to."""

_GROUPS = ("cuts", "pens", "scores", "engraves", "marks", "weeding")

Contour = list[tuple[str, Floats]]
"""Verbs, each with its points, from the first point on; ``closePath`` last where it closes."""


class SvgWriter:
    """A page as SVG: of layers a group and one path a layer; of a sheet a group a tool, in cutting order.

    No transforms, no styles, no clipping.
    """

    ending = ".svg"
    name = "SVG"
    lost = ""
    read_by = "fontTools and ElementTree"

    def write(self, page: Page) -> bytes:
        """Write a page; the top layer is drawn last."""
        width, height = (number(side) for side in page.size)
        out = [
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}mm" height="{height}mm" '
            f'viewBox="0 0 {width} {height}">\n'
        ]
        out += _groups(page) if page.is_sheet else map(_layer, _by_layer(page))
        out.append("</svg>\n")
        return "".join(out).encode()

    def is_right(self, data: bytes, page: Page) -> bool:
        """Read it with readers that are not ours; compare page, colours and every path."""
        root = ElementTree.parse(io.BytesIO(data)).getroot()
        width, height = (number(side) for side in page.size)
        told = f"{width}mm", f"{height}mm", f"0 0 {width} {height}"
        if (root.get("width"), root.get("height"), root.get("viewBox")) != told:
            return False
        groups = root.findall(f"{_NAMESPACE}g")
        paths = sum(len(group.findall(f"{_NAMESPACE}path")) for group in groups)
        if len(list(root.iter(f"{_NAMESPACE}path"))) != paths:
            return False
        if not page.is_sheet:
            layers = _by_layer(page)
            return len(groups) == len(layers) and all(map(_is_layer, groups, layers))
        found = {group.get("id"): group.findall(f"{_NAMESPACE}path") for group in groups}
        for key in {item.group for item in page.items}:
            meant = [item for item in page.items if item.group == key]
            if len(found.get(key, [])) != len(meant) or not all(map(_is_item, found[key], meant)):
                return False
        return paths == len(page.items)


def _groups(page: Page) -> Iterator[str]:
    for key in _GROUPS:
        own = [item for item in page.items if item.group == key]
        if own or key == "cuts":
            look = "" if key == "cuts" else ' fill="none" stroke-linecap="round" stroke-linejoin="round"'
            paths = "".join(f'<path id="{item.id}" {_look(item)} d="{path_data(item.path)}"/>\n' for item in own)
            yield f'<g id="{key}"{look}>\n{paths}</g>\n'


def _look(item: Item) -> str:
    """How an item of a sheet is drawn."""
    return " ".join(f'{name}="{value}"' for name, value in _attributes(item).items())


def _attributes(item: Item) -> dict[str, str]:
    line = {"stroke": item.colour, "stroke-width": number(item.width)}
    if item.filled and item.group != "engraves":
        faint = {"fill-opacity": f"{item.opacity:g}"} if item.opacity < 1 else {}
        return {"fill": item.colour, **faint, "fill-rule": "evenodd"}
    return {"fill": "none", **line} if item.group in ("", "cuts") else line


def _by_layer(page: Page) -> list[list[Item]]:
    """Items that follow each other and are of one layer."""
    return [list(own) for _, own in groupby(page.items, lambda item: item.layer or item.id)]


def _layer(own: list[Item]) -> str:
    item = own[0]
    title = _escaped(item.title)
    if item.is_strokes:
        lines = "".join(f'<path d="{path_data(path)}" stroke-width="{number(width)}"/>' for path, width in item.strokes)
        return (
            f'<g id="{item.id}" fill="none" stroke="{item.colour}" stroke-linecap="round" '
            f'stroke-linejoin="round"><title>{title}</title>{lines}</g>\n'
        )
    paths = "".join(f'<path {_look(one)} d="{path_data(one.path)}"/>' for one in own)
    return f'<g id="{item.layer or item.id}"><title>{title}</title>{paths}</g>\n'


def _is_layer(group: ElementTree.Element, own: list[Item]) -> bool:
    item, paths = own[0], group.findall(f"{_NAMESPACE}path")
    if not item.is_strokes:
        return len(paths) == len(own) and all(map(_is_item, paths, own))
    lines = item.strokes
    right = group.get("stroke") == item.colour and group.get("fill") == "none" and len(paths) == len(lines)
    return right and all(
        element.get("stroke-width") == number(width) and reads_as(element.get("d", ""), path)
        for element, (path, width) in zip(paths, lines, strict=True)
    )


def _is_item(element: ElementTree.Element, item: Item) -> bool:
    right = all(element.get(name) == value for name, value in _attributes(item).items())
    return right and reads_as(element.get("d", ""), item.path)


def number(mm: float) -> str:
    """To 0.001 mm, without needless digits."""
    return f"{round(mm * 1000) / 1000:.10g}"


def _pairs(points: Floats) -> list[str]:
    """Points as x and y, as they are in the layers; (N, 2)."""
    rounded = np.round(points, FINEST) + 0.0  # no minus before nought
    return ("%.10g %.10g\n" * len(points) % tuple(rounded.ravel().tolist())).splitlines()


def path_data(path: Path) -> str:
    """Path data with absolute coordinates, mm; a closed contour ends with Z."""
    parts: list[str] = []
    for contour, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
        pairs = _pairs(contour)
        parts.append("M" + pairs[0])
        last = len(straight) - 1 if closed else len(straight)
        for i, is_straight in enumerate(straight.tolist()):
            if not is_straight:
                parts.append(f"C{pairs[3 * i + 1]} {pairs[3 * i + 2]} {pairs[3 * i + 3]}")
            elif i < last:  # the last straight segment of a closed one is what Z draws
                parts.append("L" + pairs[3 * i + 3])
        parts.append("Z" if closed else "")
    return "".join(parts)


def _escaped(text: str) -> str:
    """Text for XML, which has no place for control characters."""
    plain = "".join(letter if letter.isprintable() else " " for letter in text)
    return plain.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def reads_as(data: str, path: Path) -> bool:
    """Whether path data, read by a reader that is not ours, is a path; raises ValueError where it is none."""
    return _alike(_read(data), _meant(path))


def _read(data: str) -> list[Contour]:
    pen = RecordingPen()
    from fontTools.svgLib.path import parse_path  # not needed to start

    parse_path(data, pen)
    return _contours(pen)


def _meant(path: Path) -> list[Contour]:
    pen = RecordingPen()
    path.draw(pen)
    return _contours(pen)


def _contours(pen: RecordingPen) -> list[Contour]:
    """Contours as recorded; what closes a contour is a line, and lines of no length are left out."""
    out: list[Contour] = []
    start = here = np.zeros(2)
    for verb, points in pen.value:
        at = np.array(points, float).reshape(-1, 2)
        if verb == "moveTo":
            start = here = at[0]
            out.append([(verb, at)])
        elif verb == "closePath":
            if np.abs(here - start).max() >= _STEP / 2:
                out[-1].append(("lineTo", start[None]))
            out[-1].append((verb, at))
        elif verb != "endPath":
            if verb != "lineTo" or np.abs(at[-1] - here).max() >= _STEP / 2:
                out[-1].append((verb, at))
            here = at[-1]
    return out


def _alike(one: list[Contour], other: list[Contour]) -> bool:
    """Whether contours have the same verbs and, to the last digit written, the same points."""
    if [[verb for verb, _ in contour] for contour in one] != [[verb for verb, _ in contour] for contour in other]:
        return False
    left, right = (np.concatenate([np.zeros((0, 2)), *(at for c in path for _, at in c)]) for path in (one, other))
    return bool(np.allclose(left, right, rtol=0, atol=0.6 * _STEP))
