"""Where a view lies in its widget: zoom, pan, and places of the source in the widget and back."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Signal
from PySide6.QtWidgets import QWidget

from sketchloom.app.canvas.scene import Scene
from sketchloom.app.job_model import JobModel
from sketchloom.core.arrays import Floats
from sketchloom.core.job import px_per_mm_of
from sketchloom.core.picture import Point
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Navigated"]

_MARGIN = 56


class Navigated(QWidget):
    """A widget over a scene that is zoomed and panned."""

    zoom_changed = Signal(float)

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self.model, self.scene = model, Scene(model)
        self.ring: Point | None = None
        """A place to point out, until the view changes."""
        self._zoom, self._offset = 1.0, QPointF()
        self._fitted = True
        self.scene.resized.connect(lambda: self._fitted and self.fit())

    @property
    def offset(self) -> QPointF:
        """Point of the widget where the picture's top left corner lies."""
        return self._offset

    @property
    def zoom(self) -> float:
        """Screen pixels per picture pixel."""
        return self._zoom

    def source_point(self, at: QPointF) -> Point:
        """Source coordinates of a point of the widget."""
        here = (at - self._offset) / self._zoom
        x, y, w = self.scene.to_source @ np.array([here.x(), here.y(), 1.0])
        return round(float(x / w), 6), round(float(y / w), 6)

    def widget_point(self, at: Point) -> QPointF:
        """Point of the widget that shows a source point."""
        x, y, w = np.linalg.solve(self.scene.to_source, np.array([at[0], at[1], 1.0]))
        return QPointF(x / w, y / w) * self._zoom + self._offset

    def widget_points(self, source: Floats) -> Floats:
        """Points of the widget that show source points, (N, 2) each."""
        here = np.linalg.solve(self.scene.to_source, np.column_stack([source, np.ones(len(source))]).T)
        return (here[:2] / here[2] * self._zoom).T + np.array([self._offset.x(), self._offset.y()])

    def fit(self) -> None:
        """Show all of the picture."""
        size = self.scene.extent
        room_w, room_h = max(40, self.width() - 2 * _MARGIN), max(40, self.height() - 2 * _MARGIN)
        self._fitted = True
        self._set_zoom(min(room_w / size.width(), room_h / size.height()))
        self._offset = QPointF(
            (self.width() - size.width() * self._zoom) / 2, (self.height() - size.height() * self._zoom) / 2 + 12
        )
        self.update()

    def go_to(self, at: Point, zoom: float) -> None:
        """Show a source point in the middle, ringed, at least at some zoom."""
        self._fitted = False
        self._set_zoom(max(zoom, self._zoom))
        self._offset += QPointF(self.width() / 2, self.height() / 2) - self.widget_point(at)
        self.ring = at
        self.update()

    def show_round(self, at: Point, mm: float) -> None:
        """Show a source point in the middle, ringed, with so much round it; at most all of the picture."""
        result, shown = self.model.result, self.scene.picture
        if result is not None and shown is not None:
            self.fit()
            self._zoom = max(self._zoom, min(self.width(), self.height()) / (mm * px_per_mm_of(result, shown)))
            self.go_to(at, self._zoom)

    def show_area(self, low: Point, high: Point) -> None:
        """Show all between two source points, with some room round it."""
        area = QRectF(self.widget_point(low), self.widget_point(high)).normalized()
        across = max(area.width() / max(1, self.width()), area.height() / max(1, self.height()), 1e-6)
        middle = ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
        self._fitted = False
        self._set_zoom(self._zoom * 0.6 / across)
        self._offset += QPointF(self.width() / 2, self.height() / 2) - self.widget_point(middle)
        self.update()

    def show_real_size(self) -> None:
        """Show it as large as it will be cut, on a screen of 96 dots an inch."""
        result, shown = self.model.result, self.scene.picture
        if result is not None and shown is not None and result.has("finish", "prepare"):
            self.zoom_by(PX_PER_MM_UNSET / px_per_mm_of(result, shown) / self._zoom)

    def pan_by(self, by: QPointF) -> None:
        """Move the picture by screen pixels."""
        self._offset += by
        self._fitted = False
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
