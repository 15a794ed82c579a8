"""Cutting times, held against uniformly accelerated motion worked by hand."""

import itertools
import math

import numpy as np
import pytest
import shapely

from sketchloom.core.curves import Path
from sketchloom.core.sheets.timing import LIFT, seconds_of, stretches_of, timing_of
from sketchloom.core.stock import Cutter
from tests.core.sheets.drawn import straight_path

KNIFE = Cutter("Knife", speed=50.0, acceleration=1000.0)


def test_a_square_stops_at_its_corners():
    """Worked by hand: 20 mm at 50 mm/s and 1000 mm/s2 take 20/50 + 50/1000 = 0.45 s; four of them 1.8 s."""
    square = straight_path([shapely.box(0, 0, 20, 20)])
    timing = timing_of([square], KNIFE)
    assert timing.cut_time == pytest.approx(1.8, rel=1e-6) and timing.cut == pytest.approx(80)
    # it begins and ends at a corner of the square; from the sheet's corner there and back
    away = float(np.hypot(*square.contours[0][0]))
    way = 0.0 if away == 0 else away / 50 + 0.05 if away >= 2.5 else 2 * math.sqrt(away / 1000)
    assert timing.time == pytest.approx(1.8 + 2 * way + 2 * LIFT, rel=1e-6)


def test_a_zigzag_of_short_strokes_never_reaches_its_speed():
    """Worked by hand: strokes of 2 mm are under 50^2/1000 = 2.5 mm, so each takes 2 sqrt(2/1000) = 0.08944 s."""
    points = np.array([[i * math.sqrt(2), math.sqrt(2) * (i % 2)] for i in range(11)])
    contour = np.vstack([points[:1], *(
        np.vstack([a + (b - a) / 3, b - (b - a) / 3, b]) for a, b in itertools.pairwise(points)
    )])  # fmt: skip
    zigzag = Path((contour,), (np.ones(10, bool),), (True,))
    assert stretches_of(zigzag) == pytest.approx(np.full(10, 2.0))
    assert timing_of([zigzag], KNIFE).cut_time == pytest.approx(10 * 2 * math.sqrt(2 / 1000), rel=0.01)


def test_a_corner_of_thirty_degrees_stops_and_one_of_less_does_not():
    for angle, stops in ((29.0, 1), (31.0, 2)):
        turn = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
        nodes = np.array([[0, 0], [10, 0], np.array([10, 0]) + 10 * turn])
        contour = np.vstack([nodes[:1], *(
            np.vstack([a + (b - a) / 3, b - (b - a) / 3, b]) for a, b in itertools.pairwise(nodes)
        )])  # fmt: skip
        assert len(stretches_of(Path((contour,), (np.ones(2, bool),), (True,)))) == stops


def test_a_circle_is_one_stretch():
    k = 4 / 3 * math.tan(math.pi / 8)
    quarter = [
        [(1, 0), (1, k), (k, 1)],
        [(0, 1), (-k, 1), (-1, k)],
        [(-1, 0), (-1, -k), (-k, -1)],
        [(0, -1), (k, -1), (1, -k)],
    ]
    contour = 10 * np.array([point for part in quarter for point in part] + [(1, 0)], float)
    (length,) = stretches_of(Path((contour,), (np.zeros(4, bool),)))
    assert length == pytest.approx(20 * math.pi, rel=1e-3)


def test_time_meets_where_the_speed_is_just_reached():
    assert seconds_of(np.array([2.5 - 1e-9, 2.5]), 50, 1000) == pytest.approx([0.1, 0.1])
