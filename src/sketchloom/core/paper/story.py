"""What stands on a job sheet, part after part."""

import io
from collections.abc import Sequence
from functools import partial
from typing import Any

from reportlab.platypus import BaseDocTemplate, Frame, PageTemplate

from sketchloom.core.measures import in_unit, in_words, length_words, time_words
from sketchloom.core.paper.facts import JobFacts
from sketchloom.core.paper.flow import Looks, PageDrawing, Swatch, numbered, sheet_rows
from sketchloom.core.paper.placing import PAPERS, Paper, as_stock, frame, paper_and_ink, rectangle
from sketchloom.core.send import Page, names_of, page_of_sheet
from sketchloom.core.stock import Preset, preset_for

__all__ = ["built"]

_POINT = 72 / 25.4
_MARGIN, _FOOT = 14.0, 12.0
"""mm"""
_DOES = {"cut": "", "draw": "drawn", "score": "scored", "engrave": "engraved"}


def built(
    facts: JobFacts, paper: Paper, looks: Looks, picture: float, layers: int, sheets: int, findings: int
) -> tuple[bytes, int]:
    """The PDF, with an approval picture so many mm high and so much listed at most; and how many pages it has."""
    width, height = PAPERS[paper]
    room = width - 2 * _MARGIN
    buffer = io.BytesIO()
    area = Frame(
        _MARGIN * _POINT, (_MARGIN + _FOOT) * _POINT, room * _POINT, (height - 2 * _MARGIN - _FOOT) * _POINT,
        leftPadding=0, rightPadding=0, topPadding=0, bottomPadding=0,
    )  # fmt: skip
    document = BaseDocTemplate(
        buffer, pagesize=(width * _POINT, height * _POINT), invariant=1, pageCompression=1,
        title=f"{facts.name}: job sheet", author="Sketch Loom",
    )  # fmt: skip
    document.addPageTemplates([PageTemplate(frames=[area])])
    story = [
        *_head(facts, looks),
        *_picture(facts, looks, room, picture),
        *_layers(facts, looks, room, layers),
        *_stock(facts, looks, room),
        *_sheets(facts, looks, room, sheets),
        *_care(facts, looks, findings),
    ]
    canvases: list[Any] = []
    document.build(story, canvasmaker=partial(numbered, looks, facts.name, (width, height), _MARGIN, canvases))
    return buffer.getvalue(), canvases[-1].pages


def _both(size: Sequence[float], unit: str) -> str:
    """A size in the maker's unit, and in the other of mm and inches."""
    other = "mm" if unit == "in" else "in"
    told = [" × ".join(in_unit(side, one) for side in size) + f" {one}" for one in (unit, other)]
    return f"{told[0]} ({told[1]})"


def _head(facts: JobFacts, looks: Looks) -> list[Any]:
    figures, cuts = facts.figures, facts.stack.cuts.cuts
    pieces = sum(cut.pieces for cut in cuts if cut.kind == "cut")
    copies = f" · {facts.copies} copies" if facts.copies > 1 else ""
    told = (
        f"Finished size {_both(facts.size, facts.unit)} · {_counted(len(cuts), 'layer')} · {_counted(pieces, 'piece')}"
        f"{copies} · {_counted(figures.sheets, 'sheet')} · {time_words(figures.timing.time)} at the cutter"
    )
    return [looks.title(facts.name), looks.plain(told), looks.faint("For ____________________   By ____________________"
            "   Date ____________________"), looks.gap(2)]  # fmt: skip


def _counted(many: int, what: str) -> str:
    return f"{many} {what}{'s' * (many != 1)}"


def _picture(facts: JobFacts, looks: Looks, room: float, most: float) -> list[Any]:
    ground, ink = paper_and_ink(facts.behind)
    stack = facts.stack.cuts
    box = (0.0, 0.0, *stack.size)
    page = Page(
        "Approval picture", stack.size, (rectangle("ground", box, ground), *as_stock(stack), frame("edge", box, ink))
    )
    scale = min(room / stack.size[0], most / stack.size[1])
    on = f", on {ground}" if facts.behind is not None else ""
    told = f"As it will look, in the colours of the stock{on}; drawn at {100 * scale:.3g} % of its size."
    return [PageDrawing(page, scale, room), looks.faint(told), looks.gap(2)]


def _layers(facts: JobFacts, looks: Looks, room: float, most: int) -> list[Any]:
    unit, used = facts.unit, facts.figures.layers
    rows: list[list[Any]] = [
        looks.heads(
            "", "", "Layer, as it is laid", "Stock", f"Size, {unit}", "Pieces", "By hand", "Sheets", "Tool down"
        )
    ]
    cuts = facts.stack.cuts.cuts
    for number, cut in enumerate(cuts[:most], 1):
        left, top, right, bottom = cut.path.bounds if cut.path.contours else (0.0, 0.0, 0.0, 0.0)
        use = used.get(cut.key)
        does = _DOES[cut.kind]
        name = f"{cut.name}, {does}" if does else cut.name
        rows.append([
            looks.right(str(number)), Swatch(cut.colour if cut.kind == "cut" else cut.ink.hex), looks.plain(name),
            looks.plain(cut.stock.name if cut.stock is not None else "any"),
            looks.right(f"{in_unit(right - left, unit)} × {in_unit(bottom - top, unit)}"),
            looks.right(str(cut.pieces) if cut.kind == "cut" else ""), looks.right(str(cut.loose) if cut.loose else ""),
            looks.right(str(use.sheets) if use is not None else ""),
            looks.right(time_words(use.cut_time) if use is not None else ""),
        ])  # fmt: skip
    out = [looks.heading("Layers, in the order in which they are laid")]
    widths = [6, 6, 0, 34, 30, 13, 14, 13, 19]
    out.append(looks.table(rows, widths, room))
    return [*out, *looks.rest(len(cuts) - most, "layer"), looks.gap(2)]


def _stock(facts: JobFacts, looks: Looks, room: float) -> list[Any]:
    figures, unit = facts.figures, facts.unit
    rows: list[list[Any]] = [looks.heads("", "Stock", "Taken", "Waste", "Cost", "Time", "Preset")]
    for used in figures.stocks:
        group = used.group
        found = preset_for(facts.presets, group.stock, facts.cutter)
        size = " × ".join(in_unit(side, unit, 0) for side in group.size)
        sheets = f"{_counted(used.sheets, 'sheet')} of {size} {unit}"
        taken = f"{length_words(used.roll, unit, 0)} of roll" if group.roll else sheets
        rows.append([
            Swatch(group.colour), looks.plain(group.name + (", mirrored" if group.flipped else "")), looks.plain(taken),
            looks.right(f"{100 * used.waste_share:.0f} %"), looks.right(f"{used.cost:.2f}" if used.cost else ""),
            looks.right(time_words(used.timing.time)), looks.plain(_preset_words(found)),
        ])  # fmt: skip
    cutter = facts.cutter
    name = f"{cutter.name}, {cutter.speed:g} mm/s" if cutter is not None else "any, reckoned at 50 mm/s"
    timing = figures.timing
    told = (
        f"Cutter: {name}. Cut {length_words(timing.cut, unit, 0)}, travel {length_words(timing.travel, unit, 0)}; "
        f"{time_words(timing.cut_time)} with the tool down, {time_words(timing.time)} in all"
        + (f"; stock for {figures.cost:.2f}." if figures.cost else ".")
    )
    return [
        looks.heading("Stock, cutter and time"),
        looks.table(rows, [6, 40, 40, 13, 14, 19, 0], room),
        looks.plain(told),
        looks.gap(2),
    ]


def _preset_words(preset: Preset | None) -> str:
    if preset is None:
        return "none kept: test first"
    parts = [preset.name, preset.tool, f"force {preset.force:g}" if preset.force else "",
             f"{preset.speed:g} mm/s" if preset.speed else "", f"{preset.passes} passes" if preset.passes > 1 else "",
             preset.note]  # fmt: skip
    return ", ".join(part for part in parts if part)


def _sheets(facts: JobFacts, looks: Looks, room: float, most: int) -> list[Any]:
    layout = facts.layout
    if not layout.sheets:
        return []
    ids = names_of(facts.work.every)
    pages = []
    for number, sheet in enumerate(layout.sheets[:most], 1):
        mirrored = ", mirrored" if sheet.group.flipped else ""
        pages.append((page_of_sheet(sheet, ids), f"{number}  {sheet.group.name}{mirrored}"))
    part, rows = sheet_rows(pages, room, looks)
    told = f"Sheets, as they lie on the machine, at 1 : {part:g}"
    return [
        *looks.together([looks.heading(told), rows[0]]),
        *rows[1:],
        *looks.rest(len(layout.sheets) - most, "sheet"),
        looks.gap(2),
    ]


def _care(facts: JobFacts, looks: Looks, most: int) -> list[Any]:
    found = facts.open
    out = [looks.heading("Findings left open" if found else "Findings")]
    names = {cut.key: cut.name for cut in facts.work.every}
    for finding in found[:most]:
        grave = "Spoils the cut. " if finding.severity == "spoils" else ""
        name = names.get(finding.layer, finding.layer)
        whose = "" if finding.sentence.startswith(name) else f"{name}: "
        out.append(looks.point(grave + whose + in_words(finding.sentence, facts.unit)))
    if not found:
        out.append(looks.plain("None is open." if facts.left_so else "Nothing was found."))
    out += looks.rest(len(found) - most, "finding")
    if facts.left_so:
        out.append(looks.plain(f"{_counted(facts.left_so, 'place')} looked at and left so."))
    care = [looks.heading("Before you cut"), *(looks.point(said) for said in facts.cautions)]
    return [*out, looks.gap(2), *looks.together(care)]
