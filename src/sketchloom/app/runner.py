"""Work off the window's thread: one worker; results replace each other, tasks wait their turn."""

import threading
import traceback
from collections import deque
from collections.abc import Callable
from typing import Any, NamedTuple

from PySide6.QtCore import QObject, Signal

from sketchloom.core.errors import Cancelled, SketchLoomError
from sketchloom.core.job import Failure

__all__ = ["Progress", "Runner", "StageFailedError"]

Progress = Callable[[str, float], None]
_PATIENCE = 30
"""Seconds that closing waits for a file that is being written."""


class StageFailedError(Exception):
    """A stage of the pipeline failed; carries which, and how."""

    def __init__(self, failure: Failure) -> None:
        super().__init__(failure.sentence)
        self.failure = failure


class _Request(NamedTuple):
    number: int
    work: Callable[[Progress], Any]
    done: Callable[[Any], None]
    failed: Callable[[], None] | None
    stage: str  # where a failure is shown before the work has told a stage
    replaces: bool  # a result: a newer one calls it off, or takes its place in the queue
    keep: bool  # a result that is finished even when a newer one waits
    must: bool  # a file: nothing calls it off
    stays: bool  # files: closing waits for them, and only `cancel` calls them off


class Runner(QObject):
    """Runs one piece of work at a time on a thread of its own, oldest first.

    A newer result calls off the one that runs, unless that is to be kept (a
    fast preview), and takes the place of the one that waits. Tasks, such as
    opening and saving, are never replaced.
    """

    progress = Signal(str, float)
    failed = Signal(str, str, str)
    """Stage, sentence, details (empty for an error that was foreseen)."""
    cancelled = Signal()
    busy_changed = Signal(bool)
    _ended = Signal(object)
    """Carries to the window's thread what is to be told there of a request that has ended."""

    def __init__(self) -> None:
        super().__init__()
        self._wake = threading.Condition()
        self._tasks: deque[_Request] = deque()
        self._waiting: _Request | None = None
        self._running: _Request | None = None
        self._numbers = 0
        self._newest_result = 0
        self._stop_number = 0
        self._untold = 0
        self._closing = False
        self._ended.connect(self._tell)
        self._thread = threading.Thread(target=self._loop, name="loom", daemon=True)
        self._thread.start()

    @property
    def busy(self) -> bool:
        """Whether work runs or waits, or what came of it is not yet told."""
        with self._wake:
            untold = bool(self._untold) and not self._closing
            return untold or self._running is not None or self._waiting is not None or bool(self._tasks)

    def submit(self, work: Callable[[Progress], Any], done: Callable[[Any], None], keep: bool = False) -> None:
        """Ask for a result; `done` is called on the window's thread with its value."""
        with self._wake:
            self._numbers += 1
            self._newest_result = self._numbers
            self._waiting = _Request(self._numbers, work, done, None, "", True, keep, False, False)
            self._wake.notify()

    def enqueue(
        self,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None],
        stage: str,
        failed: Callable[[], None] | None = None,
        must: bool = False,
        stays: bool = False,
    ) -> None:
        """Ask for a task that waits its turn.

        Parameters
        ----------
        work, done : callable
            As for `submit`.
        stage : str
            Where a failure is shown, if the work tells no stage.
        failed : callable, optional
            Called on the window's thread when it failed or was called off.
        must : bool
            Whether `cancel` and `close` leave it alone.
        stays : bool
            Whether `close` does.
        """
        with self._wake:
            self._numbers += 1
            self._tasks.append(_Request(self._numbers, work, done, failed, stage, False, False, must, stays))
            self._wake.notify()

    def cancel(self) -> None:
        """Call off what runs and what waits, but for files that were asked for."""
        with self._wake:
            self._stop_number = self._numbers
            dropped = [task for task in self._tasks if not task.must]
            only_waits = (self._waiting is not None or bool(dropped)) and self._running is None
            self._waiting = None
            self._tasks = deque(task for task in self._tasks if task.must)
        for task in dropped:
            self._tell_failed(task)
        if only_waits:
            self._emit(self.cancelled)

    def close(self) -> None:
        """End the thread, once the files that were asked for are written."""
        with self._wake:
            self._closing = True
            self._waiting = None
            self._tasks = deque(task for task in self._tasks if task.must or task.stays)
            self._wake.notify()
        self._thread.join(_PATIENCE)

    def _next(self) -> _Request | None:
        """The oldest request; waits for one. None when all is to end."""
        with self._wake:
            while not (self._waiting or self._tasks or self._closing):
                self._wake.wait()
            if self._tasks and (self._waiting is None or self._tasks[0].number < self._waiting.number):
                self._running = self._tasks.popleft()
            else:
                self._running, self._waiting = self._waiting, None
            return self._running

    def _loop(self) -> None:
        while (request := self._next()) is not None:
            self._emit(self.busy_changed, True)
            self._end(self._do(request))

    def _called_off(self, request: _Request) -> bool:
        if request.must:
            return False
        replaced = request.replaces and not request.keep and request.number < self._newest_result
        return replaced or request.number <= self._stop_number or (self._closing and not request.stays)

    def _do(self, request: _Request) -> Callable[[], None]:
        """Do it; what is to be told of it on the window's thread."""
        at = request.stage

        def progress(stage: str, done: float) -> None:
            nonlocal at
            with self._wake:
                if self._called_off(request):
                    raise Cancelled
            at = stage
            self._emit(self.progress, stage, done)

        try:
            value = request.work(progress)
        except Cancelled:
            stopped = request.number <= self._stop_number
            return lambda: self._tell_failed(request, self.cancelled if stopped else None)
        except StageFailedError as error:
            told = error.failure.stage, error.failure.sentence, error.failure.details
        except SketchLoomError as error:
            told = at, str(error), ""
        except MemoryError:
            told = at, "This needs more memory than is free; take a smaller picture.", ""
        except Exception:  # shown at its step with its details; the last good result stays
            sentence = "Something went wrong here; the last good result stays. Copy the details to report it."
            told = at, sentence, traceback.format_exc()
        else:
            return lambda: request.done(value)
        return lambda: self._tell_failed(request, self.failed, *told)

    def _tell_failed(self, request: _Request, signal: Any = None, *values: str) -> None:
        if request.failed is not None:
            request.failed()
        if signal is not None:
            signal.emit(*values)

    def _end(self, tell: Callable[[], None]) -> None:
        """Have an outcome told on the window's thread; the runner is busy until then."""
        with self._wake:
            self._running = None
            self._untold += 1
        self._emit(self._ended, tell)

    def _tell(self, tell: Callable[[], None]) -> None:
        with self._wake:
            self._untold -= 1
        try:
            tell()
        finally:
            if not self.busy:
                self._emit(self.busy_changed, False)

    def _emit(self, signal: Any, *values: Any) -> None:
        if not self._closing:
            signal.emit(*values)
