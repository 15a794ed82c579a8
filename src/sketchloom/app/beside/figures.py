"""The figures of two sides, and what the right one has more or less."""

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from sketchloom.app.fields import faded
from sketchloom.core.job import JobFigures
from sketchloom.core.measures import length_words, time_words

__all__ = ["FiguresTable", "difference", "rows_of"]


class Row(NamedTuple):
    """A figure in words."""

    name: str
    left: str
    right: str
    difference: str
    """Of the right one."""


def difference(left: float, right: float, words: Callable[[float], str]) -> str:
    """Say what the right one has more or less."""
    by = words(abs(right - left))
    if by == words(0.0):
        return "the same"
    return f"{by} {'more' if right > left else 'less'}"


def rows_of(
    left: JobFigures | None, right: JobFigures | None, unit: str, unknown: tuple[str, str] = ("–", "–")
) -> list[Row]:
    """Figures in words; those of a side that is not known are a dash; `unknown` stands for what it does not tell."""
    length = lambda mm: length_words(mm, unit, 1)  # noqa: E731
    count = lambda number: f"{number:,.0f}".replace(",", " ")  # noqa: E731
    kinds: tuple[tuple[str, Callable[[JobFigures], float | None], Callable[[float], str]], ...] = (
        ("Width", lambda one: one.size[0], length),
        ("Height", lambda one: one.size[1], length),
        ("Layers", lambda one: one.layers, count),
        ("Pieces", lambda one: one.pieces, count),
        ("Nodes", lambda one: one.nodes, count),
        ("Cut length", lambda one: one.cut_length, length),
        ("Sheets", lambda one: one.sheets, count),
        ("Time to cut", lambda one: one.time, time_words),
        ("Cost of stock", lambda one: one.cost, lambda cost: f"{cost:.2f}"),
        ("Open findings", lambda one: one.findings, count),
    )
    out = []
    for name, value, words in kinds:
        both = [None if side is None else value(side) for side in (left, right)]
        told = [
            "–" if side is None else words_of_none if one is None else words(one)
            for side, one, words_of_none in zip((left, right), both, unknown, strict=True)
        ]
        apart = "" if both[0] is None or both[1] is None else difference(both[0], both[1], words)
        out.append(Row(name, told[0], told[1], apart))
    return out


class FiguresTable(QWidget):
    """A line a figure."""

    def __init__(self) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(4, 1)
        right = Qt.AlignmentFlag.AlignRight
        for column, words in enumerate(("", "Left", "Right", "The right one has")):
            grid.addWidget(faded(words, wrap=False), 0, column, right if 0 < column < 3 else Qt.AlignmentFlag.AlignLeft)
        self._grid = grid
        self._labels: list[list[QLabel]] = []
        for row in range(1, 1 + len(rows_of(None, None, "mm"))):
            line = [faded("", wrap=False), *(QLabel() for _ in range(3))]
            for column, label in enumerate(line):
                grid.addWidget(label, row, column, right if 0 < column < 3 else Qt.AlignmentFlag.AlignLeft)
            self._labels.append(line)

    def show_figures(
        self, left: JobFigures | None, right: JobFigures | None, unit: str, unknown: tuple[str, str]
    ) -> None:
        """Show them."""
        for line, row in zip(self._labels, rows_of(left, right, unit, unknown), strict=True):
            for label, words in zip(line, row, strict=True):
                label.setText(words)

    @property
    def told(self) -> list[tuple[str, ...]]:
        """What stands in it."""
        return [tuple(label.text() for label in line) for line in self._labels]
