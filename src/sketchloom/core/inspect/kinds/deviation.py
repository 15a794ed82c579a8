"""Curves that stray from the picture."""

from collections.abc import Iterator

import numpy as np

from sketchloom.core.curves import TraceSettings
from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Change, Finding, Fix
from sketchloom.core.inspect.kinds.words import finding, mm
from sketchloom.core.inspect.subject import Subject

__all__ = ["find_deviations"]

_PIXELS = 1.5
_ROOM = 0.5
"""mm round the place."""
_CLOSER = 0.5
"""Times the smoothness that mends it."""


def find_deviations(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find curves that lie farther from the picture's edges than a cut shows."""
    origin = subject.origin
    if origin is None:
        return
    limit = subject.limit(layer, "deviation")
    far = (origin.away > limit) & (origin.away * origin.px_per_mm > _PIXELS)
    for number in np.flatnonzero(far).tolist():
        if origin.away_keys[number] != layer.key:
            continue
        x, y = origin.away_at[number].tolist()
        away = float(origin.away[number])
        sentence = f"The curve lies {mm(away)} beside the picture's edge here: what is cut is not what was drawn."
        finest = TraceSettings().smoothness
        tries = [mm for mm in (origin.smoothness * _CLOSER, finest) if mm < origin.smoothness]
        fixes = tuple(
            Fix("closer", f"Trace within {within:.3f} mm", (), (Change("trace", {"smoothness": round(within, 4)}),))
            for within in tries
        )
        yield finding(
            subject, "deviation", layer, (x, y), (x - _ROOM, y - _ROOM, x + _ROOM, y + _ROOM), away, sentence, fixes
        )
