"""Step 4, Layers: how each is built, and their order."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import Step, empty_rows, swatch
from sketchloom.app.theme import icon, theme
from sketchloom.core.job import Result
from sketchloom.core.layers.stack import stacking

__all__ = ["LayersStep"]

_WAYS = {
    "flush": ("Flush", "edge to edge", ((0.06, 0.34, 0), (0.34, 0.62, 0), (0.62, 0.94, 0))),
    "carried": ("Carried", "each on the next", ((0.06, 0.94, 0), (0.28, 0.94, 1), (0.60, 0.94, 2))),
    "single": ("Single", "one sheet", ((0.06, 0.94, 0),)),
}
_ADVICE = {
    "flush": "Pieces meet edge to edge; a small slip shows. Good for inlay and thin film.",
    "carried": "Every layer rests on the one below and no hidden window is cut. Good for layered paper and film.",
    "single": "All pieces as one layer: a silhouette.",
}


def _section(way: str) -> QPixmap:
    """Draw the little cross-section of a stack."""
    t = theme.tokens
    pixmap = QPixmap(2 * 92, 2 * 26)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(QColor(0, 0, 0, 0))
    painter = QPainter(pixmap)
    for (left, right, level), code in zip(_WAYS[way][2], (t.faded, t.moss, t.indigo), strict=False):
        painter.fillRect(QRectF(92 * left, 18 - 7 * level, 92 * (right - left), 5.5), QColor(code))
    painter.end()
    return pixmap


class LayersStep(Step):
    """The way layers are built, and which lies on which."""

    key, name, view = "layers", "Layers", "Layers"

    def build(self) -> None:
        """Make the cards."""
        self._shown: object = None
        card = self.add(Card("How layers are built"))
        grid = QGridLayout()
        grid.setSpacing(8)
        self.ways: dict[str, QPushButton] = {}
        for place, (way, (name, words, _)) in enumerate(_WAYS.items()):
            button = QPushButton(f"{name}\n{words}")
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.setIconSize(QSize(92, 26))
            button.setMinimumHeight(54)
            button.clicked.connect(lambda _=False, way=way: self.model.change("Way of building", "layers", build=way))
            self.ways[way] = button
            grid.addWidget(button, place, 0)
        card.body.addLayout(grid)
        self.advice = faded()
        card.body.addWidget(self.advice)
        self.order = self.add(Card("Order", "top to bottom"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.order.body.addLayout(self.rows)
        self.reset = QPushButton("Largest at the bottom")
        self.reset.clicked.connect(lambda: self.model.change("Order of layers", "layers", order=()))
        self.order.body.addWidget(self.reset)
        theme.changed.connect(self._dress)
        self._dress()

    def _dress(self) -> None:
        for way, button in self.ways.items():
            button.setIcon(QIcon(_section(way)))
        if self.model.result is not None:
            self.show_result(self.model.result)

    def show_result(self, result: Result) -> None:
        """Show way and order."""
        build = self.model.recipe.layers.build
        self.ways[build].setChecked(True)
        self.advice.setText(_ADVICE[build])
        self.order.setVisible(build != "single" and len(result.regions.palette) > 1)
        self.reset.setVisible(bool(self.model.recipe.layers.order))
        palette = result.regions.palette
        bottom_up = stacking(palette, self.model.recipe.layers.order)
        shown = palette, bottom_up, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        focus = self.focusWidget()
        focused = focus.property("move") if focus else None
        empty_rows(self.rows)
        for place, ink in enumerate(reversed(bottom_up)):
            self.rows.addWidget(self._row(palette[ink].name, palette[ink].hex, place, len(palette), focused))

    def _row(self, name: str, colour: str, place: int, count: int, focused: object) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        mark = QLabel()
        mark.setPixmap(swatch(colour))
        line.addWidget(mark)
        line.addWidget(QLabel(name), 1)
        for way, words in ((-1, "up"), (1, "down")):
            button = QPushButton()
            can = 0 <= place + way < count
            button.setIcon(icon(f"chevron-{words}", theme.tokens.ink if can else theme.tokens.line, 16))
            button.setFixedSize(30, 28)
            button.setStyleSheet("padding: 2px;")
            button.setAccessibleName(f"Move {name} {words}")
            button.setToolTip(f"Move {name} {words}")
            button.setEnabled(can)
            button.setProperty("move", (name, way))
            button.clicked.connect(lambda _=False, place=place, way=way: self.move_layer(place, way))
            line.addWidget(button)
            if focused == (name, way):
                button.setFocus(Qt.FocusReason.OtherFocusReason)
        return row

    def move_layer(self, place: int, way: int) -> None:
        """Move the layer at a place, counted from the top, one up (-1) or down (1)."""
        result = self.model.result
        if result is None:
            return
        palette = result.regions.palette
        top_down = [palette[i].hex for i in reversed(stacking(palette, self.model.recipe.layers.order))]
        top_down[place], top_down[place + way] = top_down[place + way], top_down[place]
        self.model.change("Order of layers", "layers", order=tuple(reversed(top_down)))

    def figure(self, result: Result) -> str:
        """The way of building."""
        return result.stack.build
