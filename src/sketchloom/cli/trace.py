"""`sketch-loom trace`: one picture in, layered SVG out."""

import json
from pathlib import Path
from typing import Any

import click
import msgspec

from sketchloom.cli.prepared import PREPARE_FLAGS, check_placed, open_page, prepare_options, rows_of
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, read_recipe, report_of
from sketchloom.core.picture import DPI
from sketchloom.core.send import check_svg, layer_files, svg_text, write_all
from sketchloom.core.units import PX_PER_MM_UNSET, parse_area, parse_length

__all__ = ["trace"]

_FILE = click.Path(path_type=Path)


@click.command()
@click.argument("picture", type=_FILE)
@click.option("-o", "--out", type=_FILE, required=True, help="SVG to write.")
@click.option("--mode", type=click.Choice(["auto", "flat", "ink", "photo"]), help="Kind of picture. [default: auto]")
@click.option("--inks", metavar="auto|N", help="Number of inks. [default: auto]")
@click.option(
    "--threshold", type=float, help="Ink drawings: darker than this share of the paper's light is ink. [default: found]"
)
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
@click.option("--smoothness", metavar="LENGTH", help="How far curves may stray from edges. [default: 0.03mm]")
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
    picture: Path,
    out: Path,
    recipe: Path | None,
    each: bool,
    report: Path | None,
    dpi: float,
    page_number: int,
    **options: Any,
) -> None:
    """Trace PICTURE (PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF or PDF) to a layered SVG."""
    settings = _with_options(read_recipe(recipe) if recipe else Recipe(), options)
    targets = [out.resolve(), *([report.resolve()] if report else [])]
    if picture.resolve() in targets or len(set(targets)) < len(targets):
        raise ArgumentError("The picture, the SVG and the report need three names of their own.")
    opened = open_page(picture, page_number, dpi)
    width = settings.finish.width
    px_per_mm = opened.width / width if width else PX_PER_MM_UNSET
    rows = rows_of(opened, px_per_mm, **{name: options[name] for name in PREPARE_FLAGS})
    if rows:
        settings = msgspec.structs.replace(settings, prepare=rows)
    result = Pipeline(cache_bytes=0).run(opened, settings)
    check_placed(picture.name, settings.prepare, result.prepared)
    text = svg_text(result.stack)
    check_svg(text, result.stack)
    files = {out: text.encode()}
    if each:
        for layer, (ending, single) in zip(result.stack.layers, layer_files(result.stack), strict=True):
            check_svg(single, result.stack, (layer,))
            files[out.with_name(f"{out.stem}-{ending}{out.suffix or '.svg'}")] = single.encode()
    if report:
        files[report] = (json.dumps(report_of(result), indent=2, ensure_ascii=False) + "\n").encode()
    write_all(files)


def _with_options(recipe: Recipe, options: dict[str, Any]) -> Recipe:
    """Put the options that were given over a recipe; raises ArgumentError."""
    places = {
        "mode": ("separate", str),
        "inks": ("separate", _ink_count),
        "threshold": ("separate", float),
        "ground": ("separate", str),
        "least_area": ("tidy", parse_area),
        "smoothness": ("trace", parse_length),
        "build": ("layers", str),
        "page": ("finish", str),
        "width": ("finish", parse_length),
    }
    for name, (stage, read) in places.items():
        value = options[name]
        if value is not None:
            recipe = recipe.with_(stage, **{name: read(value)})
    if options["width"] is not None:
        recipe = recipe.with_("finish", height=None)
    return recipe.check()


def _ink_count(text: str) -> int | None:
    if text == "auto":
        return None
    if not (text.isascii() and text.isdigit()):
        raise ArgumentError(f"“{text}” is not a number of inks; type auto or a whole number.")
    return int(text)
