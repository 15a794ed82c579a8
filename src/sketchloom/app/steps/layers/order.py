"""The card with the order of layers, and the best one beside it."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.layers.saved import saved_words
from sketchloom.app.steps.list_row import icon_button
from sketchloom.app.theme import icon, theme
from sketchloom.core.job import Result
from sketchloom.core.layers import Layer, LayerStack, origin_of
from sketchloom.core.measures import length_words

__all__ = ["OrderCard"]

_ROW = 24
_KEY = Qt.ItemDataRole.UserRole


class _Layers(QListWidget):
    """Layers top first: dragged, or moved with Alt and the arrows; F2 renames one."""

    dropped = Signal()
    moved = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Order of layers, top first")
        self.setToolTip("Drag a layer, or move it with Alt and an arrow; F2 or a double click renames it.")
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.DoubleClicked)
        self.setIconSize(QSize(14, 14))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setTabKeyNavigation(False)
        self.setProperty("framed", True)

    def keyPressEvent(self, event) -> None:
        """Move the layer with Alt and the arrows; S and N, which are held, go to the window."""
        way = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(event.key())
        if way and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.moved.emit(way)
        elif event.key() in (Qt.Key.Key_S, Qt.Key.Key_N):
            event.ignore()
        else:
            super().keyPressEvent(event)

    def dropEvent(self, event) -> None:
        """Tell that the order is another."""
        super().dropEvent(event)
        self.dropped.emit()


class OrderCard(Card):
    """Layers top to bottom, and what the best order would save."""

    selected = Signal(str)

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("Order", "top to bottom")
        self._step = step
        self._shown: object = None
        self.layers = _Layers()
        self.layers.dropped.connect(self._take_order)
        self.layers.moved.connect(lambda way: self.move_layer(self.key, way))
        self.layers.currentItemChanged.connect(self._on_current)
        self.layers.itemChanged.connect(self._rename)
        self.body.addWidget(self.layers)
        line = QHBoxLayout()
        line.setSpacing(4)
        self.up = icon_button("chevron-up", "Move the layer up", lambda: self.move_layer(self.key, -1), side=28)
        self.down = icon_button("chevron-down", "Move the layer down", lambda: self.move_layer(self.key, 1), side=28)
        self.hide_it = icon_button("eye", "Hide or show the layer; a hidden one is not sent", self._hide, side=28)
        self.lock = icon_button("lock", "Lock the layer against changes, or free it", self._lock, side=28)
        self.copy = icon_button("copy", "Cut one more of the layer", self._copy, side=28)
        for button in (self.up, self.down, self.hide_it, self.lock, self.copy):
            line.addWidget(button)
        line.addStretch()
        self.body.addLayout(line)
        self.now, self.best = faded(), faded()
        self.body.addWidget(self.now)
        self.body.addWidget(self.best)
        self.take = QPushButton("Take the best order")
        self.take.setProperty("primary", True)
        self.take.clicked.connect(lambda: step.change("Best order", best=True))
        self.reset = QPushButton("Largest at the bottom")
        self.reset.clicked.connect(lambda: step.change("Order of layers", order=(), best=False))
        self.body.addWidget(self.take)
        self.body.addWidget(self.reset)
        self.lost = faded()
        self.body.addWidget(self.lost)

    @property
    def key(self) -> str:
        """Key of the layer in hand."""
        item = self.layers.currentItem()
        return str(item.data(_KEY)) if item is not None else ""

    def _layer(self, key: str) -> Layer | None:
        result = self._step.model.result
        return result.stack.layer(key) if result is not None and result.has("mended") else None

    def _on_current(self, item: QListWidgetItem | None) -> None:
        self.selected.emit(str(item.data(_KEY)) if item is not None else "")

    def _rename(self, item: QListWidgetItem) -> None:
        key, name = str(item.data(_KEY)), item.text().strip()[:40]
        layer = self._layer(key)
        if layer is None or not name or name == layer.name:
            self._shown = None
            self._step.refresh()
            return
        self._step.rule("Layer renamed", key, name=name)

    def _hide(self) -> None:
        key = origin_of(self.key) if "+" in self.key else self.key
        hidden = self._step.model.recipe.layers.rule(key).hidden
        self._step.rule("Layer shown" if hidden else "Layer hidden", key, unlocks=True, hidden=not hidden)

    def _lock(self) -> None:
        locked = self._step.model.recipe.layers.rule(self.key).locked
        self._step.rule("Layer freed" if locked else "Layer locked", self.key, unlocks=True, locked=not locked)

    def _copy(self) -> None:
        key = origin_of(self.key) if "+" in self.key else self.key
        copies = self._step.model.recipe.layers.rule(key).copies
        self._step.rule("Layer duplicated", key, copies=copies + 1)

    def select(self, key: str) -> None:
        """Take a layer in hand."""
        for place in range(self.layers.count()):
            if self.layers.item(place).data(_KEY) == key:
                self.layers.blockSignals(True)
                self.layers.setCurrentRow(place)
                self.layers.blockSignals(False)
                self._dress_buttons()
                return

    def show_result(self, result: Result) -> None:
        """Show the order, and the best one."""
        settings = self._step.model.recipe.layers
        stack = result.stack
        rows = tuple(
            (layer.key, layer.name, layer.colour, layer.hidden, settings.rule(layer.key).locked)
            for layer in reversed(stack.layers)
        )
        if (rows, theme.is_dark) != self._shown:
            self._shown = rows, theme.is_dark
            self._list(rows)
        one = settings.build in ("single", "stencil")
        for widget in (self.up, self.down, self.now, self.best):
            widget.setVisible(not one)
        self._show_costs(result, one)
        lost = result.planned.unplaced
        self.lost.setVisible(bool(lost))
        self.lost.setText(f"Found no place any more: {', '.join(dict.fromkeys(lost))}." if lost else "")

    def _list(self, rows: tuple[tuple[str, str, str, bool, bool], ...]) -> None:
        key = self.key
        self.layers.blockSignals(True)
        self.layers.clear()
        for own, name, colour, hidden, locked in rows:
            item = QListWidgetItem(_swatch_icon(colour), name)
            item.setData(_KEY, own)
            item.setFlags(
                Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
                | (Qt.ItemFlag.NoItemFlags if locked else Qt.ItemFlag.ItemIsEditable | Qt.ItemFlag.ItemIsDragEnabled)
            )  # fmt: skip
            state = ", ".join(word for word, on in (("hidden", hidden), ("locked", locked)) if on)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{name}{', ' if state else ''}{state}")
            if hidden:
                item.setForeground(QColor(theme.tokens.faded))
                item.setIcon(icon("eye-off", theme.tokens.faded, 14))
            self.layers.addItem(item)
            if own == key:
                self.layers.setCurrentItem(item)
        if self.layers.currentRow() < 0 and rows:
            self.layers.setCurrentRow(0)
        self.layers.blockSignals(False)
        self.layers.setFixedHeight(min(8, max(2, len(rows))) * _ROW + 6)
        self._dress_buttons()

    def _dress_buttons(self) -> None:
        place, locked = self.layers.currentRow(), self._step.model.recipe.layers.rule(self.key).locked
        movable = not locked and self._moves(self.key)
        for button, name, can in (
            (self.up, "chevron-up", movable and place > 0),
            (self.down, "chevron-down", movable and 0 <= place < self.layers.count() - 1),
            (self.hide_it, "eye-off" if self._is_hidden() else "eye", place >= 0),
            (self.lock, "lock", place >= 0),
            (self.copy, "copy", place >= 0 and not locked),
        ):
            button.setEnabled(can)
            button.show_icon(name, "indigo" if button is self.lock and locked else "ink")

    def _is_hidden(self) -> bool:
        layer = self._layer(self.key)
        return layer is not None and layer.hidden

    def _show_costs(self, result: Result, one: bool) -> None:
        if not result.has("order") or one:
            self.take.hide()
            self.reset.hide()
            return
        orders, settings = result.orders, self._step.model.recipe.layers
        names = {ink.key: ink.name for ink in result.grouping.dress}
        taken = orders.best if settings.best and orders.best else orders.present
        self.now.setText(f"Now: {self._figures(result.stack, taken.thickest)}")
        better = orders.best is not None and orders.best.keys != taken.keys
        self.take.setVisible(better)
        self.reset.setVisible(bool(settings.order) or settings.best)
        if orders.best is None:
            self.best.setText("No order keeps to all pins and to what the stocks bear; free a pin or take other stock.")
        elif better:
            listed = " · ".join(names[key] for key in reversed(orders.best.keys))
            gains = saved_words(orders.best, orders.present, self._step.unit())
            self.best.setText(f"Best: {listed}\n{gains[0].upper()}{gains[1:]}")
        else:
            sure = "" if orders.exact else ", as far as the most promising were tried"
            self.best.setText(f"This is the best order{sure}.")

    def _figures(self, stack: LayerStack, thickest: int) -> str:
        """What the layers come to as they are finished and sent: the ledger's own sums."""
        loose, cut = sum(layer.loose for layer in stack.sent), sum(layer.cut_length for layer in stack.sent)
        thick = f"{thickest} layer{'' if thickest == 1 else 's'} at the thickest"
        return f"{loose or 'none'} by hand, {length_words(cut, self._step.unit(), 0)} of cut, {thick}"

    def _moves(self, key: str) -> bool:
        """Whether it has a place of its own: a base lies below, and parts and copies go with what they are of."""
        result = self._step.model.result
        return result is not None and result.has("grouping") and key in result.grouping.keys

    def _order_now(self) -> list[str]:
        """Keys of the layers, bottom first, as they lie now."""
        result = self._step.model.result
        if result is None or not result.has("grouping"):
            return []
        best = result.orders.best if self._step.model.recipe.layers.best and result.has("order") else None
        return list(best.keys if best else result.grouping.keys)

    def _take_order(self) -> None:
        """Take the order in which the list was dropped; what has no place of its own goes back to it."""
        shown = [str(self.layers.item(place).data(_KEY)) for place in range(self.layers.count())]
        order = [key for key in reversed(shown) if self._moves(key)]
        self._shown = None
        if order != self._order_now():
            self._step.change("Order of layers", order=tuple(order), best=False)
        else:
            self._step.refresh()

    def move_layer(self, key: str, way: int) -> None:
        """Move a layer one up (-1) or down (1)."""
        keys = self._order_now()
        if key not in keys or self._step.model.recipe.layers.rule(key).locked:
            return
        place = keys.index(key)
        if not 0 <= place - way < len(keys):
            return
        keys[place], keys[place - way] = keys[place - way], keys[place]
        self.selected.emit(key)
        self._step.change("Order of layers", order=tuple(keys), best=False)


def _swatch_icon(colour: str) -> QIcon:
    """A swatch that keeps its colour where its row is selected."""
    made = QIcon(swatch(colour, 14))
    made.addPixmap(swatch(colour, 14), QIcon.Mode.Selected)
    return made
