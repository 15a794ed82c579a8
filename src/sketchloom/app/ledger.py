"""The ledger: the numbers of every layer, always in view."""

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QPainter, QPen
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTableView

from sketchloom.app.fields import in_unit
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.core.layers import LayerStack

__all__ = ["Ledger"]

_FLASH = 2000
_ROW = 23
COLUMNS = ("Layer", "Pieces", "Loose pieces", "Nodes", "Cut length", "Area")
_HELP = (
    "Top layer first",
    "Connected parts of the layer",
    "Pieces beyond the first; without a carrier each is placed by hand",
    "Corners and curve ends the blade runs through",
    "Length of all outlines of the layer",
    "Material the layer covers",
)
Index = QModelIndex | QPersistentModelIndex
_TOP = QModelIndex()


class _Rows(QAbstractTableModel):
    """Rows top layer first, then a total; keeps the last change of every value."""

    def __init__(self, unit) -> None:
        super().__init__()
        self._unit = unit
        self.names: list[tuple[str, str]] = []
        self.values: list[tuple[float, ...]] = []
        self.changes: dict[tuple[str, int], float] = {}
        self._shown_in = ""

    def show(self, stack: LayerStack | None) -> None:
        """Show a stack; while its layers stay, only what changes is drawn anew."""
        names: list[tuple[str, str]] = []
        values: list[tuple[float, ...]] = []
        if stack is not None:
            for layer in reversed(stack.layers):
                names.append((layer.name, layer.ink.hex))
                values.append((layer.pieces, layer.loose, layer.path.nodes, layer.cut_length, layer.area))
            names.append(("Total", ""))
            values.append(tuple(sum(column) for column in zip(*values, strict=True)))
        alike = names == self.names and self._unit() == self._shown_in
        self._shown_in = self._unit()
        if not alike:
            self.beginResetModel()
        before = {name: row for (name, _), row in zip(self.names, self.values, strict=True)}
        flashed, old_values = set(self.changes), self.values
        self.names, self.values = names, values
        self.changes = {}
        for (name, _), row in zip(self.names, self.values, strict=True):
            for column, (new, old) in enumerate(zip(row, before.get(name, row), strict=True)):
                if round(new - old, 3 if column > 2 else 0):
                    self.changes[name, column + 1] = new - old
        if not alike:
            self.endResetModel()
            return
        for row, ((name, _), new_row, old_row) in enumerate(zip(names, values, old_values, strict=True)):
            for column, (new, old) in enumerate(zip(new_row, old_row, strict=True)):
                if new != old or (name, column + 1) in flashed:
                    cell = self.index(row, column + 1)
                    self.dataChanged.emit(cell, cell)

    def rowCount(self, parent: Index = _TOP) -> int:
        return 0 if parent.isValid() else len(self.names)

    def columnCount(self, parent: Index = _TOP) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation == Qt.Orientation.Horizontal:
            if role == Qt.ItemDataRole.DisplayRole:
                return COLUMNS[section]
            if role == Qt.ItemDataRole.ToolTipRole:
                return _HELP[section]
            if role == Qt.ItemDataRole.TextAlignmentRole:
                side = Qt.AlignmentFlag.AlignLeft if section == 0 else Qt.AlignmentFlag.AlignRight
                return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.DisplayRole:
            return self.names[row][0] if column == 0 else self._written(column, self.values[row][column - 1])
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{COLUMNS[column]}: {self.data(index, Qt.ItemDataRole.DisplayRole)}"
        return None

    def _written(self, column: int, value: float) -> str:
        unit = self._unit()
        if column <= 3:
            return f"{value:,.0f}".replace(",", "\u2009")
        if column == 4:
            return f"{in_unit(value, unit, 0)} {unit}"
        per = {"mm": 100.0, "cm": 100.0, "in": 645.16}[unit]
        return f"{value / per:.1f} {'in' if unit == 'in' else 'cm'}²"

    def change(self, row: int, column: int) -> str:
        """The change of a value since the last setting, with its sign, or nothing."""
        value = self.changes.get((self.names[row][0], column))
        if value is None:
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
        total = index.row() == len(rows.names) - 1
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
                painter.setPen(QPen(QColor(t.faded), 0.8))
                painter.setBrush(QColor(rows.names[index.row()][1]))
                painter.drawRoundedRect(QRectF(left, area.center().y() - 6, 12, 12), 3, 3)
                left += 20
            painter.setPen(QColor(t.ink))
            room = QRectF(left, area.top(), area.right() - left, area.height())
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)
        else:
            painter.setPen(QColor(t.ink))
            painter.drawText(
                area.adjusted(0, 0, -10, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text
            )
            change = rows.change(index.row(), index.column()) if self.flashing else ""
            if change:
                taken = painter.fontMetrics().horizontalAdvance(text) + 18
                painter.setFont(font(0, QFont.Weight.DemiBold))
                painter.setPen(QColor(t.moss if change[0] != "+" else t.ochre))
                painter.drawText(
                    area.adjusted(0, 0, -taken, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, change
                )
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(60, _ROW)


class Ledger(QTableView):
    """A row a layer; a click or the arrows select the layer everywhere."""

    selected = Signal(int)
    """Layer counted from the bottom, or -1."""

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
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
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

    def show_stack(self, stack: LayerStack | None, keep: int) -> None:
        """Show the figures of a stack, with the layer `keep` still selected."""
        self.selectionModel().blockSignals(True)
        self._rows.show(stack)
        count = len(self._rows.names) - 1
        if 0 <= keep < count:
            self.selectRow(count - 1 - keep)
        self.selectionModel().blockSignals(False)
        self._cell.flashing = bool(self._rows.changes)
        self._calm.start()
        self.updateGeometry()

    def keyPressEvent(self, event) -> None:
        """Leave S and N, which are held, to the window; other keys move the selection."""
        if event.key() in (Qt.Key.Key_S, Qt.Key.Key_N):
            event.ignore()
        else:
            super().keyPressEvent(event)

    def select(self, layer: int) -> None:
        """Select a layer by its place, the bottom one 0; -1 selects none."""
        count = self.model().rowCount() - 1
        if 0 <= layer < count:
            self.selectRow(count - 1 - layer)
        else:
            self.let_go()

    def let_go(self) -> None:
        """Select no layer."""
        self.setCurrentIndex(QModelIndex())
        self.clearSelection()
        self.selected.emit(-1)

    def text_at(self, row: int, column: int) -> str:
        """What a cell says."""
        return str(self._rows.index(row, column).data())

    def sizeHint(self) -> QSize:
        """High enough for seven layers and the total; more scroll."""
        return QSize(400, 26 + _ROW * min(8, max(3, self._rows.rowCount())))

    def minimumSizeHint(self) -> QSize:
        """As high as it wants to be."""
        return QSize(200, self.sizeHint().height())

    def _tell(self, row: int) -> None:
        count = len(self._rows.names) - 1
        self.selected.emit(count - 1 - row if 0 <= row < count else -1)

    def _end_flash(self) -> None:
        self._cell.flashing = False
        self.viewport().update()
