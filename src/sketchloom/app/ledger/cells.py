"""How the ledger is drawn: its cells, and the totals that stay in sight."""

from PySide6.QtCore import (
    QRect,
    QRectF,
    QSize,
    Qt,
)
from PySide6.QtGui import QColor, QFont, QPainter, QPen
from PySide6.QtWidgets import (
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from sketchloom.app.ledger.rows import COLUMNS, STOCK, TOTAL, Index, Rows
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import edge_on

__all__ = ["ROW", "Cell", "Totals"]

ROW = 23


class Cell(QStyledItemDelegate):
    """Draws a cell: swatch and name, or a figure with its change beside it for two seconds."""

    flashing = False

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Draw a cell."""
        rows = index.model()
        assert isinstance(rows, Rows)
        t = theme.tokens
        area = QRectF(option.rect)
        total = rows.layers[index.row()][0] == TOTAL
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
        elif index.column() == STOCK:
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
        """One row high."""
        return QSize(60, ROW)


class Totals(QWidget):
    """The totals, in sight whatever is scrolled; at the end of the table they lie on their own row."""

    def __init__(self, table: QTableView, rows: Rows, cell: Cell) -> None:
        super().__init__(table)
        self._table, self._rows, self._cell = table, rows, cell
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def place(self) -> None:
        """Lie at the bottom of the table, if it cannot show all rows."""
        room = self._table.viewport().geometry()
        self.setGeometry(room.left(), room.bottom() + 1 - ROW, room.width(), ROW)
        self.setVisible(len(self._rows.layers) * ROW > room.height())
        self.update()

    def paintEvent(self, event) -> None:
        """Draw the last row."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.tokens.linen))
        painter.setPen(QPen(QColor(theme.tokens.line), 1))
        painter.drawLine(self.rect().topLeft(), self.rect().topRight())
        last = len(self._rows.layers) - 1
        for column in range(len(COLUMNS)) if last >= 0 else ():
            if self._table.isColumnHidden(column):
                continue
            option = QStyleOptionViewItem()
            option.rect = QRect(self._table.columnViewportPosition(column), 0, self._table.columnWidth(column), ROW)
            self._cell.paint(painter, option, self._rows.index(last, column))
