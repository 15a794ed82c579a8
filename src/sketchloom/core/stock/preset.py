"""Presets: how a cutter is set for a stock."""

import math

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.stock.cutter import Cutter
from sketchloom.core.stock.shelves import ShelfKind
from sketchloom.core.stock.stock import Stock

__all__ = [
    "LONGEST_NAME",
    "MOST_FORCE",
    "MOST_PASSES",
    "PRESETS",
    "Preset",
    "check_preset",
    "preset_for",
    "preset_words",
]

LONGEST_NAME, _LONGEST_NOTE = 40, 400
MOST_FORCE, MOST_PASSES = 1e5, 100


class Preset(msgspec.Struct, frozen=True):
    """What is set on a machine for a stock; the machine's own words and numbers."""

    name: str
    stock: str = ""
    """Name of the stock, or its kind."""
    cutter: str = ""
    """Name of the cutter, or its kind."""
    tool: str = ""
    """Blade, bit, lens or pen."""
    force: float = 0.0
    """Or power, in the machine's own measure; 0 where it is not set."""
    speed: float = 0.0
    """mm/s; 0 for the cutter's own."""
    passes: int = 1
    note: str = ""


def check_preset(preset: Preset) -> Preset:
    """Return a preset if every value can be used; raises ArgumentError."""
    if not preset.name.strip() or len(preset.name) > LONGEST_NAME or not preset.name.isprintable():
        raise ArgumentError(f"{preset.name[:20]!a} is no name for a preset; type 1 to {LONGEST_NAME} letters.")
    for what, words in (("stock", preset.stock), ("cutter", preset.cutter), ("tool", preset.tool)):
        if len(words) > LONGEST_NAME:
            raise ArgumentError(f"The {what} of a preset is told in at most {LONGEST_NAME} letters.")
    if len(preset.note) > _LONGEST_NOTE:
        raise ArgumentError(f"A note has at most {_LONGEST_NOTE} letters.")
    for what, value, most in (("force", preset.force, MOST_FORCE), ("speed", preset.speed, 5000.0)):
        if not (math.isfinite(value) and 0 <= value <= most):
            raise ArgumentError(f"A {what} of {value:g} cannot be set; type 0 to {most:g}.")
    if not 1 <= preset.passes <= MOST_PASSES:
        raise ArgumentError(f"{preset.passes} passes cannot be made; type 1 to {MOST_PASSES}.")
    return preset


PRESETS = ShelfKind("preset", "presets", Preset, (), check_preset)


def preset_for(presets: tuple[Preset, ...], stock: Stock | None, cutter: Cutter | None) -> Preset | None:
    """Find the preset for a stock and a cutter: by both names first, then by their kinds."""
    if stock is None or cutter is None:
        return None
    for own, machine in (
        (stock.name, cutter.name),
        (stock.name, cutter.kind),
        (stock.kind, cutter.name),
        (stock.kind, cutter.kind),
    ):
        for preset in presets:
            if (preset.stock.casefold(), preset.cutter.casefold()) == (own.casefold(), machine.casefold()):
                return preset
    return None


def preset_words(preset: Preset) -> str:
    """Say how a machine is set."""
    force = f"force {preset.force:g}, " if preset.force else ""
    speed = f"{preset.speed:g} mm/s, " if preset.speed else ""
    return f"{force}{speed}{preset.passes} pass{'es' * (preset.passes > 1)}"
