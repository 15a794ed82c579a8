"""Boxes laid side by side, which of boxy pieces is at times as good as any: by rectpack."""

import math
from collections.abc import Sequence
from typing import NamedTuple

__all__ = ["Box", "lay_boxes"]

_PER_MM = 100
_MOST_SHEETS = 200


class Box(NamedTuple):
    """Where a box lies."""

    sheet: int
    x: float  # mm
    y: float
    turned: bool


def lay_boxes(
    sizes: Sequence[tuple[float, float]], sheet: tuple[float, float], gap: float, turns: bool, roll: bool
) -> list[Box] | None:
    """Lay boxes, mm, on as few sheets as that way gives; None where some find no place.

    Parameters
    ----------
    sizes : sequence of (float, float)
    sheet : (float, float)
    gap : float
        mm between boxes.
    turns : bool
        Whether they may be turned by 90 degrees.
    roll : bool
        Whether a sheet is as long as needed; it is tried at lengths that just hold all.
    """
    import rectpack

    grown = [tuple(math.ceil(round((side + gap) * _PER_MM, 6)) for side in size) for size in sizes]
    width = math.floor(round((sheet[0] + gap) * _PER_MM, 6))
    height = math.floor(round((sheet[1] + gap) * _PER_MM, 6))
    if roll:
        least = math.ceil(sum(w * h for w, h in grown) / width)
        heights = [min(height, math.ceil(least * share)) for share in (1.15, 1.3, 1.5, 2.0)]
    else:
        heights = [height]
    for high in heights:
        packer = rectpack.newPacker(rotation=turns)
        for number, (w, h) in enumerate(grown):
            packer.add_rect(w, h, number)
        for _ in range(1 if roll else _MOST_SHEETS):
            packer.add_bin(width, high)
        packer.pack()
        placed = {number: (b, x, y, w) for b, x, y, w, _, number in packer.rect_list()}
        if len(placed) == len(grown):
            numbers = {b: place for place, b in enumerate(sorted({b for b, *_ in placed.values()}))}
            return [
                Box(numbers[b], x / _PER_MM, y / _PER_MM, w != grown[number][0])
                for number, (b, x, y, w) in sorted(placed.items())
            ]
    return None
