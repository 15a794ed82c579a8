"""Outlines made of cubic segments."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from sketchloom.core.arrays import Bools, Floats

__all__ = ["Path"]


@dataclass(frozen=True, eq=False)
class Path:
    """Closed contours of cubic segments; draws itself to any fontTools pen.

    Attributes
    ----------
    contours : tuple of (3 n + 1, 2) float64
        Node, two controls, node, and so on; the last node is the first again.
    straight : tuple of (n,) bool
        Which segments are straight; their controls lie on the chord.
    """

    contours: tuple[Floats, ...]
    straight: tuple[Bools, ...]

    @property
    def nodes(self) -> int:
        """Number of nodes, which is that of segments."""
        return sum(len(flags) for flags in self.straight)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Least x and y, largest x and y of the curves; raises ValueError for an empty path.

        The extremes of a cubic lie at its ends or where its derivative, a
        quadratic, is zero.
        """
        segments = np.concatenate([_segments(c) for c in self.contours])
        return bounds_of(segments)

    def draw(self, pen: Any) -> None:
        """Draw to a pen: ``moveTo``, ``lineTo``, ``curveTo``, ``closePath``."""
        for contour, straight in zip(self.contours, self.straight, strict=True):
            points = [tuple(p) for p in contour.tolist()]
            pen.moveTo(points[0])
            for i, is_straight in enumerate(straight.tolist()):
                if is_straight:
                    pen.lineTo(points[3 * i + 3])
                else:
                    pen.curveTo(*points[3 * i + 1 : 3 * i + 4])
            pen.closePath()


def _segments(contour: Floats) -> Floats:
    count = (len(contour) - 1) // 3
    return contour[3 * np.arange(count)[:, None] + np.arange(4)]


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
