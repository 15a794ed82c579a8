"""Flags that make sheets ready for the knife."""

from collections.abc import Callable, Mapping
from typing import Any

import click
import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.sheets import Ready
from sketchloom.core.units import parse_length

__all__ = ["ready_options", "with_ready"]

_OPTIONS = (
    click.option("--weeding-box", metavar="LENGTH", help="Boxes round pieces, so far from them, to weed by."),
    click.option("--weeding-lines", is_flag=True, default=None, help="Lines that part large waste."),
    click.option(
        "--marks",
        type=click.Choice(["none", "corners", "crosses", "holes"]),
        help="To lay layers by, in register.",
    ),
    click.option("--hole", metavar="SIZE:AWAY", help="A hanging hole, and how far it stays from edges: 5mm:10mm."),
    click.option("--kerf", metavar="LENGTH", help="What the tool takes away; outlines allow for it. [default: 0]"),
    click.option(
        "--blade-offset", metavar="LENGTH", help="How far a swivelling blade trails; files lead its axis. [default: 0]"
    ),
    click.option("--overcut", metavar="LENGTH", help="How far the tool runs on where an outline closes."),
    click.option("--tabs", metavar="N:WIDTH", help="Tabs that hold each piece in its sheet: 4:3mm."),
)


def ready_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Give a command the flags."""
    for option in reversed(_OPTIONS):
        command = option(command)
    return command


def with_ready(ready: Ready, flags: Mapping[str, Any]) -> Ready:
    """Put the flags over settings."""
    changes: dict[str, Any] = {}
    if flags["weeding_box"] is not None:
        margin = parse_length(flags["weeding_box"])
        changes |= {"weeding": "pieces", "weeding_margin": margin} if margin else {"weeding": "none"}
    if flags["weeding_lines"]:
        changes["weeding_lines"] = True
    if flags["marks"] is not None:
        changes["marks"] = flags["marks"]
    if flags["hole"] is not None:
        size, away = _two(flags["hole"], "hole", "5mm:10mm")
        changes["hole"] = (parse_length(size), parse_length(away))
    for name in ("kerf", "blade_offset", "overcut"):
        if flags[name] is not None:
            changes[name] = parse_length(flags[name])
    if flags["tabs"] is not None:
        many, width = _two(flags["tabs"], "number and width of tabs", "4:3mm")
        if not many.strip().isdecimal():
            raise ArgumentError(f"“{many[:20]}” is no number of tabs; type it and their width as 4:3mm.")
        changes |= {"tabs": int(many), "tab_width": parse_length(width)}
    return msgspec.structs.replace(ready, **changes)


def _two(text: str, what: str, example: str) -> tuple[str, str]:
    first, colon, second = text.partition(":")
    if not colon:
        raise ArgumentError(f"“{text[:40]}” is no {what}; type it as {example}.")
    return first, second
