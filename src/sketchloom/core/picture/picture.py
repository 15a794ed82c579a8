"""The picture every later stage starts from."""

import hashlib
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.scale import OwnSize

__all__ = ["JpegTables", "Picture", "reduce_picture", "resize_picture"]


class JpegTables(NamedTuple):
    """How finely a JPEG file stored its picture: steps of 64 cosines of luma, and of chroma, row by row."""

    luma: tuple[int, ...]
    chroma: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Picture:
    """An upright picture in sRGB.

    Attributes
    ----------
    rgba : (H, W, 4) uint8
        Colour (not multiplied by alpha) and alpha; never written to.
    note : str
        What was done to read it, for the person who opened it; may be empty.
    to_source : (3, 3) float
        Homography from px here to the opened picture's own coordinates,
        fractions of its longer side.
    pages : int
        How many pages or pictures the opened file holds.
    density : float
        Px here for each of the opened picture, where it was enlarged or reduced.
    tables : JpegTables, optional
        Of the file, while these are its pixels as it gives them.
    own_size : OwnSize, optional
        That the file says it has, of the opened picture.
    """

    rgba: Bytes
    note: str = ""
    to_source: Floats | None = None
    pages: int = 1
    density: float = 1.0
    tables: JpegTables | None = None
    own_size: OwnSize | None = None

    def __post_init__(self) -> None:
        self.rgba.setflags(write=False)

    @property
    def width(self) -> int:
        """Width in px."""
        return int(self.rgba.shape[1])

    @property
    def height(self) -> int:
        """Height in px."""
        return int(self.rgba.shape[0])

    @property
    def source_of(self) -> Floats:
        """`to_source`, or that of a picture as it was opened."""
        if self.to_source is not None:
            return self.to_source
        longer = max(self.width, self.height)
        return np.diag([1 / longer, 1 / longer, 1.0])

    @cached_property
    def opaque(self) -> bool:
        """Whether no pixel lets anything through."""
        return bool(self.rgba[..., 3].min() == 255)

    @cached_property
    def key(self) -> str:
        """A hash of the pixels and of where they lie in the source."""
        digest = hashlib.blake2b(
            repr((self.rgba.shape, self.density, self.tables, self.own_size)).encode(), digest_size=16
        )
        digest.update(self.source_of.tobytes())
        digest.update(np.ascontiguousarray(self.rgba).data)
        return digest.hexdigest()


def reduce_picture(picture: Picture, most_pixels: int) -> tuple[Picture, float]:
    """Reduce a picture by area averaging so that it has at most `most_pixels`.

    Returns
    -------
    Picture, float
        The reduced picture and its scale (1 when nothing was to do).
    """
    scale = (most_pixels / (picture.width * picture.height)) ** 0.5
    if scale >= 1:
        return picture, 1.0
    size = max(1, round(picture.width * scale)), max(1, round(picture.height * scale))
    return resize_picture(picture, size), size[0] / picture.width


def resize_picture(picture: Picture, size: tuple[int, int]) -> Picture:
    """Resample to a width and height in px: area averages, or cubic where it grows; clear colours do not bleed.

    What is wholly clear keeps the colours that lie under it.
    """
    grows = size[0] > picture.width or size[1] > picture.height
    way = cv2.INTER_CUBIC if grows else cv2.INTER_AREA
    if picture.opaque:
        made = cv2.resize(picture.rgba, size, interpolation=way)
    else:
        alpha = picture.rgba[..., 3:].astype(np.float32)
        weighted = np.concatenate([picture.rgba[..., :3] * (alpha / 255), alpha], 2)
        mean = np.clip(cv2.resize(weighted, size, interpolation=way), 0, 255)
        under = cv2.resize(np.ascontiguousarray(picture.rgba[..., :3]), size, interpolation=way)
        colour = np.where(mean[..., 3:] < 0.5, under, mean[..., :3] * (255 / np.maximum(mean[..., 3:], 1e-3)))
        made = np.concatenate([np.clip(np.rint(colour), 0, 255), np.rint(mean[..., 3:])], 2)
    source = picture.source_of @ np.diag([picture.width / size[0], picture.height / size[1], 1.0])
    density = picture.density * size[0] / picture.width
    return Picture(np.ascontiguousarray(made, np.uint8), to_source=source, density=density)
