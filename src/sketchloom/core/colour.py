"""Colour differences, and a plain name for a colour."""

from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from sketchloom.core.arrays import Floats

__all__ = ["colour_difference", "lab_of", "name_of", "nearest_apart"]

_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
_WHITE = np.array([0.95047, 1.0, 1.08883])

_NAMES = {
    "White": "#ffffff", "Cream": "#f3e6cc", "Linen": "#e8dcc3", "Silver": "#c4c4c6", "Grey": "#8a8a8c",
    "Slate": "#56606b", "Soot": "#332a2e", "Black": "#000000", "Sand": "#d8bd8e", "Tan": "#b58a5a",
    "Clay": "#b5623f", "Brown": "#74492c", "Bark": "#4a3024", "Rust": "#9c3f22", "Brick": "#b03a30",
    "Red": "#dc2626", "Poppy": "#f0492f", "Coral": "#f4806a", "Peach": "#f7bd98", "Apricot": "#f2a25c",
    "Orange": "#f28022", "Amber": "#f5a918", "Yellow": "#f8d92c", "Straw": "#e6cf6f", "Lemon": "#f7ee7d",
    "Lime": "#a9d33c", "Leaf green": "#4f8a4b", "Green": "#1f9a42", "Moss": "#6b7a35", "Olive": "#857f2e",
    "Pine": "#1e4d39", "Mint": "#a5dcbb", "Sage": "#9cb38a", "Teal": "#148a85", "Turquoise": "#3cc7c2",
    "Sky": "#88c9ee", "Blue": "#2a6fdb", "Can blue": "#4e7f93", "Denim": "#3b5d7e", "Navy": "#1d2a57",
    "Ice": "#d7ecf5", "Lavender": "#b7a9dd", "Violet": "#7a4fc0", "Plum": "#5c2f63", "Purple": "#8b2fa0",
    "Beet": "#8e2a5b", "Berry": "#b3275f", "Pink": "#f08fb4", "Blush": "#f6cdd3", "Magenta": "#d9309b",
}  # fmt: skip


def lab_of(srgb: ArrayLike) -> Floats:
    """CIE L*a*b* (D65) of sRGB colours.

    Parameters
    ----------
    srgb : (..., 3) array_like
        Values from 0 to 255.

    Returns
    -------
    (..., 3) float64

    References
    ----------
    .. [1] IEC 61966-2-1:1999 (sRGB) and CIE 15 (L*a*b*).
    """
    value = np.asarray(srgb, np.float64) / 255
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    xyz = linear @ _TO_XYZ.T / _WHITE
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


def colour_difference(one: ArrayLike, other: ArrayLike) -> Floats:
    """CIEDE2000 difference of L*a*b* colours, with all weights 1.

    Parameters
    ----------
    one, other : (..., 3) array_like

    Returns
    -------
    (...) float64

    References
    ----------
    .. [1] G. Sharma, W. Wu and E. N. Dalal, "The CIEDE2000 color-difference
       formula: implementation notes, supplementary test data, and
       mathematical observations", 2005.
    """
    (light, a, b), (light_2, a_2, b_2) = (np.moveaxis(np.asarray(lab, np.float64), -1, 0) for lab in (one, other))
    mean_chroma = (np.hypot(a, b) + np.hypot(a_2, b_2)) / 2
    stretch = 1.5 - 0.5 * np.sqrt(mean_chroma**7 / (mean_chroma**7 + 25.0**7))
    chroma, chroma_2 = np.hypot(stretch * a, b), np.hypot(stretch * a_2, b_2)
    hue, hue_2 = (np.degrees(np.arctan2(y, stretch * x)) % 360 for x, y in ((a, b), (a_2, b_2)))
    grey = chroma * chroma_2 == 0
    turn = np.where(grey, 0, (hue_2 - hue + 180) % 360 - 180)
    turn = np.where(turn == -180, 180, turn)
    apart = 2 * np.sqrt(chroma * chroma_2) * np.sin(np.radians(turn / 2))
    total = hue + hue_2
    far = np.abs(hue - hue_2) > 180
    middle = np.where(grey, total, np.where(far, (total + np.where(total < 360, 360, -360)) / 2, total / 2))
    weight = (
        1
        - 0.17 * np.cos(np.radians(middle - 30))
        + 0.24 * np.cos(np.radians(2 * middle))
        + 0.32 * np.cos(np.radians(3 * middle + 6))
        - 0.20 * np.cos(np.radians(4 * middle - 63))
    )
    mean_light, mean_chroma = (light + light_2) / 2, (chroma + chroma_2) / 2
    by_light = (light_2 - light) / (1 + 0.015 * (mean_light - 50) ** 2 / np.sqrt(20 + (mean_light - 50) ** 2))
    by_chroma = (chroma_2 - chroma) / (1 + 0.045 * mean_chroma)
    by_hue = apart / (1 + 0.015 * mean_chroma * weight)
    blue = 30 * np.exp(-(((middle - 275) / 25) ** 2))
    twist = -2 * np.sqrt(mean_chroma**7 / (mean_chroma**7 + 25.0**7)) * np.sin(np.radians(2 * blue))
    return np.sqrt(by_light**2 + by_chroma**2 + by_hue**2 + twist * by_chroma * by_hue)


def nearest_apart(colour: ArrayLike, others: ArrayLike) -> float:
    """How far a colour lies from the nearest of some others, sRGB; CIE76."""
    return float(np.linalg.norm(lab_of(others) - lab_of(colour), axis=-1).min())


@cache
def _named_labs() -> tuple[tuple[str, ...], Floats]:
    colours = [[int(code[i : i + 2], 16) for i in (1, 3, 5)] for code in _NAMES.values()]
    return tuple(_NAMES), lab_of(colours)


def name_of(srgb: tuple[int, int, int], taken: set[str] | frozenset[str] = frozenset()) -> str:
    """Name a colour by the nearest one of a list of our own, numbered where the name is taken."""
    names, labs = _named_labs()
    name = names[int(np.argmin(colour_difference(labs, lab_of(srgb))))]
    if name not in taken:
        return name
    return next(f"{name} {i}" for i in range(2, 1000) if f"{name} {i}" not in taken)
