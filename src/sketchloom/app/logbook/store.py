"""The card with the stock on hand: how much there is, and below what amount more is to be bought."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QScrollArea, QWidget

from sketchloom.app.controls import fill_box, narrow_box
from sketchloom.app.fields import Card, faded
from sketchloom.app.job_model import JobModel
from sketchloom.app.log_model import LogModel
from sketchloom.app.more_fields import AmountField
from sketchloom.app.steps.list_row import icon_button, small_button
from sketchloom.core.logbook import OnHand

__all__ = ["StoreCard"]

_MOST_SHOWN = 500
_HEAD, _ROW, _HIGHEST = 22, 36, 22 + 4 * 36
"""px of the head and of a row, and of all before they scroll."""


class StoreCard(Card):
    """Counted down by what is logged.

    Parameters
    ----------
    model : JobModel
        Whose shelf of stocks can be counted.
    log : LogModel
    """

    def __init__(self, model: JobModel, log: LogModel) -> None:
        super().__init__("Stock on hand")
        self._model, self._log = model, log
        self._on_hand: tuple[OnHand, ...] = ()
        self.told = faded("Sheets, or metres of a roll. What you log is taken off; below the least you are warned.")
        self.body.addWidget(self.told)
        self._room = QWidget()
        self.grid = QGridLayout(self._room)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(6)
        self.grid.setVerticalSpacing(4)
        self.grid.setColumnStretch(0, 1)
        self._scroll = QScrollArea()
        self._scroll.setWidget(self._room)
        self._scroll.setWidgetResizable(True)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.body.addWidget(self._scroll)
        self.which = narrow_box("Stock to count")
        self.count = small_button("Count it", self._count, "Count this stock")
        self.row(self.which, self.count)
        model.shelf.changed.connect(self._fill)
        self.amounts: dict[str, tuple[AmountField, AmountField]] = {}
        """Fields of what there is, and of the least, by the stock's name."""
        self._names: dict[str, QLabel] = {}

    def show_store(self, on_hand: Sequence[OnHand]) -> None:
        """Show what there is."""
        if tuple(on_hand) == self._on_hand and self.which.count():
            return
        same = [one.stock for one in on_hand] == [one.stock for one in self._on_hand]
        self._on_hand = tuple(on_hand)
        if not same or not self.which.count():
            self._fill()
        for one in self._on_hand[:_MOST_SHOWN]:
            self._show_row(one)

    def _fill(self) -> None:
        counted = {one.stock.casefold() for one in self._on_hand}
        free = [stock.name for stock in self._model.shelf.things if stock.name.casefold() not in counted]
        fill_box(self.which, [(name, name) for name in free], self.which.currentData())
        self.count.setEnabled(bool(free))
        while self.grid.count():
            widget = self.grid.takeAt(0).widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.amounts, self._names = {}, {}
        for column, words in enumerate(("", "There is", "Least")):
            if self._on_hand:
                self.grid.addWidget(faded(words, wrap=False), 0, column)
        for row, one in enumerate(self._on_hand[:_MOST_SHOWN], 1):
            self._add_row(row, one)
        self._scroll.setFixedHeight(min(_HIGHEST, _HEAD + _ROW * len(self._on_hand)) if self._on_hand else 0)

    def _add_row(self, row: int, one: OnHand) -> None:
        name = self._names[one.stock] = QLabel()
        amount, least = AmountField(f"{one.stock}: there is"), AmountField(f"{one.stock}: least")
        for field in (amount, least):
            field.setFixedWidth(64)
        amount.committed.connect(lambda value: self._set(self._now(one.stock)._replace(amount=value)))
        least.committed.connect(lambda value: self._set(self._now(one.stock)._replace(least=value)))
        self.amounts[one.stock] = amount, least
        away = icon_button("x", f"Count {one.stock} no longer", lambda: self._set(one, gone=True))
        for column, widget in enumerate((name, amount, least, away)):
            self.grid.addWidget(widget, row, column)
            widget.show()

    def _show_row(self, one: OnHand) -> None:
        """Show what there is now in a row that stands; a field that is being typed in keeps its focus."""
        name = self._names[one.stock]
        name.setText(f"{one.stock}, low" if one.low else one.stock)
        name.setToolTip("Buy more" if one.low else "")
        name.setProperty("role", "madder" if one.low else "")
        name.style().unpolish(name)
        name.style().polish(name)
        for field, value in zip(self.amounts[one.stock], (one.amount, one.least), strict=True):
            field.show_value(value)

    def _now(self, stock: str) -> OnHand:
        return next(one for one in self._on_hand if one.stock == stock)

    def _count(self) -> None:
        name = self.which.currentData()
        if name:
            self._set(OnHand(name, 0.0, 0.0))

    def _set(self, one: OnHand, gone: bool = False) -> None:
        self._on_hand = tuple(one if other.stock == one.stock else other for other in self._on_hand)
        self._log.write(lambda book: book.set_on_hand(one.stock, None if gone else one.amount, one.least))
