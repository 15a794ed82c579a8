"""Measures beside the work: what a layer's narrowest place is, once the layers stand."""

from PySide6.QtCore import QObject, Signal

from sketchloom.app.job_model import JobModel
from sketchloom.app.quiet import QuietWork
from sketchloom.app.runner import Runner
from sketchloom.core.job import Result

__all__ = ["Measured"]


class Measured(QObject):
    """Follows the model; measures every full result without holding the next change up."""

    ready = Signal()

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self._model = model
        self._runner = Runner()
        self._known: tuple[Result, dict[str, float]] | None = None
        model.result_ready.connect(self._measure)

    def _measure(self) -> None:
        result = self._model.result
        if result is None or self._model.stale or not result.has("mended") or self.narrowest:
            return
        picture, recipe, pipeline = self._model.picture, result.recipe, self._model.pipeline

        def done(measured: Result) -> None:
            if self._model.result is result and measured.failure is None:
                self._known = result, measured.narrowest
                self.ready.emit()

        self._runner.submit(lambda progress: pipeline.results(picture, recipe, progress, names=("narrowest",)), done)

    @property
    def narrowest(self) -> dict[str, float]:
        """Narrowest place of each layer of the newest result, mm, by its key; empty until it is known."""
        return self._known[1] if self._known is not None and self._known[0] is self._model.result else {}

    @property
    def quiet(self) -> QuietWork:
        """What goes on, for the strip that tells of quiet work."""
        return QuietWork(self._runner, lambda: "measuring narrowest places", self._runner.cancel)

    def close(self) -> None:
        """End the thread."""
        self._runner.close()
