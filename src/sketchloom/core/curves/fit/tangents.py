"""Let curves pass smoothly through their nodes, within an arc and on through junctions."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves.fit.corners import turn_between
from sketchloom.core.curves.fit.cubics import fit_cubics
from sketchloom.core.curves.fit.track import Fits, Stretches, fits_well

__all__ = ["pass_junctions", "pass_smoothly"]

_NEARLY_AS_WELL = 1.3
_NEARLY_AS_WELL_PX = 0.01
_RUNS_ON = 0.9
"""Cosine of the angle between two curves that run through a junction as one."""
_SAME_WAY = 0.004
"""rad; two curves whose directions differ less pass smoothly as they are."""


def pass_smoothly(stretches: Stretches, first: Ints, last: Ints, fits: Fits, is_round: Bools) -> tuple[Floats, Bools]:
    """Give the two curves at a smooth node one tangent, and fit once more; say which stayed as they were.

    Straight lines lend their direction, then circular arcs; two of a kind meet half way.
    """
    count = len(first)
    control = fits.control
    leave, arrive = control[:, 1] - control[:, 0], control[:, 3] - control[:, 2]
    after = np.arange(1, count + 1)
    arc = np.searchsorted(stretches.first, first, "right") - 1
    ends = last == stretches.last[arc]
    after[ends] = np.searchsorted(first, stretches.first[arc[ends]])
    smooth = ~stretches.sharp[last] & (~ends | stretches.round[arc])
    nxt = after % count
    tangent = _unit(_unit(arrive) * _size(arrive) + _unit(leave[nxt]) * _size(leave[nxt]))
    firm = 2 * fits.straight + is_round
    tangent = np.where((firm > firm[nxt])[:, None], _unit(arrive), tangent)
    tangent = np.where((firm < firm[nxt])[:, None], _unit(leave[nxt]), tangent)
    both = fits.straight & fits.straight[nxt]
    against = (_unit(arrive) * _unit(leave[nxt])).sum(1) < 0.5
    tied = smooth & ~both & ~against
    arrives = np.where(tied[:, None], tangent, np.nan)
    leaves = np.full((count, 2), np.nan)
    leaves[nxt[tied]] = tangent[tied]
    turned = np.maximum(_turned(arrive, arrives), _turned(leave, leaves))
    free = np.flatnonzero(~fits.straight & (turned > np.where(is_round, _SAME_WAY, 0.0)))
    kept = np.ones(count, bool)
    if not len(free):
        return control, kept
    again = fit_cubics(stretches.track, first[free], last[free], (leaves[free], arrives[free]))
    limit = stretches.track.limit[first[free]]
    fine = again.error <= np.maximum(2.5 * limit, 2 * np.minimum(fits.error[free], 9.0))
    fine &= again.largest < fits.largest[free] + 0.4 * stretches.track.far[first[free]]
    out = control.copy()
    out[free[fine]] = again.control[fine]
    kept[free[fine]] = False
    return out, kept


def pass_junctions(stretches: Stretches, first: Ints, last: Ints, fits: Fits, is_round: Bools) -> Bools:
    """Give outlines that run on through a junction one tangent there, where both curves still fit; say which stayed.

    Sets ``fits.control``. Straight lines and circular arcs lend their direction.
    """
    track, control = stretches.track, fits.control
    kept = np.ones(len(first), bool)
    partner = stretches.partner.ravel()
    one = np.flatnonzero(partner > np.arange(len(partner)))
    if not len(one):
        return kept
    starts = np.searchsorted(first, stretches.first)
    ends = np.searchsorted(last, stretches.last)
    way = [_unit(control[:, 1] - control[:, 0]), _unit(control[:, 2] - control[:, 3])]  # into the curve, from both ends
    firm = 2 * fits.straight + is_round
    sides = [(np.where(end % 2 == 0, starts[end // 2], ends[end // 2]), end % 2) for end in (one, partner[one])]
    a, b = (np.where((end == 0)[:, None], way[0][at], way[1][at]) for at, end in sides)
    (at_a, _), (at_b, _) = sides
    lead = (firm[at_a] - firm[at_b])[:, None]
    tangent = np.where(lead > 0, a, np.where(lead < 0, -b, _unit(a - b)))
    tied = ((a * -b).sum(1) > _RUNS_ON) & ~(fits.straight[at_a] & fits.straight[at_b])
    want = np.full((2, len(first), 2), np.nan)
    for (at, end), sign in zip(sides, (1, -1), strict=True):
        want[end[tied], at[tied]] = sign * tangent[tied]
    moved = np.isfinite(want[..., 0])
    free = np.flatnonzero(~fits.straight & moved.any(0))
    if not len(free):
        return kept
    smooth = np.stack([~stretches.sharp[first[free]], ~stretches.sharp[last[free]]])
    for side in (0, 1):  # what is smooth already stays so
        stays = ~moved[side, free] & smooth[side]
        want[side, free[stays]] = way[side][free[stays]]
    again = fit_cubics(track, first[free], last[free], (want[0, free], -want[1, free]))
    good = fits_well(track, first[free], again)
    good &= again.rms <= _NEARLY_AS_WELL * fits.rms[free] + _NEARLY_AS_WELL_PX
    control[free[good]] = again.control[good]
    kept[free[good]] = False
    return kept


def _turned(own: Floats, tied: Floats) -> Floats:
    """Angle between a direction and the one it is tied to, rad; -1 where it is free."""
    return np.where(np.isfinite(tied[:, 0]), np.abs(turn_between(own, tied)), -1.0)


def _size(vector: Floats) -> Floats:
    return np.linalg.norm(vector, axis=1, keepdims=True)


def _unit(vector: Floats) -> Floats:
    return vector / np.maximum(_size(vector), 1e-12)
