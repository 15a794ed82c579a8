"""What works quietly beside the window: told in one strip, and called off with it."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

from PySide6.QtCore import QObject, QTimer, Signal

from sketchloom.app.runner import Runner

__all__ = ["Quiet", "QuietWork"]

_SHOW_AFTER = 400
"""Milliseconds; what is done sooner is not told."""


class QuietWork(NamedTuple):
    """A worker that nobody waits for."""

    runner: Runner
    words: Callable[[], str]
    stop: Callable[[], object]


class Quiet(QObject):
    """Tells what works on, once that takes long."""

    told = Signal(str)
    """What works and how far it is; nothing when all rests."""

    def __init__(self, work: Sequence[QuietWork]) -> None:
        super().__init__()
        self._work = work
        self._late = QTimer(self, interval=_SHOW_AFTER, singleShot=True)
        self._late.timeout.connect(self.refresh)
        for one in work:
            one.runner.busy_changed.connect(lambda _: self._on_busy())
            one.runner.progress.connect(lambda *_: self._shows and self.refresh())
        self._shows = False

    @property
    def busy(self) -> bool:
        """Whether something works."""
        return any(one.runner.busy for one in self._work)

    def _on_busy(self) -> None:
        if self.busy:
            if not self._shows and not self._late.isActive():
                self._late.start()
        else:
            self._late.stop()
            self.refresh()

    def refresh(self) -> None:
        """Tell what works now."""
        words = [one.words() for one in self._work if one.runner.busy]
        self._shows = bool(words)
        self.told.emit("; ".join(dict.fromkeys(words)))

    def stop(self) -> None:
        """Call all of it off."""
        for one in self._work:
            if one.runner.busy:
                one.stop()
        self.refresh()
