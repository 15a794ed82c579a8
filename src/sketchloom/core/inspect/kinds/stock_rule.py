"""Rules of a stock that are broken."""

from collections.abc import Iterator

import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Change, Finding, Fix
from sketchloom.core.inspect.kinds.words import box_of, finding, spot_of
from sketchloom.core.inspect.subject import Subject

__all__ = ["find_stock_rules"]

_LEAST = 0.5
"""mm2 that lies on it."""


def find_stock_rules(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find what is laid on a stock that bears nothing, such as glitter."""
    if layer.stock is None or layer.stock.bears:
        return
    place = subject.layers.index(layer)
    own = subject.outline(layer)
    for other in subject.layers[place + 1 :]:
        upper = subject.outline(other)
        one, two = upper.tree.query(own.pieces.shapes, predicate="intersects")
        if not len(one):
            continue
        shared = shapely.union_all(shapely.intersection(own.pieces.shapes[one], upper.pieces.shapes[two]))
        if shared.area < _LEAST:
            continue
        sentence = f"{other.name} lies on {layer.stock.name}, which bears nothing: it comes off."
        yield finding(subject, "stock-rule", layer, spot_of(shared), box_of(shared), float(shared.area), sentence,
                      _fixes(subject, layer))  # fmt: skip
        return


def _fixes(subject: Subject, layer: Cut) -> tuple[Fix, ...]:
    if subject.origin is None:
        return ()
    order = tuple(other.key for other in subject.layers if subject.is_plain(other) and other.key != layer.key)
    top = Change("layers", {"order": (*order, layer.key), "best": False})
    return (Fix("order", f"Lay {layer.name} on top", (), (top,)),)
