"""Stock: what layers are cut from and what cuts them, shelves of both, and the cautions of their kinds."""

from sketchloom.core.stock.cautions import cautions_for
from sketchloom.core.stock.cutter import (
    CUTTER_KINDS,
    CUTTERS,
    MACHINES,
    PLAIN_KNIFE,
    Cutter,
    CutterKind,
    check_cutter,
    find_cutter,
    refusal,
)
from sketchloom.core.stock.preset import PRESETS, Preset, check_preset, preset_for, preset_words
from sketchloom.core.stock.propose import nearest_stock
from sketchloom.core.stock.shelf import GENERIC, STOCKS, Shelf, find_stock
from sketchloom.core.stock.shelves import MOST_THINGS, ShelfKind
from sketchloom.core.stock.stock import KINDS, Stock, StockKind, check_stock
from sketchloom.core.stock.trial import RULES, TRIALS, Trial, after_trial
from sketchloom.core.stock.workshop import Workshop, decode_workshop, encode_workshop

__all__ = [
    "CUTTERS",
    "CUTTER_KINDS",
    "GENERIC",
    "KINDS",
    "MACHINES",
    "MOST_THINGS",
    "PLAIN_KNIFE",
    "PRESETS",
    "RULES",
    "STOCKS",
    "TRIALS",
    "Cutter",
    "CutterKind",
    "Preset",
    "Shelf",
    "ShelfKind",
    "Stock",
    "StockKind",
    "Trial",
    "Workshop",
    "after_trial",
    "cautions_for",
    "check_cutter",
    "check_preset",
    "check_stock",
    "decode_workshop",
    "encode_workshop",
    "find_cutter",
    "find_stock",
    "nearest_stock",
    "preset_for",
    "preset_words",
    "refusal",
]  # fmt: skip
