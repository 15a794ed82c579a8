"""Work off the window's thread: one worker, the newest request wins."""

import threading
import traceback
from collections.abc import Callable
from typing import Any, NamedTuple

from PySide6.QtCore import QObject, Signal

from sketchloom.core.errors import Cancelled, SketchLoomError

__all__ = ["Runner"]

Progress = Callable[[str, float], None]


class _Request(NamedTuple):
    number: int
    work: Callable[[Progress], Any]
    done: Callable[[Any], None]
    keep: bool  # is finished even when a newer request waits


class Runner(QObject):
    """Runs one piece of work at a time on a thread of its own.

    A newer request cancels the one that runs, unless that is meant to be
    finished (a fast preview); requests that wait are replaced, never queued.
    """

    progress = Signal(str, float)
    finished = Signal(object, object)
    """The `done` callable of the request and its value."""
    failed = Signal(str, str, str)
    """Stage, sentence, details (empty for an error that was foreseen)."""
    cancelled = Signal()
    busy_changed = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._wake = threading.Condition()
        self._waiting: _Request | None = None
        self._running: _Request | None = None
        self._newest = 0
        self._stop_number = 0
        self._closing = False
        self._stage = ""
        self.finished.connect(lambda done, value: done(value))
        self._thread = threading.Thread(target=self._loop, name="loom", daemon=True)
        self._thread.start()

    @property
    def busy(self) -> bool:
        """Whether work runs or waits."""
        with self._wake:
            return self._running is not None or self._waiting is not None

    def submit(self, work: Callable[[Progress], Any], done: Callable[[Any], None], keep: bool = False) -> None:
        """Ask for work; `done` is called on the window's thread with its value."""
        with self._wake:
            self._newest += 1
            self._waiting = _Request(self._newest, work, done, keep)
            self._wake.notify()

    def cancel(self) -> None:
        """Call off what runs and what waits."""
        with self._wake:
            self._stop_number = self._newest
            only_waits = self._waiting is not None and self._running is None
            self._waiting = None
        if only_waits:
            self._emit(self.cancelled)

    def close(self) -> None:
        """End the thread; waits for the stage in hand to reach its next report."""
        with self._wake:
            self._closing = True
            self._stop_number = self._newest
            self._wake.notify()
        self._thread.join(5)

    def _loop(self) -> None:
        while True:
            with self._wake:
                while not self._waiting and not self._closing:
                    self._wake.wait()
                if self._closing:
                    return
                request, self._waiting = self._waiting, None
                self._running = request
            assert request is not None
            self._emit(self.busy_changed, True)
            self._do(request)
            with self._wake:
                self._running = None
                idle = self._waiting is None
            if idle:
                self._emit(self.busy_changed, False)

    def _do(self, request: _Request) -> None:
        def progress(stage: str, done: float) -> None:
            with self._wake:
                stale = request.number < self._newest and not request.keep
                if stale or request.number <= self._stop_number or self._closing:
                    raise Cancelled
            self._stage = stage
            self._emit(self.progress, stage, done)

        try:
            value = request.work(progress)
        except Cancelled:
            if request.number <= self._stop_number:
                self._emit(self.cancelled)
        except SketchLoomError as error:
            self._emit(self.failed, self._stage, str(error), "")
        except MemoryError:
            self._emit(self.failed, self._stage, "This needs more memory than is free; take a smaller picture.", "")
        except Exception:  # shown at its step with its details; the last good result stays
            sentence = "Something went wrong here; the last good result stays. Copy the details to report it."
            self._emit(self.failed, self._stage, sentence, traceback.format_exc())
        else:
            self._emit(self.finished, request.done, value)

    def _emit(self, signal: Any, *values: Any) -> None:
        if not self._closing:
            signal.emit(*values)
