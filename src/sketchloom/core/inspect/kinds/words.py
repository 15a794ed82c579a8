"""Figures and boxes that findings share."""

from typing import Any

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Box, Finding, Fix, Spot
from sketchloom.core.inspect.limits import KINDS
from sketchloom.core.inspect.subject import Subject

__all__ = ["box_of", "finding", "mm", "spot_of"]

_SLACK = 1.03
"""Times a limit to which something is mended, so that it is on the safe side."""


def mm(length: float) -> str:
    """A length in words."""
    return f"{length:.2f} mm"


def beyond(limit: float) -> float:
    """A length on the safe side of a limit."""
    return limit * _SLACK + 0.005


def spot_of(shape: Any) -> Spot:
    """A place inside a shape."""
    point = shape.representative_point()
    return float(point.x), float(point.y)


def box_of(shape: Any) -> Box:
    """Extent of a shape."""
    left, top, right, bottom = (float(value) for value in shape.bounds)
    return left, top, right, bottom


def finding(
    subject: Subject,
    kind: str,
    layer: Cut,
    at: Spot,
    box: Box,
    measure: float,
    sentence: str,
    fixes: tuple[Fix, ...] = (),
) -> Finding:
    """Give a finding with what its kind says of all."""
    about, limit = KINDS[kind], subject.limit(layer, kind)
    settled = tuple(fix._replace(mends=tuple(mend.settled() for mend in fix.mends)) for fix in fixes)
    return Finding(kind, about.severity, layer.key, at, box, measure, limit, about.unit, sentence, settled)
