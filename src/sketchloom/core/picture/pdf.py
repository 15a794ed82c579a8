"""Pages of a PDF as pictures."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.errors import PictureError

__all__ = ["PdfPage", "is_pdf", "pdf_page"]

_POINTS_PER_INCH = 72.0


class PdfPage(NamedTuple):
    """A page, drawn on white."""

    rgba: Bytes
    pages: int
    """Of the whole file."""


def is_pdf(data: bytes) -> bool:
    """Whether the file says it is a PDF (ISO 32000-1, 7.5.2; the mark may follow other bytes)."""
    return b"%PDF-" in data[:1024]


def pdf_page(data: bytes, name: str, page: int, dpi: float, most_pixels: int) -> PdfPage:
    """Draw a page, counted from 1.

    Raises
    ------
    PictureError
        If the file cannot be read, is locked, has no such page, or the page
        has more than `most_pixels` at this resolution.
    """
    import pypdfium2 as pdfium  # only a PDF needs it

    try:
        document = pdfium.PdfDocument(data)
    except pdfium.PdfiumError as error:
        if "password" in str(error).lower():
            raise PictureError(f"{name} is locked with a password; save it without one first.") from None
        raise PictureError(f"{name} is damaged or only half there; save or copy it again.") from None
    try:
        pages = len(document)
        if not 1 <= page <= pages:
            held = "1 page" if pages == 1 else f"{pages} pages"
            raise PictureError(f"{name} has {held}, so there is no page {page}.")
        sheet = document[page - 1]
        width, height = (round(side * dpi / _POINTS_PER_INCH) for side in sheet.get_size())
        if not width * height <= most_pixels:
            raise PictureError(
                f"Page {page} of {name} has {width} x {height} pixels at {dpi:g} dpi; "
                f"at most {most_pixels // 1_000_000} million can be opened, so take fewer dpi."
            )
        bitmap = sheet.render(scale=dpi / _POINTS_PER_INCH, rev_byteorder=True, prefer_bgrx=True)
        drawn = bitmap.to_numpy()
        rgba = np.empty((*drawn.shape[:2], 4), np.uint8)
        rgba[..., :3], rgba[..., 3] = drawn[..., :3], 255
        return PdfPage(rgba, pages)
    except pdfium.PdfiumError:
        raise PictureError(f"Page {page} of {name} cannot be drawn; the file may be damaged.") from None
    finally:
        document.close()
