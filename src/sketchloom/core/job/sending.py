"""What is sent of a job: layers or sheets, in which formats, under which names."""

import io
import zipfile
from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

from sketchloom.core.cut import Cut
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job.pipeline import Progress, silent
from sketchloom.core.job.sheet_report import sheet_names
from sketchloom.core.layers import LayerStack
from sketchloom.core.paper import Paper
from sketchloom.core.send import (
    WRITERS,
    HpglWriter,
    Page,
    PdfWriter,
    PngWriter,
    Writer,
    file_stem,
    names_of,
    page_of_layers,
    page_of_sheet,
    plain_name,
    written,
)
from sketchloom.core.sheets import Layout, Work
from sketchloom.core.stock import Stock

__all__ = [
    "FORMATS",
    "Papers",
    "SendSettings",
    "Sent",
    "names_of_test_cuts",
    "send_report",
    "sent_files",
    "sent_names",
    "stocks_of",
    "writer_of",
    "zipped",
]

FORMATS = tuple(ending.removeprefix(".") for ending in WRITERS)
_DATE = (1980, 1, 1, 0, 0, 0)
"""Of every file in a ZIP, so that the same job gives the same bytes."""


class Papers(NamedTuple):
    """What goes beside the files for cutters."""

    job_sheet: bool = False
    strip: bool = False
    """The stack as it grows."""
    test_cut: bool = False
    """One for each stock, in every format."""
    size: Paper = "a4"

    @property
    def any(self) -> bool:
        """Whether there is anything."""
        return self.job_sheet or self.strip or self.test_cut


class SendSettings(NamedTuple):
    """What is sent."""

    formats: tuple[str, ...] = ("svg",)
    """Of `FORMATS`."""
    of: Literal["layers", "sheets"] = "layers"
    each: bool = False
    """Whether layers get a file each, besides the one of all."""
    outlines: bool = False
    """Whether areas are drawn as outlines."""
    by_piece: bool = False
    """Whether each piece is a path of its own."""
    dpi: float = 300.0
    """Of a PNG."""
    turned: bool = False
    """Whether the page of HP-GL is turned a quarter."""
    spot: str = ""
    """Name of the spot colour of lines that are cut, in a PDF."""
    papers: Papers = Papers()

    @property
    def needs(self) -> tuple[str, ...]:
        """Stages of the pipeline whose results are sent."""
        sheets = ("sheets",) if self.of == "sheets" or self.papers.job_sheet else ()
        return ("palette", "mended", *sheets, *(("checked",) if self.papers.job_sheet else ()))


class Sent(NamedTuple):
    """A file."""

    path: str
    """Within the folder."""
    format: str
    of: str
    """What it holds, by name."""
    size: tuple[float, float]
    """Of its page, mm."""
    data: bytes
    read_by: str


def sent_files(
    name: str, stack: LayerStack, laid: tuple[Layout, Work] | None, settings: SendSettings, progress: Progress = silent
) -> tuple[Sent, ...]:
    """Write all that is sent, and read each file back.

    Parameters
    ----------
    name : str
        Of the job.
    stack : LayerStack
    laid : (Layout, Work), optional
        Sheets, and what is laid on them; needed where sheets are sent.
    settings : SendSettings
    progress : callable

    Raises
    ------
    ArgumentError
        For a format that is none, or where no sheets are there to be sent.
    WriteError
        If a file does not read back as it was meant.
    """
    unknown = [one for one in settings.formats if one not in FORMATS]
    if unknown or not (settings.formats or settings.papers.any):
        told = f"“{unknown[0][:20]}” is no format" if unknown else "No format is asked for"
        raise ArgumentError(f"{told}; there are {', '.join(FORMATS)}.")
    pages = _pages(name, stack, laid, settings)
    out = []
    for number, form in enumerate(settings.formats):
        writer = writer_of(form, settings)
        for place, (file, page) in enumerate(pages):
            progress("send", (number + place / len(pages)) / len(settings.formats))
            out.append(Sent(f"{file}.{form}", form, page.title, page.size, written(writer, page), writer.read_by))
    return tuple(out)


def writer_of(form: str, settings: SendSettings) -> Writer:
    """Give the writer of a format, as it is set."""
    own: dict[str, Writer] = {
        "hpgl": HpglWriter(settings.turned), "png": PngWriter(settings.dpi), "pdf": PdfWriter(settings.spot)
    }  # fmt: skip
    return own.get(form) or WRITERS[f".{form}"]


def sent_names(name: str, stack: LayerStack, layout: Layout | None, settings: SendSettings) -> tuple[str, ...]:
    """Names of all files that would be sent."""
    if settings.of == "sheets":
        stems = sheet_names(layout) if layout is not None else ()
    else:
        stems = _layer_names(name, stack, settings.each)
    names = [f"{stem}.{form}" for form in settings.formats for stem in stems]
    papers, plain = settings.papers, file_stem(name)
    names += [f"{plain}-job-sheet.pdf"] if papers.job_sheet else []
    names += [f"{plain}-strip.png", f"{plain}-strip.pdf"] if papers.strip else []
    tried = stocks_of(stack) if papers.test_cut else ()
    return (*names, *(f"{stem}.{form}" for stem in names_of_test_cuts(tried).values() for form in settings.formats))


def stocks_of(stack: LayerStack) -> tuple[Stock | None, ...]:
    """Stocks that are cut, each once, bottom first; None where one is not chosen."""
    return tuple(dict.fromkeys(cut.stock for cut in stack.cuts.cuts if cut.kind == "cut"))


def names_of_test_cuts(stocks: Sequence[Stock | None]) -> dict[Stock | None, str]:
    """Names of files of test cuts, without an ending; no two share one."""
    out: dict[Stock | None, str] = {}
    for stock in stocks:
        name = f"test-cut-{plain_name(stock.name) or 'stock' if stock is not None else 'any-stock'}"
        many = sum(other == name or other.startswith(name + "--") for other in out.values())
        out[stock] = f"{name}--{many + 1}" if many else name
    return out


def _layer_names(name: str, stack: LayerStack, each: bool) -> tuple[str, ...]:
    """Names of files of layers, without an ending: that of the job, then a number and a name a layer."""
    own = [f"{number}-{_layer_name(cut)}" for number, cut in enumerate(stack.cuts.cuts, 1)]
    return (file_stem(name), *(own if each else ()))


def _layer_name(cut: Cut) -> str:
    """Name of a layer and its stock, no word twice: what is cut from which sheet is read off the file."""
    words = f"{plain_name(cut.name)}-{plain_name(cut.stock.name) if cut.stock is not None else ''}".split("-")
    return "-".join(word for word in dict.fromkeys(words) if word) or "layer"


def _pages(
    name: str, stack: LayerStack, laid: tuple[Layout, Work] | None, settings: SendSettings
) -> list[tuple[str, Page]]:
    """Pages with the names of their files, without an ending."""
    if settings.of == "sheets":
        if laid is None:
            raise ArgumentError("There are no sheets to send; lay the layers on sheets first.")
        layout, work = laid
        ids = names_of(work.every)
        stems, pages = sheet_names(layout), [page_of_sheet(sheet, ids) for sheet in layout.sheets]
    else:
        cuts, stems = stack.cuts, _layer_names(name, stack, settings.each)
        pages = [page_of_layers(cuts, None, name, settings.by_piece)]
        if settings.each:
            pages += [page_of_layers(cuts, [cut], cut.name, settings.by_piece) for cut in cuts.cuts]
    return [(stem, page.as_outlines() if settings.outlines else page) for stem, page in zip(stems, pages, strict=True)]


def send_report(files: Sequence[Sent]) -> dict[str, Any]:
    """Give the report: every file, with what read it back; sizes in mm."""
    return {
        "files": [
            {
                "path": one.path,
                "format": one.format,
                "of": one.of,
                "size_mm": [round(side, 3) for side in one.size],
                "bytes": len(one.data),
                "read_by": one.read_by,
            }
            for one in files
        ]
    }


def zipped(folder: str, files: Sequence[tuple[str, bytes]]) -> bytes:
    """Put files in a folder of a ZIP; the same bytes for the same files."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for path, data in files:
            info = zipfile.ZipInfo(f"{folder}/{path}", _DATE)
            info.compress_type, info.external_attr = zipfile.ZIP_DEFLATED, 0o644 << 16
            archive.writestr(info, data)
    return buffer.getvalue()
