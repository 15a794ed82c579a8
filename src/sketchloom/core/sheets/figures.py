"""What sheets take: stock used and wasted, cost, weight, length of cut and travel, and time."""

from typing import NamedTuple

from sketchloom.core.sheets.layout import Group, Layout
from sketchloom.core.sheets.timing import Timing, seconds_of, stretches_of, timing_of
from sketchloom.core.stock import PLAIN_KNIFE, Cutter

__all__ = ["Figures", "LayerUse", "StockUsed", "figures_of"]


class StockUsed(NamedTuple):
    """What a job takes of one stock and colour."""

    group: Group
    sheets: int
    roll: float  # mm of a roll
    area: float  # mm2 taken of the stock
    waste_share: float  # of that, which is not in any piece
    cost: float
    weight: float | None  # g of the pieces, where the density is known
    timing: Timing


class LayerUse(NamedTuple):
    """What one layer takes, in all copies."""

    sheets: int  # on which it lies
    cut_time: float  # s, tool down


class Figures(NamedTuple):
    """What a job takes."""

    stocks: tuple[StockUsed, ...]
    timing: Timing
    layers: dict[str, LayerUse]
    travel_before: float
    """mm, were contours cut as the layers' files have them."""

    @property
    def sheets(self) -> int:
        """All sheets."""
        return sum(one.sheets for one in self.stocks)

    @property
    def cost(self) -> float:
        """Of all stock, in whatever money."""
        return sum(one.cost for one in self.stocks)


def figures_of(layout: Layout, cutter: Cutter | None) -> Figures:
    """Work out what a layout takes; without a cutter a plain knife stands in."""
    cutter = cutter or PLAIN_KNIFE
    out, whole = [], Timing(0.0, 0.0, 0.0, 0.0)
    layers: dict[str, LayerUse] = {}
    before = 0.0
    for group in layout.groups:
        sheets = layout.of_group(group.key)
        timing = Timing(0.0, 0.0, 0.0, 0.0)
        for sheet in sheets:
            timing = timing.with_(timing_of((stroke.path for stroke in sheet.strokes), cutter))
            before += timing_of((run.path for run in sheet.as_filed), cutter).travel
            for key in dict.fromkeys(stroke.cut.key for stroke in sheet.strokes):
                known = layers.get(key, LayerUse(0, 0.0))
                layers[key] = LayerUse(known.sheets + 1, known.cut_time)
            for of, _, path in sheet.strokes:
                took = seconds_of(stretches_of(path), cutter.speed, cutter.acceleration).sum()
                layers[of.key] = layers[of.key]._replace(cut_time=layers[of.key].cut_time + float(took))
        area = sum(sheet.size[0] * sheet.size[1] for sheet in sheets)
        cut = sum(sheet.area for sheet in sheets)
        roll = sum(sheet.size[1] for sheet in sheets) if group.roll else 0.0
        price = group.stock.price if group.stock is not None else 0.0
        cost = price * (roll / 1000 if group.roll else len(sheets))
        weight = None
        if group.stock is not None and group.stock.density:
            weight = cut * group.stock.thickness / 1000 * group.stock.density
        waste = 1 - cut / area if area else 0.0
        out.append(StockUsed(group, len(sheets), roll, area, waste, cost, weight, timing))
        whole = whole.with_(timing)
    return Figures(tuple(out), whole, layers, before)
