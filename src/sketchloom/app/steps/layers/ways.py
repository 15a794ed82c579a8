"""The card with the ways in which layers are built."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QGridLayout, QToolButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.list_row import way_button
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.layers import Build

__all__ = ["WaysCard"]

_WAYS: dict[Build, tuple[str, str, tuple[tuple[float, float, int], ...]]] = {
    "flush": ("Flush", "edge to edge", ((0.06, 0.34, 0), (0.34, 0.62, 1), (0.62, 0.94, 2))),
    "carried": ("Carried", "each on the next", ((0.06, 0.94, 0), (0.28, 0.94, 4), (0.60, 0.94, 8))),
    "backed": ("Backed", "on one base", ((0.04, 0.96, 0), (0.10, 0.36, 4), (0.40, 0.62, 5), (0.66, 0.90, 4))),
    "single": ("Single", "one sheet", ((0.06, 0.94, 0),)),
    "stencil": ("Stencil", "cut out of a sheet", ((0.04, 0.22, 0), (0.36, 0.48, 0), (0.62, 0.96, 0))),
}
"""Name, words, and a cross-section: left, right, and three times the height plus the tone of each sheet."""
_ADVICE: dict[Build, str] = {
    "flush": "Pieces meet edge to edge; a small slip shows. Good for inlay and thin film.",
    "carried": "Every layer rests on those below and no hidden window is cut. Good for layered paper and film.",
    "backed": "Pieces meet edge to edge on one solid base. Good for outdoor decals, stickers, and paper on board.",
    "single": "All pieces as one layer: a silhouette.",
    "stencil": "The inks are cut out of a sheet; what would fall out is told in Tidy, where bridges hold it.",
}
_WIDE, _HIGH = 66, 24


def _section(way: Build) -> QPixmap:
    """Draw the little cross-section of a stack."""
    t = theme.tokens
    pixmap = QPixmap(2 * _WIDE, 2 * _HIGH)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(QColor(0, 0, 0, 0))
    painter = QPainter(pixmap)
    for left, right, place in _WAYS[way][2]:
        level, tone = divmod(place, 3)
        code = (t.faded, t.moss, t.indigo)[tone]
        painter.fillRect(QRectF(_WIDE * left, 17 - 7 * level, _WIDE * (right - left), 5.5), QColor(code))
    painter.end()
    return pixmap


class WaysCard(Card):
    """How layers are built, each way with its cross-section."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("How layers are built")
        self._step = step
        self.ways: dict[Build, QToolButton] = {}
        grid = QGridLayout()
        grid.setSpacing(6)
        for place, (way, (name, words, _)) in enumerate(_WAYS.items()):
            button = way_button(name, f"{name}, {words}. {_ADVICE[way]}", (_WIDE, _HIGH), (73, 56))
            button.setAccessibleName(f"{name}, {words}")
            button.clicked.connect(lambda _=False, way=way: step.change("Way of building", build=way))
            self.ways[way] = button
            grid.addWidget(button, place // 3, place % 3)
        self.body.addLayout(grid)
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
