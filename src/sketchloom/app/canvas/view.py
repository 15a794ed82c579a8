"""The canvas widget."""

from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform
from PySide6.QtWidgets import QSizePolicy, QWidget

from sketchloom.app.canvas.shapes import nodes_of, painter_path, pixmap_of
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import CANVAS_GROUNDS, legible_on
from sketchloom.core.picture import Picture, reduce_picture
from sketchloom.core.regions import LabelMap, coloured, lab_of

__all__ = ["VIEWS", "Canvas"]

VIEWS = ("Picture", "Regions", "Paths", "Layers")
_REGION_PIXELS = 6_000_000
_PICTURE_PIXELS = 6_000_000
_MARGIN = 56
_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000)


class _Shown(NamedTuple):
    """One layer as drawn, in px of the full picture."""

    name: str
    colour: QColor
    own: QPainterPath
    carried: QPainterPath
    nodes: QPolygonF


class Canvas(QWidget):
    """Shows one view of the job; zooms about the pointer and pans."""

    zoom_changed = Signal(float)
    dropped = Signal(str)
    resized = Signal()
    rectangle_drawn = Signal(object, object)
    """Top left and bottom right, source coordinates."""

    def __init__(self, model: JobModel, unit) -> None:
        super().__init__()
        self._model, self._unit = model, unit
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(240, 160)
        self.setAcceptDrops(True)
        self.setAccessibleName("Canvas")
        self.view = "Picture"
        self.before: str | None = None
        self.lift = 0.0
        self.divider = 0.5
        self.selected = -1
        self.show_source = self.show_nodes = False
        self._zoom, self._offset = 1.0, QPointF()
        self._fitted = True
        self._drag: QPointF | None = None
        self._drags_divider = False
        self._space = False
        self._source = self._picture = self._regions = QPixmap()
        self._picture_of: Picture | None = None
        self._extent = QSizeF(1, 1)
        self._to_source = np.eye(3)
        self._draws_rectangle = False
        self._rectangle: QRectF | None = None
        self._regions_of: LabelMap | None = None
        self._layers: list[_Shown] = []
        self._ground = CANVAS_GROUNDS[0]
        self._chosen_ground: str | None = None
        model.job_changed.connect(self._new_job)
        model.result_ready.connect(self._new_result)
        theme.changed.connect(self._choose_ground)

    def _new_job(self) -> None:
        if self._model.shown is not None:
            self._source = pixmap_of(self._model.shown.rgba)
        self._picture_of = None
        self.selected = -1
        self.fit()

    def _new_result(self) -> None:
        result = self._model.result
        if result is None:
            return
        picture = result.prepared
        extent = QSizeF(picture.width, picture.height)
        if picture is not self._picture_of:
            self._picture_of = picture
            plain = picture is self._model.picture
            self._picture = self._source if plain else pixmap_of(reduce_picture(picture, _PICTURE_PIXELS)[0].rgba)
        self._to_source = picture.source_of
        if extent.toSize() != self._extent.toSize():
            self._extent = extent
            if self._fitted:
                self.fit()
        if result.regions is not self._regions_of:
            self._regions_of = result.regions
            self._regions = pixmap_of(coloured(result.regions, _REGION_PIXELS))
        scale = result.finished.px_per_mm / result.scale
        left, top = result.finished.origin / result.scale
        to_px = QTransform(scale, 0, 0, scale, left, top)
        self._layers = [
            _Shown(
                layer.name,
                QColor(layer.ink.hex),
                to_px.map(painter_path(layer.path)),
                to_px.map(painter_path(shown)),
                to_px.map(nodes_of(layer.path)),
            )
            for layer, shown in zip(result.stack.layers, result.stack.shown, strict=True)
        ]
        self._choose_ground()

    def _choose_ground(self) -> None:
        """Take the ground that stands out from all inks, the theme's own if it does well enough."""
        own = theme.tokens.kraft
        result = self._model.result
        if self._chosen_ground:
            own = self._chosen_ground
        elif result is not None and result.regions.palette:
            inks = lab_of([ink.srgb for ink in result.regions.palette])

            def apart(code: str) -> float:
                ground = lab_of([int(code[i : i + 2], 16) for i in (1, 3, 5)])
                return float(np.sqrt(((inks - ground) ** 2).sum(1)).min())

            if apart(own) < 18:
                own = max(CANVAS_GROUNDS, key=apart)
        self._ground = own
        self.update()

    def next_ground(self) -> None:
        """Take the next canvas ground; after the last, the program chooses again."""
        order = [None, *CANVAS_GROUNDS]
        self._chosen_ground = order[(order.index(self._chosen_ground) + 1) % len(order)]
        self._choose_ground()

    def show_view(self, view: str, before: str | None = None) -> None:
        """Show a view, and left of the divider another."""
        self.view, self.before = view, before
        self.update()

    @property
    def zoom(self) -> float:
        """Screen pixels per picture pixel."""
        return self._zoom

    def _size(self) -> QSizeF:
        return self._extent

    def fit(self) -> None:
        """Show all of the picture."""
        size = self._size()
        room_w, room_h = max(40, self.width() - 2 * _MARGIN), max(40, self.height() - 2 * _MARGIN)
        self._fitted = True
        self._set_zoom(min(room_w / size.width(), room_h / size.height()))
        self._offset = QPointF(
            (self.width() - size.width() * self._zoom) / 2, (self.height() - size.height() * self._zoom) / 2 + 12
        )
        self.update()

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point of the widget, by default its middle."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        before = (at - self._offset) / self._zoom
        self._fitted = False
        self._set_zoom(self._zoom * factor)
        self._offset = at - before * self._zoom
        self.update()

    def _set_zoom(self, zoom: float) -> None:
        self._zoom = min(max(zoom, 0.005), 64.0)
        self.zoom_changed.emit(self._zoom)

    def resizeEvent(self, event) -> None:
        """Keep the whole picture in view if it was."""
        if self._fitted:
            self.fit()
        super().resizeEvent(event)
        self.resized.emit()

    def wheelEvent(self, event) -> None:
        """Zoom about the pointer."""
        self.zoom_by(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event) -> None:
        """Take hold of the divider or of the picture."""
        self.setFocus()
        self._drags_divider = self._comparing() and abs(event.position().x() - self._divider_x()) < 16
        self._drag = event.position()
        if self._draws_rectangle and not self._drags_divider:
            self._rectangle = QRectF(event.position(), event.position())

    def mouseMoveEvent(self, event) -> None:
        """Drag."""
        if self._drag is None:
            return
        if self._rectangle is not None:
            self._rectangle.setBottomRight(event.position())
        elif self._drags_divider:
            width = self._size().width() * self._zoom
            self.divider = min(1.0, max(0.0, (event.position().x() - self._offset.x()) / width))
        else:
            self._offset += event.position() - self._drag
            self._fitted = False
        self._drag = event.position()
        self.update()

    def mouseReleaseEvent(self, event) -> None:
        """Let go."""
        self._drag = None
        self._drags_divider = False
        if self._rectangle is not None:
            area = self._rectangle.normalized()
            self.draw_rectangle(False)
            if area.width() > 4 and area.height() > 4:
                self.rectangle_drawn.emit(self.source_point(area.topLeft()), self.source_point(area.bottomRight()))

    def mouseDoubleClickEvent(self, event) -> None:
        """Fit."""
        self.fit()

    def keyPressEvent(self, event) -> None:
        """Arrows pan; with Shift they move the divider."""
        ways = {Qt.Key.Key_Left: (1, 0), Qt.Key.Key_Right: (-1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if event.key() not in ways:
            super().keyPressEvent(event)
            return
        dx, dy = ways[event.key()]
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and dx:
            self.divider = min(1.0, max(0.0, self.divider - 0.02 * dx))
        else:
            self._offset += QPointF(40 * dx, 40 * dy)
            self._fitted = False
        self.update()

    def dragEnterEvent(self, event) -> None:
        """Take files."""
        if event.mimeData().hasUrls() and event.mimeData().urls()[0].isLocalFile():
            event.acceptProposedAction()

    def dropEvent(self, event) -> None:
        """Open the file."""
        self.dropped.emit(event.mimeData().urls()[0].toLocalFile())

    def _comparing(self) -> bool:
        return self.before is not None and not self.show_source and self._model.result is not None

    def _divider_x(self) -> float:
        return self._offset.x() + self.divider * self._size().width() * self._zoom

    def paintEvent(self, event) -> None:
        """Draw."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), self._weave())
        if self._model.job is None:
            self._paint_empty(painter)
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 2)
        self._room = QTransform(self._zoom, 0, 0, self._zoom, self._offset.x(), self._offset.y())
        if self.show_source:
            self._paint_view(painter, "Source")
        elif self._comparing():
            x = self._divider_x()
            painter.save()
            painter.setClipRect(QRectF(0, 0, x, self.height()))
            self._paint_view(painter, self.before or "Picture")
            painter.restore()
            painter.save()
            painter.setClipRect(QRectF(x, 0, self.width() - x, self.height()))
            self._paint_view(painter, self.view)
            painter.restore()
            self._paint_divider(painter, x)
        else:
            self._paint_view(painter, self.view)
        painter.resetTransform()
        self._paint_scale(painter)
        self._paint_rectangle(painter)

    def _weave(self) -> QBrush:
        ground = QColor(self._ground)
        tile = QPixmap(4, 4)
        tile.fill(ground)
        painter = QPainter(tile)
        painter.setPen(ground.darker(106))
        painter.drawLine(0, 0, 3, 0)
        painter.drawLine(0, 0, 0, 3)
        painter.end()
        return QBrush(tile)

    def _paint_view(self, painter: QPainter, view: str) -> None:
        painter.setTransform(self._room)
        area = QRectF(QPointF(0, 0), self._size())
        if view == "Source":
            self._paint_source(painter)
        elif view == "Picture":
            painter.drawPixmap(area, self._picture, QRectF(self._picture.rect()))
        elif view == "Regions":
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 1)
            painter.drawPixmap(area, self._regions, QRectF(self._regions.rect()))
        elif view == "Paths":
            self._paint_paths(painter)
        else:
            self._paint_layers(painter)

    def _paint_source(self, painter: QPainter) -> None:
        """The opened picture, at the place and angle at which the work lies on it."""
        longer = max(self._source.width(), self._source.height())
        back = np.linalg.inv(self._to_source) @ np.diag([1 / longer, 1 / longer, 1.0])
        place = QTransform(*(back / back[2, 2]).T.ravel().tolist())
        painter.setTransform(place * self._room)
        painter.drawPixmap(0, 0, self._source)

    def draw_rectangle(self, on: bool) -> None:
        """Let the next drag draw a rectangle."""
        self._draws_rectangle = on
        self._rectangle = None
        self.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        self.update()

    def source_point(self, at: QPointF) -> tuple[float, float]:
        """Source coordinates of a point of the widget."""
        here = (at - self._offset) / self._zoom
        x, y, w = self._to_source @ np.array([here.x(), here.y(), 1.0])
        return float(x / w), float(y / w)

    def _paint_rectangle(self, painter: QPainter) -> None:
        if self._rectangle is not None:
            painter.resetTransform()
            for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
                painter.setPen(QPen(QColor(code), width))
                painter.drawRect(self._rectangle.normalized())

    def _paint_paths(self, painter: QPainter) -> None:
        edge = QPen(QColor(legible_on(self._ground)), 1.2)
        edge.setCosmetic(True)
        for layer in self._layers:
            tint = QColor(layer.colour)
            tint.setAlphaF(0.55)
            painter.fillPath(layer.own, tint)
        painter.setPen(edge)
        for layer in self._layers:
            painter.drawPath(layer.own)
        self._paint_selected(painter)
        if self.show_nodes:
            self._paint_nodes(painter)

    def _paint_layers(self, painter: QPainter) -> None:
        if self.lift == 0:
            for layer in self._layers:
                painter.fillPath(layer.carried, layer.colour)
            self._paint_selected(painter)
            if self.show_nodes:
                self._paint_nodes(painter)
            return
        size = self._size()
        middle = QPointF(size.width() / 2, size.height() / 2)
        count = len(self._layers)
        squash = 1 - 0.42 * self.lift
        rise = self.lift * size.height() * min(0.24, 0.9 / max(count, 1))
        shrink = 1 - 0.22 * self.lift
        for place, layer in enumerate(self._layers):
            up = (place - (count - 1) / 2) * rise
            tilt = QTransform()
            tilt.translate(middle.x() - 0.10 * self.lift * size.width(), middle.y() - up)
            tilt.shear(-0.12 * self.lift, 0)
            tilt.scale(shrink, squash * shrink)
            tilt.translate(-middle.x(), -middle.y())
            shape = tilt.map(layer.own)
            painter.setTransform(self._room)
            shade = QColor(0, 0, 0)
            for spread in (9, 6, 3):
                shade.setAlphaF(0.05 * self.lift)
                painter.fillPath(shape.translated(0, spread / self._zoom), shade)
            painter.fillPath(shape, layer.colour)
            if self.selected == place:
                self._outline(painter, shape)
            if self.lift > 0.35:
                self._paint_name(painter, f"{count - place} {layer.name}", tilt.map(QPointF(size.width(), middle.y())))

    def _paint_name(self, painter: QPainter, name: str, at: QPointF) -> None:
        point = self._room.map(at)
        painter.resetTransform()
        painter.setFont(font(1))
        painter.setPen(QColor(legible_on(self._ground)))
        painter.drawText(point + QPointF(10, 4), name)
        painter.setTransform(self._room)

    def _paint_selected(self, painter: QPainter) -> None:
        if 0 <= self.selected < len(self._layers):
            self._outline(painter, self._layers[self.selected].own)

    def _outline(self, painter: QPainter, shape: QPainterPath) -> None:
        for code, width in ((theme.tokens.on_indigo, 4.0), (theme.tokens.indigo, 2.0)):
            pen = QPen(QColor(code), width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            painter.drawPath(shape)
        painter.setPen(Qt.PenStyle.NoPen)

    def _paint_nodes(self, painter: QPainter) -> None:
        painter.resetTransform()
        painter.setPen(QPen(QColor(theme.tokens.indigo), 1))
        painter.setBrush(QColor(theme.tokens.paper))
        seen = QRectF(self.rect()).adjusted(-4, -4, 4, 4)
        for place, layer in enumerate(self._layers):
            if self.selected < 0 or self.selected == place:
                for point in self._room.map(layer.nodes):
                    if seen.contains(point):
                        painter.drawRect(QRectF(point.x() - 2.5, point.y() - 2.5, 5, 5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(self._room)

    def _paint_divider(self, painter: QPainter, x: float) -> None:
        painter.resetTransform()
        indigo = QColor(theme.tokens.indigo)
        top, bottom = self._offset.y(), self._offset.y() + self._size().height() * self._zoom
        painter.setPen(QPen(indigo, 2))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        middle = QPointF(x, min(max((top + bottom) / 2, 60), self.height() - 60))
        painter.setBrush(QColor(theme.tokens.paper))
        painter.drawEllipse(middle, 13, 13)
        for sign in (-1, 1):
            painter.drawPolyline(
                QPolygonF(
                    [middle + QPointF(sign * 3, -5), middle + QPointF(sign * 8, 0), middle + QPointF(sign * 3, 5)]
                )
            )
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_scale(self, painter: QPainter) -> None:
        result = self._model.result
        if result is None:
            return
        unit = self._unit()
        mm = {"mm": 1.0, "cm": 10.0, "in": 25.4}[unit]
        per_unit = result.finished.px_per_mm / result.scale * self._zoom * mm
        length = next((s for s in (0.1, 0.2, 0.5, *_STEPS) if s * per_unit >= 56), _STEPS[-1])
        painter.setFont(font(0, QFont.Weight.Medium))
        painter.setPen(QColor(legible_on(self._ground)))
        base = self.height() - 30
        painter.drawPolyline(
            QPolygonF(
                [
                    QPointF(16, base - 5),
                    QPointF(16, base),
                    QPointF(16 + length * per_unit, base),
                    QPointF(16 + length * per_unit, base - 5),
                ]
            )
        )
        painter.drawText(QPointF(16, base + 16), f"{length:g} {unit}")

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(QColor(legible_on(self._ground)))
        area = QRectF(self.rect())
        painter.setFont(font(3, QFont.Weight.DemiBold))
        painter.drawText(area.adjusted(0, 0, 0, -50), Qt.AlignmentFlag.AlignCenter, "Drop a picture here")
        painter.setFont(font(1))
        painter.drawText(
            area.adjusted(0, 40, 0, 0),
            Qt.AlignmentFlag.AlignCenter,
            "PNG, JPEG, WebP, TIFF, BMP, GIF, or a .loom job.\n"
            "Ctrl+O opens one from a folder; “Open the demo job” is in the finder, Ctrl+K.",
        )
