"""Edge samples to curves: every arc fitted exactly once."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.arcs import ArcCurves, Deviation, Piece
from sketchloom.core.curves.fit.corners import Neighbours, corner_places, find_corners
from sketchloom.core.curves.fit.cubics import rest_of_cubics
from sketchloom.core.curves.fit.junctions import on_frame
from sketchloom.core.curves.fit.layout import NEAR_CORNER, beside, lay_out, smoothed_track, unrolled
from sketchloom.core.curves.fit.nodes import Chosen, choose_nodes
from sketchloom.core.curves.fit.noise import Noise, measure_noise
from sketchloom.core.curves.fit.square import square_up
from sketchloom.core.curves.fit.track import Stretches
from sketchloom.core.curves.settings import Bounds
from sketchloom.core.planar import EdgeSamples, PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["fit_exact", "fit_lines", "trace_arcs"]

_FAR, _FAR_EXACT = 0.5, 0.025
_EASE_EXACT = 1.6
"""Straight lines of a clean picture: renderers are off by up to 0.07 px along level and upright edges."""
_OF_FAR = 0.6
"""Of the bound on every point, what bounds the running mean."""
_SURE = 5.6
"""Standard deviations that the largest of many running means may reach."""
_SURE_OF_ONE = 1.6


def trace_arcs(
    planar: PlanarMap,
    samples: EdgeSamples,
    bounds: Bounds,
    tick: Tick = no_tick,
    stretches: Stretches | None = None,
) -> ArcCurves:
    """Fit curves to all arcs.

    Parameters
    ----------
    planar : PlanarMap
    samples : EdgeSamples
        Of `planar`.
    bounds : Bounds
    stretches : Stretches, optional
        What `lay_out` gave for these samples and ``bounds.corner``, when it is known already.

    Returns
    -------
    ArcCurves
        In px.
    """
    stretches = _with_limits(stretches or lay_out(planar, samples, bounds.corner), planar, samples, bounds)
    tick(0.2)
    chosen = choose_nodes(stretches, lambda done: tick(0.2 + 0.75 * done))
    if bounds.square:
        arc = np.searchsorted(stretches.first, chosen.first, "right") - 1
        chosen = chosen._replace(control=square_up(planar, arc, chosen.control, chosen.straight, bounds.square))
    return _table(planar, stretches, chosen)


def _with_limits(stretches: Stretches, planar: PlanarMap, samples: EdgeSamples, bounds: Bounds) -> Stretches:
    """Say how closely each arc is to be followed: no closer than its samples are sure of."""
    track = stretches.track
    framed = on_frame(track.points, planar.shape)
    plain = ~(stretches.sharp | stretches.end | framed) & (track.weight > 0.3)
    noise = Noise(0.0, 0.0) if samples.exact else measure_noise(track.points, plain)
    size = stretches.last - stretches.first + 1
    least = max(bounds.floored(samples.exact).tolerance, _SURE * noise.mean)
    limit = np.repeat(np.maximum(np.maximum(samples.grain, samples.coarse), least), size)
    rms_limit = np.hypot(limit, _SURE_OF_ONE * noise.single)
    far = limit + (_FAR_EXACT if samples.exact else _FAR + limit)
    ease = np.maximum(_EASE_EXACT if samples.exact else 1.0, bounds.straight / limit)
    return stretches._replace(track=track._replace(limit=limit, rms_limit=rms_limit, ease=ease, far=far))


def fit_lines(lines: list[Floats], closed: list[bool], tolerance: float, tick: Tick = no_tick) -> list[Piece]:
    """Fit curves through lines of points about a pixel apart, as to the arcs of a map.

    Parameters
    ----------
    lines : list of (N, 2) float
    closed : list of bool
    tolerance : float
        Bound on the running mean of the signed distance, px.
    """
    points, near, end = _in_a_row(lines, closed)
    weight = np.ones(len(points))
    corner = find_corners(points, near, np.ones(len(points), bool), Bounds(tolerance).corner)
    corners = np.flatnonzero(corner)
    points[corners] = corner_places(points, weight, corners, near, corner | end)
    weight[beside(corner | end, near)] = NEAR_CORNER
    every = np.full(len(lines), tolerance)
    return _fitted(points, weight, near, corner | end, np.array(closed), every, every + 0.15, tick)


def fit_exact(
    lines: list[Floats], closed: list[bool], corners: list[Bools], tolerance: float | Floats, tick: Tick = no_tick
) -> list[Piece]:
    """Fit curves through lines that are known exactly, with their corners.

    Parameters
    ----------
    lines : list of (N, 2) float
        Points about one unit apart.
    closed : list of bool
        A closed line does not repeat its first point.
    corners : list of (N,) bool
        Points at which a curve ends and another begins.
    tolerance : float or (L,) float
        Bound on the distance of every point, units; one for all lines, or one for each.
    """
    points, near, end = _in_a_row(lines, closed)
    sharp = np.concatenate(corners) | end
    weight = np.ones(len(points))
    far = np.broadcast_to(np.asarray(tolerance, float), len(lines))
    return _fitted(points, weight, near, sharp, np.array(closed), _OF_FAR * far, far, tick)


def _in_a_row(lines: list[Floats], closed: list[bool]) -> tuple[Floats, Neighbours, Bools]:
    """Points of all lines, who is next to whom, and which are ends of open ones."""
    sizes = np.array([len(line) for line in lines])
    first = np.cumsum(sizes) - sizes
    arc = np.repeat(np.arange(len(lines)), sizes)
    near = Neighbours(first[arc], sizes[arc], np.array(closed)[arc], np.arange(len(arc)) - first[arc])
    return np.concatenate(lines), near, ~near.loop & ((near.place == 0) | (near.place == near.size - 1))


def _fitted(
    points: Floats,
    weight: Floats,
    near: Neighbours,
    sharp: Bools,
    loop: Bools,
    tolerance: Floats,
    far: Floats,
    tick: Tick,
) -> list[Piece]:
    nowhere = np.full((len(loop), 2), -1)
    stretches = unrolled(points, weight, smoothed_track(points, near, sharp), near, sharp, loop, nowhere)
    size = stretches.last - stretches.first + 1
    limit = np.repeat(tolerance, size)
    track = stretches.track._replace(limit=limit, rms_limit=limit, ease=np.ones(len(limit)), far=np.repeat(far, size))
    chosen = choose_nodes(stretches._replace(track=track), tick)
    of = np.searchsorted(stretches.first, chosen.first, "right") - 1
    return [Piece(chosen.control[of == i], chosen.straight[of == i]) for i in range(len(loop))]


def _table(planar: PlanarMap, stretches: Stretches, chosen: Chosen) -> ArcCurves:
    first, last, control = chosen.first, chosen.last, chosen.control
    arc = np.searchsorted(stretches.first, first, "right") - 1
    offset = np.searchsorted(arc, np.arange(len(planar.tail) + 1))
    away = rest_of_cubics(stretches.track, first, last, control)
    points = np.empty((3 * len(first) + len(planar.tail), 2))
    begins = 3 * np.arange(len(first)) + arc
    for k in range(4):
        points[begins + k] = control[:, k]
    return ArcCurves(
        points,
        chosen.straight,
        chosen.round,
        offset,
        Deviation(stretches.track.points, away, np.append(stretches.first, len(away))),
    )
