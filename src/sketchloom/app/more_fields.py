"""Fields for areas, times and plain amounts."""

from collections.abc import Callable

from sketchloom.app.fields import MeasureField
from sketchloom.core.errors import ArgumentError
from sketchloom.core.measures import time_words
from sketchloom.core.units import MM_PER_INCH, parse_area, parse_time

__all__ = ["AmountField", "AreaField", "TimeField"]


class AreaField(MeasureField):
    """An area that can be typed with its unit, such as 1mm2 or 0.01 in²."""

    def __init__(self, name: str, unit: Callable[[], str]) -> None:
        super().__init__(name, "type mm2, cm2 or in2", unit)

    def _words(self, value: float) -> str:
        unit = self._unit()
        own = {"mm": 1.0, "cm": 100.0, "in": MM_PER_INCH**2}[unit]
        return f"{value / own:.3g} {unit}²"

    def _read(self, text: str) -> float:
        return parse_area(text, self._unit())


class TimeField(MeasureField):
    """A time that can be typed as 1:54, 90 s or 2 min."""

    def __init__(self, name: str) -> None:
        super().__init__(name, "type minutes, or for example 1:54 or 90 s", lambda: "")

    @property
    def seconds(self) -> float | None:
        """The time shown, s."""
        return self._value

    def _words(self, value: float) -> str:
        return time_words(value)

    def _read(self, text: str) -> float:
        return parse_time(text)


class AmountField(MeasureField):
    """A plain number, such as how many sheets there are."""

    def __init__(self, name: str, most: float = 1e6) -> None:
        super().__init__(name, f"type a number up to {most:g}", lambda: "")
        self._most = most

    def _words(self, value: float) -> str:
        return f"{value:g}"

    def _read(self, text: str) -> float:
        try:
            value = float(text.strip().replace(",", "."))
        except ValueError:
            value = -1.0
        if not 0 <= value <= self._most:
            raise ArgumentError(f"“{text[:20]}” cannot be used; type a number from 0 to {self._most:g}.")
        return value
