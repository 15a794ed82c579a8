"""The ledger: the numbers of every layer, always in view."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QPersistentModelIndex,
    QRect,
    QRectF,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from sketchloom.app.measures import in_unit
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import edge_on
from sketchloom.core.curves import Path
from sketchloom.core.layers import LayerStack

__all__ = ["Ledger"]

_FLASH = 2000
_ROW = 23
_NAMES, _LEAST_NAMES = 150, 110
"""Width of the names' column, and where there is little room."""
_BESIDE = 20
"""px that a column leaves beside what it says."""
_TOTAL = "total"
COLUMNS = ("Layer", "Stock", "Pieces", "Place by hand", "Nodes", "Cut length", "Narrowest", "Wide × high")
_SHORT = {3: "By hand", 5: "Cut"}
"""Heads of columns where there is little room."""
_STOCK, _SIZE = 1, 7
_LEAVE = (_STOCK, 4, _SIZE)
"""Columns that are left out, one after the other, where what they say does not fit."""
_HELP = (
    "Top layer first",
    "What the layer is cut from",
    "Connected parts of the layer",
    "Pieces beyond the first, where the stock has no carrier that keeps them in place, as paper has none",
    "Corners and curve ends the blade runs through",
    "Length of all outlines of the layer",
    "Width of the narrowest place of the layer, pointed tips aside",
    "Width and height of what is cut of the layer, as it lies",
)
Index = QModelIndex | QPersistentModelIndex
_TOP = QModelIndex()


_Box = tuple[float, float, float, float]


def _box_of(path: Path) -> _Box | None:
    return path.bounds if path.nodes else None


class _Rows(QAbstractTableModel):
    """Rows top layer first, then a total; keeps the last change of every value."""

    def __init__(self, unit) -> None:
        super().__init__()
        self._unit = unit
        self.layers: list[tuple[str, str, str, str]] = []
        """Key, name, colour and stock of each; those of the total are empty, but for its name."""
        self.values: list[tuple[float, ...]] = []
        self.changes: dict[tuple[str, int], float] = {}
        """By a layer's key and a column."""
        self.chosen: dict[str, int] = {}
        """How many pieces of each layer are chosen, by its key."""
        self.short = False
        """Whether heads are shortened."""
        self._shown_in = ""
        self._sizes: list[tuple[float, float]] = []
        self._boxes: list[tuple[Path, _Box | None]] = []

    def measured(self, stack: LayerStack) -> list[_Box | None]:
        """Extent of each layer, top layer first, mm; looked up where it is known."""
        known = {id(path): box for path, box in self._boxes}
        boxes = [(layer.path, known.get(id(layer.path)) or _box_of(layer.path)) for layer in reversed(stack.layers)]
        self._boxes = boxes
        return [box for _, box in boxes]

    def _measure(self, stack: LayerStack) -> None:
        """Width and height of each layer, top layer first, and of all that are cut together, mm."""
        layers = list(reversed(stack.layers))
        boxes = self.measured(stack)
        sent = [box for box, layer in zip(boxes, layers, strict=True) if box and not layer.hidden]
        whole = (*np.min(sent, axis=0)[:2], *np.max(sent, axis=0)[2:]) if sent else None
        self._sizes = [(box[2] - box[0], box[3] - box[1]) if box else (0.0, 0.0) for box in (*boxes, whole)]

    def show(self, stack: LayerStack | None, compare: bool, narrowest: Mapping[str, float]) -> bool:
        """Show a stack; while its layers stay, only what changes is drawn anew.

        `compare` says whether what is shown is of the same job, so that changes mean something.
        Gives whether there is more to show than narrowest places.
        """
        layers: list[tuple[str, str, str, str]] = []
        values: list[tuple[float, ...]] = []
        if stack is not None:
            self._measure(stack)
            for layer in reversed(stack.layers):
                name = f"{layer.name} (hidden)" if layer.hidden else layer.name
                layers.append((layer.key, name, layer.colour, layer.stock.name if layer.stock else "any"))
                thin = narrowest.get(layer.key, 0.0)
                figures = layer.pieces, layer.loose, layer.path.nodes, layer.cut_length, thin
                values.append(figures)
            sent = [row for row, layer in zip(values, reversed(stack.layers), strict=True) if not layer.hidden]
            layers.append((_TOTAL, "Total", "", ""))
            thinnest = min((row[-1] for row in sent if row[-1]), default=0.0)
            sums = [sum(column) for column in zip(*sent, strict=True)] or [0.0] * 5
            values.append((*sums[:-1], thinnest))
        alike = layers == self.layers and self._unit() == self._shown_in
        self._shown_in = self._unit()
        if alike and compare and [row[:-1] for row in values] == [row[:-1] for row in self.values]:
            self._measured(values)
            return False
        if not alike:
            self.beginResetModel()
        before = {key: row for (key, *_), row in zip(self.layers, self.values, strict=True)} if compare else {}
        flashed, old_values = set(self.changes), self.values
        self.layers, self.values = layers, values
        self.changes = {}
        for (key, *_), row in zip(self.layers, self.values, strict=True):
            for column, (new, old) in enumerate(zip(row, before.get(key, row), strict=True)):
                if round(new - old, 3 if column > 2 else 0) and (column < 4 or (new and old)):
                    self.changes[key, column + 2] = new - old
        if not alike:
            self.endResetModel()
            return True
        for place, ((key, *_), new_row, old_row) in enumerate(zip(layers, values, old_values, strict=True)):
            for column, (new, old) in enumerate(zip(new_row, old_row, strict=True)):
                if new != old or (key, column + 2) in flashed:
                    cell = self.index(place, column + 2)
                    self.dataChanged.emit(cell, cell)
        return True

    def _measured(self, values: list[tuple[float, ...]]) -> None:
        """Take over narrowest places, which come after the rest; what has changed before them goes on flashing."""
        old, self.values = self.values, values
        for place, (new_row, old_row) in enumerate(zip(values, old, strict=True)):
            if new_row[-1] != old_row[-1]:
                cell = self.index(place, len(COLUMNS) - 2)
                self.dataChanged.emit(cell, cell)

    def rowCount(self, parent: Index = _TOP) -> int:
        return 0 if parent.isValid() else len(self.layers)

    def columnCount(self, parent: Index = _TOP) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation == Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                return _SHORT.get(section, COLUMNS[section]) if self.short else COLUMNS[section]
            if role == Qt.ItemDataRole.ToolTipRole:
                return _HELP[section]
            if role == Qt.ItemDataRole.TextAlignmentRole:
                side = Qt.AlignmentFlag.AlignLeft if section <= _STOCK else Qt.AlignmentFlag.AlignRight
                return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            if column <= _STOCK:
                return self.layers[row][1 if column == 0 else 3]
            if column == _SIZE:
                unit = self._unit()
                return f"{' × '.join(in_unit(side, unit) for side in self._sizes[row])} {unit}"
            return self._written(column, self.values[row][column - 2])
        if role == Qt.ItemDataRole.AccessibleTextRole:
            chosen = self.chosen.get(self.layers[row][0], 0) if column == 0 else 0
            more = f", {chosen} pieces chosen" if chosen else ""
            return f"{COLUMNS[column]}: {self.data(index, Qt.ItemDataRole.DisplayRole)}{more}"
        return None

    def _written(self, column: int, value: float) -> str:
        unit = self._unit()
        if column == 3 and not value:
            return "none"
        if column <= 4:
            return f"{value:,.0f}".replace(",", "\u2009")
        if column == 6 and not value:
            return "…"
        return f"{in_unit(value, unit, 0 if column == 5 else 1)} {unit}"

    def change(self, row: int, column: int) -> str:
        """The change of a value since the last setting, with its sign, or nothing."""
        value = self.changes.get((self.layers[row][0], column))
        if value is None or column == _SIZE:
            return ""
        written = self._written(column, abs(value)).split(" ")[0]
        return ("+" if value > 0 else "\u2212") + written if any(c in written for c in "123456789") else ""


class _Cell(QStyledItemDelegate):
    """Draws a cell: swatch and name, or a figure with its change beside it for two seconds."""

    flashing = False

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rows = index.model()
        assert isinstance(rows, _Rows)
        t = theme.tokens
        area = QRectF(option.rect)
        total = rows.layers[index.row()][0] == _TOTAL
        selected = bool(option.state & option.state.State_Selected) and not total
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if selected:
            painter.fillRect(area, QColor(t.wash))
        painter.setPen(QPen(QColor(t.line), 1))
        if not total:
            painter.drawLine(area.bottomLeft(), area.bottomRight())
        painter.setFont(font(1, QFont.Weight.DemiBold if total else QFont.Weight.Normal))
        text = str(index.data(Qt.ItemDataRole.DisplayRole))
        if index.column() == 0:
            left = area.left() + 14
            if not total:
                colour = rows.layers[index.row()][2]
                painter.setPen(QPen(QColor(edge_on(t, colour, t.linen)), 0.8))
                painter.setBrush(QColor(colour))
                painter.drawRoundedRect(QRectF(left, area.center().y() - 6, 12, 12), 3, 3)
                left += 20
            chosen = rows.chosen.get(rows.layers[index.row()][0], 0)
            if chosen:
                note = f"{chosen} chosen"
                painter.setFont(font(0, QFont.Weight.DemiBold))
                painter.setPen(QColor(t.indigo))
                painter.drawText(
                    area.adjusted(0, 0, -8, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, note
                )
                area.setRight(area.right() - 14 - painter.fontMetrics().horizontalAdvance(note))
                painter.setFont(font(1))
            painter.setPen(QColor(t.ink))
            room = QRectF(left, area.top(), area.right() - left, area.height())
            fitting = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, fitting)
        elif index.column() == _STOCK:
            painter.setPen(QColor(t.faded))
            room = area.adjusted(6, 0, -6, 0)
            fitting = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, fitting)
        else:
            painter.setPen(QColor(t.ink))
            painter.drawText(
                area.adjusted(0, 0, -10, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text
            )
            change = rows.change(index.row(), index.column()) if self.flashing else ""
            taken = painter.fontMetrics().horizontalAdvance(text) + 18
            painter.setFont(font(0, QFont.Weight.DemiBold))
            if change and taken + painter.fontMetrics().horizontalAdvance(change) <= area.width():
                painter.setPen(QColor(t.moss if change[0] != "+" else t.ochre))
                painter.drawText(
                    area.adjusted(0, 0, -taken, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, change
                )
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(60, _ROW)


class _Totals(QWidget):
    """The totals, in sight whatever is scrolled; at the end of the table they lie on their own row."""

    def __init__(self, table: QTableView, rows: _Rows, cell: _Cell) -> None:
        super().__init__(table)
        self._table, self._rows, self._cell = table, rows, cell
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def place(self) -> None:
        """Lie at the bottom of the table, if it cannot show all rows."""
        room = self._table.viewport().geometry()
        self.setGeometry(room.left(), room.bottom() + 1 - _ROW, room.width(), _ROW)
        self.setVisible(len(self._rows.layers) * _ROW > room.height())
        self.update()

    def paintEvent(self, event) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.tokens.linen))
        painter.setPen(QPen(QColor(theme.tokens.line), 1))
        painter.drawLine(self.rect().topLeft(), self.rect().topRight())
        last = len(self._rows.layers) - 1
        for column in range(len(COLUMNS)) if last >= 0 else ():
            if self._table.isColumnHidden(column):
                continue
            option = QStyleOptionViewItem()
            option.rect = QRect(self._table.columnViewportPosition(column), 0, self._table.columnWidth(column), _ROW)
            self._cell.paint(painter, option, self._rows.index(last, column))


class Ledger(QTableView):
    """A row a layer; a click or the arrows select the layer everywhere."""

    selected = Signal(str)
    """Key of the layer, or nothing."""

    def __init__(self, unit) -> None:
        super().__init__()
        self.setAccessibleName("Ledger")
        self._rows = _Rows(unit)
        self._cell = _Cell(self)
        self.setModel(self._rows)
        self.setItemDelegate(self._cell)
        self.setShowGrid(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(_ROW)
        self.verticalHeader().setMinimumSectionSize(_ROW)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.horizontalHeader().setMinimumSectionSize(20)
        self.horizontalHeader().setHighlightSections(False)
        self.horizontalHeader().setFixedHeight(24)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._calm = QTimer(self, interval=_FLASH, singleShot=True)
        self._calm.timeout.connect(self._end_flash)
        self.selectionModel().currentRowChanged.connect(lambda now, _: self._tell(now.row()))
        theme.changed.connect(self.viewport().update)
        self._totals = _Totals(self, self._rows, self._cell)

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
        head = _SHORT.get(column, COLUMNS[column]) if short else COLUMNS[column]
        said = [figures.horizontalAdvance(self.text_at(row, column)) for row in range(rows.rowCount())]
        if column == _STOCK:
            said = [min(max(said, default=0), 110)]  # a long name is cut short, a figure never
        return max((self.horizontalHeader().fontMetrics().horizontalAdvance(head), *said)) + _BESIDE

    def _share_room(self) -> None:
        """Show what fits whole: heads are shortened, then columns left out; what room is left is shared."""
        room, shown = self.viewport().width(), list(range(1, len(COLUMNS)))
        short = sum(self._needs(column, False) for column in shown) + _NAMES > room
        needs = {column: self._needs(column, short) for column in shown}
        for column in _LEAVE:
            if sum(needs[one] for one in shown) + (_LEAST_NAMES if short else _NAMES) > room:
                shown.remove(column)
        if short != self._rows.short:
            self._rows.short = short
            self._rows.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, len(COLUMNS) - 1)
        free = max(0, room - sum(needs[one] for one in shown) - (_LEAST_NAMES if short else _NAMES)) // (len(shown) + 1)
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
        return QSize(400, 26 + _ROW * min(8, max(3, self._rows.rowCount())))

    def minimumSizeHint(self) -> QSize:
        """As high as it wants to be."""
        return QSize(200, self.sizeHint().height())

    def _tell(self, row: int) -> None:
        layers = self._rows.layers
        there = 0 <= row < len(layers) and layers[row][0] != _TOTAL
        self.selected.emit(layers[row][0] if there else "")

    def _end_flash(self) -> None:
        self._cell.flashing = False
        self.viewport().update()
        self._totals.update()
