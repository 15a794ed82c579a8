"""A picture at the size that it has detail for."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.picture import Picture
from sketchloom.core.worn.blur import grain_level, ramp_sigma
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

    A picture with clear parts is taken as it is.

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
    found = find_enlargement(rgb, sharp=sigma is not None and sigma < _SHARP) if picture.opaque else None
    if found is None:
        return Restored(picture, None, known, sigma or 0.0, grain)
    small = before_enlarging(np.ascontiguousarray(rgb), found)
    factor = picture.width / found.width
    source = picture.source_of @ np.diag([factor, picture.height / found.height, 1.0])
    opaque = np.full((*small.shape[:2], 1), 255, np.uint8)
    before = Picture(
        np.concatenate([small, opaque], 2),
        note=picture.note,
        to_source=source,
        pages=picture.pages,
        density=picture.density / factor,
    )
    return Restored(before, found, known * factor, ramp_sigma(small, grain_level(small)) or 0.0, grain_level(small))
