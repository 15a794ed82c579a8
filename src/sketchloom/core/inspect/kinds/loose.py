"""Pieces that are placed by hand."""

from collections.abc import Iterator

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Change, Finding, Fix
from sketchloom.core.inspect.kinds.words import box_of, finding, spot_of
from sketchloom.core.inspect.subject import Subject

__all__ = ["find_loose"]


def find_loose(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find layers on stock without a carrier that fall into pieces when they are cut."""
    if layer.stock is None or not layer.loose or subject.stencil:
        return
    shapes = subject.outline(layer).pieces.shapes
    largest = max(range(len(shapes)), key=lambda i: shapes[i].area, default=0)
    rest = [shape for i, shape in enumerate(shapes) if i != largest]
    one = min(rest, key=lambda shape: shape.area, default=None)
    if one is None:
        return
    many = f"{layer.loose} pieces" if layer.loose > 1 else "1 piece"
    sentence = f"{layer.name} has {many} to place by hand: {layer.stock.name} has no carrier."
    fixes: tuple[Fix, ...] = ()
    if subject.origin is not None and subject.origin.build in ("flush", "backed"):
        change = Change("layers", {"build": "carried"})
        fixes = (Fix("carried", "Build it carried", (), (change,)),)
    yield finding(subject, "loose", layer, spot_of(one), box_of(one), float(layer.loose), sentence, fixes)
