"""`sketch-loom trace`: one picture in, layered SVG out."""

import json
from enum import StrEnum
from pathlib import Path

import typer

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, read_recipe, report_of
from sketchloom.core.picture import load_picture
from sketchloom.core.send import check_svg, layer_files, svg_text, write_all
from sketchloom.core.units import parse_area, parse_length

__all__ = ["trace"]


class Mode(StrEnum):
    """Kinds of picture."""

    auto = "auto"
    flat = "flat"
    ink = "ink"


class Ground(StrEnum):
    """What becomes of the ground."""

    auto = "auto"
    keep = "keep"


class Page(StrEnum):
    """What the page covers."""

    design = "design"
    picture = "picture"


class Build(StrEnum):
    """How layers are built."""

    flush = "flush"
    carried = "carried"
    single = "single"


def trace(
    picture: Path = typer.Argument(..., help="PNG, JPEG, WebP, TIFF, BMP or GIF."),
    out: Path = typer.Option(..., "-o", "--out", help="SVG to write."),
    mode: Mode | None = typer.Option(None, help="Kind of picture. [default: auto]"),
    inks: str | None = typer.Option(None, metavar="auto|N", help="Number of inks. [default: auto]"),
    threshold: float | None = typer.Option(
        None, help="Ink drawings: share of the paper's light, 0 to 1, below which it is ink. [default: found]"
    ),
    ground: Ground | None = typer.Option(
        None, help="auto clears a border of one colour and clear pixels; keep cuts it too. [default: auto]"
    ),
    page: Page | None = typer.Option(None, help="What the page covers. [default: design]"),
    width: str | None = typer.Option(None, metavar="LENGTH", help="Of the page, such as 180mm or 7in. [default: 96 px to the inch]"),
    build: Build | None = typer.Option(None, help="How layers are built. [default: flush]"),
    smoothness: str | None = typer.Option(None, metavar="LENGTH", help="How far curves may stray. [default: 0.03mm]"),
    least_area: str | None = typer.Option(None, metavar="AREA", help="Smaller pieces join a neighbour. [default: 0.25mm2]"),
    each: bool = typer.Option(False, "--each", help="Also write one file a layer, beside OUT."),
    report: Path | None = typer.Option(None, metavar="FILE.json", help="Write the figures here."),
    recipe: Path | None = typer.Option(None, metavar="JOB.loom|FILE.json", help="Take the recipe of a job; options given here go before it."),
) -> None:
    """Trace a picture to a layered SVG."""
    base = read_recipe(recipe) if recipe else Recipe()
    settings = _with_options(
        base,
        {
            ("separate", "mode"): mode and mode.value,
            ("separate", "threshold"): threshold,
            ("separate", "ground"): ground and ground.value,
            ("finish", "page"): page and page.value,
            ("layers", "build"): build and build.value,
            ("trace", "smoothness"): None if smoothness is None else parse_length(smoothness),
            ("tidy", "least_area"): None if least_area is None else parse_area(least_area),
        },
    )
    if inks is not None:
        settings = settings.with_("separate", inks=_ink_count(inks))
    if width is not None:
        settings = settings.with_("finish", width=parse_length(width), height=None)
    settings.check()
    targets = [out.resolve(), *([report.resolve()] if report else [])]
    if picture.resolve() in targets or len(set(targets)) < len(targets):
        raise ArgumentError("The picture, the SVG and the report need three names of their own.")
    result = Pipeline(cache_bytes=0).run(load_picture(picture), settings)
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


def _with_options(recipe: Recipe, given: dict[tuple[str, str], str | float | None]) -> Recipe:
    for (stage, name), value in given.items():
        if value is not None:
            recipe = recipe.with_(stage, **{name: value})
    return recipe


def _ink_count(text: str) -> int | None:
    if text == "auto":
        return None
    if not text.isascii() or not text.isdigit():
        raise ArgumentError(f"“{text}” is not a number of inks; type auto or a whole number.")
    return int(text)
