"""How stock looks that is not plain: glitter sparkles, wood has a grain."""

from functools import cache

import numpy as np
from PySide6.QtGui import QBrush, QColor, QImage, QPixmap

from sketchloom.core.stock import StockKind

__all__ = ["texture_of"]

_SIDE = 96
"""px, of a tile."""
_SPECKS, _STRONG = 0.16, 110
"""Share of a glitter's px that sparkle, and how strongly, 0 to 255."""
_GRAIN = 26
"""How strong the grain of wood is."""


@cache
def texture_of(kind: StockKind | None) -> QBrush | None:
    """Give what is laid over the colour of a stock, lighter and darker in places; None for what is plain."""
    rng = np.random.default_rng(5)  # the same look each time
    tile = np.zeros((_SIDE, _SIDE, 4), np.uint8)
    if kind == "glitter film":
        light = rng.random((_SIDE, _SIDE))
        tile[..., :3] = np.where(light[..., None] < _SPECKS / 2, 0, 255)
        tile[..., 3] = np.where(light < _SPECKS, _STRONG * rng.random((_SIDE, _SIDE)), 0)
    elif kind == "wood":
        along = np.arange(_SIDE)
        sway = 3 * np.sin(2 * np.pi * along / _SIDE)[None, :]
        rings = np.sin(2 * np.pi * (np.arange(_SIDE)[:, None] + sway) / (_SIDE / 12))
        tile[..., 3] = np.clip(_GRAIN * rings, 0, 255)
    else:
        return None
    data = np.ascontiguousarray(tile)
    image = QImage(data.data, _SIDE, _SIDE, 4 * _SIDE, QImage.Format.Format_RGBA8888)
    return QBrush(QColor(0, 0, 0), QPixmap.fromImage(image.copy()))
