"""A roll packed by spyrrow's strip packer, whose answer is taken only where it holds on the outlines."""

from collections.abc import Sequence

import numpy as np
import shapely

from sketchloom.core.sheets.board import Spot
from sketchloom.core.sheets.filling import Filled, Filling, Spotted
from sketchloom.core.sheets.parts import SLACK, Item

__all__ = ["packed_strip"]

_LEAST = 1.0
"""s; in less it finds nothing."""
_MOST = 300
"""Pieces; of more our own way finds more in the same time."""
_PLAIN = 0.1
"""mm by which outlines are plainer for it; they are grown by as much."""
_SEED = 1


def packed_strip(filling: Filling, items: Sequence[Item], seconds: float) -> Filled | None:
    """Pack items on one length of a roll; None where that is not to be had, or does not hold.

    Its strip runs along x and is as high as the roll is wide, so all is turned
    by a quarter more on the roll.
    """
    if seconds < _LEAST or len(items) > _MOST or any(len(item.body.parts) > 1 for item in items):
        return None
    import spyrrow

    gap = filling.settings.distance + SLACK
    listed, shown = [], []
    for number, item in enumerate(items):
        shape = filling.shape(item.body, 0.0)
        outline = shapely.Polygon(shape.parts[0].exterior).buffer(_PLAIN).simplify(_PLAIN)
        turns = [(turn - 90) % 360 for turn in filling.turns(item.body)]
        listed.append(spyrrow.Item(str(number), list(outline.exterior.coords), 1, turns))
        shown.append(shape)
    try:
        instance = spyrrow.StripPackingInstance("roll", filling.width + 2 * _PLAIN, listed)
        config = spyrrow.StripPackingConfig(
            min_items_separation=gap, total_computation_time=max(1, int(seconds)), seed=_SEED, num_workers=1
        )
        found = instance.solve(config)
    except (ValueError, RuntimeError):
        return None
    board, out = filling.board(), list[Spotted]()
    placed = sorted(found.placed_items, key=lambda one: one.translation[0])
    if len(placed) < len(items):
        return None
    for one in placed:
        item = items[int(one.id)]
        turn = (one.rotation + 90) % 360
        # its outline at no turn began at the origin; where that corner has gone says where the low corner lies now
        corner = np.array([one.translation[0], one.translation[1]])
        at = _low_corner(filling, item, turn, corner)
        shape = filling.shape(item.body, turn)
        spot = Spot(min(max(at[0], 0.0), filling.width - shape.width), max(at[1], 0.0))
        if not board.clear(shape, spot):
            return None
        board.take(shape, spot)
        out.append(Spotted(item, turn, spot))
    return Filled([out], (1, board.used))


def _low_corner(filling: Filling, item: Item, turn: float, moved: np.ndarray) -> tuple[float, float]:
    """Where the low corner of an item lies on the roll, from where its own origin was moved to on the strip."""
    angle = np.radians(turn)
    matrix = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    points = shapely.get_coordinates(filling.shape(item.body, 0.0).parts) @ matrix.T
    low = points.min(0)
    origin = np.array([filling.width + _PLAIN - moved[1], moved[0] - _PLAIN])  # a quarter turn of the strip
    return float(origin[0] + low[0]), float(origin[1] + low[1])
