"""Sheets of a group as they fill."""

import math
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.sheets.board import Board, Shape, Spot, cell_of
from sketchloom.core.sheets.layout import Group
from sketchloom.core.sheets.parts import SLACK, Body, Item
from sketchloom.core.sheets.settings import SheetSettings

__all__ = ["FEW", "Filled", "Filling", "Spotted"]

FEW = 80
"""Pieces up to which a grid is fine, and several orders are tried."""
_FINE, _COARSE = 0.6, 1.0
"""mm of a cell, for few pieces and for many."""
_MOST_CELLS = 400_000
_LOOSE = 1.6
"""Length of a roll, in lengths of what is laid were it solid, that a grid is made for."""


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
        wanted = _FINE if len(items) <= FEW else _COARSE
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
