"""Writers: one a format; each file is read back by what did not write it."""

from sketchloom.core.send.files import make_folder, settle_all, write_all, write_whole
from sketchloom.core.send.formats import SVG, WRITERS
from sketchloom.core.send.hpgl import HpglWriter
from sketchloom.core.send.names import file_stem, names_of, plain_name
from sketchloom.core.send.page import Item, Page, page_of_layers, page_of_sheet
from sketchloom.core.send.pdf import PdfWriter, draw_page, new_canvas, pages_of_pdf, pdf_of
from sketchloom.core.send.png import PngWriter, png_bytes
from sketchloom.core.send.svg import SvgWriter
from sketchloom.core.send.testcut import page_of_test_cut
from sketchloom.core.send.writer import Writer, files_of, written

__all__ = [
    "SVG", "WRITERS", "HpglWriter", "Item", "Page", "PdfWriter", "PngWriter", "SvgWriter", "Writer", "draw_page",
    "file_stem", "files_of", "make_folder", "names_of", "new_canvas", "page_of_layers", "page_of_sheet",
    "page_of_test_cut", "pages_of_pdf", "pdf_of", "plain_name", "png_bytes", "settle_all", "write_all", "write_whole",
    "written",
]  # fmt: skip
