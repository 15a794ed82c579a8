"""The stock whose colour comes nearest to an ink's."""

from collections.abc import Sequence

import numpy as np

from sketchloom.core.palette import Colour, colour_of
from sketchloom.core.regions import colour_difference, lab_of
from sketchloom.core.stock.stock import Stock

__all__ = ["nearest_stock"]


def nearest_stock(shelf: Sequence[Stock], colour: Colour) -> tuple[Stock, float] | None:
    """Find the stock nearest to a colour, and how far it lies from it (CIEDE2000); None where none has a colour.

    Of stocks that lie alike the first is taken.
    """
    shelf = [stock for stock in shelf if stock.colour]
    if not shelf:
        return None
    labs = lab_of([colour_of(stock.colour) for stock in shelf])
    away = colour_difference(labs, lab_of(colour))
    place = int(np.argmin(away))
    return shelf[place], float(away[place])
