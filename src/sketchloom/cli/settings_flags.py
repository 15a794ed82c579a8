"""Flags of the settings of all stages from Separate on, each with where it goes in the recipe."""

from collections.abc import Callable
from typing import Any, NamedTuple

import click
import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Recipe, Result
from sketchloom.core.palette import Colour, colour_of, is_key
from sketchloom.core.tidy import Bridging, LimitName
from sketchloom.core.units import parse_area, parse_length

__all__ = ["check_road", "settings_options", "with_flags"]


def _ink_count(text: str) -> int | None:
    if text == "auto":
        return None
    if not (text.isascii() and text.isdigit() and len(text) < 10):
        raise ArgumentError(f"“{text[:20]}” is not a number of inks; type auto or a whole number.")
    return int(text)


def _colour(text: str) -> Colour:
    try:
        return colour_of(text)
    except ValueError:
        raise ArgumentError(f"“{text[:20]}” is no colour; type it as #rrggbb.") from None


def _key(text: str) -> str:
    key = text.lower() if text.startswith("#") else f"#{text.lower()}"
    if not is_key(key):
        raise ArgumentError(f"“{text[:20]}” is no ink; type its key, #rrggbb, as the report gives it.")
    return key


def _shades(text: str) -> tuple[str, int]:
    key, _, count = text.rpartition("=")
    if not (count.isascii() and count.isdigit() and 0 < len(count) < 5):
        raise ArgumentError(f"“{text[:40]}” says no number of shades; type a number, or KEY=NUMBER for one group.")
    return (_key(key) if key else ""), int(count)


def _bridging(text: str) -> Bridging:
    width, colon, count = text.partition(":")
    if colon and not (count.isascii() and count.isdigit() and len(count) < 4):
        raise ArgumentError(f"“{text[:40]}” says no bridges; type their width and, if you like, their number: 2mm:3.")
    return Bridging(parse_length(width), int(count)) if colon else Bridging(parse_length(width))


def _choices(*names: str) -> dict[str, Any]:
    return {"type": click.Choice(list(names))}


class _Flag(NamedTuple):
    """A flag, and the setting it gives."""

    name: str
    stage: str
    setting: str
    read: Callable[[Any], Any]
    help: str
    options: dict[str, Any]
    modes: tuple[str, ...] = ()
    """Roads on which it does something; empty for all."""


_INK, _LINES, _PHOTO = ("ink", "lineart"), ("lineart",), ("photo",)
_LENGTH = {"metavar": "LENGTH"}
_SHARE = {"type": float, "metavar": "SHARE"}
_FLAGS = (
    _Flag("--mode", "separate", "mode", str, "Kind of picture. [default: auto]",
          _choices("auto", "flat", "ink", "lineart", "photo")),
    _Flag("--inks", "separate", "inks", _ink_count, "Number of inks. [default: auto]", {"metavar": "auto|N"},
          ("flat", "lineart", "photo")),
    _Flag("--threshold", "separate", "threshold", float,
          "Ink drawings: darker than this share of the paper's light is ink. [default: found]", _SHARE, _INK),
    _Flag("--local/--global", "separate", "local", bool,
          "Ink drawings: let the threshold follow the strokes. [default: found]", {"default": None}, _INK),
    _Flag("--faint", "separate", "faint", float,
          "Ink drawings: keep strokes up to this share where they hang on ink.", _SHARE, _INK),
    _Flag("--strength", "separate", "strength", float,
          "Ink drawings: leave out marks nowhere darker than this share.", _SHARE, _INK),
    _Flag("--silhouette", "separate", "silhouette", bool, "Ink drawings: fill the outline.",
          {"is_flag": True, "default": None}, ("ink",)),
    _Flag("--ink-colour", "separate", "ink_colour", _colour, "Ink drawings: only ink of this colour counts.",
          {"metavar": "#RRGGBB"}, _INK),
    _Flag("--close-gaps", "separate", "close_gaps", bool, "Line art: close every leak that is found.",
          {"is_flag": True, "default": None}, _LINES),
    _Flag("--gap", "separate", "gap", parse_length, "Line art: the widest leak. [default: six stroke widths]",
          _LENGTH, _LINES),
    _Flag("--steps-by", "separate", "steps_by", str, "Photos: nested steps, or flat colours. [default: light]",
          _choices("light", "colour"), _PHOTO),
    _Flag("--detail", "separate", "detail", parse_length, "Photos: smaller detail is smoothed away. [default: 1mm]",
          _LENGTH, _PHOTO),
    _Flag("--ground", "separate", "ground", str,
          "auto clears a border of one colour, and clear pixels; keep cuts them too. [default: auto]",
          _choices("auto", "keep")),
    _Flag("--page", "finish", "page", str, "What the page covers. [default: design]", _choices("design", "picture")),
    _Flag("--width", "finish", "width", parse_length, "Of the page, such as 180mm or 7in. [default: 96 px to the inch]",
          _LENGTH),
    _Flag("--build", "layers", "build", str, "How layers are built. [default: flush]",
          _choices("flush", "carried", "single")),
    _Flag("--smoothness", "trace", "smoothness", parse_length, "How far curves may leave edges. [default: 0.015mm]",
          _LENGTH),
    _Flag("--straightness", "trace", "straightness", parse_length, "Lines that bow less are straight. [default: 0mm]",
          _LENGTH),
    _Flag("--corner", "trace", "corner", float, "Sharper turns are corners. [default: 24; of photos 60]",
          {"type": float, "metavar": "DEGREES"}),
    _Flag("--square", "trace", "square", float, "Lines that lean less are squared up. [default: 0]",
          {"type": float, "metavar": "DEGREES"}),
    _Flag("--mirror", "trace", "mirror", parse_length, "Halves that differ less are made alike. [default: 0mm]",
          _LENGTH),
    _Flag("--bridges", "tidy", "bridges", _bridging, "Bridges that hold each island of a stencil's sheet, 2 each.",
          {"metavar": "LENGTH[:N]"}),
)  # fmt: skip


class _Limit(NamedTuple):
    """A flag of a limit that may be given for all inks, and again for single ones."""

    setting: LimitName
    read: Callable[[str], float]
    what: str
    help: str

    @property
    def name(self) -> str:
        return f"--{self.setting.replace('_', '-')}"

    def taken(self, text: str) -> tuple[str, float]:
        """The key of an ink, empty for all, and the limit."""
        key, _, value = text.rpartition("=")
        return (_key(key) if key else ""), self.read(value)


_LIMITS = (
    _Limit("least_area", parse_area, "AREA", "Smaller pieces join a neighbour. [default: 0.25mm2]"),
    _Limit("least_width", parse_length, "LENGTH", "Thinner hairs and tails go. [default: 0mm]"),
    _Limit("fill_holes", parse_area, "AREA", "Holes of at most so much are filled. [default: 0mm2]"),
)


def settings_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Add the flags."""
    more = (
        click.option("--layer", metavar="KEY=WAY", multiple=True, help="Build one ink's layer flush or carried."),
        click.option(
            "--shades",
            metavar="[KEY=]N",
            multiple=True,
            help="Flat art: inks of each group of shades, or bands of a gradient; of one group by its key.",
        ),
        click.option("--centre-lines", metavar="KEY", multiple=True, help="An ink whose centre lines are written too."),
    )
    for option in more:
        command = option(command)
    for limit in reversed(_LIMITS):
        command = click.option(limit.name, metavar=f"[KEY=]{limit.what}", multiple=True, help=limit.help)(command)
    for flag in reversed(_FLAGS):
        command = click.option(flag.name, help=flag.help, **flag.options)(command)
    return command


def _argument(flag: _Flag) -> str:
    return flag.name.split("/")[0].removeprefix("--").replace("-", "_")


def with_flags(recipe: Recipe, given: dict[str, Any]) -> Recipe:
    """Put the flags that were given over a recipe; raises ArgumentError."""
    for flag in _FLAGS:
        value = given[_argument(flag)]
        if value is not None:
            recipe = recipe.with_(flag.stage, **{flag.setting: flag.read(value)})
    if given["width"] is not None:
        recipe = recipe.with_("finish", height=None)
    if given["shades"]:
        recipe = recipe.with_("separate", shades=tuple(map(_shades, given["shades"])))
    for limit in _LIMITS:
        for key, value in map(limit.taken, given[limit.setting]):
            tidy = recipe.tidy
            change: dict[str, Any] = (
                {"limits": tidy.with_limits(key, **{limit.setting: value})} if key else {limit.setting: value}
            )
            recipe = recipe.with_("tidy", **change)
    mode = recipe.separate.mode
    if given["shades"] and given["mode"] not in (None, "auto", "flat"):
        raise ArgumentError(f"--shades does nothing for {_ROADS[mode]}: leave it out, or choose another --mode.")
    for flag in _FLAGS:
        asked = given["mode"] not in (None, "auto") and given[_argument(flag)] is not None
        if asked and flag.modes and mode not in flag.modes:
            raise ArgumentError(f"{_does_nothing(flag, mode)}: leave it out, or choose another --mode.")
    for text in given["layer"]:
        key, _, way = text.partition("=")
        if way not in ("flush", "carried"):
            raise ArgumentError(f"“{text[:40]}” says no way for a layer; type KEY=flush or KEY=carried.")
        recipe = recipe.with_("layers", rules=recipe.layers.with_rule(_key(key), build=way))
    if given["centre_lines"]:
        keys = [_key(text) for text in given["centre_lines"]]
        kept = tuple(msgspec.structs.replace(rule, centre_line=False) for rule in recipe.layers.rules)
        recipe = recipe.with_("layers", rules=kept)
        for key in keys:
            recipe = recipe.with_("layers", rules=recipe.layers.with_rule(key, centre_line=True))
    return recipe.check()


_ROADS = {"flat": "flat art", "ink": "an ink drawing", "lineart": "line art", "photo": "a photo"}


def _does_nothing(flag: _Flag, mode: str) -> str:
    return f"{flag.name.split('/')[0]} does nothing for {_ROADS[mode]}"


def check_road(result: Result, given: dict[str, Any]) -> None:
    """Say which flags do nothing on the road that the picture took; refuse inks that it has not.

    Raises
    ------
    ArgumentError
    """
    mode = result.road.mode
    for flag in _FLAGS:
        if flag.modes and mode not in flag.modes and given[_argument(flag)] is not None:
            click.echo(f"{_does_nothing(flag, mode)}, which this picture was taken for; --mode chooses.", err=True)
    if given["shades"] and mode != "flat":
        click.echo(f"--shades does nothing for {_ROADS[mode]}, which this picture was taken for.", err=True)
    groups = [group.key for group in result.tones.shades]
    for key in (key for key, _ in map(_shades, given["shades"]) if key and mode == "flat" and key not in groups):
        raise ArgumentError(f"No group of shades is {key}; the picture has {', '.join(groups) or 'none'}.")
    asked = [*(_key(text.partition("=")[0]) for text in given["layer"]), *map(_key, given["centre_lines"])]
    asked += [key for limit in _LIMITS for key, _ in map(limit.taken, given[limit.setting]) if key]
    found = [ink.key for ink in result.palette.cut]
    lost = [key for key in asked if key not in found]
    if lost:
        raise ArgumentError(f"No ink is {lost[0]}; the picture has {', '.join(found)}.")
