"""Flags of how layers are laid on sheets."""

import re
from collections.abc import Callable
from typing import Any

import click
import msgspec

from sketchloom.cli.ready_flags import ready_options, with_ready
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Recipe
from sketchloom.core.stock import MACHINES, PLAIN_KNIFE, find_cutter
from sketchloom.core.units import parse_length

__all__ = ["sheets_options", "with_sheets"]

_SIZE = re.compile(r"\s*([^x×]+?)\s*[x×]\s*(.+?)\s*", re.I)
_UNIT = re.compile(r"[a-z\"]+\s*$", re.I)
_SPEED = re.compile(r"\s*([0-9.]+)\s*(?:mm/s2?|mm/s²)?\s*", re.I)


def _size(text: str) -> tuple[float, float]:
    found = _SIZE.fullmatch(text)
    if found is None:
        raise ArgumentError(f"“{text[:40]}” is no size of a sheet; type it as 305x305mm or 12x12in.")
    unit = _UNIT.search(found[2])
    width = found[1] if _UNIT.search(found[1]) or unit is None else found[1] + unit[0]
    return parse_length(width), parse_length(found[2])


def _rate(text: str, what: str) -> float:
    found = _SPEED.fullmatch(text)
    if found is None or found[1].count(".") > 1 or found[1] == ".":
        raise ArgumentError(f"“{text[:40]}” is no {what}; type a number such as 50mm/s or 1000mm/s2.")
    return float(found[1])


_OPTIONS = (
    click.option("--sheet", metavar="WIDTHxHEIGHT", help="Of all sheets. [default: that of their stock, or 12x12in]"),
    click.option("--border", metavar="LENGTH", help="Of a sheet that stays free. [default: 6mm]"),
    click.option("--distance", metavar="LENGTH", help="Between pieces. [default: 3mm]"),
    click.option(
        "--turn", type=click.Choice(["none", "quarter", "any"]), help="How pieces may be turned. [default: quarter]"
    ),
    click.option("--copies", type=click.IntRange(1, 1000), metavar="N", help="Of the whole design. [default: 1]"),
    click.option(
        "--together/--nested",
        default=None,
        help="Keep each layer in register, or lay its pieces one by one. [together]",
    ),
    click.option("--flip", type=click.Choice(["auto", "on", "off"]), help="Mirror the sheets. [default: by the stock]"),
    click.option("--cutter", metavar="NAME|KIND", help="Machine: its size, speed, and what it must not cut."),
    click.option("--speed", metavar="SPEED", help="Of the tool. [default: the cutter's, or 50mm/s]"),
    click.option("--acceleration", metavar="RATE", help="Of the tool. [default: the cutter's, or 1000mm/s2]"),
    click.option(
        "--seam",
        type=click.Choice(["hidden", "straight", "stepped", "none"]),
        help="How what is too large for a sheet is parted: where upper layers hide it, straight, in steps or not. "
        "[default: hidden]",
    ),
    click.option("--seam-overlap", metavar="LENGTH", help="That parts run on under each other. [default: 0]"),
    click.option("--seam-numbers", is_flag=True, default=None, help="Number both sides of each seam, for a pen."),
)


def sheets_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Give a command the flags."""
    command = ready_options(command)
    for option in reversed(_OPTIONS):
        command = option(command)
    return command


def with_sheets(settings: Recipe, flags: dict[str, Any]) -> Recipe:
    """Put the flags of sheets over a recipe; another way of laying takes back what was laid."""
    changes: dict[str, Any] = {}
    for name, read in (("border", parse_length), ("distance", parse_length), ("turn", str), ("flip", str),
                       ("seam", str), ("seam_overlap", parse_length)):  # fmt: skip
        if flags[name] is not None:
            changes[name] = read(flags[name])
    if flags["seam_numbers"]:
        changes["seam_numbers"] = True
    if flags["sheet"] is not None:
        changes["size"] = _size(flags["sheet"])
    if flags["copies"] is not None:
        changes["copies"] = flags["copies"]
    if flags["together"] is not None:
        changes |= {"nested": not flags["together"], "otherwise": ()}
    cutter = settings.sheets.cutter
    if flags["cutter"] is not None:
        cutter = find_cutter(MACHINES.read(), flags["cutter"])
    for name in ("speed", "acceleration"):
        if flags[name] is not None:
            rate = _rate(flags[name], name)
            cutter = msgspec.structs.replace(cutter or PLAIN_KNIFE, **{name: rate})
    changes["cutter"] = cutter
    changes["ready"] = with_ready(settings.sheets.ready, flags)
    return settings.with_("sheets", **changes)
