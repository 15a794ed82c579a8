"""The ledger: the numbers of every layer, always in view."""

from collections.abc import Mapping

from PySide6.QtCore import (
    QModelIndex,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QFont, QFontMetrics
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QTableView,
)

from sketchloom.app.ledger.cells import ROW, Cell, Totals
from sketchloom.app.ledger.rows import ANY, COLUMNS, NODES, SHEETS, SHORT, SIZE, STOCK, TIME, TOTAL, Rows
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.core.layers import LayerStack
from sketchloom.core.sheets import Figures

__all__ = ["Ledger"]

_FLASH = 2000
_NAMES, _LEAST_NAMES, _BESIDE_STOCK = 150, 130, 115
"""Width of the names' column, where there is little room, and there beside names of stocks."""
_BESIDE = 20
"""px that a column leaves beside what it says."""
_LEAVE = (NODES, STOCK, TIME, SHEETS, SIZE)
"""Columns that are left out, one after the other, where what they say does not fit; first what says nothing."""


class Ledger(QTableView):
    """A row a layer; a click or the arrows select the layer everywhere."""

    selected = Signal(str)
    """Key of the layer, or nothing."""

    def __init__(self, unit) -> None:
        super().__init__()
        self.setAccessibleName("Ledger")
        self._rows = Rows(unit)
        self._cell = Cell(self)
        self.setModel(self._rows)
        self.setItemDelegate(self._cell)
        self.setShowGrid(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(ROW)
        self.verticalHeader().setMinimumSectionSize(ROW)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.horizontalHeader().setMinimumSectionSize(20)
        self.horizontalHeader().setHighlightSections(False)
        self.horizontalHeader().setFixedHeight(24)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.setDefaultDropAction(Qt.DropAction.CopyAction)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._calm = QTimer(self, interval=_FLASH, singleShot=True)
        self._calm.timeout.connect(self._end_flash)
        self.selectionModel().currentRowChanged.connect(lambda now, _: self._tell(now.row()))
        theme.changed.connect(self.viewport().update)
        self._totals = Totals(self, self._rows, self._cell)

    def show_stack(
        self, stack: LayerStack | None, keep: str, compare: bool = True, narrowest: Mapping[str, float] | None = None
    ) -> None:
        """Show the figures of a stack, with the layer of the key `keep` still selected.

        `compare` says whether the stack is of the job whose figures are shown;
        `narrowest` gives the narrowest place of each layer, mm, once it is known.
        """
        self.selectionModel().blockSignals(True)
        fresh = self._rows.show(stack, compare, narrowest or {})
        place = self._place(keep)
        if place is not None:
            self.selectRow(place)
        self.selectionModel().blockSignals(False)
        if fresh:
            self._cell.flashing = bool(self._rows.changes)
            self._calm.start()
        self.updateGeometry()
        self._share_room()

    def show_figures(self, figures: Figures | None) -> None:
        """Show on how many sheets each layer lies, and how long it is cut; None while that is not known."""
        if self._rows.show_figures(figures):
            self._share_room()

    def make_ahead(self, stack: LayerStack) -> None:
        """On the worker: measure the layers."""
        self._rows.measured(stack)

    def show_chosen(self, chosen: dict[str, int]) -> None:
        """Show how many pieces of each layer are chosen, by its ink's key."""
        if chosen != self._rows.chosen:
            self._rows.chosen = dict(chosen)
            self.viewport().update()

    def _place(self, key: str) -> int | None:
        return next((place for place, (own, *_) in enumerate(self._rows.layers) if key and own == key), None)

    def resizeEvent(self, event) -> None:
        """Give the names room, share the rest among the figures and keep the totals at the bottom."""
        super().resizeEvent(event)
        self._share_room()

    def _needs(self, column: int, short: bool) -> int:
        """Width of all that a column says, px."""
        rows, figures = self._rows, QFontMetrics(font(1, QFont.Weight.DemiBold))
        head = SHORT.get(column, COLUMNS[column]) if short else COLUMNS[column]
        said = [figures.horizontalAdvance(self.text_at(row, column)) for row in range(rows.rowCount())]
        if column == STOCK:
            said = [min(max(said, default=0), 110)]  # a long name is cut short, a figure never
        return max((self.horizontalHeader().fontMetrics().horizontalAdvance(head), *said)) + _BESIDE

    def _share_room(self) -> None:
        """Show what fits whole: heads are shortened, then columns left out; what room is left is shared."""
        room, shown = self.viewport().width(), list(range(1, len(COLUMNS)))
        short = sum(self._needs(column, False) for column in shown) + _NAMES > room
        needs = {column: self._needs(column, short) for column in shown}
        says = any(stock != ANY for *_, stock in self._rows.layers[:-1])
        names = _NAMES if not short else _BESIDE_STOCK if says else _LEAST_NAMES
        for column in _LEAVE if says else (STOCK, *(one for one in _LEAVE if one != STOCK)):
            if sum(needs[one] for one in shown) + names > room:
                shown.remove(column)
        if short != self._rows.short:
            self._rows.short = short
            self._rows.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(COLUMNS) - 1)
        free = max(0, room - sum(needs[one] for one in shown) - names) // (len(shown) + 1)
        for column in range(1, len(COLUMNS)):
            self.setColumnHidden(column, column not in shown)
            if column in shown:
                self.setColumnWidth(column, needs[column] + free)
        self.setColumnWidth(0, max(40, room - sum(needs[one] + free for one in shown)))
        self._totals.place()

    def select(self, key: str) -> None:
        """Select the layer of an ink; an ink that has none selects none."""
        place = self._place(key)
        if place is not None:
            self.selectRow(place)
        else:
            self.let_go()

    @property
    def key_in_hand(self) -> str:
        """Key of the layer that is selected, or nothing."""
        row = self.currentIndex().row()
        key = self._rows.layers[row][0] if 0 <= row < len(self._rows.layers) else ""
        return "" if key == TOTAL else key

    def let_go(self) -> None:
        """Select no layer."""
        self.setCurrentIndex(QModelIndex())
        self.clearSelection()
        self.selected.emit("")

    def text_at(self, row: int, column: int) -> str:
        """What a cell says."""
        return str(self._rows.index(row, column).data())

    def sizeHint(self) -> QSize:
        """High enough for seven layers and the total; more scroll, and the total stays in sight."""
        return QSize(400, 26 + ROW * min(8, max(3, self._rows.rowCount())))

    def minimumSizeHint(self) -> QSize:
        """As high as it wants to be."""
        return QSize(200, self.sizeHint().height())

    def _tell(self, row: int) -> None:
        layers = self._rows.layers
        there = 0 <= row < len(layers) and layers[row][0] != TOTAL
        self.selected.emit(layers[row][0] if there else "")

    def _end_flash(self) -> None:
        self._cell.flashing = False
        self.viewport().update()
        self._totals.update()
