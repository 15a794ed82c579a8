"""The test cut, measured in its files by readers that are not ours."""

import msgspec
import numpy as np
import pytest
import shapely

from sketchloom.core.send import WRITERS, page_of_test_cut, written
from sketchloom.core.send.testcut import figure
from sketchloom.core.sheets import Ready, SheetSettings
from sketchloom.core.stock import CUTTERS, GENERIC
from tests.core.send import readers

PAPER = next(stock for stock in GENERIC if stock.name == "Cream paper")
FILM = next(stock for stock in GENERIC if stock.name == "White film")


PLAIN = SheetSettings()


def shape_of(stock, settings=PLAIN) -> shapely.Geometry:
    _, found = readers.read_svg(written(WRITERS[".svg"], page_of_test_cut(stock, settings)))
    (lines,) = found.values()
    return readers.filled(lines)


def test_it_is_half_an_inch_with_a_neck_a_corner_a_hole_and_a_dot():
    """Half an inch across: common practice."""
    shape = shape_of(PAPER)
    left, top, right, bottom = shape.bounds
    assert (right - left, bottom - top) == pytest.approx((12.7, 12.7), abs=0.01)
    trowel, dot = sorted(shapely.get_parts(shape), key=lambda part: -part.area)
    assert dot.bounds[2] - dot.bounds[0] == pytest.approx(max(PAPER.least_piece, 0.8), abs=0.01)
    (hole,) = (shapely.Polygon(ring) for ring in trowel.interiors)
    assert hole.bounds[2] - hole.bounds[0] == pytest.approx(PAPER.least_gap, abs=0.01)
    # a disc as wide as the neck passes through it, a wider one does not
    for width, parts in ((PAPER.least_piece - 0.05, 1), (PAPER.least_piece + 0.05, 2)):
        assert len(shapely.get_parts(shapely.Polygon(trowel.exterior).buffer(-width / 2))) == parts
    tip = np.array(trowel.exterior.coords)[np.argmax(np.array(trowel.exterior.coords).sum(1))]
    near = trowel.intersection(shapely.Point(tip).buffer(0.2))
    angle = np.degrees(2 * near.area / 0.2**2)
    assert 30 < angle < 80  # sharp


def test_film_is_mirrored_and_paper_is_not():
    """Heat-transfer film is cut mirrored: common practice."""
    film, paper = shape_of(FILM), shape_of(msgspec.structs.replace(FILM, mirrored=False))
    dots = [min(shapely.get_parts(shape), key=lambda part: part.area).centroid.x - shape.centroid.x
            for shape in (film, paper)]  # fmt: skip
    assert dots[0] < 0 < dots[1]
    assert film.symmetric_difference(paper).area > 1
    for flip, meant in (("on", film), ("off", paper)):  # whatever the stock is
        for stock in (FILM, msgspec.structs.replace(FILM, mirrored=False)):
            assert shape_of(stock, SheetSettings(flip=flip)).symmetric_difference(meant).area < 0.1


def test_outlines_go_one_way_round_and_holes_the_other_as_in_all_layers():
    assert (figure(PAPER).areas > 0).tolist() == [True, False, True]


@pytest.mark.parametrize("kerf", [0.1, 0.4, 3.0])
def test_the_kerf_is_allowed_for(kerf):
    """What the tool leaves is the figure: its path taken in by half the kerf again."""
    cut, plain = shape_of(PAPER, SheetSettings(ready=Ready(kerf=kerf))), shape_of(PAPER)
    left = shapely.Polygon(max(shapely.get_parts(cut), key=lambda part: part.area).exterior).buffer(-kerf / 2)
    meant = shapely.Polygon(max(shapely.get_parts(plain), key=lambda part: part.area).exterior)
    assert left.area == pytest.approx(meant.area, rel=0.03)


@pytest.mark.parametrize("cutter", [None, *CUTTERS], ids=lambda cutter: cutter.name if cutter else "none")
def test_every_stock_on_every_cutter_in_every_format(cutter):
    ready = Ready(kerf=cutter.tool if cutter else 0.0, tabs=2, marks="corners", weeding="sheet", hole=(4.0, 2.0))
    for stock in (None, *{stock.kind: stock for stock in GENERIC}.values()):
        page = page_of_test_cut(stock, SheetSettings(cutter=cutter, ready=ready, copies=3, nested=True))
        assert {item.group for item in page.items} == {"cuts"}  # no marks, boxes or holes, and once
        assert 2 <= sum(len(item.path.contours) for item in page.items) <= 3
        for item in page.items:
            left, top, right, bottom = item.path.bounds
            assert left >= 1.9 and top >= 1.9 and right <= page.size[0] - 1.9 and bottom <= page.size[1] - 1.9
        for writer in WRITERS.values():
            written(writer, page)


def test_a_blade_that_trails_is_led_and_an_overcut_is_cut():
    plain = page_of_test_cut(PAPER, SheetSettings())
    led = page_of_test_cut(PAPER, SheetSettings(ready=Ready(blade_offset=0.25)))
    over = page_of_test_cut(PAPER, SheetSettings(ready=Ready(overcut=1.0)))
    lengths = [sum(item.path.length for item in page.items) for page in (plain, led, over)]
    assert lengths[1] > lengths[0] and lengths[2] == pytest.approx(lengths[0] + 3.0, abs=0.05)
