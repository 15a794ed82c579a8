"""What shares sheets: cuts of one stock and one colour, and the sheets that they are cut from."""

import msgspec

from sketchloom.core.cut import Cut
from sketchloom.core.sheets.layout import Group
from sketchloom.core.sheets.settings import SheetSettings
from sketchloom.core.sheets.work import Work
from sketchloom.core.stock import PLAIN_KNIFE, Cutter, Stock
from sketchloom.core.units import MM_PER_INCH

__all__ = ["LONGEST_ROLL", "groups_of"]

LONGEST_ROLL = 10_000.0
"""mm of a roll that are one sheet at most."""
_COMMON = (12 * MM_PER_INCH, 12 * MM_PER_INCH)
"""mm; of a sheet where no stock says its size."""


def groups_of(work: Work, settings: SheetSettings) -> tuple[Group, ...]:
    """Sort cuts by stock and colour, in the order in which they lie; drawn lines go with the layer that they are of.

    Of other jobs only what goes on sheets of the job itself is laid.
    """
    layers = {cut.ink.key: cut for cut in reversed(work.every) if cut.kind == "cut"}
    found: dict[tuple[Stock | None, str], list[Cut]] = {}
    solid = {cut.key: cut for cut in work.every if cut.kind == "cut"}
    lie: dict[str, list[Cut]] = {}  # what a cut that is not cut out lies on
    for one in work.lying:
        lie.setdefault(one.part.cut.key, []).append(solid.get(one.on, one.part.cut))
    for cut in work.every:
        owners = [cut] if cut.kind == "cut" else lie.get(cut.key, [layers.get(cut.ink.key, cut)])
        for same in dict.fromkeys((owner.stock, owner.colour) for owner in owners):
            if work.is_own(cut.key) or same in found:
                found.setdefault(same, []).append(cut)
    names = []
    for (stock, _), own in found.items():
        first = next((cut for cut in own if cut.kind == "cut"), own[0]).name
        names.append(stock.name if stock is not None and stock.colour else f"{stock.name} {first}" if stock else first)
    ready = settings.ready
    if ready.overcut is None:
        ready = msgspec.structs.replace(ready, overcut=settings.cutter.overcut if settings.cutter is not None else 0.0)
    out, taken = [], set[str]()
    for ((stock, colour), own), name in zip(found.items(), names, strict=True):
        key = f"{stock.name if stock else 'any'} {colour}"
        while key in taken:  # two stocks of one name and colour that differ otherwise
            key += "+"
        taken.add(key)
        size, usable, roll = _sheet_of(stock, settings)
        flipped = stock is not None and stock.mirrored if settings.flip == "auto" else settings.flip == "on"
        out.append(Group(key, name, stock, colour, tuple(own), size, usable, roll, flipped, settings.nests(key), ready))
    return tuple(out)


def _sheet_of(
    stock: Stock | None, settings: SheetSettings
) -> tuple[tuple[float, float], tuple[float, float, float, float], bool]:
    """Size of a sheet, what can be used of it, and whether it comes from a roll."""
    cutter: Cutter = settings.cutter or PLAIN_KNIFE
    if settings.size is not None:
        width, height, roll = *settings.size, False
    elif stock is not None:
        width, roll = stock.width, stock.height is None
        height = stock.height if stock.height is not None else min(LONGEST_ROLL, cutter.height or LONGEST_ROLL)
    else:
        (width, height), roll = _COMMON, False
    left = max(settings.border, (cutter.width - cutter.usable_width) / 2)
    right = min(width - settings.border, (cutter.width + cutter.usable_width) / 2)
    top, bottom = settings.border, height - settings.border
    if cutter.height is not None and cutter.usable_height is not None:
        top = max(top, (cutter.height - cutter.usable_height) / 2)
        bottom = min(bottom, (cutter.height + cutter.usable_height) / 2)
    return (width, height), (left, top, max(0.0, right - left), max(0.0, bottom - top)), roll
