"""The view of Sheets: all sheets to scale, side by side, with what lies on them."""

from collections.abc import Callable
from typing import NamedTuple

import shapely
from PySide6.QtCore import QObject, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QTransform

from sketchloom.app.canvas import View
from sketchloom.app.canvas.shapes import painter_path
from sketchloom.app.canvas.tools.draw import draw_words
from sketchloom.app.layouts import Played
from sketchloom.app.steps.sheets.played import Way
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import edge_on, legible_on
from sketchloom.core.cut import CutKind
from sketchloom.core.sheets import Laid, Layout, Run, Seam, Sheet

__all__ = ["Hit", "Outlined", "SheetScene"]

_GAP, _HEAD = 24.0, 14.0
"""mm between sheets, and above each for its name."""
_SEEN, _BESIDE = 0.05, 0.1
"""mm of a seam that is seen, and by which a part may lie beside it."""
_LABELLED = 30.0
"""Screen pixels; a seam that is longer shows its number."""
_WIDE, _MOST_IN_ROW = 1.45, 40
"""Of all sheets, width to height, as near as it goes; and how many are tried side by side."""


class Outlined(NamedTuple):
    """What is drawn of a part."""

    path: QPainterPath
    colour: QColor
    kind: CutKind


class Hit(NamedTuple):
    """What lies somewhere."""

    sheet: Sheet
    laid: Laid | None
    at: QPointF
    """On the sheet, mm."""


class SheetScene(QObject):
    """Arranges sheets in rows, draws them, and tells what lies where; its units are mm."""

    changed = Signal()

    def __init__(self, ground: Callable[[], str]) -> None:
        super().__init__()
        self._ground = ground
        self.layout: Layout | None = None
        self.corners: tuple[QPointF, ...] = ()
        """Top left corner of each sheet."""
        self._extent = QSizeF(1, 1)
        self._paths: dict[int, tuple[Laid, list[Outlined]]] = {}
        self.chosen: Laid | None = None
        self.lifted: Laid | None = None
        """What a hand moves; it is not drawn where it lay."""
        self._version = 0
        self._way = False
        self._played: Played | None = None
        self._ways: dict[int, tuple[Sheet, Way]] = {}
        self._seams: dict[tuple[int, int], tuple[Laid, Seam, QPainterPath]] = {}
        self._extras: dict[int, tuple[Sheet, QPainterPath, QPainterPath]] = {}

    def view(self) -> View:
        """Give the view."""
        return View(
            "Sheets", "Sheets", lambda: self._extent, lambda: 1.0, self.paint, self.layer_at, self._fresh, "sheets"
        )

    def _fresh(self, _: bool) -> object:
        return self._version, self._ground(), theme.is_dark

    def renew(self) -> None:
        """Draw anew."""
        self._version += 1
        self.changed.emit()

    def show_way(self, shown: bool, played: Played | None) -> None:
        """Show the way of the tool, or leave it away; up to where it is, if that is told."""
        if (shown, played) != (self._way, self._played):
            self._way, self._played = shown, played
            self.renew()

    def make_ahead(self, layout: Layout) -> None:
        """On the worker: make what is drawn of all that lies somewhere."""
        self._paths = {
            id(one): (one, _paths_of(one, sheet.group.colour)) for sheet in layout.sheets for one in sheet.laid
        }

    def show_layout(self, layout: Layout | None) -> None:
        """Show a layout; what was chosen stays so where it is found again."""
        self.layout, self.lifted = layout, None
        self._seams.clear()
        old, self.chosen = self.chosen, None
        corners, self._extent = _arranged(layout.sheets if layout is not None else ())
        self.corners = tuple(corners)
        self.chosen = self.now(old) if old is not None else None
        self.renew()

    def now(self, laid: Laid) -> Laid | None:
        """Give a piece as it lies in the layout that is shown, where it does."""
        every = [one for sheet in self.layout.sheets for one in sheet.laid] if self.layout is not None else []
        if any(one is laid for one in every):
            return laid
        return next((one for one in every if _is_same(one, laid)), None)

    def hit(self, at: QPointF) -> Hit | None:
        """Give what lies at a point of the view, mm; the sheet alone beside its pieces."""
        sheets = self.layout.sheets if self.layout is not None else ()
        for sheet, corner in zip(sheets, self.corners, strict=True):
            if QRectF(corner, QSizeF(*sheet.size)).contains(at):
                here = at - corner
                point = shapely.Point(here.x(), here.y())
                found = (
                    one
                    for one in reversed(sheet.laid)
                    if one.bounds[0] <= here.x() <= one.bounds[2] and one.bounds[1] <= here.y() <= one.bounds[3]
                )
                under = next((one for one in found if shapely.intersects(one.shapes, point).any()), None)
                return Hit(sheet, under, here)
        return None

    def layer_at(self, at: QPointF) -> str:
        """Key of the layer at a point."""
        hit = self.hit(at)
        return hit.laid.item.body.layer if hit is not None and hit.laid is not None else ""

    def corner_of(self, laid: Laid) -> tuple[Sheet, QPointF] | None:
        """Give the sheet on which something lies, and its corner."""
        sheets = self.layout.sheets if self.layout is not None else ()
        for sheet, corner in zip(sheets, self.corners, strict=True):
            if any(one is laid for one in sheet.laid):
                return sheet, corner
        return None

    def paths(self, laid: Laid, colour: str) -> list[Outlined]:
        """What is drawn of something, on its sheet."""
        if id(laid) not in self._paths:
            self._paths[id(laid)] = laid, _paths_of(laid, colour)
        return self._paths[id(laid)][1]

    def paint(self, painter: QPainter, room: QTransform, nodes: bool) -> None:
        """Draw all sheets."""
        sheets = self.layout.sheets if self.layout is not None else ()
        seen = room.inverted()[0].mapRect(QRectF(painter.viewport()))
        if painter.hasClipping():
            seen = seen.intersected(room.inverted()[0].mapRect(painter.clipBoundingRect()))
        for number, (sheet, corner) in enumerate(zip(sheets, self.corners, strict=True), 1):
            whole = QRectF(corner - QPointF(0, _HEAD), QSizeF(sheet.size[0], sheet.size[1] + _HEAD))
            if seen.intersects(whole):
                self._paint_sheet(painter, room, sheet, corner, number, seen)

    def _paint_sheet(
        self, painter: QPainter, room: QTransform, sheet: Sheet, corner: QPointF, number: int, seen: QRectF
    ) -> None:
        t = theme.tokens
        painter.setTransform(QTransform.fromTranslate(corner.x(), corner.y()) * room)
        area = QRectF(QPointF(0, 0), QSizeF(*sheet.size))
        painter.fillRect(area, QColor(t.paper))
        pen = QPen(QColor(t.line), 1)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area)
        x, y, width, height = sheet.group.usable
        if sheet.group.roll:
            height = min(height, sheet.size[1] - 2 * y)
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawRect(QRectF(x, y, width, height))
        here = seen.translated(-corner)
        edge = QPen(QColor(edge_on(t, sheet.group.colour, t.paper)), 1)
        edge.setCosmetic(True)
        for one in sheet.laid:
            left, top, right, bottom = one.bounds
            if one is not self.lifted and here.intersects(QRectF(left, top, right - left, bottom - top)):
                self._paint_laid(painter, one, sheet.group.colour, edge)
        self._paint_seams(painter, sheet)
        self._paint_extras(painter, sheet)
        if self._way:
            self._paint_way(painter, sheet, number - 1)
        painter.resetTransform()
        painter.setFont(font(1))
        painter.setPen(QColor(legible_on(self._ground())))
        waste = 1 - sheet.area / (sheet.size[0] * sheet.size[1])
        words = f"{number}  {sheet.group.name}, {100 * waste:.0f} % waste{', mirrored' if sheet.group.flipped else ''}"
        at = room.map(corner) + QPointF(0, -5)
        across = room.m11() * sheet.size[0]
        if painter.fontMetrics().horizontalAdvance(words) > across:
            words = f"{number}  {sheet.group.name}"
        short = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, max(60, int(across)))
        painter.drawText(at, short)

    def _paint_seams(self, painter: QPainter, sheet: Sheet) -> None:
        """Draw seams on the parts beside them, with their numbers: those that are hidden, and those that are seen."""
        seams = self.layout.seams if self.layout is not None else ()
        for one in sheet.laid:
            for seam in (seam for seam in seams if seam.layer == one.item.body.layer):
                if (id(one), id(seam)) not in self._seams:
                    self._seams[id(one), id(seam)] = one, seam, _seam_path(one, seam)
                pen = QPen(QColor(theme.tokens.madder if seam.visible > _SEEN else theme.tokens.moss), 3)
                pen.setCosmetic(True)
                path = self._seams[id(one), id(seam)][2]
                painter.strokePath(path, pen)
                to_screen = painter.transform()
                if path.length() * to_screen.m11() > _LABELLED:
                    painter.resetTransform()
                    draw_words(painter, str(seam.number), to_screen.map(path.pointAtPercent(0.5)))
                    painter.setTransform(to_screen)

    def _paint_extras(self, painter: QPainter, sheet: Sheet) -> None:
        """Draw what is cut to weed by, and the tabs that stay."""
        ready = sheet.group.ready
        if not (ready.weeding != "none" or ready.weeding_lines or ready.tabs):
            return
        if id(sheet) not in self._extras:
            self._extras = {key: known for key, known in self._extras.items() if self._shows(known[0])}
            self._extras[id(sheet)] = sheet, *_extras_of(sheet)
        _, weeding, tabs = self._extras[id(sheet)]
        for path, code, width in ((weeding, theme.tokens.faded, 1.0), (tabs, theme.tokens.madder, 3.0)):
            pen = QPen(QColor(code), width)
            pen.setCosmetic(True)
            painter.strokePath(path, pen)

    def _paint_way(self, painter: QPainter, sheet: Sheet, place: int) -> None:
        """Draw ways between outlines as thin lines, and what is cut up to where the tool is."""
        if id(sheet) not in self._ways:
            self._ways = {key: known for key, known in self._ways.items() if self._shows(known[0])}
            self._ways[id(sheet)] = sheet, Way(sheet.runs)
        way, played = self._ways[id(sheet)][1], self._played
        if played is not None and place > played.sheet:
            return
        travel, cut = way.travel, None
        if played is not None:  # sheets before are cut whole
            travel, cut = way.until(played if place == played.sheet else Played(place, len(way.runs) - 1, 1.0))
        for path, width, lines in ((cut, 2.0, Qt.PenStyle.SolidLine), (travel, 1.0, Qt.PenStyle.DashLine)):
            if path is not None:
                for code, more in ((theme.tokens.on_indigo, 2.0), (theme.tokens.indigo, 0.0)):
                    pen = QPen(QColor(code), width + more)
                    pen.setCosmetic(True)
                    pen.setStyle(lines if not more else Qt.PenStyle.SolidLine)
                    painter.strokePath(path, pen)

    def _shows(self, sheet: Sheet) -> bool:
        return self.layout is not None and any(one is sheet for one in self.layout.sheets)

    def _paint_laid(self, painter: QPainter, one: Laid, colour: str, edge: QPen) -> None:
        for path, ink, kind in self.paths(one, colour):
            if kind == "cut":
                painter.fillPath(path, ink)
                painter.strokePath(path, edge)
            else:
                line = QPen(ink, 2, Qt.PenStyle.DashLine if kind == "score" else Qt.PenStyle.SolidLine)
                line.setCosmetic(True)
                if kind == "engrave":
                    painter.fillPath(path, QBrush(ink, Qt.BrushStyle.Dense4Pattern))
                painter.strokePath(path, line)
        marks = [(theme.tokens.madder, 2.5)] if one.clashes else []
        if one is self.chosen:
            marks = [(theme.tokens.on_indigo, 4.0), (theme.tokens.indigo, 2.0), *marks]
        for code, width in marks:
            pen = QPen(QColor(code), width)
            pen.setCosmetic(True)
            for path, _, _ in self.paths(one, colour):
                painter.strokePath(path, pen)


def _paths_of(one: Laid, colour: str) -> list[Outlined]:
    out = []
    for part in one.item.body.parts:
        path = painter_path(one.path(part))
        path.setFillRule(Qt.FillRule.OddEvenFill)
        out.append(Outlined(path, QColor(colour if part.cut.kind == "cut" else part.cut.ink.hex), part.cut.kind))
    return out


def _seam_path(one: Laid, seam: Seam) -> QPainterPath:
    """What of a seam bounds something that is laid."""
    line = shapely.transform(shapely.linestrings(seam.line), one.lay)
    path, edges = QPainterPath(), shapely.buffer(shapely.boundary(shapely.union_all(one.shapes)), _BESIDE)
    for part in shapely.get_parts(shapely.intersection(line, edges)):
        if part.geom_type == "LineString" and part.length > 10 * _BESIDE:
            points = part.coords[:]
            path.moveTo(*points[0])
            for at in points[1:]:
                path.lineTo(*at)
    return path


def _extras_of(sheet: Sheet) -> tuple[QPainterPath, QPainterPath]:
    """What is cut to weed by, and a line across each tab."""
    weeding, tabs = QPainterPath(), QPainterPath()
    before: Run | None = None
    begun: Run | None = None  # the first of the parts of an outline that tabs break
    for run in (*sheet.runs, None):
        if run is not None and run.group == "weeding":
            weeding.addPath(painter_path(run.path))
        goes_on = run is not None and before is not None and run.outline == before.outline and run.outline >= 0
        if before is not None and before.outline >= 0 and begun is not None:
            after = run if goes_on and run is not None else begun
            tabs.moveTo(*before.contour[-1])
            tabs.lineTo(*after.contour[0])
        if not goes_on:
            begun = run
        before = run
    return weeding, tabs


def _is_same(one: Laid, other: Laid) -> bool:
    """Whether two are one piece, laid anew or not."""
    mine, yours = one.item.body, other.item.body
    if one.item.copy != other.item.copy or mine.layer != yours.layer:
        return False
    return bool(shapely.equals_exact(mine.largest.shape, yours.largest.shape, 1e-6))


def _arranged(sheets: tuple[Sheet, ...]) -> tuple[list[QPointF], QSizeF]:
    """Corners of sheets in rows, and the extent of all: so many in a row that they show largest."""
    if not sheets:
        return [], QSizeF(300, 200)
    widest = max(sheet.size[0] for sheet in sheets) + _GAP
    tried = [_in_rows(sheets, many * widest) for many in range(1, min(len(sheets), _MOST_IN_ROW) + 1)]
    return min(tried, key=lambda one: max(one[1].width() / _WIDE, one[1].height()))


def _in_rows(sheets: tuple[Sheet, ...], room: float) -> tuple[list[QPointF], QSizeF]:
    corners: list[QPointF] = []
    x, y, high, wide = 0.0, _HEAD, 0.0, 0.0
    for sheet in sheets:
        width, height = sheet.size
        if x > 0 and x + width > room:
            x, y, high = 0.0, y + high + _GAP + _HEAD, 0.0
        corners.append(QPointF(x, y))
        x, high = x + width + _GAP, max(high, height)
        wide = max(wide, x - _GAP)
    return corners, QSizeF(wide, y + high)
