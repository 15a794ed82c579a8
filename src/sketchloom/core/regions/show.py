"""A label map as a picture in its inks."""

import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.palette import Palette, colour_of
from sketchloom.core.regions.labelmap import LabelMap

__all__ = ["coloured"]


def coloured(regions: LabelMap, palette: Palette, most_pixels: int) -> Bytes:
    """Colour every pixel as its ink is shown; ground is clear.

    Parameters
    ----------
    regions : LabelMap
    palette : Palette
    most_pixels : int
        Larger maps are thinned to every n-th pixel.

    Returns
    -------
    (h, w, 4) uint8
    """
    step = max(1, int(np.ceil((regions.labels.size / most_pixels) ** 0.5)))
    colours = np.zeros((len(regions.keys) + 1, 4), np.uint8)
    for label, key in enumerate(regions.keys, 1):
        ink = palette.get(key)  # none where a stage failed: these regions are older than the palette
        colours[label] = *(ink.shown if ink is not None else colour_of(key[:7])), 255
    whole = colours.view(np.uint32).ravel()  # a pixel as one number is looked up in a third of the time
    return whole[regions.labels[::step, ::step]].view(np.uint8).reshape(*regions.labels[::step, ::step].shape, 4)
