"""`sketch-loom send`: one picture or job in, a folder of files for cutters out."""

import json
from pathlib import Path
from typing import Any

import click

from sketchloom.cli.opened import check_names, open_source
from sketchloom.cli.prepare_flags import check_placed, prepare_options
from sketchloom.cli.settings_flags import check_road, settings_options
from sketchloom.cli.settings_for import settings_for
from sketchloom.cli.sheets_flags import sheets_options, with_sheets
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import (
    FORMATS,
    Job,
    Papers,
    Pipeline,
    SendSettings,
    job_bytes,
    papers_of,
    preview_of,
    send_report,
    sent_files,
    work_of,
    zipped,
)
from sketchloom.core.paper import PAPERS, Paper
from sketchloom.core.send import SVG, file_stem, make_folder, page_of_layers, settle_all, write_all
from sketchloom.core.sheets import why_not
from sketchloom.core.stock import PRESETS

__all__ = ["send_command"]

_FILE = click.Path(path_type=Path)


@click.command("send")
@click.argument("source", type=_FILE, metavar="PICTURE|JOB.loom")
@click.option("-o", "--out", type=_FILE, required=True, metavar="FOLDER", help="Folder for the files.")
@click.option(
    "--formats", default="svg", metavar="LIST", help=f"Of {', '.join(FORMATS)} and loom, with commas. [default: svg]"
)
@click.option("--of", type=click.Choice(["layers", "sheets"]), default="layers", help="What is sent. [default: layers]")
@click.option("--each", is_flag=True, help="Also one file a layer.")
@click.option("--outlines", is_flag=True, help="Outlines of hairline width instead of areas.")
@click.option("--by-piece", is_flag=True, help="One path a piece instead of one a layer.")
@click.option("--png-dpi", type=click.FloatRange(1, 10_000), default=300.0, help="Of a PNG. [default: 300]")
@click.option("--turn-page", is_flag=True, help="Turn the page of HP-GL a quarter.")
@click.option("--pdf-spot", default="", metavar="NAME", help="Spot colour of lines that are cut, in a PDF. [none]")
@click.option("--job-sheet", is_flag=True, help="Also a sheet of paper that goes with the job, as PDF.")
@click.option(
    "--paper", type=click.Choice(list(PAPERS)), default="a4", help="Of the job sheet and strip. [default: a4]"
)
@click.option("--strip", is_flag=True, help="Also the stack as it grows, a picture a layer, as PNG and PDF.")
@click.option("--test-cut", is_flag=True, help="Also a figure of half an inch for each stock, to cut first.")
@click.option("--zip", "zip_too", is_flag=True, help="Also all files in one ZIP.")
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write here what was written, and what read it back.")
@click.option(
    "--recipe", type=_FILE, metavar="JOB.loom|FILE.json", help="Take the recipe of a job; options go before it."
)
@click.option("--dpi", type=click.FloatRange(1, 10_000), help="At which a PDF is drawn. [default: 300]")
@sheets_options
@settings_options
@prepare_options
def send_command(
    source: Path,
    out: Path,
    formats: str,
    of: Any,
    each: bool,
    outlines: bool,
    by_piece: bool,
    png_dpi: float,
    turn_page: bool,
    pdf_spot: str,
    job_sheet: bool,
    paper: Paper,
    strip: bool,
    test_cut: bool,
    zip_too: bool,
    report: Path | None,
    recipe: Path | None,
    dpi: float | None,
    page_number: int | None,
    **flags: Any,
) -> None:
    """Write the layers or sheets of PICTURE or JOB.loom as files for cutters.

    Each file is read back by what did not write it before anything is
    written. Flags of trace and sheets go before a job's own settings.
    """
    settle_all()
    if report and report.suffix.lower() != ".json":
        raise ArgumentError(f"{report.name}: let its name end with .json, so that it is found again.")
    check_names([source], [path for path in (report,) if path])
    asked = tuple(dict.fromkeys(word.strip().lower().removeprefix(".") for word in formats.split(",") if word.strip()))
    settings = SendSettings(
        tuple(form for form in asked if form != "loom"), of, each, outlines, by_piece, png_dpi, turn_page,
        pdf_spot, Papers(job_sheet, strip, test_cut, paper),
    )  # fmt: skip
    opened = open_source(source, page_number, dpi)
    pipeline = Pipeline()
    chosen = with_sheets(settings_for(opened, recipe, flags, pipeline), flags).check()
    result = pipeline.run(opened.picture, chosen, names=settings.needs)
    check_placed(opened.file_name, chosen.prepare, result.prepared)
    check_road(result, flags)
    laid = None
    if "sheets" in settings.needs:
        laid = result.layout, work_of(result, [])
        forbidden = why_not(result.layout, chosen.sheets.cutter)
        if forbidden:
            raise ArgumentError(forbidden)
    sent = sent_files(opened.name, result.stack, laid, settings) if settings.formats or "loom" not in asked else ()
    sent += papers_of(opened.name, result, laid, settings, PRESETS.read() if job_sheet else ())
    files = [(one.path, one.data) for one in sent]
    plain = file_stem(opened.name)
    if "loom" in asked:
        job = Job(opened.name, opened.file_name, opened.data, chosen, opened.page, opened.dpi)
        written = job_bytes(job, SVG.write(page_of_layers(result.stack.cuts)), preview_of(result))
        files.append((f"{plain}.loom", written))
    if zip_too:
        files.append((f"{plain}.zip", zipped(plain, files)))
    targets = {out / path: data for path, data in files}
    if report:
        targets[report] = (json.dumps(send_report(sent), indent=2, ensure_ascii=False) + "\n").encode()
    make_folder(out)
    write_all(targets)
