"""Stock: what layers are cut from, a shelf of it, and the cautions of its kind."""

from sketchloom.core.stock.cautions import cautions_for
from sketchloom.core.stock.cutter import (
    CUTTER_KINDS,
    CUTTERS,
    PLAIN_KNIFE,
    Cutter,
    CutterKind,
    check_cutter,
    find_cutter,
    refusal,
)
from sketchloom.core.stock.propose import nearest_stock
from sketchloom.core.stock.shelf import (
    GENERIC,
    Shelf,
    decode_shelf,
    encode_shelf,
    find_stock,
    read_shelf,
    shelf_path,
    write_shelf,
)
from sketchloom.core.stock.stock import KINDS, Stock, StockKind, check_stock

__all__ = [
    "CUTTERS",
    "CUTTER_KINDS",
    "GENERIC",
    "KINDS",
    "PLAIN_KNIFE",
    "Cutter",
    "CutterKind",
    "Shelf",
    "Stock",
    "StockKind",
    "cautions_for",
    "check_cutter",
    "check_stock",
    "decode_shelf",
    "encode_shelf",
    "find_cutter",
    "find_stock",
    "nearest_stock",
    "read_shelf",
    "refusal",
    "shelf_path",
    "write_shelf",
]
