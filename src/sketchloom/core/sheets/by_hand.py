"""What a hand laid: kept by places in the picture, found again among the pieces, moved, and let go."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.sheets.layout import Group, Laid, Layout
from sketchloom.core.sheets.parts import Body, Item
from sketchloom.core.sheets.settings import Placement
from sketchloom.core.sheets.work import Work

__all__ = ["Finder", "Where", "placed", "with_laid"]

_SAME_AREA = 0.2
"""Share by which the area of what was laid may have changed."""
_BESIDE = 0.2
"""mm that its place may lie beside it."""


class Finder:
    """Finds pieces again by places in them; each is found once.

    Parameters
    ----------
    items : sequence of Item
    """

    def __init__(self, items: Sequence[Item]) -> None:
        self.left = {(id(item.body), item.copy): item for item in items}
        bodies: dict[str, dict[int, Body]] = {}
        for item in items:
            bodies.setdefault(item.body.layer, {})[id(item.body)] = item.body
        self._trees: dict[str, tuple[shapely.STRtree, list[Body]]] = {}
        for layer, some in bodies.items():
            parts = [(part.shape, body) for body in some.values() for part in body.parts]
            self._trees[layer] = shapely.STRtree([shape for shape, _ in parts]), [body for _, body in parts]

    def found(self, one: Placement, at: Floats, scale: float) -> Item | None:
        """Give what a placement is of, if it is there and was not found yet; `at` in mm of the design."""
        if one.layer not in self._trees:
            return None
        tree, bodies = self._trees[one.layer]
        area = one.area * scale**2
        for place in sorted(tree.query(shapely.Point(*at), "dwithin", _BESIDE).tolist()):
            body = bodies[place]
            same = abs(body.area - area) <= _SAME_AREA * max(area, body.area)
            if same and (item := self.left.pop((id(body), one.copy), None)) is not None:
                return item
        return None


class Where(NamedTuple):
    """Where something lies: on which sheet of its group, its low corner there, mm, and its turn."""

    item: Item
    sheet: int
    x: float
    y: float
    turn: float


def placed(group: Group, where: Sequence[Where], work: Work) -> list[Placement]:
    """Give what the recipe keeps of pieces that were laid."""
    layers = [one.item.body.layer for one in where]
    inside = [one.item.body.largest.shape.representative_point() for one in where]
    places = work.in_source(layers, [(point.x, point.y) for point in inside]).tolist()
    scales = [work.design_of(layer).scale for layer in layers]
    return [
        Placement(
            layer=one.item.body.layer,
            copy=one.item.copy,
            at=(at[0], at[1]),
            area=one.item.body.area / scale**2,
            scale=scale,
            group=group.key,
            sheet=one.sheet,
            x=one.x,
            y=one.y,
            turn=one.turn,
        )
        for one, at, scale in zip(where, places, scales, strict=True)
    ]


def with_laid(
    before: Iterable[Placement], layout: Layout, work: Work, laid: Laid, group: Group, to: Where
) -> tuple[Placement, ...]:
    """Lay a piece elsewhere by hand.

    All that lies on the sheet that it leaves, and on the one that it comes to,
    stays where it is: else what is round it would be laid anew under the hand.

    Parameters
    ----------
    before : iterable of Placement
        Those of the recipe.
    layout : Layout
    work : Work
    laid : Laid
        The piece, where it lies now.
    group : Group
    to : Where
        Where it goes.
    """
    sheets = layout.of_group(group.key)
    left = next(sheet.number for sheet in sheets if any(one is laid for one in sheet.laid))
    kept = [
        Where(one.item, sheet.number, *one.bounds[:2], one.turn)
        for sheet in sheets
        for one in sheet.laid
        if one is not laid and (one.by_hand or sheet.number in (left, to.sheet))
    ]
    lost = set(layout.unplaced)
    others = [one for one in before if one.group != group.key or one in lost]
    return (*others, *placed(group, [*kept, to], work))
