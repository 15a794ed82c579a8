"""SVG 1.1: a page in mm, one compound path a layer."""

import io
from xml.etree import ElementTree

import numpy as np
from fontTools.pens.recordingPen import RecordingPen
from fontTools.svgLib.path import parse_path

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, CutStack
from sketchloom.core.errors import WriteError
from sketchloom.core.send.writer import Part, names_of
from sketchloom.core.units import FINEST

__all__ = ["SvgWriter", "number", "path_data", "reads_as"]

_NAMESPACE = "{http://www.w3.org/2000/svg}"
_STEP = 0.001
"""mm; what coordinates are written to."""

_HAIRLINE = "0.1"
"""mm"""
_DONE = {"cut": "", "draw": ", drawn", "score": ", scored", "engrave": ", engraved"}

Contour = list[tuple[str, Floats]]
"""Verbs, each with its points, from the first point on; ``closePath`` last where it closes."""


class SvgWriter:
    """Layers as SVG: a group and one path a layer, a path a centre line, no transforms."""

    ending = ".svg"
    name = "SVG"

    def write(self, stack: CutStack, layers: Part | None = None) -> bytes:
        """Write layers, all by default; bottom first, so the top is drawn last."""
        width, height = (number(side) for side in stack.size)
        out = [
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}mm" height="{height}mm" '
            f'viewBox="0 0 {width} {height}">\n'
        ]
        names = names_of(stack.cuts)
        for layer in stack.cuts:
            if layers is not None and not any(layer is wanted for wanted in layers):
                continue
            name, title = f'"{names[layer.key]}"', _escaped(layer.name)
            if layer.is_strokes:
                lines = "".join(
                    f'<path d="{path_data(path)}" stroke-width="{number(width)}"/>' for path, width in _lines(layer)
                )
                out.append(
                    f'<g id={name} fill="none" stroke="{layer.ink.hex}" stroke-linecap="round" '
                    f'stroke-linejoin="round"><title>{title}</title>{lines}</g>\n'
                )
            elif layer.kind in ("draw", "score"):
                out.append(
                    f"<g id={name}><title>{title}{_DONE[layer.kind]}</title>"
                    f'<path fill="none" stroke="{layer.ink.hex}" stroke-width="{_HAIRLINE}" '
                    f'd="{path_data(layer.path)}"/></g>\n'
                )
            else:
                out.append(
                    f"<g id={name}><title>{title}{_DONE[layer.kind]}</title>"
                    f'<path fill="{layer.ink.hex}" fill-rule="evenodd" d="{path_data(layer.path)}"/></g>\n'
                )
        out.append("</svg>\n")
        return "".join(out).encode()

    def check(self, data: bytes, stack: CutStack, layers: Part | None = None) -> None:
        """Read an SVG back with readers that are not ours, and compare page, colours and every path.

        Raises
        ------
        WriteError
            If anything is not what was meant.
        """
        try:
            right = _is_right(data, stack, stack.cuts if layers is None else layers)
        except (ElementTree.ParseError, ValueError, IndexError):
            right = False
        if not right:
            raise WriteError(
                "The SVG did not read back as it was meant, so it was not written; please report this picture."
            )


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


def _lines(layer: Cut) -> list[tuple[Path, float]]:
    """Each centre line by itself, as wide as the stroke it is of."""
    return [(layer.path.part([place]), width) for place, width in enumerate(layer.widths)]


def _escaped(text: str) -> str:
    """Text for XML, which has no place for control characters."""
    plain = "".join(letter if letter.isprintable() else " " for letter in text)
    return plain.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _is_right(data: bytes, stack: CutStack, layers: Part) -> bool:
    root = ElementTree.parse(io.BytesIO(data)).getroot()
    width, height = (number(side) for side in stack.size)
    page = f"{width}mm", f"{height}mm", f"0 0 {width} {height}"
    if (root.get("width"), root.get("height"), root.get("viewBox")) != page:
        return False
    groups = root.findall(f"{_NAMESPACE}g")
    if len(groups) != len(layers) or len(list(root.iter(f"{_NAMESPACE}path"))) != sum(map(len, groups)) - len(groups):
        return False
    for group, layer in zip(groups, layers, strict=True):
        paths = group.findall(f"{_NAMESPACE}path")
        if layer.is_strokes:
            right = group.get("stroke") == layer.ink.hex and group.get("fill") == "none"
            meant = [(path, {"stroke-width": number(width)}) for path, width in _lines(layer)]
        else:
            line = {"fill": "none", "stroke": layer.ink.hex, "stroke-width": _HAIRLINE}
            filled = {"fill": layer.ink.hex, "fill-rule": "evenodd"}
            right, meant = True, [(layer.path, line if layer.kind in ("draw", "score") else filled)]
        if not right or len(paths) != len(meant):
            return False
        for element, (path, attributes) in zip(paths, meant, strict=True):
            if any(element.get(name) != value for name, value in attributes.items()):
                return False
            if not reads_as(element.get("d", ""), path):
                return False
    return True


def reads_as(data: str, path: Path) -> bool:
    """Whether path data, read by a reader that is not ours, is a path; raises ValueError where it is none."""
    return _alike(_read(data), _meant(path))


def _read(data: str) -> list[Contour]:
    pen = RecordingPen()
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
