"""A blade that swivels: its point trails its axis, so the axis is led ahead of the outline.

The axis is the length of the offset ahead of the point, along the way that
the point goes; at a corner it goes on by as much, and turns about the corner
while the point stands there (common practice for drag knives).
"""

import math

import numpy as np

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.curves.path import points_at, straight_contour
from sketchloom.core.sheets.runs import Run

__all__ = ["led_ahead"]

_WITHIN = 0.002
"""mm that the axis may leave its way."""
_LEAST_TURN = math.radians(0.5)
_LEAST_HALVINGS, _MOST_HALVINGS = 2, 8
_INSIDE, _NO_WAY = 1e-4, 1e-9
_TIMES = np.array([0.25, 0.5, 0.75])


def led_ahead(run: Run, offset: float) -> Run:
    """Lead the axis of a blade so that its point runs along an outline.

    Parameters
    ----------
    run : Run
        A closed one ends where it began, its blade turned as it began; it is open then.
    offset : float
        From the axis to the point, mm.
    """
    many = len(run.straight)
    control = run.contour[3 * np.arange(many)[:, None] + np.arange(4)]
    ways = np.stack([_ways(control, np.zeros(many)), _ways(control, np.ones(many))], 1)
    curved, of = _led(control, np.flatnonzero(~run.straight), offset)
    first = np.searchsorted(of, np.arange(many + 1))
    parts: list[Floats] = []
    flags: list[bool] = []
    for place in range(many + run.closed):
        here = place % many
        if place:
            turn = _turned(control[here, 0], ways[place - 1, 1], ways[here, 0], offset)
            parts += turn
            flags += [False] * len(turn)
        if place == many:
            break
        if run.straight[here]:
            ends = control[here, [0, 3]] + offset * ways[here]
            parts.append(straight_contour(ends))
            flags.append(True)
        else:
            parts += list(curved[first[here] : first[here + 1]])
            flags += [False] * int(first[here + 1] - first[here])
    pieces = np.array(parts)
    pieces[1:, 0] = pieces[:-1, 3]
    contour = np.vstack([pieces[:, :3].reshape(-1, 2), pieces[-1:, 3]])
    return run._replace(contour=contour, straight=np.array(flags), closed=False)


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


def _turned(at: Floats, before: Floats, after: Floats, offset: float) -> list[Floats]:
    """Cubics by which the axis turns about the point, which stands at a corner, the shorter way."""
    angle = math.atan2(before[0] * after[1] - before[1] * after[0], float(before @ after))
    if abs(angle) < _LEAST_TURN:
        return []
    many = math.ceil(abs(angle) / (math.pi / 2) - 1e-9)
    step = angle / many
    arm = 4 / 3 * math.tan(step / 4)
    turn = np.array([[math.cos(step), math.sin(step)], [-math.sin(step), math.cos(step)]])
    across = np.array([[0.0, 1.0], [-1.0, 0.0]])
    out, ray = list[Floats](), before
    for _ in range(many):
        following = ray @ turn
        out.append(
            at + offset * np.array([ray, ray + arm * (ray @ across), following - arm * (following @ across), following])
        )
        ray = following
    return out
