"""The lines of the logbook as a table."""

import time
from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt

from sketchloom.core.logbook import Entry
from sketchloom.core.measures import time_words

__all__ = ["COLUMNS", "Lines"]

COLUMNS: tuple[tuple[str, str], ...] = (
    ("Date", "at"), ("Job", "job"), ("Stock", "stock"), ("Cutter", "cutter"), ("Planned", "planned"),
    ("Taken", "taken"), ("Went", "result"), ("Used", ""), ("Cost", "cost"),
)  # fmt: skip
"""What a column is called, and by what it sorts; nothing if it does not."""
_NUMBERS = {"Planned", "Taken", "Used", "Cost"}
_Index = QModelIndex | QPersistentModelIndex


class Lines(QAbstractTableModel):
    """Shows lines that were found."""

    def __init__(self) -> None:
        super().__init__()
        self.entries: tuple[Entry, ...] = ()

    def show(self, entries: Sequence[Entry]) -> None:
        """Show other lines."""
        self.beginResetModel()
        self.entries = tuple(entries)
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008 (Qt's own way)
        """Lines."""
        return 0 if parent.isValid() else len(self.entries)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008 (Qt's own way)
        """Columns."""
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """Names of columns."""
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section][0]
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.TextAlignmentRole:
            return _aligned(COLUMNS[section][0])
        return None

    def data(self, index: _Index, role: int = 0) -> Any:
        """What stands in a cell."""
        entry, name = self.entries[index.row()], COLUMNS[index.column()][0]
        if role == Qt.ItemDataRole.DisplayRole:
            return words_of(entry, name)
        if role == Qt.ItemDataRole.ToolTipRole:
            return entry.note or words_of(entry, name)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _aligned(name)
        return None


def _aligned(name: str) -> int:
    side = Qt.AlignmentFlag.AlignRight if name in _NUMBERS else Qt.AlignmentFlag.AlignLeft
    return int(side | Qt.AlignmentFlag.AlignVCenter)


def _date(at: int) -> str:
    """Short, with the year where it is another."""
    there, year = time.localtime(at), time.localtime().tm_year
    return time.strftime("%d %b %H:%M" if there.tm_year == year else "%d %b %Y", there)


def words_of(entry: Entry, column: str) -> str:
    """What a line tells in a column."""
    return {
        "Date": lambda: _date(entry.at),
        "Job": lambda: entry.job,
        "Stock": lambda: entry.stock or "–",
        "Cutter": lambda: entry.cutter or "–",
        "Planned": lambda: time_words(entry.planned).removesuffix(" min"),
        "Taken": lambda: "–" if entry.taken is None else time_words(entry.taken).removesuffix(" min"),
        "Went": lambda: entry.result or "–",
        "Used": lambda: f"{entry.used:g} {'m' if entry.roll else 'sheet' if entry.used == 1 else 'sheets'}",
        "Cost": lambda: f"{entry.cost:.2f}" if entry.price else "–",
    }[column]()
