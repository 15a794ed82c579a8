"""The logbook: what was cut, of which stock, on what, how it went; and the stock on hand."""

from sketchloom.core.logbook.book import Logbook, OnHand
from sketchloom.core.logbook.entry import RESULTS, Entry, Search, csv_of, small_photo
from sketchloom.core.logbook.estimates import RULE, Correction, correction_of

__all__ = [
    "RESULTS", "RULE", "Correction", "Entry", "Logbook", "OnHand", "Search", "correction_of", "csv_of", "small_photo",
]  # fmt: skip
