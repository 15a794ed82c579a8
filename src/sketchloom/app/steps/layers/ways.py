"""The card with the ways in which layers are built."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.theme import theme
from sketchloom.core.job import Result

if TYPE_CHECKING:
    from sketchloom.app.steps.layers.step import LayersStep

__all__ = ["WaysCard"]

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


class WaysCard(Card):
    """How layers are built, each way with its cross-section."""

    def __init__(self, step: "LayersStep") -> None:
        super().__init__("How layers are built")
        self._step = step
        self.ways: dict[str, QPushButton] = {}
        for way, (name, words, _) in _WAYS.items():
            button = QPushButton(f"{name}\n{words}")
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.setIconSize(QSize(92, 26))
            button.setMinimumHeight(54)
            button.clicked.connect(lambda _=False, way=way: step.model.change("Way of building", "layers", build=way))
            self.ways[way] = button
            self.body.addWidget(button)
        self.advice = faded()
        self.body.addWidget(self.advice)
        theme.changed.connect(self._draw)
        self._draw()

    def _draw(self) -> None:
        for way, button in self.ways.items():
            button.setIcon(QIcon(_section(way)))

    def show_result(self, result: Result) -> None:
        """Show the way in force."""
        build = self._step.model.recipe.layers.build
        self.ways[build].setChecked(True)
        self.advice.setText(_ADVICE[build])
