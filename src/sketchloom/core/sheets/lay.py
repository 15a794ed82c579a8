"""Laying out: what a hand laid first, then the rest, largest first, each where it reaches least far down."""

import math
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np

from sketchloom.core.errors import ArgumentError
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.sheets.board import Board, Shape, Spot, cell_of
from sketchloom.core.sheets.boxes import lay_boxes
from sketchloom.core.sheets.by_hand import Finder
from sketchloom.core.sheets.groups import groups_of
from sketchloom.core.sheets.layout import Group, Laid, Layout, Sheet
from sketchloom.core.sheets.parts import SLACK, Body, Item, bodies_of
from sketchloom.core.sheets.settings import Placement, SheetSettings
from sketchloom.core.sheets.work import Work
from sketchloom.core.units import DECIMALS

__all__ = ["Filled", "Filling", "Spotted", "best_filling", "items_of", "lay_out"]

_FINE, _COARSE = 0.6, 1.0
"""mm of a cell, for few pieces and for many."""
_FEW, _SOME = 80, 300
"""Pieces up to which several orders are tried; up to which boxes are tried too."""
_MOST_ITEMS = 100_000
_MOST_CELLS = 400_000
_LOOSE = 1.6
"""Length of a roll, in lengths of what is laid were it solid, that a grid is made for."""
_SAME_SCALE = 1e-6

Order = Callable[[Body], float]
_ORDERS: tuple[Order, ...] = (
    lambda body: -body.area,
    lambda body: -max(body.bounds(0, False)[2] - body.bounds(0, False)[0],
                      body.bounds(0, False)[3] - body.bounds(0, False)[1]),
    lambda body: -body.length,
)  # fmt: skip


class Spotted(NamedTuple):
    """Something on a board."""

    item: Item
    turn: float
    spot: Spot
    by_hand: bool = False
    clashes: bool = False


class Filled(NamedTuple):
    """What filling the sheets of a group came to."""

    boards: list[list[Spotted]]
    used: tuple[int, float]  # sheets, and mm of the last


class Filling:
    """Fills the sheets of one group.

    Parameters
    ----------
    group : Group
    settings : SheetSettings
    items : sequence of Item
        What is to be laid; the grid is made for it.
    """

    def __init__(self, group: Group, settings: SheetSettings, items: Sequence[Item]) -> None:
        self.group, self.settings = group, settings
        _, _, self.width, self.height = group.room
        wanted = _FINE if len(items) <= _FEW else _COARSE
        area = sum(item.body.area for item in items)
        high = min(self.height, _LOOSE * area / max(self.width, 1.0)) if group.roll else self.height
        wanted = max(wanted, math.sqrt(self.width * max(high, 1.0) / _MOST_CELLS))
        self.cell = cell_of(max(self.width, 1e-6), wanted)

    def shape(self, body: Body, turn: float) -> Shape:
        """Give what is laid at a turn."""
        return body.shape(turn, self.group.flipped, self.cell, self.settings.distance)

    def turns(self, body: Body) -> tuple[float, ...]:
        """Turns in which something may lie; grain lets it be upside down only."""
        if self.settings.turn == "none":
            return (0.0,)
        if self.group.stock is not None and self.group.stock.grain:
            return (0.0, 180.0)
        quarters = (0.0, 90.0, 180.0, 270.0)
        if self.settings.turn == "quarter" or len(body.parts) > 1:
            return quarters
        upright = body.upright()
        more = [(upright + turn) % 360 for turn in quarters] + [(45.0 + turn) % 360 for turn in quarters]
        return tuple(dict.fromkeys((*quarters, *more)))

    def fits(self, body: Body) -> bool:
        """Whether something fits on an empty sheet in any turn."""
        for turn in self.turns(body):
            left, top, right, bottom = body.bounds(turn, self.group.flipped)
            if right - left <= self.width + 1e-9 and bottom - top <= self.height + 1e-9:
                return True
        return False

    def board(self) -> Board:
        """Give an empty sheet."""
        return Board(self.width, self.height, self.cell, self.settings.distance + SLACK)

    def fill(
        self,
        items: Sequence[Item],
        fixed: Sequence[tuple[int, Spotted]] = (),
        turns: Callable[[Item], Sequence[float]] | None = None,
        tick: Tick = no_tick,
    ) -> Filled:
        """Lay items in turn on the first sheet that has room, each where it reaches least far down.

        Parameters
        ----------
        items : sequence of Item
        fixed : sequence of (int, Spotted)
            What lies already, with its sheet.
        turns : callable, optional
            Turns to try of an item.
        tick : callable
        """
        boards: list[Board] = [self.board() for _ in range(1 + max((place for place, _ in fixed), default=-1))]
        out: list[list[Spotted]] = [[] for _ in boards]
        failed: list[set[int]] = [set() for _ in boards]
        for place, one in fixed:
            boards[place].take(self.shape(one.item.body, one.turn), one.spot)
            out[place].append(one)
        for number, item in enumerate(items):
            tick(number / len(items))
            shapes = [(turn, self.shape(item.body, turn)) for turn in (turns(item) if turns else self.turns(item.body))]
            for place in range(len(boards) + 1):
                if place == len(boards):
                    boards.append(self.board())
                    out.append([])
                    failed.append(set())
                if id(item.body) in failed[place]:
                    continue
                found = _lowest(boards[place], shapes)
                if found is None:
                    failed[place].add(id(item.body))  # a sheet only fills: what found no room will find none
                    continue
                turn, shape, spot = found
                boards[place].take(shape, spot)
                out[place].append(Spotted(item, turn, spot))
                break
        return Filled(out, (len(boards), boards[-1].used if boards else 0.0))


def _lowest(board: Board, shapes: Iterable[tuple[float, Shape]]) -> tuple[float, Shape, Spot] | None:
    best: tuple[tuple[float, float], float, Shape, Spot] | None = None
    for turn, shape in shapes:
        spot = board.place(shape)
        if spot is not None:
            key = spot.y + shape.height, spot.x
            if best is None or key < best[0]:
                best = key, turn, shape, spot
    return None if best is None else best[1:]


class _Bodies(NamedTuple):
    """What is laid of the cuts of a group."""

    fitting: list[Body]
    too_large: list[Body]
    apart: list[str]  # keys of layers that fit only piece by piece


def _bodies(group: Group, filling: Filling, work: Work) -> _Bodies:
    out = _Bodies([], [], [])
    for body in bodies_of(group.cuts, group.nested, work):
        if filling.fits(body):
            out.fitting.append(body)
            continue
        pieces = [Body(body.layer, [part]) for part in body.parts if not part.role]
        out.fitting.extend(piece for piece in pieces if filling.fits(piece))
        larger = [piece for piece in pieces if not filling.fits(piece)]
        out.too_large.extend(larger)
        if not larger:
            out.apart.append(body.layer)
    return out


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
    for place, group in enumerate(groups):

        def own_tick(done: float, place: int = place) -> None:
            tick((place + done) / len(groups))

        bodies = _bodies(group, Filling(group, settings, []), work)
        too_large += [Item(body, 1) for body in bodies.too_large]
        apart += bodies.apart
        items = _in_copies(bodies, settings, work)
        filling = Filling(group, settings, items)
        own = [one for one in laid if one.group == group.key]
        fixed, rest, gone = _by_hand(filling, items, own, work) if own else ([], items, [])
        lost += gone
        best = best_filling(filling, rest, fixed, own_tick)
        sheets += [_sheet(group, number, board) for number, board in enumerate(best.boards) if board]
        for body in bodies.fitting:
            body.forget_shapes()
    return Layout(groups, tuple(sheets), tuple(lost), tuple(too_large), tuple(dict.fromkeys(apart)))


def _in_copies(bodies: _Bodies, settings: SheetSettings, work: Work) -> list[Item]:
    copies = [work.copies_of(body.layer, settings.copies) for body in bodies.fitting]
    many = sum(copies)
    if many > _MOST_ITEMS:
        raise ArgumentError(
            f"{many} pieces are more than can be laid; take fewer copies, {_MOST_ITEMS} pieces at most."
        )
    return [
        Item(body, copy)
        for copy in range(1, max(copies, default=0) + 1)
        for body, most in zip(bodies.fitting, copies, strict=True)
        if copy <= most
    ]


def items_of(group: Group, settings: SheetSettings, work: Work) -> list[Item]:
    """Give all that is to be laid of a group and fits on its sheets."""
    return _in_copies(_bodies(group, Filling(group, settings, []), work), settings, work)


def by(order: Order) -> Callable[[Item], tuple[float, int]]:
    """Sort items by their bodies, then by copy."""
    return lambda item: (order(item.body), item.copy)


def best_filling(
    filling: Filling, items: Sequence[Item], fixed: Sequence[tuple[int, Spotted]], tick: Tick = no_tick
) -> Filled:
    """Fill the sheets of a group: of few pieces the best of several orders, and of boxes laid side by side."""
    orders = _ORDERS if len(items) <= _FEW else _ORDERS[:1]
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
