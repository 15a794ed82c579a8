"""Laying out: what a hand laid first, then the rest, largest first, each where it reaches least far down."""

import math
from collections.abc import Callable, Sequence

import numpy as np

from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.sheets.board import Board, Spot
from sketchloom.core.sheets.bodies import in_copies, sorted_bodies
from sketchloom.core.sheets.boxes import lay_boxes
from sketchloom.core.sheets.by_hand import Finder
from sketchloom.core.sheets.filling import FEW, Filled, Filling, Spotted
from sketchloom.core.sheets.groups import groups_of
from sketchloom.core.sheets.layout import Group, Laid, Layout, Sheet
from sketchloom.core.sheets.parts import Body, Item
from sketchloom.core.sheets.seams import Seam
from sketchloom.core.sheets.settings import Placement, SheetSettings
from sketchloom.core.sheets.work import Work
from sketchloom.core.units import DECIMALS

__all__ = ["best_filling", "lay_out"]

_SOME = 300
"""Pieces up to which boxes are tried too."""
_SAME_SCALE = 1e-6

Order = Callable[[Body], float]
_ORDERS: tuple[Order, ...] = (
    lambda body: -body.area,
    lambda body: -max(body.bounds(0, False)[2] - body.bounds(0, False)[0],
                      body.bounds(0, False)[3] - body.bounds(0, False)[1]),
    lambda body: -body.length,
)  # fmt: skip


def lay_out(work: Work, settings: SheetSettings, tick: Tick = no_tick) -> Layout:
    """Lay work on sheets.

    Parameters
    ----------
    work : Work
    settings : SheetSettings
    tick : callable

    Returns
    -------
    Layout
        The same for the same work and settings, to the last digit.
    """
    groups = groups_of(work, settings)
    sheets: list[Sheet] = []
    laid = [one for one in settings.placements if not work.waits(one.layer)]
    lost: list[Placement] = [one for one in laid if all(one.group != group.key for group in groups)]
    too_large: list[Item] = []
    apart: list[str] = []
    seams: list[Seam] = []
    keys = {cut.key for group in groups for cut in group.cuts}
    idle = [one for one in settings.seams if one.layer not in keys and not work.waits(one.layer)]
    for place, group in enumerate(groups):

        def own_tick(done: float, place: int = place) -> None:
            tick((place + done) / len(groups))

        bodies = sorted_bodies(group, Filling(group, settings, []), work, own_tick)
        too_large += [Item(body, 1) for body in bodies.too_large]
        apart += bodies.apart
        seams += bodies.seams
        idle += bodies.idle
        items = in_copies(bodies, settings, work)
        filling = Filling(group, settings, items)
        own = [one for one in laid if one.group == group.key]
        fixed, rest, gone = _by_hand(filling, items, own, work) if own else ([], items, [])
        lost += gone
        best = best_filling(filling, rest, fixed, own_tick)
        sheets += [_sheet(group, number, board) for number, board in enumerate(best.boards) if board]
        for body in bodies.fitting:
            body.forget_shapes()
    return Layout(
        groups, tuple(sheets), tuple(lost), tuple(too_large), tuple(dict.fromkeys(apart)), tuple(seams), tuple(idle)
    )


def by(order: Order) -> Callable[[Item], tuple[float, int]]:
    """Sort items by their bodies, then by copy."""
    return lambda item: (order(item.body), item.copy)


def best_filling(
    filling: Filling, items: Sequence[Item], fixed: Sequence[tuple[int, Spotted]], tick: Tick = no_tick
) -> Filled:
    """Fill the sheets of a group: of few pieces the best of several orders, and of boxes laid side by side."""
    orders = _ORDERS if len(items) <= FEW else _ORDERS[:1]
    found: list[Filled] = []
    for place, order in enumerate(orders):

        def own_tick(done: float, place: int = place) -> None:
            tick((place + done) / len(orders))

        listed = sorted(items, key=by(order))
        found.append(filling.fill(listed, fixed, tick=own_tick))
    if not fixed and len(items) <= _SOME and filling.settings.turn != "none":
        boxes = _boxed(filling, items)
        if boxes is not None:
            found.append(boxes)
    return min(found, key=lambda one: (one.used[0], round(one.used[1], 2)))


def _boxed(filling: Filling, items: Sequence[Item]) -> Filled | None:
    """What laying the boxes round all items side by side comes to; None where that fails."""
    flipped = filling.group.flipped
    turns = (0.0, 90.0) if 90.0 in {turn for item in items for turn in filling.turns(item.body)} else (0.0,)
    shapes = [filling.shape(item.body, 0.0) for item in items]
    sizes = [(shape.width, shape.height) for shape in shapes]
    gap = filling.settings.distance
    boxes = lay_boxes(sizes, (filling.width, filling.height), gap, len(turns) > 1, filling.group.roll)
    if boxes is None:
        return None
    out: list[list[Spotted]] = [[] for _ in range(1 + max((box.sheet for box in boxes), default=-1))]
    used = [0.0] * len(out)
    for item, box in zip(items, boxes, strict=True):
        turn = turns[box.turned]
        _, top, _, bottom = item.body.bounds(turn, flipped)
        out[box.sheet].append(Spotted(item, turn, Spot(box.x, box.y)))
        used[box.sheet] = max(used[box.sheet], box.y + bottom - top)
    return Filled(out, (len(out), used[-1] if used else 0.0))


def _by_hand(
    filling: Filling, items: Sequence[Item], own: Sequence[Placement], work: Work
) -> tuple[list[tuple[int, Spotted]], list[Item], list[Placement]]:
    """What a hand or a search laid, what is left to lay, and placements that hold no more."""
    fixed: list[tuple[int, Spotted]] = []
    lost: list[Placement] = []
    finder = Finder(items)
    boards: dict[int, Board] = {}
    points = work.on_page([one.layer for one in own], [one.at for one in own])
    for one, at in zip(own, points, strict=True):
        scale = work.design_of(one.layer).scale
        item = finder.found(one, at, scale)
        if item is None:
            lost.append(one)
            continue
        shape = filling.shape(item.body, one.turn)
        spot = Spot(one.x - filling.group.room[0], one.y - filling.group.room[1])
        board = boards.setdefault(one.sheet, filling.board())
        clear = board.clear(shape, spot)
        if not clear and abs(one.scale / scale - 1) > _SAME_SCALE:
            lost.append(one)  # it was laid for another size
            finder.left[id(item.body), item.copy] = item
            continue
        board.take(shape, spot)
        fixed.append((one.sheet, Spotted(item, one.turn, spot, True, not clear)))
    left = finder.left
    return fixed, [item for item in items if (id(item.body), item.copy) in left], lost


def _sheet(group: Group, number: int, board: Sequence[Spotted]) -> Sheet:
    x, y, _, _ = group.room
    laid = []
    for one in board:
        left, top, _, _ = one.item.body.bounds(one.turn, group.flipped)
        at = round(x + one.spot.x - left, DECIMALS), round(y + one.spot.y - top, DECIMALS)
        laid.append(Laid(one.item, one.turn, group.flipped, at, one.by_hand, one.clashes))
    used = max((one.bounds[3] for one in laid), default=y) - y
    width, height = group.size
    if group.roll:
        height = min(height, math.ceil(2 * y + used))
    return Sheet(group, number, (width, float(height)), tuple(laid), float(np.round(used, DECIMALS)))
