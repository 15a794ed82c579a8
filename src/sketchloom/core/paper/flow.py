"""Parts of a sheet of paper for ReportLab's flow: words, tables, drawings to scale, and the foot of a page."""

import math
from collections.abc import Sequence
from typing import Any
from xml.sax.saxutils import escape

from reportlab import rl_config
from reportlab.lib.colors import HexColor
from reportlab.lib.enums import TA_RIGHT
from reportlab.lib.styles import ParagraphStyle
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Paragraph, Spacer, Table, TableStyle

from sketchloom.core.measures import shortened
from sketchloom.core.send import Page, draw_page

rl_config.useA85 = 0  # as in all other files

__all__ = ["LINE", "Looks", "PageDrawing", "Swatch", "numbered", "sheet_rows"]

LINE = 100.0
"""mm, of the line to check a printer by."""
_POINT = 72 / 25.4
_INK, _FAINT, _RULE, _SHEET = "#25221c", "#6d675c", "#cfc8bb", "#f5f1ea"
_EDGE = 0.08
"""mm of the line round what lies on a sheet, as it is printed."""
_SMALL, _LEADING = 8.0, 10.2
"""Points"""
_CELL, _TALLEST, _NARROWEST, _BETWEEN = 52.0, 62.0, 26.0, 4.0
"""mm of a sheet's drawing: as wide and as tall as it may be, as narrow as its name allows, and from one to the next."""


class Looks:
    """Words and tables in the two faces of a job sheet.

    Parameters
    ----------
    plain, bold : str
        Names of faces that ReportLab knows.
    """

    def __init__(self, plain: str, bold: str) -> None:
        self.face, self.bold = plain, bold
        base = ParagraphStyle(
            "plain", fontName=plain, fontSize=_SMALL, leading=_LEADING, textColor=HexColor(_INK), splitLongWords=1
        )
        self._plain = base
        self._faint = ParagraphStyle("faint", base, textColor=HexColor(_FAINT), spaceBefore=3)
        self._right = ParagraphStyle("right", base, alignment=TA_RIGHT)
        self._head = ParagraphStyle("head", base, textColor=HexColor(_FAINT), fontSize=7)
        self._head_right = ParagraphStyle("head right", self._head, alignment=TA_RIGHT)
        self._heading = ParagraphStyle(
            "heading", base, fontName=bold, fontSize=10, leading=13, spaceBefore=4, spaceAfter=2, keepWithNext=1
        )
        self._title = ParagraphStyle("title", base, fontName=bold, fontSize=17, leading=21, spaceAfter=2)
        self._point = ParagraphStyle("point", base, leftIndent=9, bulletIndent=1, bulletFontName=plain)

    def title(self, words: str) -> Flowable:
        """The name of the job."""
        return Paragraph(escape(words), self._title)

    def heading(self, words: str) -> Flowable:
        """Of a part; it stays with what follows."""
        return Paragraph(escape(words), self._heading)

    def plain(self, words: str) -> Flowable:
        """A paragraph, or a cell."""
        return Paragraph(escape(words), self._plain)

    def faint(self, words: str) -> Flowable:
        """A paragraph that matters less."""
        return Paragraph(escape(words), self._faint)

    def right(self, words: str) -> Flowable:
        """A cell with a figure."""
        return Paragraph(escape(words), self._right)

    def point(self, words: str) -> Flowable:
        """One of several sentences."""
        return Paragraph(escape(words), self._point, bulletText="–")

    def heads(self, *words: str) -> list[Flowable]:
        """Heads of columns; those of figures stand to the right."""
        figures = {"Pieces", "By hand", "Sheets", "Tool down", "Waste", "Cost", "Time"}
        return [
            Paragraph(escape(word), self._head_right if word in figures or word.startswith("Size") else self._head)
            for word in words
        ]

    def gap(self, mm: float) -> Flowable:
        """Room between two parts."""
        return Spacer(1, mm * _POINT)

    def rest(self, many: int, what: str) -> list[Flowable]:
        """Say how many are not listed."""
        return [self.faint(f"and {many} more {what}{'s' * (many > 1)}")] if many > 0 else []

    def together(self, parts: list[Flowable]) -> list[Flowable]:
        """Keep parts on one page."""
        return [KeepTogether(parts)]

    def table(self, rows: list[list[Any]], widths: Sequence[float], room: float) -> Flowable:
        """A table as wide as the page; a width of 0 takes what is left, mm; its head comes again on the next page."""
        left = room - sum(widths)
        table = Table(rows, [(width or left) * _POINT for width in widths], repeatRows=1)
        rule = HexColor(_RULE)
        table.setStyle(TableStyle([
            ("VALIGN", (0, 0), (-1, -1), "MIDDLE"), ("LINEBELOW", (0, 0), (-1, -1), 0.4, rule),
            ("LEFTPADDING", (0, 0), (-1, -1), 1.5), ("RIGHTPADDING", (0, 0), (-1, -1), 3),
            ("LEFTPADDING", (-1, 0), (-1, -1), 6),
            ("TOPPADDING", (0, 0), (-1, -1), 1.2), ("BOTTOMPADDING", (0, 0), (-1, -1), 2.2),
        ]))  # fmt: skip
        return table


class Swatch(Flowable):
    """A square of a colour."""

    def __init__(self, colour: str) -> None:
        super().__init__()
        self._colour = colour
        self.width = self.height = 9.0

    def draw(self) -> None:
        """Draw it, with an edge, so that white is seen on paper."""
        self.canv.setFillColor(HexColor(self._colour))
        self.canv.setStrokeColor(HexColor(_FAINT))
        self.canv.setLineWidth(0.4)
        self.canv.rect(0, 0, self.width, self.height, fill=1)


class PageDrawing(Flowable):
    """A page at a scale, in the middle of a room so many mm wide."""

    def __init__(self, page: Page, scale: float, room: float) -> None:
        super().__init__()
        self._page, self._scale = page, scale
        self.width, self.height = room * _POINT, page.size[1] * scale * _POINT

    def draw(self) -> None:
        """Draw it."""
        aside = (self.width - self._page.size[0] * self._scale * _POINT) / 2
        _drawn(self.canv, self._page, self._scale, aside, 0.0)


class SheetsRow(Flowable):
    """Sheets side by side at one scale, each with its name below.

    Parameters
    ----------
    pages : sequence of (Page, str)
    scale : float
    cell : float
        mm from one to the next.
    looks : Looks
    """

    def __init__(self, pages: Sequence[tuple[Page, str]], scale: float, cell: float, looks: Looks) -> None:
        super().__init__()
        self._pages, self._scale, self._cell = pages, scale, cell
        self._tall = max(page.size[1] for page, _ in pages) * scale * _POINT
        self._names = [looks.plain(name) for _, name in pages]
        names = max(words.wrap((cell - _BETWEEN) * _POINT, 1e4)[1] for words in self._names)
        self.width, self.height = len(pages) * cell * _POINT, self._tall + names + 6

    def draw(self) -> None:
        """Draw them."""
        for number, ((page, _), words) in enumerate(zip(self._pages, self._names, strict=True)):
            left = number * self._cell * _POINT
            wide, tall = (side * self._scale * _POINT for side in page.size)
            low = self.height - tall
            self.canv.setStrokeColor(HexColor(_FAINT))
            self.canv.setFillColor(HexColor(_SHEET))
            self.canv.setLineWidth(0.4)
            self.canv.rect(left, low, wide, tall, fill=1)
            edged = [item._replace(lined=True, colour=_INK, widths=(_EDGE / self._scale,)) for item in page.items]
            _drawn(self.canv, Page(page.title, page.size, (*page.items, *edged)), self._scale, left, low)
            _, high = words.wrap((self._cell - _BETWEEN) * _POINT, 1e4)
            words.drawOn(self.canv, left, self.height - self._tall - high - 1)


def sheet_rows(pages: Sequence[tuple[Page, str]], room: float, looks: Looks) -> tuple[float, list[Flowable]]:
    """Draw sheets, all at one scale, 1 to a round number: that number, and the rows.

    Parameters
    ----------
    pages : sequence of (Page, str)
        Each with its name.
    room : float
        mm across.
    looks : Looks
    """
    wide, tall = (max(page.size[axis] for page, _ in pages) for axis in (0, 1))
    least = max(wide / _CELL, tall / _TALLEST)
    ten = 10.0 ** math.floor(math.log10(least))
    part = next(one * ten for one in (1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10) if one * ten >= least * (1 - 1e-9))
    cell = max(wide / part, _NARROWEST) + _BETWEEN
    across = max(1, int((room + _BETWEEN) // cell))
    return part, [
        SheetsRow(pages[first : first + across], 1 / part, cell, looks) for first in range(0, len(pages), across)
    ]


def _drawn(canvas: Any, page: Page, scale: float, x: float, y: float) -> None:
    canvas.saveState()
    canvas.translate(x, y)
    canvas.scale(scale, scale)
    draw_page(canvas, page)
    canvas.restoreState()


def numbered(
    looks: Looks, name: str, size: tuple[float, float], margin: float, made: list[Any], *args: Any, **kwargs: Any
) -> Any:
    """Make the canvas of a job sheet; it is put in `made`."""
    canvas = _Numbered(looks, name, size, margin, *args, **kwargs)
    made.append(canvas)
    return canvas


class _Numbered(Canvas):
    """A canvas that says at the foot of each page which of how many it is, and draws the line to check a printer by."""

    def __init__(
        self, looks: Looks, name: str, size: tuple[float, float], margin: float, *args: Any, **kwargs: Any
    ) -> None:
        super().__init__(*args, **kwargs)
        self._looks, self._name, self._size, self._margin = looks, name, size, margin
        self._states: list[dict[str, Any]] = []

    @property
    def pages(self) -> int:
        """How many there are."""
        return len(self._states)

    def showPage(self) -> None:  # noqa: N802
        """Keep a page until all are known."""
        self._states.append(dict(self.__dict__))
        self._startPage()

    def save(self) -> None:
        """Write all pages."""
        for number, state in enumerate(self._states, 1):
            self.__dict__.update(state)
            self._foot(number)
            super().showPage()
        super().save()

    def _foot(self, number: int) -> None:
        width, margin = self._size[0] * _POINT, self._margin * _POINT
        self.setFillColor(HexColor(_FAINT))
        self.setStrokeColor(HexColor(_INK))
        self.setFont(self._looks.face, 7)
        self.drawRightString(width - margin, margin, f"{shortened(self._name)}, page {number} of {len(self._states)}")
        if number == 1:
            end, up = margin + LINE * _POINT, margin + 9
            self.setLineWidth(0.5)
            for x0, y0, x1, y1 in ((margin, up, end, up), (margin, up - 3, margin, up + 3), (end, up - 3, end, up + 3)):
                self.line(x0, y0, x1, y1)
            self.drawString(
                margin,
                margin,
                "This line is 100 mm (3.94 in) long: if yours is not, print at 100 %, not fitted to the page.",
            )
