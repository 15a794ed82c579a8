"""What is done to runs last: tabs that hold a piece, and running on where an outline closes."""

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves.path import lengths_of, points_at
from sketchloom.core.cut import part_of_cubic
from sketchloom.core.sheets.runs import Run
from sketchloom.core.sheets.timing import corners_of

__all__ = ["overcut", "tabbed"]

_SAMPLES = 64
_OFF = 1.0
"""Widths of a tab that it stays away from a corner, at least."""


def tabbed(run: Run, many: int, width: float) -> list[Run]:
    """Break a closed run by so many tabs of a width, mm, off its corners; by fewer where it is too short for all.

    The places are spread evenly, then moved to where no corner is near; a run
    without such a place stays whole.
    """
    segments = _segments(run.contour)
    lengths = lengths_of(segments)
    whole = float(lengths.sum())
    starts = np.append(0.0, np.cumsum(lengths))
    corners = starts[:-1][corners_of(run.contour)]
    room = _free(corners, whole, (0.5 + _OFF) * width)
    middles: list[float] = []
    for wanted in (np.arange(many) + 0.5) * whole / max(many, 1):
        found = _nearest(room, float(wanted))
        if found is not None and all(_between(found, other, whole) >= 2 * width for other in middles):
            middles.append(found)
    if not middles:
        return [run]
    middles.sort()
    out = []
    for place, middle in enumerate(middles):
        following = middles[(place + 1) % len(middles)] + (whole if place + 1 == len(middles) else 0.0)
        out.append(_stretch(run, segments, starts, middle + width / 2, following - width / 2))
    return out


def overcut(run: Run, by: float) -> Run:
    """Let a closed run go on by a length, mm, over what it cut first."""
    segments = _segments(run.contour)
    starts = np.append(0.0, np.cumsum(lengths_of(segments)))
    more = _stretch(run, segments, starts, 0.0, min(by, float(starts[-1])))
    return run._replace(
        contour=np.vstack([run.contour, more.contour[1:]]),
        straight=np.append(run.straight, more.straight),
        closed=False,
    )


def _segments(contour: Floats) -> Floats:
    return np.asarray(contour[3 * np.arange(len(contour) // 3)[:, None] + np.arange(4)])


def _free(corners: Floats, whole: float, away: float) -> list[tuple[float, float]]:
    """Stretches, by length from the start, whose points lie farther than that from every corner."""
    if not len(corners):
        return [(0.0, whole)]
    ends = np.append(corners[1:], corners[0] + whole)
    return [(float(a + away), float(b - away)) for a, b in zip(corners, ends, strict=True) if b - a >= 2 * away]


def _nearest(room: list[tuple[float, float]], at: float) -> float | None:
    found = [min(max(at, low), high) for low, high in room]
    return min(found, key=lambda one: abs(one - at)) if found else None


def _between(one: float, other: float, whole: float) -> float:
    apart = abs(one - other) % whole
    return min(apart, whole - apart)


def _stretch(run: Run, segments: Floats, starts: Floats, begin: float, end: float) -> Run:
    """A part of a closed run, from one length along it to another, which may lie in the next round."""
    whole, many = float(starts[-1]), len(segments)
    contours, flags = [], []
    at = begin
    while at < end - 1e-9:
        round_, here = divmod(at, whole)
        place = min(int(np.searchsorted(starts, here, "right")) - 1, many - 1)
        last = min(end - round_ * whole, float(starts[place + 1]))
        low, high = (_time(segments[place], length - float(starts[place])) for length in (here, last))
        contours.append(part_of_cubic(segments[place], low, high))
        flags.append(bool(run.straight[place]))
        at = round_ * whole + max(last, here + 1e-9)
    control = np.array(contours)
    contour = np.vstack([control[:, :3].reshape(-1, 2), control[-1:, 3]])
    return run._replace(contour=contour, straight=np.array(flags), closed=False)


def _time(segment: Floats, length: float) -> float:
    """Parameter at a length along a cubic."""
    times = np.linspace(0.0, 1.0, _SAMPLES + 1)
    steps = np.hypot(*np.diff(points_at(segment[None], times)[0], axis=0).T)
    along = np.append(0.0, np.cumsum(steps))
    scale = float(lengths_of(segment[None])[0]) / max(float(along[-1]), 1e-12)
    return float(np.interp(length, along * scale, times))
