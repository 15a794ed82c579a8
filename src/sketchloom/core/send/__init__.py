"""Writers: one a format."""

from sketchloom.core.send.files import write_all, write_whole
from sketchloom.core.send.png import png_bytes
from sketchloom.core.send.svg import check_svg, layer_files, svg_text

__all__ = ["check_svg", "layer_files", "png_bytes", "svg_text", "write_all", "write_whole"]
