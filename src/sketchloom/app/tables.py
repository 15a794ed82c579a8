"""Plain tables: rows of words that are looked through, one chosen at a time."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QAbstractItemView, QTableView

__all__ = ["Rows", "Table"]

_Index = QModelIndex | QPersistentModelIndex
_HIGH = 26


class Rows(QAbstractTableModel):
    """Rows of any kind, put into words by who knows them.

    Parameters
    ----------
    columns : sequence of str
        What they are called.
    numbers : sequence of str
        Those of them that stand to the right.
    """

    def __init__(self, columns: Sequence[str], numbers: Sequence[str] = ()) -> None:
        super().__init__()
        self.rows: list[Any] = []
        self._columns, self._numbers = tuple(columns), frozenset(numbers)

    def words(self, row: Any, column: str) -> str:
        """What stands in a cell."""
        raise NotImplementedError

    def tip(self, row: Any, column: str) -> str:
        """What its tip tells."""
        return self.words(row, column)

    def show(self, rows: Sequence[Any]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = list(rows)
        self.endResetModel()

    def add(self, row: Any) -> None:
        """Show one more, at the end."""
        self.beginInsertRows(QModelIndex(), len(self.rows), len(self.rows))
        self.rows.append(row)
        self.endInsertRows()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008 (Qt's own way)
        """Rows."""
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008 (Qt's own way)
        """Columns."""
        return 0 if parent.isValid() else len(self._columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """Names of columns."""
        if orientation != Qt.Orientation.Horizontal:
            return None
        name = self._columns[section]
        return {Qt.ItemDataRole.DisplayRole: name, Qt.ItemDataRole.TextAlignmentRole: self._side(name)}.get(role)

    def data(self, index: _Index, role: int = 0) -> Any:
        """What a cell tells."""
        row, name = self.rows[index.row()], self._columns[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self.words(row, name)
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.tip(row, name)
        return self._side(name) if role == Qt.ItemDataRole.TextAlignmentRole else None

    def _side(self, name: str) -> int:
        side = Qt.AlignmentFlag.AlignRight if name in self._numbers else Qt.AlignmentFlag.AlignLeft
        return int(side | Qt.AlignmentFlag.AlignVCenter)


class Table(QTableView):
    """Shows rows; Tab leaves it, arrows walk it."""

    def __init__(self, name: str, rows: Rows) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setModel(rows)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(_HIGH)
