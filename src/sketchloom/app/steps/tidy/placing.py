"""The choice put elsewhere, by handles, by arrows or across: moves that come before the last is done add up."""

from collections.abc import Callable
from typing import Any

import numpy as np

from sketchloom.app.canvas.tools import AcrossTool, PlaceTool
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.core.picture import Point, source_points
from sketchloom.core.tidy import Pieces

__all__ = ["Placing"]


class Placing:
    """What is on its way to another place.

    Parameters
    ----------
    step : TidyDesk
    put : callable
        Puts the choice elsewhere: its name in undo, its gesture and how.
    """

    def __init__(self, step: TidyDesk, put: Callable[..., None]) -> None:
        self._step, self._put = step, put
        self._tool: PlaceTool | None = None
        self._waiting: dict[str, Any] | None = None
        """Where the choice goes as soon as the last move is done."""
        self._gesture: int | None = None
        """The gesture that moves by arrows belong to."""

    def handles(self, pieces: Pieces, chosen: list[int]) -> PlaceTool:
        """Give the tool that moves, turns and scales the choice."""
        left, top, right, bottom = pieces.box(chosen)
        corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]], float)
        self._tool = made = PlaceTool(source_points(pieces.picture, corners))
        made.gesture = self._gesture
        made.done.connect(self._place)
        return made

    def across(self, tool: str) -> AcrossTool:
        """Give the tool that moves or copies the choice by a line from one place to another."""
        made = AcrossTool("Drag from the chosen pieces to where they are to go.")
        made.done.connect(lambda ends: self._go_across(tool, ends))
        return made

    def wait_no_more(self) -> None:
        """Forget what was to be put elsewhere."""
        self._waiting = None

    def end(self) -> None:
        """The handles are put away."""
        self._waiting = self._gesture = self._tool = None

    def go_on(self) -> None:
        """Put the choice where it waits to go, once the last move is done."""
        how = self._waiting
        if how is not None and not self._step.model.stale:
            self._waiting = None
            self._gesture = self._tool.gesture if self._tool is not None else self._gesture
            self._put("Put elsewhere", self._gesture, **how)

    def _place(self, how: dict[str, Any]) -> None:
        """Put the choice elsewhere; what comes before the last is done adds up, and goes with the next result."""
        before = self._waiting
        if before is not None:
            (x, y), (u, v) = before["by"], how["by"]
            how = {"by": (x + u, y + v), "turn": before["turn"] + how["turn"], "scale": before["scale"] * how["scale"]}
        self._waiting = how
        self.go_on()

    def _go_across(self, tool: str, ends: tuple[Point, Point]) -> None:
        (x, y), (u, v) = ends
        self._put("Copy" if tool == "copy" else "Move", by=(u - x, v - y), copy=tool == "copy")
        self._step.draw_with("choose")
