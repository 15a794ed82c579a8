"""What is cut: its figures, what lies loose, and the page that holds it."""

import numpy as np
import pytest
import shapely

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, CutStack, refitted
from sketchloom.core.palette import Ink
from sketchloom.core.stock import Stock

INK = Ink("#102030", "Night", (16, 32, 48), (16, 32, 48))


def cut_of(shape, **more) -> Cut:
    return Cut(key="#102030", name="Night", ink=INK, path=refitted(shape), **more)


def test_figures_are_those_of_geos():
    shape = shapely.union_all(
        [shapely.box(0, 0, 30, 20).difference(shapely.box(5, 5, 10, 10)), shapely.box(40, 0, 50, 9)]
    )
    cut = cut_of(shape)
    assert (cut.pieces, cut.area, cut.cut_length) == pytest.approx((2, shape.area, shape.length))
    assert shapely.equals_exact(shapely.union_all(cut.polygons.shapes).normalize(), shape.normalize(), 1e-6)


@pytest.mark.parametrize(("carrier", "loose"), [(True, 0), (False, 2)])
def test_pieces_beyond_the_first_lie_loose_but_on_a_carrier(carrier, loose):
    three = shapely.multipolygons([shapely.box(9 * i, 0, 9 * i + 5, 5) for i in range(3)])
    stock = Stock("Card", "paper", carrier=carrier)
    assert cut_of(three, stock=stock).loose == loose
    assert cut_of(shapely.box(0, 0, 5, 5), stock=stock).loose == 0


def test_a_page_holds_what_lies_on_it_and_all_moves_alike():
    two = (cut_of(shapely.box(-2.5, 4, 10, 12)), cut_of(shapely.box(3, 3, 55, 9)))
    fitted = CutStack(two, (50.0, 40.0)).fitted()
    assert fitted.size == (57.5, 40.0) and fitted.moved == (2.5, 0.0)
    for before, after in zip(two, fitted.cuts, strict=True):
        by = np.vstack(after.path.contours) - np.vstack(before.path.contours)
        np.testing.assert_allclose(by, np.broadcast_to([2.5, 0.0], by.shape), atol=1e-9)
    assert CutStack(fitted.cuts, fitted.size).fitted().size == fitted.size


def test_what_a_file_means_moves_with_its_outlines():
    meant = shapely.box(0, 0, 4, 4)
    path = Path(refitted(meant).contours, refitted(meant).straight, (), meant)
    assert path.moved(np.array([3.0, 1.0])).meant.equals(shapely.box(3, 1, 7, 5))
    assert path.scaled(2.0).meant.equals(shapely.box(0, 0, 8, 8))
