"""`sketch-loom trace`: one picture in, layered SVG out."""

import json
from pathlib import Path
from typing import Any

import click
import msgspec

from sketchloom.cli.prepared import PREPARE_FLAGS, check_placed, open_page, prepare_options, rows_of
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, are_layers, ink_keys, job_of_layers, read_recipe, report_of
from sketchloom.core.picture import DPI, Picture, load_picture
from sketchloom.core.regions import Colour, SeparateSettings
from sketchloom.core.send import check_svg, layer_files, svg_text, write_all
from sketchloom.core.units import PX_PER_MM_UNSET, parse_area, parse_length

__all__ = ["trace"]

_FILE = click.Path(path_type=Path)


@click.command()
@click.argument("pictures", type=_FILE, nargs=-1, required=True, metavar="PICTURE...")
@click.option("-o", "--out", type=_FILE, required=True, help="SVG to write.")
@click.option(
    "--mode", type=click.Choice(["auto", "flat", "ink", "lineart", "photo"]), help="Kind of picture. [default: auto]"
)
@click.option("--inks", metavar="auto|N", help="Number of inks. [default: auto]")
@click.option(
    "--threshold", type=float, help="Ink drawings: darker than this share of the paper's light is ink. [default: found]"
)
@click.option(
    "--local/--global", default=None, help="Ink drawings: let the threshold follow the strokes. [default: found]"
)
@click.option("--faint", type=float, help="Ink drawings: keep strokes up to this share where they hang on ink.")
@click.option("--strength", type=float, help="Ink drawings: leave out marks nowhere darker than this share.")
@click.option("--silhouette", is_flag=True, default=None, help="Ink drawings: fill the outline.")
@click.option("--ink-colour", metavar="#RRGGBB", help="Ink drawings: only ink of this colour counts.")
@click.option("--close-gaps", is_flag=True, default=None, help="Line art: close every leak that is found.")
@click.option("--gap", metavar="LENGTH", help="Line art: the widest leak. [default: six stroke widths]")
@click.option(
    "--steps-by", type=click.Choice(["light", "colour"]), help="Photos: nested steps, or flat colours. [default: light]"
)
@click.option("--detail", metavar="LENGTH", help="Photos: smaller detail is smoothed away. [default: 1mm]")
@click.option(
    "--ground",
    type=click.Choice(["auto", "keep"]),
    help="auto clears a border of one colour, and clear pixels; keep cuts them too. [default: auto]",
)
@click.option("--page", type=click.Choice(["design", "picture"]), help="What the page covers. [default: design]")
@click.option("--width", metavar="LENGTH", help="Of the page, such as 180mm or 7in. [default: 96 px to the inch]")
@click.option(
    "--build", type=click.Choice(["flush", "carried", "single"]), help="How layers are built. [default: flush]"
)
@click.option("--smoothness", metavar="LENGTH", help="How far curves may stray from edges. [default: 0.015mm]")
@click.option("--straightness", metavar="LENGTH", help="Lines that bow less are straight. [default: 0mm]")
@click.option("--corner", type=float, metavar="DEGREES", help="Sharper turns are corners. [default: 24]")
@click.option("--square", type=float, metavar="DEGREES", help="Lines that lean less are squared up. [default: 0]")
@click.option("--mirror", metavar="LENGTH", help="Halves that differ less are made alike. [default: 0mm]")
@click.option("--centre-lines", metavar="#RRGGBB", multiple=True, help="An ink whose centre lines are written too.")
@click.option("--least-area", metavar="AREA", help="Smaller pieces join a neighbour. [default: 0.25mm2]")
@click.option("--each", is_flag=True, help="Also write one file a layer, beside OUT.")
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write the figures here.")
@click.option(
    "--recipe",
    type=_FILE,
    metavar="JOB.loom|FILE.json",
    help="Take the recipe of a job; options given here go before it.",
)
@click.option(
    "--dpi", type=click.FloatRange(1, 10_000), default=DPI, show_default=True, help="At which a PDF is drawn."
)
@prepare_options
def trace(
    pictures: tuple[Path, ...],
    out: Path,
    recipe: Path | None,
    each: bool,
    report: Path | None,
    dpi: float,
    page_number: int,
    **options: Any,
) -> None:
    """Trace PICTURE (PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF or PDF) to a layered SVG.

    Several pictures of one size, each on clear ground, are taken as layers
    of one drawing, the first at the bottom.
    """
    settings = _with_options(read_recipe(recipe) if recipe else Recipe(), options)
    targets = [out.resolve(), *([report.resolve()] if report else [])]
    if {picture.resolve() for picture in pictures} & {*targets} or len(set(targets)) < len(targets):
        raise ArgumentError("The picture, the SVG and the report need three names of their own.")
    opened, laid = _open(pictures, page_number, dpi)
    if laid is not None:
        settings = settings.with_("separate", layers=laid.layers, shown=(*laid.shown, *settings.separate.shown))
    width = settings.finish.width
    px_per_mm = opened.width / width if width else PX_PER_MM_UNSET
    rows = rows_of(opened, px_per_mm, **{name: options[name] for name in PREPARE_FLAGS})
    if rows:
        settings = msgspec.structs.replace(settings, prepare=rows)
    result = Pipeline(cache_bytes=0).run(opened, settings)
    check_placed(pictures[0].name, settings.prepare, result.prepared)
    _check_inks(settings.layers.strokes, ink_keys(result))
    text = svg_text(result.stack)
    check_svg(text, result.stack)
    files = {out: text.encode()}
    if each:
        every = (*result.stack.layers, *result.stack.strokes)
        for layer, (ending, single) in zip(every, layer_files(result.stack), strict=True):
            check_svg(single, result.stack, (layer,))
            files[out.with_name(f"{out.stem}-{ending}{out.suffix or '.svg'}")] = single.encode()
    if report:
        files[report] = (json.dumps(report_of(result), indent=2, ensure_ascii=False) + "\n").encode()
    write_all(files)


def _open(pictures: tuple[Path, ...], page: int, dpi: float) -> tuple[Picture, SeparateSettings | None]:
    """Open one picture, or lay several together; raises PictureError and ArgumentError."""
    opened = [open_page(picture, page, dpi) for picture in pictures]
    if len(opened) == 1:
        return opened[0], None
    if not are_layers(opened):
        raise ArgumentError("Several pictures are traced together only if they are of one size, each on clear ground.")
    job = job_of_layers("Layers", [(path.stem, picture) for path, picture in zip(pictures, opened, strict=True)])
    return load_picture(job.picture, job.picture_name), job.recipe.separate


_FIELDS = {"centre_lines": "strokes"}


def _inks(codes: tuple[str, ...]) -> tuple[str, ...]:
    """Hex colours as settings hold them; raises ArgumentError."""
    return tuple("#{:02x}{:02x}{:02x}".format(*_colour(code)) for code in codes)


def _check_inks(asked: tuple[str, ...], found: list[str]) -> None:
    lost = [code for code in asked if code not in found]
    if lost:
        raise ArgumentError(f"No ink is {lost[0]}; the picture has {', '.join(found)}.")


def _with_options(recipe: Recipe, options: dict[str, Any]) -> Recipe:
    """Put the options that were given over a recipe; raises ArgumentError."""
    places = {
        "mode": ("separate", str),
        "inks": ("separate", _ink_count),
        "threshold": ("separate", float),
        "local": ("separate", bool),
        "faint": ("separate", float),
        "strength": ("separate", float),
        "silhouette": ("separate", bool),
        "ink_colour": ("separate", _colour),
        "close_gaps": ("separate", bool),
        "gap": ("separate", parse_length),
        "steps_by": ("separate", str),
        "detail": ("separate", parse_length),
        "ground": ("separate", str),
        "least_area": ("tidy", parse_area),
        "smoothness": ("trace", parse_length),
        "straightness": ("trace", parse_length),
        "corner": ("trace", float),
        "square": ("trace", float),
        "mirror": ("trace", parse_length),
        "build": ("layers", str),
        "page": ("finish", str),
        "centre_lines": ("layers", _inks),
        "width": ("finish", parse_length),
    }
    for name, (stage, read) in places.items():
        value = options[name]
        if value is not None and value != ():
            recipe = recipe.with_(stage, **{_FIELDS.get(name, name): read(value)})
    if options["width"] is not None:
        recipe = recipe.with_("finish", height=None)
    return recipe.check()


def _ink_count(text: str) -> int | None:
    if text == "auto":
        return None
    if not (text.isascii() and text.isdigit()):
        raise ArgumentError(f"“{text}” is not a number of inks; type auto or a whole number.")
    return int(text)


def _colour(text: str) -> Colour:
    digits = text.removeprefix("#")
    try:
        red, green, blue = bytes.fromhex(digits)
    except ValueError:
        raise ArgumentError(f"“{text}” is no colour; type it as #rrggbb.") from None
    return red, green, blue
