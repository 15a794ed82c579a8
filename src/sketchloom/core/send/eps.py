"""EPS: Encapsulated PostScript, for programs that take nothing newer (Adobe, EPSF specification 3.0)."""

import math
import re
import shutil
import subprocess
from collections.abc import Iterator

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.send.page import Item, Page

__all__ = ["EpsWriter"]

_POINT = 72 / 25.4
_CLOSE = 0.001
"""mm"""
_TOKEN = re.compile(r"[-+]?[0-9.][-+0-9.eE]*|[A-Za-z]+")


class EpsWriter:
    """A page as EPS, y up."""

    ending = ".eps"
    name = "EPS"
    lost = "layers have no names"

    @property
    def read_by(self) -> str:
        """Ghostscript where there is one."""
        return "a reader of its operators" + (" and Ghostscript" if shutil.which("gs") else "")

    def write(self, page: Page) -> bytes:
        """Write a page."""
        width, height = (side * _POINT for side in page.size)
        title = "".join(letter for letter in page.title if letter.isascii() and letter.isprintable()) or "Layers"
        out = [
            "%!PS-Adobe-3.0 EPSF-3.0\n"
            f"%%BoundingBox: 0 0 {math.ceil(width)} {math.ceil(height)}\n"
            f"%%HiResBoundingBox: 0 0 {width:.6f} {height:.6f}\n"
            f"%%Title: {title}\n%%LanguageLevel: 2\n%%EndComments\n"
            "gsave\n1 setlinecap 1 setlinejoin\n"
            f"{_POINT:.12f} dup scale\n"
        ]
        for item in page.items:
            out += _drawn(item, page.size[1])
        out.append("grestore\nshowpage\n%%EOF\n")
        return "".join(out).encode("ascii")

    def is_right(self, data: bytes, page: Page) -> bool:
        """Read its operators, and compare size, colours and every contour; Ghostscript must draw it where it is."""
        text = data.decode("ascii")
        box = re.search(r"^%%HiResBoundingBox: 0 0 ([0-9.]+) ([0-9.]+)$", text, re.M)
        if box is None or not np.allclose([float(one) / _POINT for one in box.groups()], page.size, atol=1e-4):
            return False
        found, meant = list(_read(text)), [(item, path) for item in page.items for path, _ in item.strokes]
        if len(found) != len(meant):
            return False
        for (rgb, contours), (item, path) in zip(found, meant, strict=True):
            if not np.allclose(rgb, np.array(item.rgb) / 255, atol=1e-4) or len(contours) != len(path.contours):
                return False
            for (points, closes), contour, closed in zip(contours, path.contours, path.closed, strict=True):
                meant_points = _up(contour, page.size[1])
                if closes is not closed or points.shape != meant_points.shape:
                    return False
                if np.abs(points - meant_points).max() > _CLOSE:
                    return False
        return _is_drawn(data)


def _is_drawn(data: bytes) -> bool:
    """Whether Ghostscript draws it without a word; True where there is none."""
    program = shutil.which("gs")
    if program is None:
        return True
    asked = [program, "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-sDEVICE=nullpage", "-"]
    told = subprocess.run(asked, input=data, capture_output=True, timeout=600, check=False)
    return told.returncode == 0 and not told.stderr and not told.stdout


def _up(contour: Floats, height: float) -> Floats:
    return np.column_stack([contour[:, 0], height - contour[:, 1]])


def _drawn(item: Item, height: float) -> Iterator[str]:
    yield " ".join(f"{value / 255:.6g}" for value in item.rgb) + " setrgbcolor\n"
    for path, width in item.strokes:
        if not item.filled:
            yield f"{width:.6g} setlinewidth\n"
        yield "newpath\n"
        for contour, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
            points = [f"{x:.10g} {y:.10g}" for x, y in np.round(_up(contour, height), 6).tolist()]
            yield f"{points[0]} moveto\n"
            for at, is_straight in enumerate(straight.tolist()):
                if is_straight:
                    yield f"{points[3 * at + 3]} lineto\n"
                else:
                    yield f"{' '.join(points[3 * at + 1 : 3 * at + 4])} curveto\n"
            if closed:
                yield "closepath\n"
        yield "eofill\n" if item.filled else "stroke\n"


def _read(text: str) -> Iterator[tuple[tuple[float, ...], list[tuple[Floats, bool]]]]:
    """What is painted: its colour and contours, as points of cubics; raises ValueError for an unknown operator."""
    stack: list[float] = []
    colour: tuple[float, ...] = (0.0, 0.0, 0.0)
    contours: list[list[list[float]]] = []
    closed: list[bool] = []
    for token in _TOKEN.findall(re.sub(r"%.*", "", text)):
        if not token[0].isalpha():
            stack.append(float(token))
            continue
        if token == "setrgbcolor":
            colour = tuple(stack)
        elif token == "newpath":
            contours, closed = [], []
        elif token == "moveto":
            contours.append([stack[:]])
            closed.append(False)
        elif token == "lineto":
            begin = contours[-1][-1]
            contours[-1] += [
                [a + (b - a) * share for a, b in zip(begin, stack, strict=True)] for share in (1 / 3, 2 / 3)
            ]
            contours[-1].append(stack[:])
        elif token == "curveto":
            contours[-1] += [stack[place : place + 2] for place in (0, 2, 4)]
        elif token == "closepath":
            closed[-1] = True
        elif token in ("eofill", "stroke"):
            yield colour, [(np.array(points), closes) for points, closes in zip(contours, closed, strict=True)]
        elif token not in (
            "gsave",
            "grestore",
            "setlinecap",
            "setlinejoin",
            "setlinewidth",
            "dup",
            "scale",
            "showpage",
        ):
            raise ValueError(token)
        stack = []
