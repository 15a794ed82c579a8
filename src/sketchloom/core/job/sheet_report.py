"""The report of sheets: what lies where, and what it takes."""

import re
from collections.abc import Mapping
from typing import Any

import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.send import names_of
from sketchloom.core.sheets import Laid, Layout, Sheet, Work, figures_of
from sketchloom.core.stock import Cutter

__all__ = ["sheet_names", "sheet_report"]


def sheet_names(layout: Layout) -> tuple[str, ...]:
    """Names of all sheets, as their files are called: a number and what they are of."""
    return tuple(
        f"sheet-{number}-{_plain(sheet.group.name)}".rstrip("-") for number, sheet in enumerate(layout.sheets, 1)
    )


def _plain(text: str) -> str:
    return "-".join(re.findall("[a-z0-9]+", text.lower()))


def sheet_report(layout: Layout, work: Work, cutter: Cutter | None, files: Mapping[str, str]) -> dict[str, Any]:
    """Give the report: sizes in mm, areas in mm2, times in s.

    Parameters
    ----------
    layout : Layout
    work : Work
        What was laid.
    cutter : Cutter or None
    files : mapping
        Files of sheets, by their names.
    """
    figures = figures_of(layout, cutter)
    names, ids = sheet_names(layout), names_of(work.every)
    timing = figures.timing
    return {
        "sheets": [_sheet(sheet, name, files.get(name)) for sheet, name in zip(layout.sheets, names, strict=True)],
        "placements": [
            _placement(one, part.cut.key, shape, name)
            for sheet, name in zip(layout.sheets, names, strict=True)
            for one in sheet.laid
            for part in one.item.body.parts
            if part.cut.kind == "cut" and not part.role
            for shape in shapely.get_parts(part.shape).tolist()
        ],
        "pens": [
            _pen(one, part.cut, name)
            for sheet, name in zip(layout.sheets, names, strict=True)
            for one in sheet.laid
            for part in one.item.body.parts
            if part.cut.kind != "cut" and part.cut.key in ids
        ],
        "stock": [
            {
                "name": one.group.name,
                "sheets": one.sheets,
                "roll_mm": round(one.roll, 3),
                "waste_share": round(one.waste_share, 4),
                "cost": round(one.cost, 4),
                "weight_g": None if one.weight is None else round(one.weight, 2),
                "cut_time_s": round(one.timing.cut_time, 3),
                "time_s": round(one.timing.time, 3),
            }
            for one in figures.stocks
        ],
        "guests": [
            {"layer": cut.key, "id": ids[cut.key], "name": cut.name}
            for cut in work.every
            if not work.is_own(cut.key) and any(cut in group.cuts for group in layout.groups)
        ],
        "apart": list(layout.apart),
        "unplaced": len(layout.unplaced),
        "seams": [
            {
                "layer": seam.layer,
                "length_mm": round(seam.length, 3),
                "visible_mm": round(seam.visible, 3),
                "bends": seam.bends,
                "number": seam.number,
                "by_hand": seam.by_hand,
                "line_mm": [[round(x, 3), round(y, 3)] for x, y in seam.line.tolist()],
            }
            for seam in layout.seams
        ],
        "cutter": cutter.name if cutter is not None else None,
        "cut_length_mm": round(timing.cut, 3),
        "travel_mm": round(timing.travel, 3),
        "travel_before_mm": round(figures.travel_before, 3),
        "cut_time_s": round(timing.cut_time, 3),
        "time_s": round(timing.time, 3),
        "cost": round(figures.cost, 4),
    }


def _sheet(sheet: Sheet, name: str, file: str | None) -> dict[str, Any]:
    group = sheet.group
    x, y, width, height = group.usable
    high = min(height, sheet.size[1] - 2 * y) if group.roll else height
    return {
        "name": name,
        "file": file,
        "stock": group.stock.name if group.stock is not None else None,
        "colour": group.colour,
        "size_mm": [round(side, 3) for side in sheet.size],
        "usable_mm": [round(value, 3) for value in (x, y, width, high)],
        "used_share": round(sheet.area / (sheet.size[0] * sheet.size[1]), 4),
        "used_length_mm": round(sheet.used, 3),
        "flipped": group.flipped,
        "nested": group.nested,
    }


def _placement(one: Laid, key: str, shape: Any, name: str) -> dict[str, Any]:
    return {
        "sheet": name,
        "layer": key,
        "copy": one.item.copy,
        "box_mm": [round(value, 4) for value in shape.bounds],
        "area_mm2": round(shape.area, 4),
        "turn_deg": one.turn,
        "flipped": one.flipped,
        "at_mm": list(one.at),
    }


def _pen(one: Laid, cut: Cut, name: str) -> dict[str, Any]:
    return {
        "sheet": name,
        "layer": cut.key,
        "copy": one.item.copy,
        "turn_deg": one.turn,
        "flipped": one.flipped,
        "at_mm": list(one.at),
    }
