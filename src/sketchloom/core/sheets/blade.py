"""A blade that swivels: its point trails its axis, so the axis is led ahead of the outline.

The axis is the length of the offset ahead of the point, along the way that
the point goes; at a corner it goes on by as much, and turns about the corner
while the point stands there (common practice for drag knives).
"""

import math
from collections.abc import Sequence

import numpy as np

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.curves.path import points_at, straight_thirds
from sketchloom.core.sheets.runs import Run

__all__ = ["led_ahead"]

_WITHIN = 0.002
"""mm that the axis may leave its way."""
_LEAST_TURN = math.radians(0.5)
_LEAST_HALVINGS, _MOST_HALVINGS = 2, 8
_INSIDE, _NO_WAY = 1e-4, 1e-9
_TIMES = np.array([0.25, 0.5, 0.75])


def led_ahead(runs: Sequence[Run], offset: float) -> list[Run]:
    """Lead the axis of a blade so that its point runs along outlines.

    Parameters
    ----------
    runs : sequence of Run
        A closed one ends where it began, its blade turned as it began; it is open then.
    offset : float
        From the axis to the point, mm.
    """
    if not runs:
        return []
    control = np.concatenate([run.contour[3 * np.arange(len(run.straight))[:, None] + np.arange(4)] for run in runs])
    straight = np.concatenate([run.straight for run in runs])
    ends = np.stack([_ways(control, np.zeros(len(control))), _ways(control, np.ones(len(control)))], 1)
    curved, of = _led(control, np.flatnonzero(~straight), offset)
    first = np.searchsorted(of, np.arange(len(control) + 1))
    along = control[:, [0, 3]] + offset * ends
    straight_thirds(
        lines := np.stack([along[:, 0], along[:, 0], along[:, 1], along[:, 1]], 1), np.ones(len(along), bool)
    )
    out, start = [], 0
    for run in runs:
        many = len(run.straight)
        own = range(start, start + many)
        start += many
        parts: list[Floats] = []
        for place in own:
            if place > own[0]:
                parts.append(_turned(control[place, 0], ends[place - 1, 1], ends[place, 0], offset))
            parts.append(lines[place : place + 1] if straight[place] else curved[first[place] : first[place + 1]])
        if run.closed:
            parts.append(_turned(control[own[0], 0], ends[own[-1], 1], ends[own[0], 0], offset))
        pieces = np.concatenate(parts)
        flags = np.zeros(len(pieces), bool)
        flags[np.cumsum([0, *map(len, parts)])[:-1][::2][:many]] = straight[own[0] : own[-1] + 1]
        pieces[1:, 0] = pieces[:-1, 3]
        contour = np.vstack([pieces[:, :3].reshape(-1, 2), pieces[-1:, 3]])
        out.append(run._replace(contour=contour, straight=flags, closed=False))
    return out


def _ways(control: Floats, t: Floats) -> Floats:
    """Directions of cubics, (N, 4, 2), at a parameter of each; just inside where a handle has no length; (N, 2)."""
    out = np.zeros((len(t), 2))
    for inside in (0.0, _INSIDE):
        at = np.clip(t, inside, 1 - inside)[:, None]
        step, s = 3 * np.diff(control, axis=1), 1 - at
        way = s * s * step[:, 0] + 2 * s * at * step[:, 1] + at * at * step[:, 2]
        length = np.hypot(*way.T)
        fresh = (length > _NO_WAY) & ~out.any(1)
        out[fresh] = way[fresh] / length[fresh, None]
    return out


def _axis(control: Floats, t: Floats, offset: float) -> Floats:
    """Where the axis is for places of cubics, (N, 4, 2), one each; (N, 2)."""
    at, s = t[:, None], 1 - t[:, None]
    c = control
    points = s**3 * c[:, 0] + 3 * s * s * at * c[:, 1] + 3 * s * at * at * c[:, 2] + at**3 * c[:, 3]
    return np.asarray(points + offset * _ways(control, t))


def _led(control: Floats, chosen: Ints, offset: float) -> tuple[Floats, Ints]:
    """The axis along some cubics, as cubics that agree with it at their ends in place and direction.

    Each is halved until it does so in between as well.

    Returns
    -------
    pieces : (P, 4, 2) float
    of : (P,) int
        Which cubic each is along; in order along them.
    """
    parts = 1 << _LEAST_HALVINGS
    of = np.repeat(chosen, parts)
    begin = np.tile(np.arange(parts) / parts, len(chosen))
    wide = 1.0 / parts
    done: list[tuple[Ints, Floats, Floats]] = []
    for depth in range(_LEAST_HALVINGS, _MOST_HALVINGS + 1):
        if not len(of):
            break
        own, end = control[of], begin + wide
        low, high = _axis(own, begin, offset), _axis(own, end, offset)
        near = 1e-4 * wide
        out = low + (_axis(own, begin + near, offset) - low) * (wide / near / 3)
        back = high + (_axis(own, end - near, offset) - high) * (wide / near / 3)
        pieces = np.stack([low, out, back, high], 1)
        told = points_at(pieces, _TIMES)
        away = np.zeros(len(of))
        for place, share in enumerate(_TIMES.tolist()):
            away = np.maximum(away, np.hypot(*(_axis(own, begin + share * wide, offset) - told[:, place]).T))
        good = (away <= _WITHIN) | (depth == _MOST_HALVINGS)
        done.append((of[good], begin[good], pieces[good]))
        wide /= 2
        of, begin = np.repeat(of[~good], 2), np.repeat(begin[~good], 2)
        begin[1::2] += wide
    if not done:
        return np.zeros((0, 4, 2)), np.zeros(0, int)
    of, begin, pieces = (np.concatenate(column) for column in zip(*done, strict=True))
    order = np.lexsort((begin, of))
    return pieces[order], of[order]


def _turned(at: Floats, before: Floats, after: Floats, offset: float) -> Floats:
    """Cubics by which the axis turns about the point, which stands at a corner, the shorter way; (P, 4, 2)."""
    angle = math.atan2(before[0] * after[1] - before[1] * after[0], before[0] * after[0] + before[1] * after[1])
    if abs(angle) < _LEAST_TURN:
        return np.zeros((0, 4, 2))
    many = math.ceil(abs(angle) / (math.pi / 2) - 1e-9)
    arm = 4 / 3 * math.tan(angle / many / 4)
    turns = math.atan2(before[1], before[0]) + angle / many * np.arange(many + 1)
    rays = np.column_stack([np.cos(turns), np.sin(turns)])
    across = arm * np.column_stack([-rays[:, 1], rays[:, 0]])
    return np.asarray(at + offset * np.stack([rays[:-1], rays[:-1] + across[:-1], rays[1:] - across[1:], rays[1:]], 1))
