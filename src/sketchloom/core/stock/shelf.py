"""The shelf of stocks."""

from typing import Any

from sketchloom.core.errors import ArgumentError
from sketchloom.core.stock.shelves import ShelfKind
from sketchloom.core.stock.stock import Stock, check_stock

__all__ = ["GENERIC", "STOCKS", "Shelf", "find_stock"]

Shelf = tuple[Stock, ...]

_VINYL: dict[str, Any] = {
    "kind": "adhesive vinyl", "thickness": 0.08, "carrier": True, "width": 305.0, "height": None,
    "least_piece": 0.8, "least_gap": 0.4,
}  # fmt: skip
_FILM: dict[str, Any] = {
    "kind": "heat-transfer film", "thickness": 0.09, "carrier": True, "mirrored": True, "width": 305.0, "height": None,
    "least_piece": 1.0, "least_gap": 0.6, "shrink": 0.5,
}  # fmt: skip
_GLITTER: dict[str, Any] = {**_FILM, "kind": "glitter film", "thickness": 0.2, "least_piece": 2.0, "least_gap": 1.5,
                            "bears": False}  # fmt: skip
_PAPER: dict[str, Any] = {"kind": "paper", "thickness": 0.12, "least_piece": 1.0, "least_gap": 0.6}
_CARD: dict[str, Any] = {
    "kind": "card", "thickness": 0.3, "width": 305.0, "height": 305.0, "least_piece": 1.2, "least_gap": 0.8,
}  # fmt: skip

GENERIC: Shelf = (
    Stock("Paper", **_PAPER),
    Stock("Card", **_CARD),
    Stock("Adhesive vinyl", **_VINYL),
    Stock("Heat-transfer film", **_FILM),
    Stock("Glitter film", **_GLITTER),
    *(
        Stock(f"{colour.capitalize()} paper", colour=code, **_PAPER)
        for colour, code in (("white", "#ffffff"), ("cream", "#f3e6cc"), ("kraft", "#b58a5a"), ("black", "#1c1b1d"))
    ),
    *(
        Stock(f"{colour.capitalize()} card", colour=code, **_CARD)
        for colour, code in (
            ("white", "#fbfaf7"), ("black", "#201f21"), ("red", "#b8302f"), ("orange", "#e07b2a"),
            ("yellow", "#f0c93c"), ("green", "#3f8a47"), ("blue", "#2f66a8"), ("purple", "#6d3f86"),
            ("pink", "#e59ab2"), ("brown", "#6e4a31"), ("grey", "#8d8d8f"),
        )
    ),
    *(
        Stock(f"{colour.capitalize()} vinyl", colour=code, **_VINYL)
        for colour, code in (
            ("white", "#fefefe"), ("black", "#111113"), ("red", "#c4222b"), ("blue", "#1f55a5"),
            ("green", "#1f8a46"), ("yellow", "#f6cf1f"), ("grey", "#86888a"),
        )
    ),
    *(
        Stock(f"{colour.capitalize()} film", colour=code, **_FILM)
        for colour, code in (("white", "#fdfdfd"), ("black", "#151416"), ("red", "#bf2430"), ("gold", "#c89b3c"))
    ),
    *(
        Stock(f"{colour.capitalize()} glitter", colour=code, **_GLITTER)
        for colour, code in (("silver", "#c2c4c8"), ("gold", "#cfa349"), ("pink", "#d977a2"))
    ),
    Stock("Grey board", "board", "#9a948a", 1.5, width=297.0, height=420.0, least_piece=3.0, least_gap=2.0),
    Stock("Plywood 3 mm", "wood", "#d8b98a", 3.0, width=300.0, height=600.0, least_piece=3.0, least_gap=2.0),
    Stock("Clear acrylic", "acrylic", "#eef4f6", 3.0, width=300.0, height=600.0, least_piece=3.0, least_gap=2.0),
    Stock("Felt", "fabric", "#a23b45", 1.2, width=230.0, height=305.0, least_piece=3.0, least_gap=2.0),
)  # fmt: skip
"""Sensible entries to begin with, of no maker; the values are common practice, and a maker's own go before them."""


STOCKS = ShelfKind("stock", "stocks", Stock, GENERIC, check_stock)


def find_stock(shelf: Shelf, name: str) -> Stock:
    """Find a stock by its name, or the first of a kind, such as ``paper``; raises ArgumentError."""
    wanted = name.strip().casefold()
    for stock in shelf:
        if stock.name.casefold() == wanted:
            return stock
    for stock in shelf:
        if stock.kind == wanted:
            return stock
    known = ", ".join(sorted({stock.kind for stock in shelf}))
    raise ArgumentError(f"There is no stock “{name[:40]}”; give the name of one of yours, or a kind: {known}.")
