"""Small pictures in lists."""

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QIcon, QImage, QPainter, QPixmap

__all__ = ["image_of", "square_icon"]


def image_of(rgba: np.ndarray) -> QImage:
    """Make an image of (H, W, 4) uint8."""
    high, wide = rgba.shape[:2]
    return QImage(rgba.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()


def square_icon(image: QImage, side: int) -> QIcon:
    """A picture in the middle of a square, as large as it fits there; `side` in px."""
    square = QPixmap(2 * side, 2 * side)
    square.setDevicePixelRatio(2)
    square.fill(QColor(0, 0, 0, 0))
    ratio, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    small = image.scaled(2 * side, 2 * side, ratio, smooth)
    small.setDevicePixelRatio(2)
    painter = QPainter(square)
    painter.drawImage(QPointF((side - small.width() / 2) / 2, (side - small.height() / 2) / 2), small)
    painter.end()
    return QIcon(square)
