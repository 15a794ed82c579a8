"""What another way of laying would save or cost, in words."""

from sketchloom.core.layers import OrderCost
from sketchloom.core.measures import area_words, length_words

__all__ = ["saved_words"]


def saved_words(new: OrderCost, old: OrderCost, unit: str) -> str:
    """Say what changes from one order to another; the ledger says what all comes to, as it is finished."""
    fewer, cut, area = old.loose - new.loose, old.cut - new.cut, old.area - new.area
    words = []
    if fewer:
        words.append(f"{abs(fewer)} {'fewer' if fewer > 0 else 'more'} by hand")
    if abs(cut) >= 1:
        words.append(f"{length_words(abs(cut), unit, 0)} {'less' if cut > 0 else 'more'} to cut")
    if abs(area) >= 10:
        words.append(f"{area_words(abs(area), unit)} {'less' if area > 0 else 'more'} material")
    return ", ".join(words) or "no difference"
