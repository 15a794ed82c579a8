"""A job that was laid, as lines of the logbook: one for each stock and colour."""

from collections.abc import Sequence

from sketchloom.core.job.jobfile import encode_recipe
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.sheet_report import sheet_names
from sketchloom.core.logbook import Entry
from sketchloom.core.sheets import Figures, Layout
from sketchloom.core.stock import Preset, preset_for

__all__ = ["entries_of"]


def entries_of(
    name: str, recipe: Recipe, layout: Layout, figures: Figures, presets: Sequence[Preset] = (), at: int = 0
) -> tuple[Entry, ...]:
    """Make a line of each stock that a layout takes, as it was planned; what became of it is told later.

    Parameters
    ----------
    name : str
        Of the job.
    recipe : Recipe
        Which is kept as the snapshot.
    layout : Layout
    figures : Figures
        Of it.
    presets : sequence of Preset
        Of the shelf.
    at : int
        When it is cut, s since 1970.
    """
    cutter, out = recipe.sheets.cutter, []
    names = dict(zip((id(sheet) for sheet in layout.sheets), sheet_names(layout), strict=True))
    snapshot = encode_recipe(recipe)
    for used in figures.stocks:
        group = used.group
        out.append(
            Entry(
                job=name[:200],
                stock=group.stock.name if group.stock is not None else "",
                cutter=cutter.name if cutter is not None else "",
                what=", ".join(names[id(sheet)] for sheet in layout.of_group(group.key))[:4000],
                at=at,
                preset=preset_for(tuple(presets), group.stock, cutter),
                planned=used.timing.time,
                used=round(used.roll / 1000, 4) if group.roll else float(used.sheets),
                roll=group.roll,
                price=group.stock.price if group.stock is not None else 0.0,
                recipe=snapshot,
            )
        )
    return tuple(out)
