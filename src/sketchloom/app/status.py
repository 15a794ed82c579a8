"""How the steps stand: what the warp says of each while work goes on, and after it."""

from collections.abc import Sequence

from PySide6.QtCore import QObject, QTimer

from sketchloom.app.job_model import JobModel
from sketchloom.app.steps import Step
from sketchloom.app.warp import StepState, Warp

__all__ = ["Status"]

_SHOW_AFTER = 300
"""Milliseconds; shorter work shows no progress."""


class Status(QObject):
    """Keeps the warp's words up to date."""

    def __init__(self, model: JobModel, steps: Sequence[Step], warp: Warp) -> None:
        super().__init__(warp)
        self._model, self._steps, self._warp = model, steps, warp
        self._working: tuple[str, float] | None = None
        self._slow = QTimer(self, interval=_SHOW_AFTER, singleShot=True)
        self._slow.timeout.connect(self.refresh)
        model.progress.connect(self._on_progress)
        model.busy_changed.connect(self._on_busy)

    def _on_progress(self, step: str, done: float) -> None:
        self._working = step, done
        if not self._slow.isActive():
            self.refresh()

    def _on_busy(self, busy: bool) -> None:
        if busy:
            self._slow.start()
        else:
            self.rest()

    def rest(self) -> None:
        """Nothing is worked on any more."""
        self._slow.stop()
        self._working = None
        self.refresh()

    def refresh(self) -> None:
        """Say how every step stands."""
        working = None if self._slow.isActive() else self._working
        result, waiting = self._model.result, False
        failed = result is not None and result.failure is not None
        for place, step in enumerate(self._steps):
            if working is not None and step.key == working[0]:
                self._warp.show_state(place, StepState("", "working", working[1]))
                waiting = True
                continue
            state = step.state(result, waiting)
            self._warp.show_state(place, state)
            waiting = waiting or (failed and state.state == "look")
