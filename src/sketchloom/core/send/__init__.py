"""Writers: one a format."""

from sketchloom.core.send.assembly import assembly_png, assembly_svg
from sketchloom.core.send.files import make_folder, settle_all, write_all, write_whole
from sketchloom.core.send.png import png_bytes
from sketchloom.core.send.sheet_svg import sheet_svg
from sketchloom.core.send.svg import SvgWriter
from sketchloom.core.send.writer import Writer, files_of, names_of

__all__ = [
    "SVG",
    "WRITERS",
    "Writer",
    "assembly_png",
    "assembly_svg",
    "files_of",
    "make_folder",
    "names_of",
    "png_bytes",
    "settle_all",
    "sheet_svg",
    "write_all",
    "write_whole",
]

SVG = SvgWriter()

WRITERS: dict[str, Writer] = {writer.ending: writer for writer in (SVG,)}
"""By the ending of their files."""
