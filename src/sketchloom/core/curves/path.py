"""Paths made of cubic segments, open or closed, and what is worked out along cubics."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats

__all__ = ["Path", "areas_below", "bounds_of", "lengths_of", "points_at", "straight_contour", "straight_thirds"]

_TIMES, _WEIGHTS = np.polynomial.legendre.leggauss(12)


@dataclass(frozen=True, eq=False)
class Path:
    """Contours of cubic segments, each open or closed; draws itself to any fontTools pen.

    Attributes
    ----------
    contours : tuple of (3 n + 1, 2) float64
        Node, two controls, node, and so on; the last node of a closed one is
        the first again.
    straight : tuple of (n,) bool
        Which segments are straight; their controls lie on the chord.
    open : tuple of bool
        Which contours do not close; empty when all do.
    meant : polygons, optional
        What a file from elsewhere fills where its contours cross or overlap;
        None where they go round what they enclose, as all of ours do.
    """

    contours: tuple[Floats, ...]
    straight: tuple[Bools, ...]
    open: tuple[bool, ...] = ()
    meant: Any = None

    @property
    def closed(self) -> tuple[bool, ...]:
        """Which contours close."""
        return tuple(not is_open for is_open in self.open) or (True,) * len(self.contours)

    @property
    def nodes(self) -> int:
        """Number of nodes: that of segments, and one more for each open contour."""
        return sum(len(flags) for flags in self.straight) + sum(self.open)

    @property
    def segments(self) -> Floats:
        """Control points of all segments; (S, 4, 2)."""
        if not self.contours:
            return np.zeros((0, 4, 2))
        counts = np.array([len(flags) for flags in self.straight])
        first = np.arange(counts.sum()) * 3 + np.repeat(np.arange(len(counts)), counts)  # a contour has a point more
        return np.asarray(np.concatenate(self.contours)[first[:, None] + np.arange(4)])

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Least x and y, largest x and y of the curves; raises ValueError for an empty path.

        The extremes of a cubic lie at its ends or where its derivative, a
        quadratic, is zero.
        """
        return bounds_of(self.segments)

    @property
    def areas(self) -> Floats:
        """Signed area of each contour, those that hold others positive, open ones 0; (C,)."""
        counts = [len(flags) for flags in self.straight]
        below = np.bincount(np.repeat(np.arange(len(counts)), counts), areas_below(self.segments), len(counts))
        return np.where(np.array(self.closed, bool), -below, 0.0)

    @property
    def length(self) -> float:
        """Length of all contours."""
        return float(lengths_of(self.segments).sum())

    def part(self, chosen: Sequence[int]) -> "Path":
        """Some of the contours."""
        return Path(
            tuple(self.contours[i] for i in chosen),
            tuple(self.straight[i] for i in chosen),
            tuple(self.open[i] for i in chosen) if self.open else (),
        )

    def moved(self, by: Floats) -> "Path":
        """The same elsewhere."""
        meant = None if self.meant is None else shapely.transform(self.meant, lambda points: points + by)
        return Path(tuple(contour + by for contour in self.contours), self.straight, self.open, meant)

    def scaled(self, by: float) -> "Path":
        """The same by a factor larger, from the origin."""
        meant = None if self.meant is None else shapely.transform(self.meant, lambda points: points * by)
        return Path(tuple(contour * by for contour in self.contours), self.straight, self.open, meant)

    def reversed(self) -> "Path":
        """The same, each contour the other way round."""
        contours = tuple(contour[::-1] for contour in self.contours)
        return Path(contours, tuple(flags[::-1] for flags in self.straight), self.open)

    def draw(self, pen: Any) -> None:
        """Draw to a pen: ``moveTo``, ``lineTo``, ``curveTo``, ``closePath`` or ``endPath``."""
        for contour, straight, closed in zip(self.contours, self.straight, self.closed, strict=True):
            points = [tuple(p) for p in contour.tolist()]
            pen.moveTo(points[0])
            for i, is_straight in enumerate(straight.tolist()):
                if is_straight:
                    pen.lineTo(points[3 * i + 3])
                else:
                    pen.curveTo(*points[3 * i + 1 : 3 * i + 4])
            if closed:
                pen.closePath()
            else:
                pen.endPath()


def points_at(control: Floats, t: Floats) -> Floats:
    """Points of cubics, (n, 4, 2), at parameters; (n, len(t), 2)."""
    t = np.asarray(t)[None, :, None]
    s = 1 - t
    p = control[:, :, None]
    return np.asarray(s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3])


def lengths_of(segments: Floats) -> Floats:
    """Length of cubic segments, (S, 4, 2), by Gauss-Legendre quadrature with 12 points each; (S,)."""
    t = (_TIMES + 1) / 2
    d0, d1, d2 = (3 * (segments[:, i + 1] - segments[:, i]) for i in range(3))
    speed = ((1 - t) ** 2)[:, None, None] * d0 + (2 * t * (1 - t))[:, None, None] * d1 + (t**2)[:, None, None] * d2
    return np.asarray((np.linalg.norm(speed, axis=2) * _WEIGHTS[:, None]).sum(0) / 2)


def straight_thirds(control: Floats, straight: Bools) -> Floats:
    """Put the controls of straight segments on their chords; (S, 4, 2), changed in place and returned."""
    third = (control[straight, 3] - control[straight, 0]) / 3
    control[straight, 1], control[straight, 2] = control[straight, 0] + third, control[straight, 3] - third
    return control


def straight_contour(points: Floats) -> Floats:
    """Straight lines from point to point, (N, 2), as a contour of cubics, (3 N - 2, 2)."""
    control = np.stack([points[:-1], points[:-1], points[1:], points[1:]], 1)
    straight_thirds(control, np.ones(len(control), bool))
    return np.vstack([control[:, :3].reshape(-1, 2), points[-1:]])


def bounds_of(segments: Floats) -> tuple[float, float, float, float]:
    """Bounding box of cubic segments; (S, 4, 2) float, S at least 1."""
    p0, p1, p2, p3 = (segments[:, i] for i in range(4))
    a, b, c = 3 * (p3 - 3 * p2 + 3 * p1 - p0), 6 * (p2 - 2 * p1 + p0), 3 * (p1 - p0)
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0))
        q = -0.5 * (b + np.where(b >= 0, root, -root))
        times = np.stack([q / a, c / q])
    times = np.clip(np.nan_to_num(times, nan=0.0, posinf=0.0, neginf=0.0), 0, 1)
    s = 1 - times
    extreme = s**3 * p0 + 3 * s * s * times * p1 + 3 * s * times**2 * p2 + times**3 * p3
    every = np.concatenate([p0, p3, *extreme])
    (left, top), (right, bottom) = every.min(0), every.max(0)
    return float(left), float(top), float(right), float(bottom)


def areas_below(segments: Floats) -> Floats:
    """What each cubic segment adds to the area on its right hand by Green's formula; (S, 4, 2) to (S,).

    Exact for cubics: the integral of (x dy - y dx) / 2.
    """
    p0, p1, p2, p3 = np.moveaxis(segments, 1, 0)

    def cross(a: Floats, b: Floats) -> Floats:
        return a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]

    ends = cross(p0, 6 * p1 + 3 * p2 + p3) + cross(6 * p2 + 3 * p1, p3)
    return np.asarray(ends + 3 * cross(p1, p2)) / 20
