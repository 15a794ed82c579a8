"""Read picture files of every ordinary kind."""

import io
import struct
import warnings
from functools import cache
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from sketchloom.core.errors import PictureError
from sketchloom.core.opening import read_plain
from sketchloom.core.picture.pdf import is_pdf, pdf_page
from sketchloom.core.picture.picture import JpegTables, Picture
from sketchloom.core.scale import OwnSize
from sketchloom.core.units import MM_PER_INCH

__all__ = ["DPI", "LEAST_DPI", "MOST_DPI", "MOST_PIXELS", "load_picture"]

MOST_PIXELS = 120_000_000
_FORMATS: tuple[str, ...] = ("PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF")
_KINDS = "Open a PNG, JPEG, WebP, HEIC, TIFF, BMP or GIF picture, or a PDF."
_TURNED = 0x0112
"""EXIF 2.32: how the picture lies; 1 is upright."""
_EXIF_OF_PHOTOS = 0x8769
_EXPOSED = {0x829A, 0x829D}
"""EXIF 2.32: the part of a photograph's own, and in it its time of exposure and its aperture."""
_LEAST_SCAN, _MOST_SCAN = 100.0, 4800.0
"""Dots an inch of a scan; 72 and 96 are what programs write that know of none."""
_LONGEST = 65_500
"""px of a side; what is longer is no picture."""
DPI = 300.0
"""At which pages of a PDF are drawn."""
LEAST_DPI, MOST_DPI = 1.0, 10_000.0

Image.MAX_IMAGE_PIXELS = None  # our own limit is checked first, with our own message


def load_picture(source: Path | bytes, name: str | None = None, page: int = 1, dpi: float = DPI) -> Picture:
    """Read a picture as upright 8-bit sRGB with alpha.

    The EXIF turn is applied, an embedded colour profile is converted to
    sRGB, and 16-bit values are scaled.

    Parameters
    ----------
    source : Path or bytes
        The file, or its content.
    name : str, optional
        What messages call it; by default the file's name.
    page : int
        Which page of a PDF, or which picture of a file that holds several;
        counted from 1.
    dpi : float
        At which a page of a PDF is drawn.

    Raises
    ------
    PictureError
        If it cannot be read or has more than `MOST_PIXELS` pixels; the
        message is one sentence. Nothing is decoded before the size is known.
    """
    if not LEAST_DPI <= dpi <= MOST_DPI:
        raise PictureError(f"A page cannot be drawn at {dpi:g} dpi; take {LEAST_DPI:g} to {MOST_DPI:g}.")
    name = name or (source.name if isinstance(source, Path) else "The picture")
    data = read_plain(source, PictureError) if isinstance(source, Path) else source
    if not data:
        raise PictureError(f"{name} is empty; save or copy the picture again.")
    if is_pdf(data):
        drawn = pdf_page(data, name, page, dpi, MOST_PIXELS)
        of_page = OwnSize(dpi / MM_PER_INCH, "page")
        return Picture(drawn.rgba, _which(page, drawn.pages, name), pages=drawn.pages, own_size=of_page)
    formats = _FORMATS
    if data[4:8] == b"ftyp":  # ISO/IEC 14496-12: the first box of a HEIC file
        _read_heif()
        formats = ("HEIF",)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = Image.open(io.BytesIO(data), formats=formats)
        except (UnidentifiedImageError, OSError, SyntaxError, ValueError, struct.error, EOFError):
            raise PictureError(f"{name} is not a picture this program can read. {_KINDS}") from None
        _check_pixels(image, name)
        try:
            frames = getattr(image, "n_frames", 1) if image.format != "MPO" else 1
            if not 1 <= page <= frames:
                held = "1 picture" if frames == 1 else f"{frames} pictures"
                raise PictureError(f"{name} holds {held}, so there is no page {page}.")
            if page > 1:
                image.seek(page - 1)
                _check_pixels(image, name)  # each may have a size of its own
            image.load()
            own = _own_size(image)
            rgba, tables = _as_rgba(image), _tables(image)
        except MemoryError:
            raise PictureError(f"{name} needs more memory than is free; save it smaller first.") from None
        except (OSError, SyntaxError, ValueError, struct.error, EOFError, IndexError, KeyError, TypeError):
            raise PictureError(f"{name} is damaged or only half there; save or copy it again.") from None
    picture = np.ascontiguousarray(rgba)
    return Picture(picture, _which(page, frames, name), pages=frames, tables=tables, own_size=own)


def _own_size(image: Image.Image) -> OwnSize | None:
    """The size of a scan, where the file states a believable one; cameras and screens state any."""
    try:
        across, down = (float(value) for value in image.info["dpi"])
    except (KeyError, TypeError, ValueError, ZeroDivisionError):
        return None
    camera = image.getexif().get_ifd(_EXIF_OF_PHOTOS)
    alike = abs(across - down) <= 0.01 * across
    if _LEAST_SCAN <= across <= _MOST_SCAN and alike and not camera.keys() & _EXPOSED:
        return OwnSize(across / MM_PER_INCH, "dpi")
    return None


def _tables(image: Image.Image) -> JpegTables | None:
    """The tables of a JPEG file in colour or grey, where its pixels are taken as it gives them."""
    kept = image.format == "JPEG" and image.mode in ("RGB", "L") and "icc_profile" not in image.info
    if not kept or image.getexif().get(_TURNED, 1) != 1:
        return None
    found: dict[int, list[int]] = getattr(image, "quantization", {})
    if any(len(steps) != 64 or min(steps) < 1 for steps in found.values()) or 0 not in found:
        return None
    return JpegTables(tuple(found[0]), tuple(found.get(1, found[0])))


@cache
def _read_heif() -> None:
    """Let Pillow read HEIC; only such a picture needs it."""
    import pillow_heif

    pillow_heif.register_heif_opener(thumbnails=False)


def _check_pixels(image: Image.Image, name: str) -> None:
    """Refuse what is too large, before it is decoded; raises PictureError."""
    if max(image.size) > _LONGEST:
        raise PictureError(
            f"{name} is {max(image.size)} pixels long; at most {_LONGEST} can be opened, so save a part of it."
        )
    if image.width * image.height > MOST_PIXELS:
        raise PictureError(
            f"{name} has {image.width} x {image.height} pixels; "
            f"at most {MOST_PIXELS // 1_000_000} million can be opened, so save it smaller first."
        )


def _which(page: int, pages: int, name: str) -> str:
    return f"Page {page} of {pages} in {name} is used." if pages > 1 else ""


def _as_rgba(image: Image.Image) -> np.ndarray:
    profile = image.info.get("icc_profile")
    turned = ImageOps.exif_transpose(image)
    if turned.mode in ("I", "F") or turned.mode.startswith("I;16"):
        turned = Image.fromarray(_eight_bit(np.asarray(turned), turned.mode))
        profile = None
    if turned.mode in ("P", "PA", "LA", "La", "RGBa", "1") or "transparency" in turned.info:
        clear = "A" in turned.mode.upper() or "transparency" in turned.info
        plain_grey = turned.mode in ("1", "LA", "L") and "transparency" not in turned.info
        turned = turned.convert(("LA" if clear else "L") if plain_grey else ("RGBA" if clear else "RGB"))
    alpha = turned.getchannel("A") if turned.mode in ("RGBA", "LA") else None
    colour = turned.convert(turned.mode[:-1]) if alpha is not None else turned
    rgb = _to_srgb(colour, profile) if profile else colour.convert("RGB")
    rgba = cv2.cvtColor(np.asarray(rgb), cv2.COLOR_RGB2RGBA)
    if alpha is not None:
        rgba[..., 3] = np.asarray(alpha)
    return np.asarray(rgba, np.uint8)


def _eight_bit(values: np.ndarray, mode: str) -> np.ndarray:
    """Scale deep greys to 8 bits: by their type's range, or by their own where that says nothing."""
    values = np.nan_to_num(values.astype(np.float64))
    low, high = float(values.min()), float(values.max())
    if mode.startswith("I;16"):
        top, low = 65535.0, 0.0
    elif low >= 0 and high <= 1.0:
        top, low = 1.0, 0.0
    elif low >= 0 and high <= 255:
        top, low = 255.0, 0.0
    elif low >= 0 and high <= 65535:
        top, low = 65535.0, 0.0
    else:
        top = high
    return np.rint((values - low) * (255 / max(top - low, 1e-9))).astype(np.uint8)


def _to_srgb(image: Image.Image, profile: bytes) -> Image.Image:
    """Convert by the embedded profile; one that is damaged or does not fit is left aside."""
    from PIL import ImageCms

    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if image.mode == "RGB" and "sRGB" in (ImageCms.getProfileDescription(source) or ""):
            return image
        converted = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError, ValueError):
        return image.convert("RGB")
    return converted if converted is not None else image.convert("RGB")
