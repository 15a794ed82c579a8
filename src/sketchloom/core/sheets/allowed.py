"""Why sheets must not be cut as they are laid."""

from sketchloom.core.sheets.layout import Layout
from sketchloom.core.stock import Cutter, refusal

__all__ = ["why_not"]


def why_not(layout: Layout, cutter: Cutter | None) -> str:
    """Say in one sentence what forbids cutting, the worst first; empty where nothing does."""
    if not layout.groups:
        return "There is nothing to lay: every layer is hidden."
    for group in layout.groups:
        said = refusal(cutter, group.stock.kind) if cutter is not None and group.stock is not None else ""
        if said:
            return said
    if layout.too_large:
        item = max(layout.too_large, key=lambda item: item.body.area)
        part = item.body.largest
        left, top, right, bottom = part.shape.bounds
        group = next(group for group in layout.groups if any(cut.key == item.body.layer for cut in group.cuts))
        more = len(layout.too_large) - 1
        others = f", and {more} more piece{'s' * (more > 1)} with it" if more else ""
        where = "sheet" if cutter is None else "sheet on this cutter"
        return (
            f"A piece of “{part.cut.name}” is {right - left:.1f} x {bottom - top:.1f} mm, and the {where} leaves "
            f"{group.room[2]:.1f} x {group.room[3]:.1f} mm{others}; take larger sheets or a smaller design."
        )
    if any(one.clashes for sheet in layout.sheets for one in sheet.laid):
        return "A piece laid by hand overlaps another or leaves its sheet; move it, or lay all anew."
    return ""
