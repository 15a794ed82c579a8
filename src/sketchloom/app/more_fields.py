"""Fields for times and plain amounts."""

from sketchloom.app.fields import MeasureField
from sketchloom.core.errors import ArgumentError
from sketchloom.core.measures import time_words
from sketchloom.core.units import parse_time

__all__ = ["AmountField", "TimeField"]


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
