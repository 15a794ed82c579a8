"""The brush of the Prepare step: its width in words, and its slider."""

from collections.abc import Callable

from sketchloom.app.fields import LogSlider
from sketchloom.core.measures import in_unit

__all__ = ["brush_slider", "brush_words"]


def brush_words(width: float, longer_mm: float, unit: str) -> str:
    """Say how wide the brush is at the finished size."""
    return f"Brush {in_unit(width * longer_mm, unit)} {unit}"


def brush_slider(width: float, moved: Callable[[float], None]) -> LogSlider:
    """Make the slider of the brush's width."""
    slider = LogSlider("Width of the brush", 0.002, 0.15)
    slider.show_value(width)
    slider.moved.connect(lambda value, _: moved(value))
    return slider
