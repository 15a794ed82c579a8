"""Icons, tinted by a token."""

from functools import cache
from importlib.resources import files

from PySide6.QtCore import QByteArray, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtSvg import QSvgRenderer

__all__ = ["icon"]


@cache
def icon(name: str, colour: str, side: int = 18) -> QIcon:
    """Give an icon of the resources in a colour."""
    text = (files("sketchloom.app") / "resources" / "icons" / f"{name}.svg").read_text("utf-8")
    renderer = QSvgRenderer(QByteArray(text.replace("currentColor", colour).encode()))
    made = QIcon()
    for scale in (1, 2):
        pixmap = QPixmap(QSize(side, side) * scale)
        pixmap.fill(Qt.GlobalColor.transparent)
        painter = QPainter(pixmap)
        renderer.render(painter)
        painter.end()
        pixmap.setDevicePixelRatio(scale)
        made.addPixmap(pixmap)
    return made
