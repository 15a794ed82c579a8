"""Read picture files of every ordinary kind."""

import io
import struct
import warnings
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from sketchloom.core.errors import PictureError
from sketchloom.core.picture.picture import Picture

__all__ = ["MOST_PIXELS", "load_picture"]

MOST_PIXELS = 120_000_000
_FORMATS = ("PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF")
_KINDS = "Open a PNG, JPEG, WebP, TIFF, BMP or GIF picture."

Image.MAX_IMAGE_PIXELS = None  # our own limit is checked first, with our own message


def load_picture(source: Path | bytes, name: str | None = None) -> Picture:
    """Read a picture as upright 8-bit sRGB with alpha.

    The EXIF turn is applied, an embedded colour profile is converted to
    sRGB, 16-bit values are scaled, and of an animation the first picture is
    taken.

    Parameters
    ----------
    source : Path or bytes
        The file, or its content.
    name : str, optional
        What messages call it; by default the file's name.

    Raises
    ------
    PictureError
        If it cannot be read or has more than `MOST_PIXELS` pixels; the
        message is one sentence. Nothing is decoded before the size is known.
    """
    name = name or (source.name if isinstance(source, Path) else "The picture")
    try:
        data = source.read_bytes() if isinstance(source, Path) else source
    except FileNotFoundError:
        raise PictureError(f"{name} is not there; check the name and the folder.") from None
    except OSError as error:
        raise PictureError(f"{name} cannot be read: {error.strerror or error}.") from None
    if not data:
        raise PictureError(f"{name} is empty; save or copy the picture again.")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = Image.open(io.BytesIO(data), formats=_FORMATS)
        except (UnidentifiedImageError, OSError, SyntaxError, ValueError, struct.error, EOFError):
            raise PictureError(f"{name} is not a picture this program can read. {_KINDS}") from None
        if image.width * image.height > MOST_PIXELS:
            raise PictureError(
                f"{name} has {image.width} x {image.height} pixels; "
                f"at most {MOST_PIXELS // 1_000_000} million can be opened, so save it smaller first."
            )
        try:
            frames = getattr(image, "n_frames", 1)
            image.load()
            rgba = _as_rgba(image)
        except MemoryError:
            raise PictureError(f"{name} needs more memory than is free; save it smaller first.") from None
        except (OSError, SyntaxError, ValueError, struct.error, EOFError, IndexError, KeyError, TypeError):
            raise PictureError(f"{name} is damaged or only half there; save or copy it again.") from None
    note = f"The first of {frames} pictures in {name} is used." if frames > 1 and image.format != "MPO" else ""
    return Picture(np.ascontiguousarray(rgba), note)


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
    rgba = np.empty((rgb.height, rgb.width, 4), np.uint8)
    rgba[..., :3] = np.asarray(rgb)
    rgba[..., 3] = 255 if alpha is None else np.asarray(alpha)
    return rgba


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
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if image.mode == "RGB" and "sRGB" in (ImageCms.getProfileDescription(source) or ""):
            return image
        converted = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError, ValueError):
        return image.convert("RGB")
    return converted if converted is not None else image.convert("RGB")
