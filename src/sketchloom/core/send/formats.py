"""All formats, by the ending of their files."""

from sketchloom.core.send.dxf import DxfWriter
from sketchloom.core.send.eps import EpsWriter
from sketchloom.core.send.hpgl import HpglWriter
from sketchloom.core.send.pdf import PdfWriter
from sketchloom.core.send.png import PngWriter
from sketchloom.core.send.svg import SvgWriter
from sketchloom.core.send.writer import Writer

__all__ = ["SVG", "WRITERS"]

SVG = SvgWriter()

_ALL: tuple[Writer, ...] = (SVG, DxfWriter(), PdfWriter(), EpsWriter(), HpglWriter(), PngWriter())
WRITERS = {writer.ending: writer for writer in _ALL}
