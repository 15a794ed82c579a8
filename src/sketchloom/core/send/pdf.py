"""PDF to scale: vectors, a page of the design's or the sheet's size, no picture and no text."""

import io
from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby
from typing import Any

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.send.page import Item, Page

__all__ = ["PdfWriter", "draw_page", "new_canvas", "pages_of_pdf", "pdf_of"]

_POINT = 72 / 25.4
"""Points, 1/72 in, of a mm (ISO 32000-1, 8.3.2.3)."""
_CLOSE = 0.002
"""mm"""
_CLOSES, _LINE, _CURVE, _MOVE = 64, 0, 1, 2


class PdfWriter:
    """A page as PDF.

    Parameters
    ----------
    spot : str
        Name of the spot colour of lines that are cut; none by default.
    """

    ending = ".pdf"
    name = "PDF"
    lost = "layers have no names: page 1 is the bottom one"
    read_by = "pypdfium2"

    def __init__(self, spot: str = "") -> None:
        self._spot = spot

    def write(self, page: Page) -> bytes:
        """Write a page: of layers a page each, all of one size."""
        return pdf_of(_apart(page), self._spot)

    def is_right(self, data: bytes, page: Page) -> bool:
        """Read it back, and compare the page's size, colours and every contour."""
        return is_right(data, _apart(page), self._spot)


def _apart(page: Page) -> list[Page]:
    """A sheet as it is, layers each on a page of its own."""
    if page.is_sheet or not page.items:
        return [page]
    layers = groupby(page.items, lambda item: item.layer or item.id)
    return [replace(page, items=tuple(own)) for _, own in layers]


def pdf_of(pages: Sequence[Page], spot: str = "") -> bytes:
    """Write pages, each of its own size, as one PDF.

    Parameters
    ----------
    pages : sequence of Page
    spot : str
        Name of the spot colour of lines that are cut, as a maker's printing program wants it; none by default.
    """
    buffer = io.BytesIO()
    canvas = new_canvas(buffer, pages[0].title or "Layers")
    for page in pages:
        canvas.setPageSize((page.size[0] * _POINT, page.size[1] * _POINT))
        draw_page(canvas, page, spot)
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def new_canvas(buffer: io.BytesIO, title: str) -> Any:
    """Give a canvas of ReportLab whose file has no time in it, and streams that are pressed once."""
    from reportlab import rl_config
    from reportlab.pdfgen.canvas import Canvas

    rl_config.useA85 = 0  # else what is pressed is spelled out in letters, which takes longer than all the rest
    canvas = Canvas(buffer, invariant=1, pageCompression=1)
    canvas.setTitle(title)
    return canvas


def draw_page(canvas: Any, page: Page, spot: str = "") -> None:
    """Draw a page on a canvas of ReportLab, in points from its low left corner."""
    for item in page.items:
        _draw(canvas, item, page.size[1], spot)


def _draw(canvas: Any, item: Item, height: float, spot: str) -> None:
    from reportlab.lib.colors import CMYKColorSep, HexColor

    filled = item.filled and not spot
    cut = CMYKColorSep(0, 1, 0, 0, spotName=spot, density=1) if spot and item.kind == "cut" else HexColor(item.colour)
    canvas.setFillColor(cut)
    canvas.setStrokeColor(cut)
    if item.opacity < 1:
        canvas.saveState()
        canvas.setFillAlpha(item.opacity)
    for path, width in item.strokes:
        shape = canvas.beginPath()
        for contour, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
            points = _in_points(contour, height).tolist()
            shape.moveTo(*points[0])
            last = len(straight) - 1 if closed else len(straight)
            for place, is_straight in enumerate(straight.tolist()):
                if not is_straight:
                    shape.curveTo(*(x for point in points[3 * place + 1 : 3 * place + 4] for x in point))
                elif place < last:
                    shape.lineTo(*points[3 * place + 3])
            if closed:
                shape.close()
        canvas.setLineWidth(width * _POINT)
        canvas.drawPath(shape, stroke=int(not filled), fill=int(filled), fillMode=0)
    if item.opacity < 1:
        canvas.restoreState()


def _in_points(contour: Floats, height: float) -> Floats:
    return np.column_stack([contour[:, 0], height - contour[:, 1]]) * _POINT


def pages_of_pdf(data: bytes) -> list[tuple[float, float]]:
    """Sizes of all pages of a PDF as PDFium reads it, mm; none where it is no PDF."""
    import pypdfium2 as pdfium

    try:
        document = pdfium.PdfDocument(data)
    except pdfium.PdfiumError:
        return []
    try:
        return [
            (width / _POINT, height / _POINT) for width, height in map(document.get_page_size, range(len(document)))
        ]
    finally:
        document.close()


def is_right(data: bytes, pages: Sequence[Page], spot: str = "") -> bool:
    """Whether a PDF, read by PDFium, has pages of the right size with the paths that were meant."""
    import pypdfium2 as pdfium

    document = pdfium.PdfDocument(data)
    try:
        if len(document) != len(pages):
            return False
        return all(_is_page(document[number], page, spot) for number, page in enumerate(pages))
    finally:
        document.close()


def _is_page(found: Any, page: Page, spot: str) -> bool:
    if not np.allclose(found.get_size(), np.array(page.size) * _POINT, rtol=0, atol=0.005 * _POINT):
        return False
    paths = [one for one in found.get_objects(max_depth=1) if one.type == 2]
    meant = [(item, path) for item in page.items for path, _ in item.strokes]
    if len(paths) != len(meant):
        return False
    return all(
        _is_coloured(one.raw, item, spot) and _alike(_contours(one.raw), path, page.size[1])
        for one, (item, path) in zip(paths, meant, strict=True)
    )


def _is_coloured(raw: Any, item: Item, spot: str) -> bool:
    """Whether a path is filled, or drawn as a line, in its colour; that of a spot is the printer's."""
    import ctypes

    import pypdfium2.raw as pdfium_c

    fill, stroke = ctypes.c_int(), ctypes.c_int()
    parts = [ctypes.c_uint() for _ in range(4)]
    if not pdfium_c.FPDFPath_GetDrawMode(raw, fill, stroke):
        return False
    spotted, filled = bool(spot) and item.kind == "cut", item.filled and not spot
    if (bool(fill.value), bool(stroke.value)) != (filled, not filled):
        return False
    ask = pdfium_c.FPDFPageObj_GetFillColor if filled else pdfium_c.FPDFPageObj_GetStrokeColor
    return spotted or (bool(ask(raw, *parts)) and tuple(part.value for part in parts[:3]) == item.rgb)


def _contours(raw: Any) -> list[tuple[Floats, bool]]:
    """Contours of a path of PDFium as points of cubics, and whether each closes; raises ValueError."""
    import ctypes

    import pypdfium2.raw as pdfium_c

    x, y = ctypes.c_float(), ctypes.c_float()
    out: list[tuple[list[tuple[float, float]], bool]] = []
    for number in range(pdfium_c.FPDFPath_CountSegments(raw)):
        segment = pdfium_c.FPDFPath_GetPathSegment(raw, number)
        if not pdfium_c.FPDFPathSegment_GetPoint(segment, x, y):
            raise ValueError("a segment without a point")
        kind, at = pdfium_c.FPDFPathSegment_GetType(segment), (x.value, y.value)
        if kind == _MOVE:
            out.append(([at], False))
        else:
            out[-1][0].append(at)
        if pdfium_c.FPDFPathSegment_GetClose(segment):
            out[-1] = out[-1][0], True
    return [(np.array(points), closed) for points, closed in out]


def _alike(found: list[tuple[Floats, bool]], path: Any, height: float) -> bool:
    if len(found) != len(path.contours):
        return False
    for (points, closes), contour, straight, closed in zip(
        found, path.contours, path.straight, path.closed, strict=True
    ):
        meant = _flat(_in_points(contour, height), straight, closed)
        if closed and len(points) == len(meant) + 1:  # PDFium gives the line that closes
            points = points[:-1]
        if closes is not closed or points.shape != meant.shape or np.abs(points - meant).max() > _CLOSE * _POINT:
            return False
    return True


def _flat(points: Floats, straight: Any, closed: bool) -> Floats:
    """Points of a contour in the order in which they are written."""
    out = [points[:1]]
    last = len(straight) - 1 if closed else len(straight)
    for place, is_straight in enumerate(straight.tolist()):
        if not is_straight:
            out.append(points[3 * place + 1 : 3 * place + 4])
        elif place < last:
            out.append(points[3 * place + 3 : 3 * place + 4])
    return np.vstack(out)
