"""`sketch-loom check`: whether a job, or a file of another program, can be cut."""

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

import click
import msgspec

from sketchloom.cli.opened import check_names, open_source
from sketchloom.core.cut import CutStack
from sketchloom.core.elsewhere import READERS, read_drawing, stack_of, subject_of
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import (
    Finding,
    Memory,
    MendedAll,
    Subject,
    all_with_sure_fixes,
    changed_elsewhere,
    check_limit,
    check_report,
    find_all,
    is_no_worse,
    mend_all,
    readiness,
)
from sketchloom.core.job import Pipeline, all_sure, with_fixes
from sketchloom.core.opening import read_plain
from sketchloom.core.scale import check_size
from sketchloom.core.send import SVG, files_of, names_of, settle_all, write_all
from sketchloom.core.stock import STOCKS, Stock, find_stock
from sketchloom.core.units import parse_length

__all__ = ["check_command"]

_FILE = click.Path(path_type=Path)
SPOILS = 1
_MOST_LIMITS_BYTES = 100_000


class _Mended(NamedTuple):
    """What came of mending."""

    stack: CutStack
    places: int
    left: tuple[Finding, ...]


class _Checked(NamedTuple):
    """What came of a check."""

    subject: Subject
    findings: tuple[Finding, ...]
    aside: tuple[Finding, ...]
    notes: tuple[str, ...]
    ids: dict[str, str]
    mended: _Mended | None


@click.command("check")
@click.argument("file", type=_FILE, metavar="FILE.svg|FILE.dxf|JOB.loom")
@click.option("--width", metavar="LENGTH", help="Finished width of what is cut. [default: as the file has it]")
@click.option("--stock", metavar="NAME", help="What it is cut from: the name of a stock, or a kind such as paper.")
@click.option(
    "--limits", type=_FILE, metavar="FILE.json", help='Limits of kinds of finding: {"neck": 0.8, "gap": 0.4}.'
)
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write findings and figures here.")
@click.option("-o", "--out", type=_FILE, metavar="MENDED.svg", help="Write it with what can be mended mended.")
def check_command(
    file: Path, width: str | None, stock: str | None, limits: Path | None, report: Path | None, out: Path | None
) -> None:
    """Check whether FILE can be cut, weeded and held together.

    Prints a line a finding, worst first. Exits with 0 where nothing spoils
    the cut, 1 where something does, 2 for what cannot be read, 3 where there
    is nothing to cut.
    """
    settle_all()
    if out and out.suffix.lower() != ".svg":
        raise ArgumentError(f"{out.name}: a mended file is written as .svg; let its name end so.")
    if report and report.suffix.lower() != ".json":
        raise ArgumentError(f"{report.name}: let its name end with .json, so that it is found again.")
    check_names([file, *([limits] if limits else [])], [path for path in (report, out) if path])
    width_mm = check_size(parse_length(width)) if width else None
    cut_from = find_stock(STOCKS.read(), stock) if stock else None
    changed = _limits(limits) if limits else ()
    work = _job if file.suffix.lower() == ".loom" else _drawing
    checked = work(file, width_mm, cut_from, changed, bool(out), bool(report))
    files: dict[Path, bytes] = {}
    if report:
        told = check_report(checked.subject, checked.findings, checked.notes, checked.aside, checked.ids)
        files[report] = (json.dumps(told, indent=2, ensure_ascii=False) + "\n").encode()
    if out and checked.mended is not None:
        files[out] = files_of(SVG, checked.mended.stack, False)[""]
    write_all(files)
    for note in checked.notes:
        click.echo(note)
    for finding in checked.findings:
        x, y = finding.at
        name = next(layer.name for layer in checked.subject.layers if layer.key == finding.layer)
        click.echo(f"{finding.severity}: {finding.kind}, {name}, at {x:.1f} {y:.1f} mm: {finding.sentence}")
    click.echo(readiness(checked.findings))
    if out and checked.mended is not None:
        many = checked.mended.places
        click.echo(f"{out.name}: {many} place{'s' * (many != 1)} mended. {readiness(checked.mended.left)}")
    if any(finding.severity == "spoils" for finding in checked.findings):
        raise click.exceptions.Exit(SPOILS)


def _limits(path: Path) -> tuple[tuple[str, float], ...]:
    """Read limits by kind; raises ArgumentError."""
    try:
        found = msgspec.json.decode(read_plain(path, ArgumentError, _MOST_LIMITS_BYTES), type=dict[str, float])
    except msgspec.DecodeError:
        raise ArgumentError(f'{path.name} is no file of limits; write it as {{"neck": 0.8, "gap": 0.4}}.') from None
    for kind, limit in found.items():
        check_limit(kind, limit)
    return tuple(sorted(found.items()))


def _drawing(
    file: Path, width: float | None, stock: Stock | None, limits: Sequence[tuple[str, float]], mends: bool, fixes: bool
) -> _Checked:
    """Check a file of another program."""
    if file.suffix.lower() not in READERS:
        raise ArgumentError(f"{file.name}: files that end with {', '.join(READERS)} or .loom can be checked.")
    drawing = read_drawing(file, width)
    subject = subject_of(drawing, stock, limits, Memory.new())
    found = find_all(subject)
    if fixes:
        found = all_with_sure_fixes(subject, found, found)
    done = mend_all(subject, found, found) if mends else None
    mended = None
    if done is not None:
        _check_kept(file, subject, done)
        mended = _Mended(stack_of(done.subject), len(done.fixes), done.findings)
    return _Checked(subject, found, (), drawing.notes, {}, mended)


def _check_kept(file: Path, subject: Subject, done: MendedAll) -> None:
    """Refuse what would lose or gain material where nothing is mended; raises ArgumentError."""
    lost, (x, y) = changed_elsewhere(subject, done.subject, [mend for fix in done.fixes for mend in fix.mends])
    if lost > 0:
        raise ArgumentError(
            f"{file.name}: mending it would change {lost:.1f} mm2 at {x:.1f} {y:.1f} mm, where nothing is to be "
            "mended, so nothing was written; unite its outlines where it was drawn."
        )


def _job(
    file: Path, width: float | None, stock: Stock | None, limits: Sequence[tuple[str, float]], mends: bool, fixes: bool
) -> _Checked:
    """Check a job; what is mended is its layers, and the job stays as it is."""
    opened = open_source(file, None, None)
    recipe = opened.recipe
    if width is not None:
        recipe = recipe.with_("finish", width=width, height=None)
    if stock is not None:
        recipe = recipe.with_("layers", stock=stock)
    if limits:
        recipe = recipe.with_("checks", limits=(*recipe.checks.limits, *limits))
    pipeline = Pipeline()
    result = pipeline.run(opened.picture, recipe, names=("checked",))
    checked = result.checked
    found: Any = checked.open
    if fixes:
        found = all_sure(pipeline, opened.picture, result, found)
    aside = tuple(checked.findings[place] for place in sorted(checked.aside))
    mended = None
    if mends:
        done = mend_all(checked.subject, checked.findings, found)
        _check_kept(file, checked.subject, done)
        stack = pipeline.run(opened.picture, with_fixes(result, recipe, done.fixes), names=("mended",)).stack
        left = tuple(
            one
            for one in done.findings
            if not any(one.is_at(other) and is_no_worse(one.kind, one.measure, other.measure) for other in aside)
        )
        mended = _Mended(stack.cuts, len(done.fixes), left)
    ids = names_of(result.stack.cuts.cuts)
    return _Checked(checked.subject, found, aside, (), ids, mended)
