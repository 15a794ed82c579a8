"""A picture at the size that it has detail for."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.picture import Picture
from sketchloom.core.worn.blur import grain_level, ramp_sigma, wear_of
from sketchloom.core.worn.enlarged import Enlargement, find_enlargement
from sketchloom.core.worn.inverse import before_enlarging

__all__ = ["Restored", "restored"]

_SHARP = 0.25
"""px; with edges no more blurred than this, a picture was not enlarged but in blocks."""
_LEAST_PASSED = 0.1
"""Of the contrast of the finest detail that still counts as seen: common practice in optics."""


class Restored(NamedTuple):
    """What a picture was before it was enlarged, and what else it went through."""

    picture: Picture
    enlargement: Enlargement | None  # None where it was not enlarged
    factor: float  # by which it was
    sigma: float  # px of `picture`; blur of its edges, beyond the pixels' own
    grain: float  # 8-bit steps
    told: bool = True  # whether these two are those of the picture as it is now

    @property
    def detail_px(self) -> int:
        """Width in px at which the detail would just fit.

        A Gaussian blur passes a share of exp(-2 (pi sigma f)^2) of the
        contrast at f lines a pixel; two pixels are needed for a line.
        """
        finest = np.sqrt(-np.log(_LEAST_PASSED) / 2) / (np.pi * max(self.sigma, 1e-9))
        return max(1, round(self.picture.width * min(1.0, 2 * float(finest))))


def restored(picture: Picture, width: int | None = None) -> Restored:
    """Undo an enlargement, where one is found, and measure blur and grain of what that leaves.

    A picture with clear parts is taken as it is, unless what is clear was
    enlarged with the rest.

    Parameters
    ----------
    picture : Picture
    width : int, optional
        px that it was enlarged to after that, as is known.
    """
    known = (width or picture.width) / picture.width
    rgb = picture.rgba[..., :3]
    grain = grain_level(rgb)
    sigma = ramp_sigma(rgb, grain)
    sharp = sigma is not None and sigma < _SHARP
    found = find_enlargement(rgb, sharp=sharp) if picture.opaque else _found_with_clear(picture)
    if found is None:
        return Restored(picture, None, known, sigma or 0.0, grain)
    rgba = _before(picture, found)
    small = np.ascontiguousarray(rgba[..., :3])
    factor = picture.width / found.width
    source = picture.source_of @ np.diag([factor, picture.height / found.height, 1.0])
    before = Picture(
        rgba,
        note=picture.note,
        to_source=source,
        pages=picture.pages,
        density=picture.density / factor,
    )
    wear = wear_of(small)
    return Restored(before, found, known * factor, wear.sigma, wear.grain)


def _on_white(rgba: Bytes) -> Bytes:
    """Colours over white: linear in what programs enlarge, colours times how opaque they are (Porter and Duff 1984)."""
    share = rgba[..., 3:] / np.float32(255)
    out: Bytes = np.rint(255 - share * (255 - rgba[..., :3])).astype(np.uint8)
    return out


def _threefold(plane: Bytes) -> Bytes:
    return np.repeat(plane[..., None], 3, 2)


def _found_with_clear(picture: Picture) -> Enlargement | None:
    """The enlargement of a picture with clear parts, if its colours and what is clear tell the same."""
    seen, clear = _on_white(picture.rgba), _threefold(picture.rgba[..., 3])
    sigma = ramp_sigma(clear)
    sharp = sigma is not None and sigma < _SHARP
    found = find_enlargement(clear, sharp=sharp)
    both = find_enlargement(seen, sharp=sharp) if found is not None else None
    alike = found is not None and both is not None and (found.width, found.height) == (both.width, both.height)
    return both if alike else None


def _before(picture: Picture, found: Enlargement) -> Bytes:
    """The picture before it was enlarged; (H, W, 4)."""
    rgba = picture.rgba
    if picture.opaque:
        small = before_enlarging(np.ascontiguousarray(rgba[..., :3]), found)
        return np.concatenate([small, np.full((*small.shape[:2], 1), 255, np.uint8)], 2)
    seen = before_enlarging(_on_white(rgba), found)
    clear = before_enlarging(_threefold(rgba[..., 3]), found)[..., :1]
    share = np.maximum(clear, 1) / np.float32(255)
    colours = np.clip(np.rint(255 - (255 - seen) / share), 0, 255).astype(np.uint8)
    return np.concatenate([colours, clear], 2)
