"""Flags of the settings of all stages from Separate on, each with where it goes in the recipe."""

from collections.abc import Callable
from typing import Any, NamedTuple, get_args

import click
import msgspec

from sketchloom.core.cut import CutKind
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Recipe, Result
from sketchloom.core.layers import BASE, CLEAR, SHEET
from sketchloom.core.palette import Colour, colour_of, is_key
from sketchloom.core.stock import STOCKS, Stock, find_stock
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


def _overlap(text: str) -> float | str:
    return "auto" if text.strip().lower() == "auto" else parse_length(text)


def _stock(text: str) -> Stock:
    return find_stock(STOCKS.read(), text)


def _layer_key(text: str) -> str:
    """Key of an ink, or of a layer that is of none."""
    return text.lower() if text.lower() in (BASE, SHEET, CLEAR) else _key(text)


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
    _Flag("--behind", "look", "behind", _colour, "What it is laid on, in the assembly picture. [default: none]",
          {"metavar": "#RRGGBB"}),
    _Flag("--page", "finish", "page", str, "What the page covers. [default: design]", _choices("design", "picture")),
    _Flag("--width", "finish", "width", parse_length, "Of the page, such as 180mm or 7in. [default: 96 px to the inch]",
          _LENGTH),
    _Flag("--height", "finish", "height", parse_length, "Of the page, in place of its width.", _LENGTH),
    _Flag("--build", "layers", "build", str, "How layers are built. [default: flush]",
          _choices("flush", "carried", "backed", "single", "stencil")),
    _Flag("--rim", "layers", "rim", parse_length, "Grow the base, or a single sheet, by this. [default: 0mm]", _LENGTH),
    _Flag("--corners", "layers", "corners", str, "Corners of a rim. [default: round]",
          _choices("round", "mitred", "bevelled")),
    _Flag("--rim-gap", "layers", "rim_gap", parse_length, "Draw pieces on a base in by this. [default: 0mm]", _LENGTH),
    _Flag("--base-colour", "layers", "base_colour", _colour, "Of the base. [default: white or black]",
          {"metavar": "#RRGGBB"}),
    _Flag("--overlap", "layers", "overlap", _overlap,
          "Flush layers run on by this under their upper neighbours; auto hides the slip. [default: 0mm]",
          {"metavar": "LENGTH|auto"}),
    _Flag("--slip", "layers", "slip", parse_length, "Report what shows if layers are laid off by this.", _LENGTH),
    _Flag("--margin", "layers", "margin", parse_length, "Sheet round a stencil. [default: 15mm]", _LENGTH),
    _Flag("--fill-ground", "layers", "fill_ground", bool, "Fill enclosed ground.", {"is_flag": True, "default": None}),
    _Flag("--fill-windows", "layers", "fill_windows", bool, "Do not cut windows that upper layers hide.",
          {"is_flag": True, "default": None}),
    _Flag("--thin-bulk", "layers", "thin_bulk", bool, "Cut away what lies under three or more layers.",
          {"is_flag": True, "default": None}),
    _Flag("--white-pieces", "layers", "clear", bool, "Enclosed ground is a layer of its own.",
          {"is_flag": True, "default": None}),
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
        click.option(
            "--layer",
            metavar="KEY=WAY",
            multiple=True,
            help="Build one ink's layer flush or carried; or draw, score or engrave it on what it lies on.",
        ),
        click.option(
            "--stock",
            metavar="[KEY=]NAME",
            multiple=True,
            help="What layers, or one of them, are cut from: the name of a stock, or a kind such as paper.",
        ),
        click.option(
            "--pin", metavar="KEY=PLACE", multiple=True, help="Where the best order leaves a layer: top, bottom."
        ),
        click.option(
            "--order", metavar="best|KEY,...", help="Layers bottom first; those not named lie below. [default: by area]"
        ),
        click.option("--stiffeners", type=click.IntRange(0, 20), help="Extra copies of the base. [default: 0]"),
        click.option(
            "--shades",
            metavar="[KEY=]N",
            multiple=True,
            help="Flat art: inks of each group of shades, or bands of a gradient; of one group by its key.",
        ),
        click.option("--to-ground", metavar="KEY", multiple=True, help="An ink that is cleared, as ground."),
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
    if given["width"] is not None and given["height"] is not None:
        raise ArgumentError("--width and --height both set the size, and one follows from the other; give one of them.")
    for side, other in (("width", "height"), ("height", "width")):
        if given[side] is not None:
            recipe = recipe.with_("finish", **{other: None})
    if given["to_ground"]:
        recipe = recipe.with_("separate", grounded=tuple(dict.fromkeys(map(_key, given["to_ground"]))))
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
        if way not in ("flush", "carried", *get_args(CutKind)):
            raise ArgumentError(
                f"“{text[:40]}” says no way for a layer; type KEY=flush or KEY=carried, or KEY=draw, KEY=score or so."
            )
        change = {"build": way} if way in ("flush", "carried") else {"kind": way}
        recipe = recipe.with_("layers", rules=recipe.layers.with_rule(_key(key), **change))
    recipe = _with_layer_flags(recipe, given)
    if given["centre_lines"]:
        keys = [_key(text) for text in given["centre_lines"]]
        kept = tuple(msgspec.structs.replace(rule, centre_line=False) for rule in recipe.layers.rules)
        recipe = recipe.with_("layers", rules=kept)
        for key in keys:
            recipe = recipe.with_("layers", rules=recipe.layers.with_rule(key, centre_line=True))
    return recipe.check()


def _with_layer_flags(recipe: Recipe, given: dict[str, Any]) -> Recipe:
    """Stocks, pins, order and stiffeners; and refuse what the way of building has no use for."""
    for text in given["stock"]:
        key, _, name = text.rpartition("=")
        stock = _stock(name)
        rules = recipe.layers.with_rule(_layer_key(key), stock=stock) if key else recipe.layers.rules
        recipe = recipe.with_("layers", rules=rules, stock=recipe.layers.stock if key else stock)
    for text in given["pin"]:
        key, _, place = text.partition("=")
        if place not in ("top", "bottom"):
            raise ArgumentError(f"“{text[:40]}” pins nothing; type KEY=top or KEY=bottom.")
        recipe = recipe.with_("layers", rules=recipe.layers.with_rule(_key(key), pin=place))
    order = given["order"]
    if order is not None and order.strip().lower() == "best":
        recipe = recipe.with_("layers", best=True)
    elif order is not None:
        recipe = recipe.with_("layers", best=False, order=tuple(map(_layer_key, _order_keys(order))))
    if given["stiffeners"] is not None:
        recipe = recipe.with_("layers", rules=recipe.layers.with_rule(BASE, copies=given["stiffeners"]))
    layers = recipe.layers
    for name, of_use, words in (
        ("rim", layers.build != "stencil", "a stencil has no base; --margin sets its sheet"),
        ("corners", layers.rim > 0, "there is no rim; give --rim too"),
        ("rim_gap", layers.has_base, "there is no base; build backed, or give --rim too"),
        ("base_colour", layers.has_base, "there is no base; build backed, or give --rim too"),
        ("stiffeners", layers.has_base, "there is no base; build backed, or give --rim too"),
        ("margin", layers.build == "stencil", "only a stencil has a sheet with a margin"),
        ("overlap", layers.build not in ("single", "stencil"), "it is one layer"),
        ("slip", layers.build not in ("single", "stencil"), "it is one layer"),
    ):
        if given[name] is not None and not of_use:
            raise ArgumentError(f"--{name.replace('_', '-')} does nothing here: {words}.")
    return recipe


def _order_keys(text: str) -> list[str]:
    keys = [key.strip() for key in text.split(",") if key.strip()]
    if not keys or len(set(map(str.lower, keys))) < len(keys):
        raise ArgumentError(f"“{text[:40]}” is no order; type best, or each key once with commas between.")
    return keys


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
    asked += [_layer_key(text.rpartition("=")[0]) for text in given["stock"] if "=" in text]
    asked += [_key(text.partition("=")[0]) for text in given["pin"]]
    if given["order"] and given["order"].strip().lower() != "best":
        asked += map(_layer_key, _order_keys(given["order"]))
    asked += [key for limit in _LIMITS for key, _ in map(limit.taken, given[limit.setting]) if key]
    found = [ink.key for ink in result.palette.cut]
    cleared = [ink.key for ink in result.palette.grounded]
    lost = [key for key in asked if key not in (*found, BASE, SHEET, CLEAR)]
    lost += [key for key in map(_key, given["to_ground"]) if key not in (*found, *cleared)]
    if lost:
        raise ArgumentError(f"No ink is {lost[0]}; the picture has {', '.join(found)}.")
