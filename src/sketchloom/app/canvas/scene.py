"""The canvas's own views, drawn at a place and scale from what lies there."""

from collections.abc import Callable, Hashable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QTransform

from sketchloom.app.canvas.laid import LaidScene, Shown
from sketchloom.app.canvas.shapes import Shapes
from sketchloom.app.canvas.textures import texture_of
from sketchloom.app.canvas.views import View
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import legible_on

__all__ = ["Scene"]

_MARKS = {
    "draw": (Qt.PenStyle.SolidLine, Qt.BrushStyle.BDiagPattern),
    "score": (Qt.PenStyle.DashLine, Qt.BrushStyle.NoBrush),
    "engrave": (Qt.PenStyle.SolidLine, Qt.BrushStyle.Dense4Pattern),
}
"""How the outlines of what is not cut out are drawn, and what they go round."""
_SHADE, _SPREADS = 0.09, (3.0, 2.0, 1.0)
"""How dark each shadow of a layer is, and how far they fall, screen pixels."""


class Scene(LaidScene):
    """Draws any view of what lies on the canvas."""

    def weave(self) -> QBrush:
        """The canvas ground."""
        ground = QColor(self.ground)
        tile = QPixmap(4, 4)
        tile.fill(ground)
        painter = QPainter(tile)
        painter.setPen(ground.darker(106))
        painter.drawLine(0, 0, 3, 0)
        painter.drawLine(0, 0, 0, 3)
        painter.end()
        return QBrush(tile)

    def views(self) -> tuple[View, ...]:
        """Give the views of the picture, in the order of their tabs; the last two are what lies under them."""
        return (
            self._view("Picture", "Picture", lambda painter, nodes: self._paint_picture(painter)),
            self._view("Regions", "Regions", lambda painter, nodes: self._paint_regions(painter)),
            self._view("Paths", "Paths", self._paint_paths, held=True),
            self._view("Layers", "Layers", self._paint_layers, held=True),
            self._view("Source", "", lambda painter, nodes: self._paint_under(painter, True)),
            self._view("Before", "", lambda painter, nodes: self._paint_under(painter, False)),
        )

    def _view(self, key: str, tab: str, draw: Callable[[QPainter, bool], None], held: bool = False) -> View:
        def paint(painter: QPainter, room: QTransform, nodes: bool) -> None:
            self._room = room
            painter.setTransform(room)
            draw(painter, nodes)

        def fresh(nodes: bool) -> Hashable:
            return nodes, self._version, self.selected, self.lift, self._heat, self.ground, theme.is_dark

        return View(key, tab, lambda: self.extent, self.px_per_mm, paint, self.layer_at, fresh if held else None)

    def _paint_picture(self, painter: QPainter) -> None:
        laid = self._laid[id(self.picture)][1]
        self._paint_pixmap(painter, QRectF(QPointF(0, 0), self.extent), laid.at_scale(self._shrunk(self._room)))

    def _paint_regions(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._room.m11() < 1)
        self._paint_pixmap(painter, QRectF(QPointF(0, 0), self.extent), self._regions)

    @staticmethod
    def _paint_pixmap(painter: QPainter, area: QRectF, pixmap: QPixmap) -> None:
        if not pixmap.isNull():
            painter.drawPixmap(area, pixmap, QRectF(pixmap.rect()))

    def _shrunk(self, room: QTransform) -> float:
        """How many of the laid pixmap's pixels fall on one of the screen, along a side."""
        laid = self._laid[id(self.picture)][1]
        return laid.pixmap.width() / max(room.m11() * self.extent.width(), 1e-6)

    def _paint_under(self, painter: QPainter, opened: bool) -> None:
        """The opened picture or the input, at the place and angle at which the work lies on it."""
        picture = self._model.picture if opened else self._before
        laid = self._laid[id(picture)][1]
        back = np.linalg.inv(self.to_source) @ laid.to_source
        painter.setTransform(QTransform(*(back / back[2, 2]).T.ravel().tolist()) * self._room)
        area = QRectF(QPointF(0, 0), QSizeF(laid.pixmap.size()))
        zoom = self._room.m11() * float(np.sqrt(abs(np.linalg.det(back[:2, :2] / back[2, 2]))))
        self._paint_pixmap(painter, area, laid.at_scale(1 / max(zoom, 1e-6)))

    def _paint_paths(self, painter: QPainter, nodes: bool) -> None:
        edge = QPen(QColor(legible_on(self.ground)), 1)  # thicker ones are ten times slower to draw
        edge.setCosmetic(True)
        for layer in self._layers:
            tint = QColor(layer.colour)
            tint.setAlphaF(0.55)
            for shape in self._seen(painter, layer.own):
                painter.fillPath(shape, tint)
        painter.setPen(edge)
        for layer in self._layers:
            for shape in self._seen(painter, layer.own):
                painter.drawPath(shape)
        self._paint_strokes(painter)
        if self._heat:
            for heat, (colour, lines) in enumerate(self._hot):
                pen = QPen(colour, 1.5 + 0.7 * heat)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.drawLines(lines)
        self._paint_selected(painter)
        if nodes:
            self._paint_nodes(painter)

    def _paint_strokes(self, painter: QPainter) -> None:
        """Centre lines, on a lighter line so that they show on their own ink."""
        for colour, path in self._strokes:
            for code, width in ((legible_on(colour.name()), 4.0), (theme.tokens.madder, 2.0)):
                pen = QPen(QColor(code), width)
                pen.setCosmetic(True)
                painter.setPen(pen)
                painter.drawPath(path)

    def _paint_layers(self, painter: QPainter, nodes: bool) -> None:
        if self.lift == 0:
            for layer in self._layers:
                if layer.hidden:
                    continue
                if layer.kind != "cut":
                    self._mark(painter, layer, layer.own)
                    continue
                if self._stacked:
                    self._paint_shadow(painter, layer.own)
                self._fill(painter, layer, layer.own if self._stacked else layer.carried)
            self._paint_gaps(painter)
            self._paint_selected(painter)
            if nodes:
                self._paint_nodes(painter)
            return
        size = self.extent
        middle = QPointF(size.width() / 2, size.height() / 2)
        layers = [layer for layer in self._layers if not layer.hidden]
        count = len(layers)
        squash = 1 - 0.42 * self.lift
        rise = self.lift * size.height() * min(0.24, 0.9 / max(count, 1))
        shrink = 1 - 0.22 * self.lift
        for place, layer in enumerate(layers):
            up = (place - (count - 1) / 2) * rise
            tilt = QTransform()
            tilt.translate(middle.x() - 0.10 * self.lift * size.width(), middle.y() - up)
            tilt.shear(-0.12 * self.lift, 0)
            tilt.scale(shrink, squash * shrink)
            tilt.translate(-middle.x(), -middle.y())
            shapes = layer.own.mapped(tilt)
            painter.setTransform(self._room)
            shade = QColor(0, 0, 0)
            for spread in (9, 6, 3):
                shade.setAlphaF(0.05 * self.lift)
                for shape in self._seen(painter, shapes, spread):
                    painter.fillPath(shape.translated(0, spread / self._room.m11()), shade)
            (self._fill if layer.kind == "cut" else self._mark)(painter, layer, shapes)
            if self.selected == layer.key:
                self._outline(painter, shapes)
            if self.lift > 0.35:
                self._paint_name(painter, f"{place + 1} {layer.name}", tilt.map(QPointF(size.width(), middle.y())))

    def _fill(self, painter: QPainter, layer: Shown, shapes: Shapes) -> None:
        """Fill a layer as its stock looks; a texture is as fine on the screen at any zoom."""
        seen, texture = self._seen(painter, shapes), texture_of(layer.stock)
        for shape in seen:
            painter.fillPath(shape, layer.colour)
        if texture is not None:
            brush = QBrush(texture)
            brush.setTransform(QTransform.fromScale(1 / self._room.m11(), 1 / self._room.m22()))
            for shape in seen:
                painter.fillPath(shape, brush)

    def _mark(self, painter: QPainter, layer: Shown, shapes: Shapes) -> None:
        """Draw a layer that is drawn, scored or engraved on what lies below: its outlines, and strokes across."""
        lines, pattern = _MARKS[layer.kind]
        pen, brush = QPen(layer.colour, 2, lines), QBrush(layer.colour, pattern)
        pen.setCosmetic(True)
        brush.setTransform(QTransform.fromScale(1 / self._room.m11(), 1 / self._room.m22()))
        for shape in self._seen(painter, shapes):
            painter.fillPath(shape, brush)
            painter.strokePath(shape, pen)

    def _paint_shadow(self, painter: QPainter, shapes: Shapes) -> None:
        """A soft shadow at the lower edge of a layer, as wide on the screen at any zoom."""
        shade = QColor(0, 0, 0)
        shade.setAlphaF(_SHADE)
        for spread in _SPREADS:
            for shape in self._seen(painter, shapes):
                painter.fillPath(shape.translated(0, spread / self._room.m11()), shade)

    def _paint_gaps(self, painter: QPainter) -> None:
        """Where a slip would show ground."""
        if self._gaps.isEmpty():
            return
        shows = QColor(theme.tokens.madder)
        for colour, share in ((QColor(theme.tokens.on_indigo), 0.6), (shows, 0.6)):
            colour.setAlphaF(share)
            painter.fillPath(self._gaps, colour)
        pen = QPen(QColor(theme.tokens.madder), 1.5)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.drawPath(self._gaps)

    def _paint_name(self, painter: QPainter, name: str, at: QPointF) -> None:
        point = self._room.map(at)
        painter.resetTransform()
        painter.setFont(font(1))
        painter.setPen(QColor(legible_on(self.ground)))
        painter.drawText(point + QPointF(10, 4), name)
        painter.setTransform(self._room)

    def _paint_selected(self, painter: QPainter) -> None:
        for layer in self._layers:
            if layer.key == self.selected:
                self._outline(painter, layer.own)

    def _seen(self, painter: QPainter, shapes: Shapes, rim: float = 6.0) -> list[QPainterPath]:
        """Those of some shapes that show, or nearly; `rim` in screen pixels."""
        seen = QRectF(painter.viewport())
        if painter.hasClipping():
            seen = seen.intersected(painter.transform().mapRect(painter.clipBoundingRect()))
        area = self._room.inverted()[0].mapRect(seen.adjusted(-rim, -rim, rim, rim))
        return shapes.within(area)

    def _outline(self, painter: QPainter, shapes: Shapes) -> None:
        for code, width in ((theme.tokens.on_indigo, 4.0), (theme.tokens.indigo, 2.0)):
            pen = QPen(QColor(code), width)
            pen.setCosmetic(True)
            painter.setPen(pen)
            for shape in self._seen(painter, shapes):
                painter.drawPath(shape)
        painter.setPen(Qt.PenStyle.NoPen)

    def _paint_nodes(self, painter: QPainter) -> None:
        painter.resetTransform()
        painter.setPen(QPen(QColor(theme.tokens.indigo), 1))
        painter.setBrush(QColor(theme.tokens.paper))
        seen = QRectF(painter.viewport()).adjusted(-4, -4, 4, 4)
        chosen = {layer.key for layer in self._layers} & {self.selected}
        for layer in self._layers:
            if not chosen or layer.key in chosen:
                for point in self._room.map(layer.nodes):
                    if seen.contains(point):
                        painter.drawRect(QRectF(point.x() - 2.5, point.y() - 2.5, 5, 5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(self._room)
