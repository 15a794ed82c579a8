"""The order in which Tab goes: as things are read, whenever they were made."""

from collections.abc import Iterable, Iterator
from itertools import pairwise

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLayout, QWidget

__all__ = ["order_tabs", "stops_of"]


def stops_of(widget: QWidget) -> Iterator[QWidget]:
    """Give what in a widget Tab can stop at, in the order of its layouts."""
    if not widget.isVisible():
        return
    if widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
        yield widget
    layout = widget.layout()
    if layout is not None:
        yield from _in_layout(layout)


def _in_layout(layout: QLayout) -> Iterator[QWidget]:
    for place in range(layout.count()):
        item = layout.itemAt(place)
        if item.widget() is not None:
            yield from stops_of(item.widget())
        elif item.layout() is not None:
            yield from _in_layout(item.layout())


def order_tabs(parts: Iterable[QWidget]) -> None:
    """Let Tab go through some parts of a window one after the other."""
    stops = [stop for part in parts for stop in stops_of(part)]
    for before, after in pairwise(stops):
        QWidget.setTabOrder(before, after)
