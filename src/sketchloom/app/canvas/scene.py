"""What the canvas shows: pictures, regions and layers, drawn at a place and scale."""

from collections.abc import Callable
from functools import cached_property

import numpy as np
from PySide6.QtCore import QLineF, QObject, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform

from sketchloom.app.canvas.shapes import Shapes, nodes_of, painter_path, painter_paths, pixmap_of, polygon_path
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import CANVAS_GROUNDS, legible_on
from sketchloom.core.arrays import Bytes
from sketchloom.core.curves import Path
from sketchloom.core.job import Recipe, Result, heat_levels
from sketchloom.core.layers import Layer
from sketchloom.core.palette import Palette, colour_of, hex_of
from sketchloom.core.picture import Picture, Point, reduce_picture
from sketchloom.core.regions import LabelMap, coloured, nearest_apart

__all__ = ["VIEWS", "Scene"]

VIEWS = ("Picture", "Regions", "Paths", "Layers")
_REGION_PIXELS = 6_000_000
_PICTURE_PIXELS = 6_000_000
_HEATS = 6
_SHADE, _SPREADS = 0.09, (3.0, 2.0, 1.0)
"""How dark each shadow of a layer is, and how far they fall, screen pixels."""
_APART = 18
"""CIE76; a ground nearer to an ink than this is swapped for another."""


def _between(cold: str, hot: str, share: float) -> QColor:
    a, b = QColor(cold), QColor(hot)
    mixed = (round(x + share * (y - x)) for x, y in zip(a.getRgb()[:3], b.getRgb()[:3], strict=True))
    return QColor(*mixed)


def _to_px(result: Result) -> QTransform:
    """Where mm of the page lie on the picture, px."""
    scale = result.finished.px_per_mm / result.reduction
    left, top = result.finished.origin / result.reduction - scale * np.array(result.stack.moved)
    return QTransform(scale, 0, 0, scale, left, top)


class _Shown:
    """One layer as drawn, in px of the full picture; what no view shows is never made."""

    def __init__(
        self, layer: Layer, shown: Path, to_px: QTransform, shapes: Callable[[Path, QTransform], Shapes]
    ) -> None:
        self._shapes = shapes
        self.key, self.name, self.hidden = layer.key, layer.name, layer.hidden
        self.colour = QColor(layer.colour)
        self._path, self._shown, self._to_px = layer.path, shown, to_px

    @cached_property
    def own(self) -> Shapes:
        """Its faces."""
        return self._shapes(self._path, self._to_px)

    @cached_property
    def carried(self) -> Shapes:
        """Its faces and all above."""
        return painter_paths(self._shown, self._to_px)

    @cached_property
    def nodes(self) -> QPolygonF:
        """Its nodes."""
        return self._to_px.map(nodes_of(self._path))


class _Laid:
    """A picture as a pixmap, and where it lies in the source; drawn smaller it is scaled by area."""

    def __init__(self, small: Picture) -> None:
        self.pixmap, self.to_source = pixmap_of(small.rgba), small.source_of
        self._smaller: dict[int, QPixmap] = {}

    def at_scale(self, times: float) -> QPixmap:
        """Give the pixmap halved as often as it is drawn at most half as large."""
        halvings = min(6, max(0, int(np.log2(max(times, 1.0)))))
        if halvings == 0:
            return self.pixmap
        if halvings not in self._smaller:
            size = self.pixmap.size() / 2**halvings
            self._smaller[halvings] = self.pixmap.scaled(
                max(1, size.width()),
                max(1, size.height()),
                Qt.AspectRatioMode.IgnoreAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
        return self._smaller[halvings]


class Scene(QObject):
    """Keeps what is drawn up to date with the model; draws any view of it.

    Lengths are px of the picture that is looked at: the prepared one, or
    while a row of Prepare is looked at the one that row left.
    """

    changed = Signal()
    resized = Signal()

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self._model = model
        self.lift = 0.0
        self.selected = ""
        self._version = 0
        """Counts what comes new to be drawn."""
        self._strokes: list[tuple[QColor, QPainterPath]] = []
        self._gaps = QPainterPath()
        self._stacked = False
        self._heat = False
        self._hot: list[tuple[QColor, list[QLineF]]] = []
        self.extent = QSizeF(1, 1)
        self.to_source = np.eye(3)
        self.picture: Picture | None = None
        self._looked_at: tuple[Picture, Picture] | None = None
        self._laid: dict[int, tuple[Picture, _Laid]] = {}
        self._regions = QPixmap()
        self._regions_of: tuple[LabelMap, Palette] | None = None
        self._layers: list[_Shown] = []
        self._reduced: list[tuple[Picture, Picture]] = []
        self._coloured: tuple[LabelMap, Palette, Bytes] | None = None
        self._drawn: list[tuple[Path, QTransform, Shapes]] = []
        model.ahead.append(self.make_ahead)
        self.ground = CANVAS_GROUNDS[0]
        self._chosen_ground: str | None = None
        model.job_changed.connect(self._new_job)
        model.result_ready.connect(self._new_result)
        model.regions_ready.connect(self._show_early)
        theme.changed.connect(self._choose_ground)
        model.recipe_changed.connect(self._choose_ground)

    def _new_job(self) -> None:
        self.selected = ""
        self._looked_at = None

    @property
    def corner(self) -> Point:
        """Source coordinates of the picture's top left corner."""
        x, y, w = self.to_source[:, 2].tolist()
        return x / w, y / w

    def look_at(self, pictures: tuple[Picture, Picture] | None) -> None:
        """Show a picture, and as its input another, in place of the prepared and the opened one."""
        self._looked_at = pictures
        self._lay_pictures()
        self.changed.emit()

    def make_ahead(self, result: Result, shown: Picture) -> None:
        """On the worker: make what takes long to draw a result from."""
        if result.has("prepare"):
            pictures = (shown, result.prepared.picture)
            self._reduced = [(one, self._small(one)) for one in pictures]
        if result.has("tidy", "palette"):
            regions, palette = result.regions, result.palette
            self._coloured = regions, palette, self._in_inks(regions, palette)
        if result.has("finish", "mended"):
            to_px = _to_px(result)
            self._drawn = [(layer.path, to_px, self._shapes(layer.path, to_px)) for layer in result.stack.layers]

    def _small(self, picture: Picture) -> Picture:
        known = next((small for one, small in self._reduced if one is picture), None)
        return known or reduce_picture(picture, _PICTURE_PIXELS)[0]

    def _in_inks(self, regions: LabelMap, palette: Palette) -> Bytes:
        known = self._coloured
        if known is not None and known[0] is regions and known[1] == palette:
            return known[2]
        return coloured(regions, palette, _REGION_PIXELS)

    def _shapes(self, path: Path, to_px: QTransform) -> Shapes:
        """A path as drawn; made once for as long as it stays where it is."""
        known = next((shapes for one, place, shapes in self._drawn if one is path and place == to_px), None)
        return known or painter_paths(path, to_px)

    def _lay_pictures(self) -> None:
        result, opened, shown = self._model.result, self._model.picture, self._model.shown
        if result is None or not result.has("prepare") or opened is None or shown is None:
            return
        self.picture, self._before = self._looked_at or (result.prepared.picture, opened)
        wanted = {id(picture): picture for picture in (self.picture, self._before, opened)}
        self._laid = {key: value for key, value in self._laid.items() if key in wanted}
        for key, picture in wanted.items():
            if key not in self._laid:
                self._laid[key] = picture, _Laid(self._small(shown if picture is opened else picture))
        extent = QSizeF(self.picture.width, self.picture.height)
        self.to_source = self.picture.source_of
        if extent.toSize() != self.extent.toSize():
            self.extent = extent
            self.resized.emit()

    def _new_result(self) -> None:
        result = self._model.result
        if result is None:
            return
        self._version += 1
        self._lay_pictures()
        self._layers, self._strokes, self._gaps = [], [], QPainterPath()
        if result.has("tidy", "palette"):
            self._show_regions(result.regions, result.palette)
        else:
            self._regions, self._regions_of = QPixmap(), None
        if result.has("finish", "mended"):
            self._show_layers(result)
        self._heat_edges()
        self._choose_ground()

    def _show_early(self, recipe: Recipe, regions: LabelMap, palette: Palette) -> None:
        """Show how pieces lie before their edges are traced, if that is what is still wanted."""
        if recipe == self._model.recipe:
            self._show_regions(regions, palette)
            self.changed.emit()

    def _show_regions(self, regions: LabelMap, palette: Palette) -> None:
        known = self._regions_of
        if known is None or known[0] is not regions or known[1] != palette:
            self._regions_of = regions, palette
            self._regions = pixmap_of(self._in_inks(regions, palette))

    def _show_layers(self, result: Result) -> None:
        to_px = _to_px(result)
        self._layers = [
            _Shown(layer, shown, to_px, self._shapes)
            for layer, shown in zip(result.stack.layers, result.stack.shown, strict=True)
        ]
        self._strokes = [(QColor(layer.ink.hex), to_px.map(painter_path(layer.path))) for layer in result.stack.strokes]
        grown = any(not layer.exact for layer in result.stack.layers)
        self._stacked = grown or result.stack.build in ("carried", "backed")
        self._gaps = to_px.map(polygon_path(result.slip.gaps)) if result.slip is not None else QPainterPath()

    def _choose_ground(self) -> None:
        """Take the ground that stands out from all inks, the theme's own if it does well enough."""
        own = theme.tokens.kraft
        result = self._model.result
        behind = self._model.recipe.look.behind
        if self._chosen_ground or behind is not None:
            own = self._chosen_ground or hex_of(behind or (0, 0, 0))
        elif result is not None and result.has("palette") and result.palette.cut:
            inks = [ink.shown for ink in result.palette.cut]
            if nearest_apart(colour_of(own), inks) < _APART:
                own = max(CANVAS_GROUNDS, key=lambda code: nearest_apart(colour_of(code), inks))
        self.ground = own
        self.changed.emit()

    def next_ground(self) -> None:
        """Take the next canvas ground; after the last, the program chooses again."""
        order = [None, *CANVAS_GROUNDS]
        self._chosen_ground = order[(order.index(self._chosen_ground) + 1) % len(order)]
        self._choose_ground()

    @property
    def heat(self) -> bool:
        """Whether paths show how far they lie from the picture's edges."""
        return self._heat

    @heat.setter
    def heat(self, on: bool) -> None:
        self._heat = on
        self._heat_edges()
        self.changed.emit()

    def _heat_edges(self) -> None:
        """Sort the steps between edge samples by how far they lie from the curves."""
        result = self._model.result
        self._hot = []
        if result is None or not self._heat or not result.has("hand"):
            return
        for level in heat_levels(result, _HEATS):
            colour = _between(theme.tokens.indigo, theme.tokens.madder, level.share)
            self._hot.append((colour, [QLineF(*end) for end in level.steps.tolist()]))

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

    def paint(self, painter: QPainter, view: str, room: QTransform, nodes: bool) -> None:
        """Draw a view; `room` maps px to the painter's."""
        self._room = room
        painter.setTransform(room)
        area = QRectF(QPointF(0, 0), self.extent)
        if view in ("Source", "Before"):
            self._paint_under(painter, view == "Source")
        elif view == "Picture":
            self._paint_pixmap(painter, area, self._laid[id(self.picture)][1].at_scale(self._shrunk(room)))
        elif view == "Regions":
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, room.m11() < 1)
            self._paint_pixmap(painter, area, self._regions)
        elif view == "Paths":
            self._paint_paths(painter, nodes)
        else:
            self._paint_layers(painter, nodes)

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
                if self._stacked:
                    self._paint_shadow(painter, layer.own)
                for shape in self._seen(painter, layer.own if self._stacked else layer.carried):
                    painter.fillPath(shape, layer.colour)
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
            for shape in self._seen(painter, shapes):
                painter.fillPath(shape, layer.colour)
            if self.selected == layer.key:
                self._outline(painter, shapes)
            if self.lift > 0.35:
                self._paint_name(painter, f"{place + 1} {layer.name}", tilt.map(QPointF(size.width(), middle.y())))

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

    def drawn(self, view: str, nodes: bool) -> tuple[object, ...]:
        """What says all about how a view is drawn, but for its place."""
        return view, nodes, self._version, self.selected, self.lift, self._heat, self.ground, theme.is_dark

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
