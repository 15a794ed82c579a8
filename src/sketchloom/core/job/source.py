"""What an opened picture is good for, told from the stages that would trace it."""

from sketchloom.core.job.pipeline import Pipeline, Progress, silent
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.picture import Picture
from sketchloom.core.survey import SourceMeasures, SourceReport, measure_source, report_at

__all__ = ["inspect_source", "measure_opened"]

_ASKED = ("restored", "kind", "road", "tones", "ground", "inks")


def measure_opened(picture: Picture, pipeline: Pipeline, progress: Progress = silent) -> SourceMeasures:
    """Measure an opened picture as no recipe has changed it yet.

    Parameters
    ----------
    picture : Picture
    pipeline : Pipeline
        Remembers the stages, so that tracing the picture does not run them again.
    progress : callable

    Raises
    ------
    Cancelled
    """
    result = pipeline.run(picture, Recipe(), progress, names=_ASKED)
    assert result.kind is not None
    return measure_source(picture, result.worn, result.kind, result.road, result.tones, result.ground, result.plan)


def inspect_source(picture: Picture, width_mm: float | None = None) -> SourceReport:
    """Report on a picture.

    Parameters
    ----------
    picture : Picture
    width_mm : float, optional
        Finished width; without it 96 px are an inch.
    """
    return report_at(measure_opened(picture, Pipeline(0)), width_mm)
