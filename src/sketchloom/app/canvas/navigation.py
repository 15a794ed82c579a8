"""Where a view lies in its widget: zoom and pan of each room, and places of the source in the widget and back."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Signal
from PySide6.QtWidgets import QWidget

from sketchloom.app.canvas.scene import Scene
from sketchloom.app.canvas.views import WORK, View
from sketchloom.app.job_model import JobModel
from sketchloom.core.arrays import Floats
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
        self.views: dict[str, View] = {view.key: view for view in self.scene.views()}
        """All that can be shown, in the order of the tabs."""
        self.view = "Picture"
        """The key of the view that is shown."""
        self.ring: Point | None = None
        """A place to point out, until the view changes."""
        self._zoom, self._offset = 1.0, QPointF()
        self._fitted = True
        self._rooms: dict[str, tuple[float, QPointF, bool]] = {}
        """How other rooms were left: zoom, offset, and whether all was in view."""
        self.scene.resized.connect(lambda: self.refit(WORK))

    @property
    def shown(self) -> View:
        """The view that is shown."""
        return self.views[self.view]

    def add_view(self, view: View) -> None:
        """Take a view that a step gives."""
        self.views[view.key] = view

    def refit(self, room: str) -> None:
        """The extent of a room has changed: show all of it where all of it was in view."""
        if room != self.shown.room:
            zoom, offset, fitted = self._rooms.get(room, (1.0, QPointF(), True))
            self._rooms[room] = zoom, offset, fitted
        elif self._fitted:
            self.fit()

    def _enter(self, view: str) -> None:
        """Show a view; another room lies as it was left."""
        before, self.view = self.shown.room, view
        if self.shown.room == before:
            return
        self._rooms[before] = self._zoom, QPointF(self._offset), self._fitted
        zoom, offset, fitted = self._rooms.get(self.shown.room, (1.0, QPointF(), True))
        self._zoom, self._offset, self._fitted = zoom, offset, fitted
        if fitted:
            self.fit()
        else:
            self.zoom_changed.emit(zoom)

    @property
    def offset(self) -> QPointF:
        """Point of the widget where the view's top left corner lies."""
        return self._offset

    @property
    def zoom(self) -> float:
        """Screen pixels per unit of the view, on pictures a pixel."""
        return self._zoom

    def view_point(self, at: QPointF) -> QPointF:
        """Point of the view, in its units, at a point of the widget."""
        return (at - self._offset) / self._zoom

    def source_point(self, at: QPointF) -> Point:
        """Source coordinates of a point of the widget."""
        here = self.view_point(at)
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
        """Show all of the view."""
        size = self.shown.extent()
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
        unit = self.shown.unit()
        if unit is not None:
            self.fit()
            self._zoom = max(self._zoom, min(self.width(), self.height()) / (mm * unit))
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

    def show_extent(self, left: float, top: float, width: float, height: float) -> None:
        """Show a part of the view, in its units, with some room round it."""
        across = max(width / max(1, self.width()), height / max(1, self.height()), 1e-6)
        self._fitted = False
        self._set_zoom(0.8 / across)
        middle = QPointF(left + width / 2, top + height / 2)
        self._offset = QPointF(self.width() / 2, self.height() / 2) - middle * self._zoom
        self.update()

    def show_real_size(self) -> None:
        """Show it as large as it will be cut, on a screen of 96 dots an inch."""
        unit = self.shown.unit()
        if unit is not None:
            self.zoom_by(PX_PER_MM_UNSET / unit / self._zoom)

    def pan_by(self, by: QPointF) -> None:
        """Move the view by screen pixels."""
        self._offset += by
        self._fitted = False
        self.update()

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point of the widget, by default its middle."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        before = self.view_point(at)
        self._fitted = False
        self._set_zoom(self._zoom * factor)
        self._offset = at - before * self._zoom
        self.update()

    def _set_zoom(self, zoom: float) -> None:
        self._zoom = min(max(zoom, 0.005), 64.0)
        self.zoom_changed.emit(self._zoom)

    def resizeEvent(self, event) -> None:
        """Keep the whole view in sight if it was."""
        if self._fitted:
            self.fit()
        super().resizeEvent(event)
