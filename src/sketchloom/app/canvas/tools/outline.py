"""The tool that draws a closed line round a subject: straight from click to click, or along edges."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPolygonF

from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.app.runner import Progress, Runner
from sketchloom.core.picture import EdgeFollower, Picture, Point, on_edges, on_picture, source_points

__all__ = ["OutlineTool"]

_NEAR = 12.0


class OutlineTool(Tool):
    """Takes clicks round a subject; gives the closed line.

    Along edges, each click works out all lines from there on a thread, and
    the line to the pointer is read from them. Clicks made meanwhile wait
    their turn.
    """

    drags = False

    def __init__(self, runner: Runner | None = None, picture: Picture | None = None) -> None:
        super().__init__()
        follows = "along edges" if runner else "straight"
        self.help = (
            f"Click round the subject; the line runs {follows} from click to click. "
            "Backspace takes a click back; Enter on the first point, or Shift+Enter, closes it."
        )
        self._runner, self._picture = runner, picture
        self._follower: EdgeFollower | None = None
        self.clicks: list[Point] = []
        self._lines: list[list[Point]] = []
        self._queue: list[Callable[[], None]] = []
        self.busy = False
        self._left = False

    def leave(self) -> None:
        """Forget what waits."""
        self._left = True
        self._queue.clear()

    def release(self, at: QPointF) -> None:
        """Set a point, or close the line on the first."""
        super().release(at)
        if len(self.clicks) > 2 and (self.canvas.widget_point(self.clicks[0]) - at).manhattanLength() < _NEAR:
            self.finish()
        else:
            self._later(lambda: self._add(self.canvas.source_point(at)))

    def finish(self) -> None:
        """Close the line."""
        self._later(self._close)

    def key(self, event: QKeyEvent) -> bool:
        """Backspace takes the last click back."""
        if event.key() == Qt.Key.Key_Backspace:
            self._later(self._take_back)
            return True
        return super().key(event)

    def _later(self, act: Callable[[], None]) -> None:
        self._queue.append(act)
        if not self.busy:
            self._next()

    def _next(self) -> None:
        self.busy = False
        while self._queue and not self.busy and not self._left:
            self._queue.pop(0)()
        if not self._left:
            self.canvas.update()

    def _add(self, at: Point) -> None:
        if self._runner is None or self._picture is None:
            if self.clicks:
                self._lines.append([self.clicks[-1], at])
            self.clicks.append(at)
            return
        picture = self._picture

        def work(_: Progress) -> tuple[np.ndarray, np.ndarray]:
            follower = self._follower or EdgeFollower(picture.rgba)
            place = follower.snapped(on_picture(picture, [at])[0])
            line = follower.to(place) if self.clicks else place[None]
            follower.start(place)
            self._follower = follower
            return place, line

        self._work(work, self._added)

    def _added(self, value: tuple[np.ndarray, np.ndarray]) -> None:
        place, line = value
        if self.clicks:
            self._lines.append(self._in_source(line))
        self.clicks += self._in_source(place[None])

    def _take_back(self) -> None:
        self.clicks = self.clicks[:-1]
        self._lines = self._lines[: max(0, len(self.clicks) - 1)]
        follower, picture = self._follower, self._picture
        if follower is not None and picture is not None and self.clicks:
            last = on_picture(picture, self.clicks[-1:])[0]
            self._work(lambda _: follower.start(last), lambda _: None)

    def _close(self) -> None:
        if len(self.clicks) < (2 if self._runner else 3):
            return
        if self._runner is None:
            self.done.emit(tuple(self.clicks))
            return
        follower, picture = self._follower, self._picture
        assert follower is not None and picture is not None

        def work(_: Progress) -> np.ndarray:
            back = follower.to(on_picture(picture, self.clicks[:1])[0])
            drawn = [on_picture(picture, line)[:-1] for line in self._lines]
            return on_edges(picture.rgba, np.concatenate([*drawn, back[:-1]]))

        self._work(work, lambda line: self.done.emit(tuple(self._in_source(line))))

    def _work(self, work: Callable[[Progress], object], done: Callable[..., None]) -> None:
        self.busy = True

        def after(value: object) -> None:
            if not self._left:
                done(value)
            self._next()

        def failed() -> None:
            """Nothing came of it: what waits is forgotten, and the tool takes clicks again."""
            self._queue.clear()
            self._next()

        assert self._runner is not None
        self._runner.enqueue(work, after, "prepare", failed)

    def _in_source(self, line: np.ndarray) -> list[Point]:
        assert self._picture is not None
        return source_points(self._picture, line)

    def paint(self, painter: QPainter) -> None:
        """Draw the line so far, and on to the pointer."""
        place = self.canvas.widget_point
        for line in self._lines:
            draw_line(painter, QPolygonF([place(point) for point in line]))
        if self.clicks and self.at is not None:
            ahead = [self.clicks[-1], self.canvas.source_point(self.at)]
            if self._follower is not None and self._picture is not None and not self.busy:
                ahead = self._in_source(self._follower.to(on_picture(self._picture, ahead[1:])[0]))
            draw_line(painter, QPolygonF([place(point) for point in ahead]))
        for number, click in enumerate(self.clicks):
            draw_handle(painter, place(click), number == 0)
        super().paint(painter)
