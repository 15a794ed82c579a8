"""Drawings by hand, as SVG: of each kind of finding one that has it, and one that only just has not."""

import numpy as np

__all__ = ["MISSES", "NO_STOCK", "SHOWN", "STOCKS", "svg"]


def svg(body: str, width: float = 60, height: float = 60) -> str:
    """An SVG page in mm."""
    head = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f'{head} width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">{body}</svg>'


def _rect(x: float, y: float, w: float, h: float, colour: str = "#c03030") -> str:
    return f'<path fill="{colour}" d="M{x} {y}h{w}v{h}h{-w}z"/>'


def _one(*parts: str, colour: str = "#c03030") -> str:
    return f'<path fill="{colour}" fill-rule="evenodd" d="{"".join(parts)}"/>'


def _box(x: float, y: float, w: float, h: float) -> str:
    return f"M{x} {y}h{w}v{h}h{-w}z"


def _disc(x: float, y: float, r: float) -> str:
    return f"M{x - r} {y}a{r} {r} 0 1 0 {2 * r} 0a{r} {r} 0 1 0 {-2 * r} 0z"


def _dumbbell(w: float) -> str:
    return _one(f"M5 5h15v{7.5 - w / 2}h10v{w / 2 - 7.5}h15v15h-15v{w / 2 - 7.5}h-10v{7.5 - w / 2}h-15z")


def _sliver(w: float) -> str:
    return (
        _rect(5, 5, 10, 20) + _rect(15, 5, w, 20, "#2060a0") + _rect(15 + w, 5, 10, 20, "#207030")
        + _rect(40, 40, 10, 10, "#2060a0")
    )  # fmt: skip


def _polygon(count: int, wave: float = 0.0) -> str:
    turn = 2 * np.pi * np.arange(count) / count
    away = 12 + wave * np.cos(4 * turn)
    points = [f"{20 + r * np.cos(a):.4f} {20 + r * np.sin(a):.4f}" for a, r in zip(turn, away, strict=True)]
    return _one("M" + "L".join(points) + "Z")


def _notch(degrees: float) -> str:
    half = 14 * np.tan(np.radians(degrees / 2))
    return _one(f"M5 5h30v30h{-(15 - half):.4f}l{-half:.4f} -14l{-half:.4f} 14h{-(15 - half):.4f}z")


SHOWN: dict[str, str] = {
    "neck": _dumbbell(0.5),
    "gap": _one(_box(5, 5, 15, 20), _box(20.3, 5, 15, 20)),
    "small": _one(_box(5, 5, 20, 20), _disc(40, 20, 0.6)),
    "sliver": _sliver(0.3),
    "cut-twice": _one(_box(5, 5, 15, 20), _box(20.05, 5, 15, 20)),
    "double-line": _one(_disc(25, 25, 15), _disc(25, 25, 14)),
    "open": '<path fill="none" stroke="#c03030" stroke-width="0.1" d="M5 5h30v30h-30v-29.6"/>',
    "crossing": _one("M5 5L35 35V5L5 35Z"),
    "many-objects": _rect(5, 5, 10, 10) + _rect(30, 30, 10, 10),
    "sharp": _notch(9),
    "nodes": _polygon(90),
    "hidden-window": _one(_box(5, 5, 40, 40), _box(20, 20, 8, 8)) + _rect(15, 15, 18, 18, "#2060a0"),
    "like-inks": _rect(5, 5, 10, 10, "#c03030") + _rect(30, 30, 10, 10, "#c23432"),
    "loose": _one(_box(5, 5, 10, 10), _box(30, 30, 10, 10)),
    "stock-rule": _rect(5, 5, 30, 30) + _rect(15, 15, 10, 10, "#2060a0"),
}
"""Has the finding, and no other of its severity or a worse one, but where the two go together."""

MISSES: dict[str, str] = {
    "neck": _dumbbell(0.9),
    "gap": _one(_box(5, 5, 15, 20), _box(20.5, 5, 15, 20)),
    "small": _one(_box(5, 5, 20, 20), _disc(40, 20, 0.8)),
    "sliver": _sliver(0.9),
    "cut-twice": _one(_box(5, 5, 15, 20), _box(20.5, 5, 15, 20)),
    "double-line": _one(_disc(25, 25, 15), _disc(25, 25, 13.2)),
    "open": '<path fill="none" stroke="#c03030" stroke-width="0.1" d="M5 5h30v30h-30v-30"/>',
    "crossing": _one("M5 5H35V35H5Z"),
    "many-objects": _one(_box(5, 5, 10, 10), _box(30, 30, 10, 10)),
    "sharp": _notch(20),
    "nodes": _one(_disc(20, 20, 12)),
    "hidden-window": _one(_box(5, 5, 40, 40), _box(20, 20, 8, 8)) + _rect(20, 20, 8, 8, "#2060a0"),
    "like-inks": _rect(5, 5, 10, 10, "#c03030") + _rect(30, 30, 10, 10, "#c06030"),
    "loose": _one(_box(5, 5, 10, 10)),
    "stock-rule": _rect(5, 5, 30, 30) + _rect(40, 15, 10, 10, "#2060a0"),
}
"""Has only just not."""

STOCKS = {"loose": "Card", "stock-rule": "Silver glitter"}
"""What some are cut from."""

NO_STOCK = frozenset(SHOWN) - frozenset(STOCKS)
