"""Sheets made ready for the knife: a kerf simulated by shapely, tabs measured, marks and weeding that cross no cut."""

import itertools
import math

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.sheets import Ready, SheetSettings, Work, check_sheets, lay_out, readied
from sketchloom.core.sheets.runs import Run
from sketchloom.core.stock import CUTTERS, Stock
from tests.conftest import draw, tries
from tests.core.sheets.drawn import INKS, PLACES, cut_of, strewn


def laid(cuts, ready: Ready, **settings):
    own, marks = readied(tuple(cuts), ready)
    return lay_out(Work(own, PLACES, marks=marks), SheetSettings(ready=ready, **settings))


def line_of(run: Run, many: int = 24):
    """A run as a line of points, told by Bernstein's polynomials."""
    control = run.contour[3 * np.arange(len(run.straight))[:, None] + np.arange(4)]
    t = np.linspace(0, 1, many, endpoint=False)
    weights = np.stack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3], 1)
    return shapely.LineString(np.vstack([(weights @ control).reshape(-1, 2), run.contour[-1:]]))


def kept(runs, kerf: float):
    """What is left of a sheet that a tool of a width has gone round: what the outlines hold, less what it took."""
    held = shapely.Polygon()
    for run in runs:
        held = shapely.symmetric_difference(held, shapely.Polygon(line_of(run).coords))
    return shapely.difference(held, shapely.union_all([line_of(run).buffer(kerf / 2, 32) for run in runs]))


def test_a_square_keeps_its_size_and_so_does_its_hole():
    square = shapely.box(0, 0, 40, 40) - shapely.box(10, 10, 30, 30)
    (sheet,) = laid([cut_of([square])], Ready(kerf=0.2)).sheets
    left = kept(sheet.runs, 0.2)
    outer, hole = shapely.Polygon(left.exterior), shapely.Polygon(left.interiors[0])
    for shape, side in ((outer, 40.0), (hole, 20.0)):
        low_x, low_y, high_x, high_y = shape.bounds
        assert (high_x - low_x, high_y - low_y) == pytest.approx((side, side), abs=0.005)
        assert shape.area == pytest.approx(side * side, abs=0.1)  # inner corners keep the tool's radius
    plain = kept(laid([cut_of([square])], Ready()).sheets[0].runs, 0.2)
    assert shapely.Polygon(plain.exterior).bounds[2] - shapely.Polygon(plain.exterior).bounds[0] < 39.81


@tries(15)
@given(st.integers(0, 10**6), st.floats(0.05, 0.8))
def test_any_piece_keeps_its_shape_but_for_what_no_tool_reaches(seed, kerf):
    """What is left is the piece, and besides only what lies in corners too narrow for the tool."""
    (piece,) = strewn(np.random.default_rng(seed), 1, 20, 60)
    (sheet,) = laid([cut_of([piece])], Ready(kerf=kerf), turn="none").sheets
    left = kept(sheet.runs, kerf)
    here = shapely.transform(piece, sheet.laid[0].lay)
    tool = kerf / 2
    assert shapely.difference(here, left.buffer(0.012)).area < 1e-3
    reached = here.buffer(tool, 32).buffer(-tool, 32)
    assert shapely.difference(left, reached.buffer(0.012)).area < 1e-3


@tries(25)
@given(st.integers(0, 10**6), st.sampled_from(["pieces", "sheet"]), st.booleans(), st.booleans())
def test_weeding_boxes_and_lines_cross_no_cut(seed, weeding, lines, nested):
    rng = np.random.default_rng(seed)
    ready = Ready(weeding=weeding, weeding_margin=float(rng.uniform(1, 6)), weeding_lines=lines)
    layout = laid([cut_of(strewn(rng, int(rng.integers(1, 12))), ink, Stock("Film", "heat-transfer film", "#112233"))
                   for ink in INKS[:2]], ready, nested=nested)  # fmt: skip
    for sheet in layout.sheets:
        own = [line_of(run) for run in sheet.runs if run.group == "weeding"]
        pieces = shapely.union_all(np.concatenate([one.shapes for one in sheet.laid]))
        assert own and all(shapely.distance(line, pieces) >= 0.99 for line in own)
        boxes = [line for line in own if line.is_ring]
        x, y, width, height = sheet.group.usable
        assert all(shapely.box(x, y, x + width, y + height).buffer(0.01).covers(line) for line in own)
        assert all(not one.intersects(other) for one, other in itertools.combinations(boxes, 2))
        assert shapely.union_all([shapely.Polygon(box.coords) for box in boxes]).covers(pieces)
        assert weeding == "pieces" or len(boxes) == 1
        groups = [run.group for run in sheet.runs]
        assert groups == sorted(groups, key=["cuts", "weeding"].index)


@pytest.mark.parametrize("kind", ["corners", "crosses", "holes"])
def test_marks_stand_at_one_place_on_every_layer_that_lies_in_register(kind):
    rng = np.random.default_rng(7)
    cuts = [cut_of(strewn(rng, many), ink) for ink, many in zip(INKS, (5, 2, 1), strict=True)]
    layout = laid(cuts, Ready(marks=kind), size=(800.0, 800.0))
    assert len(layout.sheets) == 3 and not layout.apart
    found = []
    for sheet in layout.sheets:
        (one,) = sheet.laid
        marks = [line_of(run) for run in sheet.runs if run.group == "marks"]
        assert len(marks) == (8 if kind == "crosses" else 4)
        back = [shapely.transform(line, lambda points, one=one: unlaid(one, points)) for line in marks]
        found.append(shapely.union_all(back))
        pieces = [part.shape for part in one.item.body.parts if not part.role]
        assert shapely.distance(shapely.union_all(back), shapely.union_all(pieces)) >= 0.9
    assert all(one.hausdorff_distance(found[0]) < 0.01 for one in found)
    nested = laid(cuts, Ready(marks=kind), size=(800.0, 800.0), nested=True)
    assert all(run.group == "cuts" for sheet in nested.sheets for run in sheet.runs)


def unlaid(one, points):
    turn = np.radians(one.turn)
    back = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
    return (points - np.array(one.at)) @ back


def test_a_layer_too_large_with_its_marks_is_laid_piece_by_piece_without_them():
    pieces = [shapely.box(0, 0, 100, 100), shapely.box(180, 0, 280, 100)]
    layout = laid([cut_of(pieces)], Ready(marks="crosses"), size=(300.0, 300.0))
    assert layout.apart == (INKS[0],) and not layout.too_large
    assert all(run.group == "cuts" for sheet in layout.sheets for run in sheet.runs)


def test_a_hanging_hole_goes_through_all_layers_above_the_middle_of_the_area():
    whole = shapely.Point(100, 100).buffer(60, 64)
    front = shapely.box(70, 30, 130, 170) & whole
    cuts, _ = readied((cut_of([whole], INKS[0]), cut_of([front], INKS[1]), cut_of([shapely.box(0, 0, 5, 5)], INKS[2])),
                      Ready(hole=(8.0, 10.0)))  # fmt: skip
    for cut, before in zip(cuts[:2], (whole, front), strict=True):
        (shape,) = cut.polygons.shapes
        (hole,) = (shapely.Polygon(ring) for ring in shape.interiors)
        assert hole.area == pytest.approx(math.pi * 16, rel=0.01)
        centre = shapely.union_all([whole, shapely.box(0, 0, 5, 5)]).centroid.x
        assert (hole.centroid.x, hole.centroid.y) == pytest.approx((centre, 100 - 60 + 10 + 4), abs=0.05)
        assert shape.area == pytest.approx(before.area - hole.area, abs=0.1)
    assert len(cuts[2].polygons.shapes) == 1 and not cuts[2].polygons.shapes[0].interiors
    with pytest.raises(ArgumentError, match="no room for a hole of 90 mm"):
        readied((cut_of([whole]),), Ready(hole=(90.0, 20.0)))


@tries(25)
@given(st.integers(0, 10**6), st.integers(1, 6), st.floats(0.5, 4.0))
def test_tabs_are_as_wide_as_asked_and_off_corners(seed, many, width):
    piece = strewn(np.random.default_rng(seed), 1, 30, 60)[0]
    layout = laid([cut_of([piece])], Ready(tabs=many, tab_width=width), turn="none")
    (sheet,) = layout.sheets
    runs = [run for run in sheet.runs if not run.closed]
    plain = laid([cut_of([piece])], Ready(), turn="none").sheets[0]
    outer = max((run for run in plain.runs), key=lambda run: shapely.Polygon(run.contour[::3]).area)
    cut = sum(run.path.length for run in runs)
    assert len(runs) <= many and len(sheet.runs) - len(runs) == len(plain.runs) - bool(runs)
    if not runs:  # nowhere a stretch without corners that is long enough
        return
    assert outer.path.length - cut == pytest.approx(len(runs) * width, abs=0.02)
    ring = line_of(outer, 96)
    gaps = shapely.difference(ring, shapely.union_all([line_of(run, 96).buffer(0.02) for run in runs]))
    corners = [point for point in outer.contour[:-1:3] if _turn_at(outer, point) > 30]
    for gap in shapely.get_parts(gaps):
        if gap.length > 0.1:
            assert all(gap.distance(shapely.Point(corner)) >= 0.8 * width for corner in corners)


def _turn_at(run: Run, point) -> float:
    nodes = run.contour[:-1]
    place = 3 * int(np.argmin(np.hypot(*(run.contour[:-1:3] - point).T)))
    one, other = point - nodes[place - 1], nodes[place + 1] - point
    return abs(math.degrees(math.atan2(one[0] * other[1] - one[1] * other[0], one @ other)))


def test_holes_are_cut_whole_where_pieces_have_tabs():
    ring = shapely.Point(0, 0).buffer(40, 32) - shapely.Point(0, 0).buffer(25, 32)
    for flip in ("on", "off"):
        (sheet,) = laid([cut_of([ring])], Ready(tabs=3, tab_width=2.0), flip=flip).sheets
        assert [run.closed for run in sheet.runs] == [True, False, False, False]


def test_gaps_and_thin_parts_that_the_kerf_eats_are_found_by_check():
    """Two blocks 1 mm apart, and a bar 1 mm wide."""
    blocks = '<rect x="10" y="10" width="40" height="80" fill="#8e2a5b"/><rect x="51" y="10" width="39" height="80" '
    picture = draw(blocks + 'fill="#8e2a5b"/><rect x="100" y="10" width="1" height="80" fill="#8e2a5b"/>', 800, 110)
    plain = Recipe().with_("finish", width=91.0).with_("tidy", least_width=0.0)
    found = {}
    for kerf in (0.0, 1.4):
        recipe = plain.with_("sheets", ready=Ready(kerf=kerf))
        checked = Pipeline(0).run(picture, recipe, names=("palette", "checked")).checked
        found[kerf] = {finding.kind for finding in checked.findings}
    assert {"gap", "neck"} & found[0.0] == set() and found[1.4] >= {"gap"} and found[1.4] & {"neck", "sliver"}


def test_a_knife_runs_on_where_an_outline_closes():
    square = cut_of([shapely.box(0, 0, 20, 20)])
    (run,) = laid([square], Ready(overcut=0.5)).sheets[0].runs
    assert run.path.length == pytest.approx(80.5, abs=0.01) and not run.closed
    assert line_of(run).distance(shapely.Point(run.contour[-1])) < 1e-9
    knife = next(cutter for cutter in CUTTERS if cutter.overcut == 0)
    (run,) = laid([square], Ready(), cutter=msgspec.structs.replace(knife, overcut=0.3)).sheets[0].runs
    assert run.path.length == pytest.approx(80.3, abs=0.01)


@pytest.mark.parametrize("ready", [
    Ready(kerf=-1), Ready(kerf=math.nan), Ready(kerf=50), Ready(hole=(0.0, 5.0)), Ready(hole=(5.0, math.inf)),
    Ready(tabs=-1), Ready(tabs=1000), Ready(tab_width=0.0), Ready(weeding_margin=0.0), Ready(overcut=-0.1),
])  # fmt: skip
def test_what_cannot_be_is_refused(ready):
    with pytest.raises(ArgumentError):
        check_sheets(SheetSettings(ready=ready))
