"""What a test cut says about a preset, and by which rule the preset changes."""

from typing import Literal, get_args

import msgspec

from sketchloom.core.stock.cutter import PLAIN_KNIFE, Cutter
from sketchloom.core.stock.preset import LONGEST_NAME, MOST_FORCE, MOST_PASSES, Preset, preset_for
from sketchloom.core.stock.stock import Stock

__all__ = ["RULES", "TRIALS", "Trial", "after_trial"]

Trial = Literal["weeds clean", "tears", "not through", "scores the backing"]
TRIALS: tuple[Trial, ...] = get_args(Trial)
RULES: dict[Trial, str] = {
    "weeds clean": "The preset is kept as it is.",
    "tears": "A quarter slower.",
    "not through": "A tenth more force; where no force is kept, one pass more.",
    "scores the backing": "A tenth less force; where no force is kept, one pass fewer if there are several.",
}
"""How the preset changes, common practice: one thing at a time, then test again."""

_SLOWER, _MORE, _LESS = 0.75, 1.1, 0.9
_SMALL = 5.0
"""A force below it has decimals."""


def after_trial(presets: tuple[Preset, ...], stock: Stock | None, cutter: Cutter | None, trial: Trial) -> Preset:
    """Give the preset that follows from a test cut; the stock is never changed.

    Without a preset for the stock and the cutter it is a new one of both.

    Parameters
    ----------
    presets : tuple of Preset
        Of the shelf.
    stock, cutter
        That were tried; None for any, as when a job has none.
    trial : Trial
    """
    name = (
        f"{stock.name if stock is not None else 'Any stock'} on {cutter.name if cutter is not None else 'any cutter'}"
    )
    new = Preset(
        name[:LONGEST_NAME].rstrip(), stock.name if stock is not None else "", cutter.name if cutter is not None else ""
    )
    preset = preset_for(presets, stock, cutter) or new
    if trial == "tears":
        speed = preset.speed or (cutter or PLAIN_KNIFE).speed
        return msgspec.structs.replace(preset, speed=max(0.1, round(speed * _SLOWER, 1)))
    if trial == "not through":
        if preset.force:
            return msgspec.structs.replace(preset, force=_moved(preset.force, _MORE))
        return msgspec.structs.replace(preset, passes=min(MOST_PASSES, preset.passes + 1))
    if trial == "scores the backing":
        if preset.force:
            return msgspec.structs.replace(preset, force=_moved(preset.force, _LESS))
        return msgspec.structs.replace(preset, passes=max(1, preset.passes - 1))
    return preset


def _moved(force: float, by: float) -> float:
    """More or less by a share: of large numbers whole ones, as machines have them."""
    if force < _SMALL:
        return round(force * by, 2)
    return min(MOST_FORCE, float(round(force * by)))
