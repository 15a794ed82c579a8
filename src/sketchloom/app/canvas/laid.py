"""What lies on the canvas: pictures, regions and layers, kept up to date with the model."""

from collections.abc import Callable
from functools import cached_property

import numpy as np
from PySide6.QtCore import QLineF, QObject, QPointF, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QPainterPath, QPixmap, QPolygonF, QTransform

from sketchloom.app.canvas.shapes import Shapes, nodes_of, painter_path, painter_paths, pixmap_of, polygon_path
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.app.theme.tokens import CANVAS_GROUNDS
from sketchloom.core.arrays import Bytes
from sketchloom.core.curves import Path
from sketchloom.core.job import Recipe, Result, heat_levels, layer_key_at, px_per_mm_of
from sketchloom.core.layers import Layer
from sketchloom.core.palette import Palette, colour_of, hex_of
from sketchloom.core.picture import Picture, Point, reduce_picture
from sketchloom.core.regions import LabelMap, coloured, nearest_apart

__all__ = ["LaidScene", "Shown"]

_REGION_PIXELS = 6_000_000
_PICTURE_PIXELS = 6_000_000
_HEATS = 6
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


class Shown:
    """One layer as drawn, in px of the full picture; what no view shows is never made."""

    def __init__(
        self, layer: Layer, shown: Path, to_px: QTransform, shapes: Callable[[Path, QTransform], Shapes]
    ) -> None:
        self._shapes = shapes
        self.key, self.name, self.hidden = layer.key, layer.name, layer.hidden
        self.colour = QColor(layer.colour if layer.kind == "cut" else layer.ink.hex)
        self.stock = layer.stock.kind if layer.stock is not None else None
        self.kind = layer.kind
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


class LaidScene(QObject):
    """Keeps what is drawn up to date with the model.

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
        self._layers: list[Shown] = []
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

    def px_per_mm(self) -> float | None:
        """Pixels of the picture that is looked at, a mm; None while no size is known."""
        result = self._model.result
        if result is None or self.picture is None or not result.has("finish", "prepare"):
            return None
        return px_per_mm_of(result, self.picture)

    def layer_at(self, at: QPointF) -> str:
        """Key of the layer of the ink at a point of the picture, px; nothing where there is none."""
        result = self._model.result
        if result is None or not result.has("tidy", "palette", "mended"):
            return ""
        x, y, w = (self.to_source @ np.array([at.x(), at.y(), 1.0])).tolist()
        return layer_key_at(result, (x / w, y / w))

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
            Shown(layer, shown, to_px, self._shapes)
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
