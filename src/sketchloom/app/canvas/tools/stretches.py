"""Tools that work on a stretch of an edge: brushes that straighten or smooth, and one that closes a gap."""

from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from sketchloom.app.canvas.tools.brush import LineTool
from sketchloom.app.canvas.tools.curve import NEAR, CurveTool
from sketchloom.app.canvas.tools.draw import draw_ring
from sketchloom.app.job_model import JobModel
from sketchloom.core.curves import Spot, nearest_spot
from sketchloom.core.curves.work import Change, brushed, closed_by_curve

__all__ = ["STRETCHES", "EdgeBrush", "StretchTool"]


class _Stretch(NamedTuple):
    """One kind of work on a stretch."""

    what: str
    help: str


STRETCHES = {
    "straighten": _Stretch(
        "Straightened", "Brush along edges: what the brush runs along becomes straight. Zoom in for a finer brush."
    ),
    "smooth": _Stretch(
        "Smoothed", "Brush along edges: bumps and corners under the brush go. Zoom in for a finer brush."
    ),
    "close": _Stretch("Closed by a curve", "Drag from one place of an edge to another; one curve closes the gap."),
}


class EdgeBrush(CurveTool, LineTool):
    """Straightens or smooths all edges that it runs along, in one change."""

    def __init__(self, model: JobModel, kind: str) -> None:
        super().__init__(model)
        self.kind = kind
        self.help = STRETCHES[kind].help

    def _changes(self) -> list[Change]:
        result = self.result
        line = np.array([self.px(at) for at in self.line])
        tolerance = self.model.recipe.trace.smoothness * result.scale.px_per_mm
        return brushed(result.curves, result.planar, line, NEAR * self.screen_px, self.kind == "smooth", tolerance)

    def release(self, at: QPointF) -> None:
        """Change all edges that the brush ran along."""
        held = self.down
        super().release(at)
        if not held:
            return
        self.line.append(at)
        changes, self.line = self._changes(), []
        if changes:
            self.give_all(STRETCHES[self.kind].what, changes)
        else:
            self.model.said.emit("The brush ran along no edge; crossing one changes nothing.")

    def paint(self, painter: QPainter) -> None:
        """Draw the brush, and what its edges will be."""
        if self.line and self.model.result is not None:
            for change in self._changes():
                self.paint_piece(painter, change.new)
        if self.at is not None:
            draw_ring(painter, self.at, NEAR)
        super().paint(painter)


class StretchTool(CurveTool):
    """Closes an edge by one curve between two places."""

    help = STRETCHES["close"].help

    def __init__(self, model: JobModel) -> None:
        super().__init__(model)
        self._first: Spot | None = None

    def press(self, at: QPointF) -> None:
        """Begin on the nearest edge."""
        super().press(at)
        spot = nearest_spot(self.result.curves, self.px(at))
        self._first = spot if spot is not None and spot.away < NEAR * self.screen_px else None
        if self._first is None:
            self.model.said.emit("No edge lies there; begin on one.")

    def _change(self, at: QPointF) -> Change | None:
        if self._first is None:
            return None
        curves, arc = self.result.curves, self._first.arc
        last = nearest_spot(curves, self.px(at), np.array([arc]))
        if last is None or (last.segment, last.t) == (self._first.segment, self._first.t):
            return None
        return closed_by_curve(curves, self._first, last, self.loop(arc))

    def release(self, at: QPointF) -> None:
        """End on the same edge."""
        super().release(at)
        change = self._change(at)
        if change is not None:
            self.give(STRETCHES["close"].what, change)
        self._first = None

    def paint(self, painter: QPainter) -> None:
        """Draw what it will be."""
        if self.down and self.at is not None and self.model.result is not None:
            change = self._change(self.at)
            if change is not None:
                self.paint_piece(painter, change.new)
        super().paint(painter)
