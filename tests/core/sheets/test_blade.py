"""A blade that swivels: its point, which follows the axis at its distance, runs along the outline."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.curves import Path
from sketchloom.core.curves.path import points_at
from sketchloom.core.errors import ArgumentError
from sketchloom.core.sheets import Ready, SheetSettings, check_ready, lay_out
from sketchloom.core.sheets.blade import led_ahead
from sketchloom.core.sheets.runs import Run
from tests.conftest import tries
from tests.core.sheets.drawn import cut_of, odd_piece, straight_path, work_of

OFFSET = 0.25
"""mm; common practice for knives that cut vinyl."""


def dragged(axis: np.ndarray, at: np.ndarray, offset: float) -> np.ndarray:
    """The point of a blade whose axis goes along a line: it moves towards the axis alone, as a trailer's wheel does."""
    out = [at]
    for place in axis:
        pull = place - out[-1]
        away = math.hypot(*pull)
        out.append(out[-1] + pull * (1 - offset / away) if away > offset else out[-1])
    return np.array(out)


def points_of(path: Path, step: float = 0.01) -> np.ndarray:
    """A path as points, so far from each other at most, mm."""
    line = shapely.linestrings(points_at(path.segments, np.linspace(0, 1, 60)).reshape(-1, 2))
    return shapely.get_coordinates(shapely.segmentize(line, step))


def run_of(path: Path, closed: bool = True) -> Run:
    return Run(cut_of([shapely.box(0, 0, 1, 1)]), path.contours[0], path.straight[0], closed)


def assert_cuts(run: Run, offset: float, within: float) -> None:
    """The point cuts all of the outline, and nothing beside it."""
    (led,) = led_ahead([run], offset)
    axis, wanted = points_of(led.path), points_of(run.path, 0.05)
    assert not led.closed
    cut = shapely.linestrings(dragged(axis, wanted[0], offset))
    assert shapely.distance(cut, shapely.points(wanted)).max() < within
    outline = shapely.linestrings(wanted)
    assert shapely.distance(outline, shapely.points(shapely.get_coordinates(cut))).max() < within


def circle(radius: float) -> Path:
    kappa, turn = 4 / 3 * (math.sqrt(2) - 1), np.arange(5) * math.pi / 2
    nodes = radius * np.column_stack([np.cos(turn), np.sin(turn)])
    along = radius * kappa * np.column_stack([-np.sin(turn), np.cos(turn)])
    control = np.stack([nodes[:-1], nodes[:-1] + along[:-1], nodes[1:] - along[1:], nodes[1:]], 1)
    return Path((np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]]),), (np.zeros(4, bool),))


WAVE = Path((np.array([(0, 0), (10, -10), (10, 10), (20, 0), (20, 0), (14, 20), (0, 0)], float),), (np.zeros(2, bool),))
"""A bend to both sides, and one whose first handle has no length."""


@pytest.mark.parametrize("path", [
    WAVE,
    straight_path([shapely.box(0, 0, 20, 10)]), circle(10.0), circle(1.0),
    straight_path([shapely.Polygon([(0, 0), (20, 1), (0, 2), (15, 6)])]),
])  # fmt: skip
@pytest.mark.parametrize("offset", [OFFSET, 0.5])
def test_the_point_runs_along_the_outline(path, offset):
    assert_cuts(run_of(path), offset, 0.015)


@tries(15)
@given(st.integers(0, 10**6))
def test_the_point_runs_along_any_outline(seed):
    piece = odd_piece(np.random.default_rng(seed), 10, 30)
    assert_cuts(run_of(straight_path([piece])), OFFSET, 0.015)


def test_a_blade_led_along_the_outline_itself_rounds_corners():
    """What the lead is for, and that the simulation tells it."""
    run = run_of(straight_path([shapely.box(0, 0, 20, 10)]))
    wanted = points_of(run.path)
    cut = shapely.linestrings(dragged(wanted, wanted[0], OFFSET))
    assert shapely.distance(cut, shapely.Point(20, 10)) > 0.08


def test_the_axis_of_a_square_turns_about_its_corners():
    (led,) = led_ahead([run_of(straight_path([shapely.box(0, 0, 20, 20)]))], OFFSET)
    arcs = led.contour[:-1].reshape(-1, 3, 2)[~led.straight]
    assert len(arcs) == 4 and led.straight.sum() == 4
    assert led.path.length == pytest.approx(80 + 4 * OFFSET * math.pi / 2, abs=1e-3)
    corners = np.array([(0, 0), (20, 0), (20, 20), (0, 20)])
    away = np.hypot(*(arcs[:, None, 0] - corners).transpose(2, 0, 1)).min(1)
    assert away == pytest.approx(np.full(4, OFFSET))


def test_cuts_and_weeding_are_led_and_what_is_drawn_is_not():
    """An open run, as tabs leave it, is led too; a kerf beside an offset is refused."""
    cuts = [cut_of([shapely.box(0, 0, 40, 40)]), cut_of([shapely.box(10, 10, 20, 20)], "#4f8a4b", kind="score")]
    ready = Ready(blade_offset=OFFSET, weeding="pieces", tabs=2)
    plain = lay_out(work_of(cuts), SheetSettings(ready=Ready(weeding="pieces", tabs=2))).sheets[0].runs
    led = lay_out(work_of(cuts), SheetSettings(ready=ready)).sheets[0].runs
    assert [run.group for run in led] == [run.group for run in plain] == ["scores", "cuts", "cuts", "weeding"]
    for one, other in zip(led, plain, strict=True):
        assert np.array_equal(one.contour, other.contour) is (one.group == "scores")
    for one, other in zip(led[1:3], plain[1:3], strict=True):
        assert_cuts(other, OFFSET, 0.015)
        assert math.hypot(*(one.contour[-1] - other.contour[-1])) == pytest.approx(OFFSET, abs=1e-6)
    with pytest.raises(ArgumentError, match="not both"):
        check_ready(Ready(kerf=0.2, blade_offset=0.25))
    with pytest.raises(ArgumentError, match="offset"):
        check_ready(Ready(blade_offset=-0.25))
