"""The instruction strip: the stack as it grows, a picture a layer."""

import io
import math

from sketchloom.core.cut import Cut
from sketchloom.core.layers import LayerStack
from sketchloom.core.palette import Colour
from sketchloom.core.paper.lettering import wrapped
from sketchloom.core.paper.placing import (
    PAPERS,
    Paper,
    as_stock,
    frame,
    mixed,
    paper_and_ink,
    placed,
    rectangle,
    words_item,
)
from sketchloom.core.send import Item, Page, draw_page, new_canvas

__all__ = ["strip_of", "strip_pdf"]

_WIDE, _TALL = 56.0, 56.0
"""mm of a picture at most."""
_GAP, _MARGIN, _LINE, _LETTERS = 6.0, 6.0, 4.2, 3.2
_NAME_LINES = 2
_PALE = 0.62
"""How much of the ground is in the colours of what lies there already."""
_ACROSS = 4
"""Pictures in a row, unless there are many."""
_POINT = 72 / 25.4
_EDGE = 12.0
"""mm of a sheet of paper that stay free."""
_DONE = {"cut": "Lay", "draw": "Draw", "score": "Score", "engrave": "Engrave"}


def strip_of(stack: LayerStack, behind: Colour | None = None) -> Page:
    """Draw the stack as it grows: what is laid shows its colour, what lies there already is pale; mm.

    The last picture has all in full colour; of one layer there is that alone.
    """
    ground, _ = paper_and_ink(behind)
    paper, ink = paper_and_ink(None)
    cuts = stack.cuts.cuts
    items = as_stock(stack.cuts)
    scale = min(_WIDE / stack.size[0], _TALL / stack.size[1])
    wide, tall = max(stack.size[0] * scale, 40.0), stack.size[1] * scale
    panels = len(cuts) + (len(cuts) > 1)
    across = min(panels, _ACROSS if panels <= 3 * _ACROSS else math.ceil(math.sqrt(panels)))
    told = [_told(cut, number) for number, cut in enumerate(cuts, 1)] + [("Done", "")] * (panels - len(cuts))
    lines = [[*wrapped(what, wide, _LETTERS, _NAME_LINES), *wrapped(of, wide, _LETTERS, 1)] for what, of in told]
    foot = max(map(len, lines), default=1) * _LINE + 2.0
    down = math.ceil(panels / across)
    size = (
        round(2 * _MARGIN + across * wide + (across - 1) * _GAP, 3),
        round(2 * _MARGIN + down * (tall + foot) + (down - 1) * _GAP, 3),
    )
    out: list[Item] = [rectangle("paper", (0.0, 0.0, *size), paper)]
    for number in range(panels):
        left = _MARGIN + number % across * (wide + _GAP)
        top = _MARGIN + number // across * (tall + foot + _GAP)
        mark = f"step-{number + 1}-"
        box = left, top, wide, tall
        at = left + (wide - stack.size[0] * scale) / 2, top
        out.append(rectangle(f"{mark}ground", box, ground))
        shown = items[: number + 1]
        if number < len(cuts):
            pale = [item._replace(colour=mixed(item.colour, ground, _PALE)) for item in shown[:-1]]
            shown = [*pale, shown[-1]]
            if cuts[number].kind == "cut":
                edge = shown[-1]._replace(id=f"{shown[-1].id}-edge", layer="", colour=ink, lined=True)
                shown.append(edge)
        out += placed(shown, scale, at, mark)
        out.append(frame(f"{mark}frame", box, mixed(ink, ground, 0.6)))
        for place, line in enumerate(lines[number]):
            baseline = top + tall + _LINE * (place + 1)
            tone = mixed(ink, paper, 0.35) if told[number][1] and line is lines[number][-1] else ink
            words = words_item(f"{mark}line-{place + 1}", line, left, baseline, _LETTERS, tone)
            out += [words] if words is not None else []
    return Page("Instruction strip", size, tuple(out))


def _told(cut: Cut, number: int) -> tuple[str, str]:
    """What is done with a layer, and of what it is."""
    stock = cut.stock.name if cut.stock is not None else ""
    loose = f"{cut.loose} piece{'s' * (cut.loose > 1)} by hand" if cut.loose else ""
    return f"{number}  {_DONE[cut.kind]} {cut.name}", ", ".join(word for word in (stock, loose) if word)


def strip_pdf(strip: Page, paper: Paper) -> bytes:
    """Put a strip on one page of paper, lying or standing as it is larger."""

    def scale_on(size: tuple[float, float]) -> float:
        return min((side - 2 * _EDGE) / own for side, own in zip(size, strip.size, strict=True))

    standing = PAPERS[paper]
    width, height = max((standing, standing[::-1]), key=scale_on)
    scale = min(scale_on((width, height)), 1.5)
    buffer = io.BytesIO()
    canvas = new_canvas(buffer, strip.title)
    canvas.setPageSize((width * _POINT, height * _POINT))
    canvas.translate((width - strip.size[0] * scale) / 2 * _POINT, (height - _EDGE - strip.size[1] * scale) * _POINT)
    canvas.scale(scale, scale)
    draw_page(canvas, strip)
    canvas.showPage()
    canvas.save()
    return buffer.getvalue()
