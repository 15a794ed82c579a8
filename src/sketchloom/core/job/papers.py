"""What of a job is for people and for a first try: the job sheet, the instruction strip, and test cuts."""

from collections.abc import Sequence

from sketchloom.core.errors import WriteError
from sketchloom.core.job.pipeline import Progress, silent
from sketchloom.core.job.result import Result
from sketchloom.core.job.sending import SendSettings, Sent, names_of_test_cuts, stocks_of, writer_of
from sketchloom.core.paper import PAPERS, JobFacts, Paper, job_sheet_pdf, strip_of, strip_pdf
from sketchloom.core.send import Page, PngWriter, file_stem, page_of_test_cut, pages_of_pdf, written
from sketchloom.core.sheets import Layout, SheetSettings, Work
from sketchloom.core.stock import Preset, Stock

__all__ = ["job_facts", "job_sheet", "papers_of", "sent_test_cut", "strip"]

_STRIP_DPI = 200.0
_LONGEST = 4000
"""Pixels of the longer side of a strip as PNG."""
_READ_BY = "pypdfium2"


def job_facts(
    name: str, result: Result, laid: tuple[Layout, Work], presets: Sequence[Preset] = (), unit: str = "mm"
) -> JobFacts:
    """Gather what a job sheet tells of a result that was laid and checked.

    Parameters
    ----------
    name : str
        Of the job.
    result : Result
    laid : (Layout, Work)
    presets : sequence of Preset
    unit : str
        Of lengths.
    """
    layout, work = laid
    sheets, checked = result.recipe.sheets, result.checked
    return JobFacts(
        name=name, size=result.finished.size, stack=result.stack, layout=layout, work=work, cutter=sheets.cutter,
        copies=sheets.copies, presets=tuple(presets), open=checked.open, left_so=len(checked.aside),
        behind=result.recipe.look.behind, unit=unit,
    )  # fmt: skip


def job_sheet(facts: JobFacts, paper: Paper) -> Sent:
    """Write the job sheet, and read back how many pages it has and of what size; raises WriteError."""
    return _paper(f"{file_stem(facts.name)}-job-sheet.pdf", "job sheet", job_sheet_pdf(facts, paper), paper)


def strip(name: str, result: Result, paper: Paper) -> tuple[Sent, ...]:
    """Write the instruction strip, as PNG and as a page of paper; raises WriteError."""
    page, stem = strip_of(result.stack, result.recipe.look.behind), f"{file_stem(name)}-strip"
    dpi = min(_STRIP_DPI, 25.4 * _LONGEST / max(page.size))
    png = PngWriter(dpi)
    sent = Sent(f"{stem}.png", "png", page.title, page.size, written(png, page), png.read_by)
    return sent, _paper(f"{stem}.pdf", page.title, strip_pdf(page, paper), paper)


def _paper(path: str, what: str, data: bytes, paper: Paper) -> Sent:
    sizes = pages_of_pdf(data)
    meant = sorted(PAPERS[paper])
    if not sizes or any(abs(a - b) > 0.01 for size in sizes for a, b in zip(sorted(size), meant, strict=True)):
        raise WriteError(
            f"The {what} did not read back as it was meant, so nothing was written; please report this job."
        )
    return Sent(path, "pdf", what, sizes[0], data, _READ_BY)


def sent_test_cut(name: str, stock: Stock | None, settings: SheetSettings, form: str, send: SendSettings) -> Sent:
    """Write the test cut for a stock in a format, under a name; raises WriteError."""
    page: Page = page_of_test_cut(stock, settings)
    writer = writer_of(form, send)
    return Sent(f"{name}.{form}", form, page.title, page.size, written(writer, page), writer.read_by)


def papers_of(
    name: str,
    result: Result,
    laid: tuple[Layout, Work] | None,
    settings: SendSettings,
    presets: Sequence[Preset] = (),
    unit: str = "mm",
    progress: Progress = silent,
) -> tuple[Sent, ...]:
    """Write all papers that are asked for; where a job sheet is, the result must be laid and checked.

    Raises
    ------
    WriteError
        If a file does not read back as it was meant.
    """
    papers, out = settings.papers, list[Sent]()
    if papers.job_sheet and laid is not None:
        progress("send", 0.0)
        out.append(job_sheet(job_facts(name, result, laid, presets, unit), papers.size))
    if papers.strip:
        progress("send", 0.4)
        out += strip(name, result, papers.size)
    if papers.test_cut:
        progress("send", 0.8)
        for stock, stem in names_of_test_cuts(stocks_of(result.stack)).items():
            out += [sent_test_cut(stem, stock, result.recipe.sheets, form, settings) for form in settings.formats]
    return tuple(out)
