"""Mends: of one outline, carried to what shares its edge, and on a page that holds them."""

from itertools import combinations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.curves import find_crossings
from sketchloom.core.job import Pipeline, Recipe, to_source
from sketchloom.core.layers import EaseOutline, GrowPiece, LayerRule, PareAlong, TakePiece, WidenAlong
from tests.conftest import draw, picture_of, tries

RED, BLUE, GREEN = "#c03030", "#2060a0", "#30a050"
FLUSH = (
    f'<rect x="20" y="20" width="160" height="160" fill="{BLUE}"/>'
    f'<path d="M20 60L60 20L180 90V140L90 180Z" fill="{RED}"/><circle cx="100" cy="100" r="30" fill="{GREEN}"/>'
    f'<rect x="62" y="68" width="12" height="12" fill="{BLUE}"/>'
)
RECIPE = Recipe().with_("finish", width=100.0)


def mended(body: str, mend, recipe: Recipe = RECIPE):
    """A drawing's layers by key before and after a mend whose places are mm on the page."""
    picture, pipeline = draw(body), Pipeline()
    before = pipeline.run(picture, recipe)
    placed = mend.placed(lambda points: to_source(before.picture, before.finished, before.stack, points))
    after = pipeline.run(picture, recipe.with_("checks", mends=(placed,)))
    assert not after.lost_mends
    return before.stack, after.stack


def contours(path) -> set[bytes]:
    return {np.round(contour, 6).tobytes() for contour in path.contours}


def shapes(stack) -> dict:
    back = -np.array(stack.moved)
    move = lambda shape: shapely.transform(shape, lambda points: points + back)  # noqa: E731
    return {layer.key: move(shapely.union_all(layer.polygons.shapes)) for layer in stack.layers}


def on_design(at: tuple[float, float]) -> tuple[float, float]:
    """A place of the drawing on its page: what goes from 20 to 180 units is 100 mm wide."""
    return (at[0] - 20) / 1.6, (at[1] - 20) / 1.6


ON_EDGES = {
    "widened over an edge": lambda at: WidenAlong(layer=RED, lines=((at((40, 40)), at((60, 60))),), width=4.0),
    "widened over a corner of three": lambda at: WidenAlong(layer=RED, lines=((at((20, 60)),),), width=7.0),
    "opened where a neighbour lies": lambda at: PareAlong(layer=RED, lines=((at((40, 40)), at((50, 30))),), width=3.0),
    "opened from side to side": lambda at: PareAlong(layer=BLUE, lines=((at((100, 15)), at((150, 75))),), width=3.0),
    "a hole's piece grown": lambda at: GrowPiece(layer=GREEN, at=at((100, 100)), by=2.5),
    "eased": lambda at: EaseOutline(layer=GREEN, at=at((130, 100)), within=0.2),
    "given to a neighbour": lambda at: TakePiece(layer=BLUE, at=at((68, 74)), to=RED),
}


@pytest.mark.parametrize("name", ON_EDGES)
def test_flush_neighbours_still_share_their_edge(name):
    before, after = mended(FLUSH, ON_EDGES[name](on_design))
    old, new = shapes(before), shapes(after)
    for one, other in combinations(new, 2):
        assert shapely.area(shapely.intersection(new[one], new[other])) < 1e-4, (one, other)
    lost = shapely.difference(shapely.union_all(list(old.values())), shapely.union_all(list(new.values())))
    assert lost.area < 0.02  # micrometres along the frame
    assert sum(not shapely.equals(new[key], old[key]) for key in new) > 1


def test_only_the_outline_that_is_named_is_eased():
    body = f'<circle cx="100" cy="100" r="80" fill="{RED}"/>' + "".join(
        f'<circle cx="{x}" cy="{y}" r="16" fill="#fff"/>' for x, y in ((66, 90), (134, 90), (100, 140))
    )
    before, after = mended(body, EaseOutline(layer=RED, at=on_design((180, 100)), within=0.3))
    old, new = before.layers[0].path, after.layers[0].path.moved(-np.array(after.moved))  # the page holds it
    assert len(new.contours) == 4 and len(contours(old) & contours(new)) == 3
    assert new.nodes <= old.nodes
    hole, eased = mended(body, EaseOutline(layer=RED, at=on_design((66, 106)), within=0.3))
    assert len(contours(hole.layers[0].path) & contours(eased.layers[0].path)) == 3
    assert eased.layers[0].area == pytest.approx(hole.layers[0].area, rel=1e-3)  # a hole is still a hole


def test_a_page_is_fitted_to_what_a_mend_reaches_to():
    body = "".join(
        f'<rect x="{x}" y="{y}" width="{width}" height="{height}" fill="{RED}"/>'
        for x, y, width, height in ((20, 60, 12, 12), (60, 20, 120, 160))
    )
    before, after = mended(body, GrowPiece(layer=RED, at=(3.0, 28.0), by=2.0))
    left, top, right, bottom = after.layers[0].path.bounds
    assert (left, top) == pytest.approx((0, 0), abs=2e-3) and after.size == pytest.approx((102, 100), abs=2e-3)
    assert after.moved == pytest.approx((2, 0), abs=2e-3) and (right, bottom) == pytest.approx((102, 100), abs=2e-3)
    assert shapes(after)[RED].buffer(0.01).contains(shapes(before)[RED])


def test_a_piece_reaches_the_copies_of_the_layer_that_it_is_given_to():
    body = (
        f'<rect x="20" y="20" width="80" height="160" fill="{RED}"/><rect x="100" y="20" width="80" height="160" '
        f'fill="{BLUE}"/><rect x="40" y="60" width="30" height="30" fill="{BLUE}"/>'
    )
    recipe = RECIPE.with_("layers", rules=(LayerRule(RED, copies=1), LayerRule(BLUE, copies=1)))
    _, after = mended(body, TakePiece(layer=BLUE, at=on_design((55, 75)), to=RED), recipe)
    area = {layer.key: (layer.pieces, layer.area) for layer in after.layers}
    assert set(area) == {RED, f"{RED}+1", BLUE, f"{BLUE}+1"}
    assert area[RED] == area[f"{RED}+1"] == pytest.approx((1, 5000), rel=1e-3)
    assert area[BLUE] == area[f"{BLUE}+1"] == pytest.approx((1, 5000), rel=1e-3)


@given(st.integers(0, 10_000))
@tries(60)
def test_whatever_is_mended_flush_layers_neither_overlap_nor_cross(seed):
    rng = np.random.default_rng(seed)
    cells = np.kron(rng.integers(0, 4, (9, 9)), np.ones((20, 20), int))
    picture = picture_of(np.array([[255, 255, 255], [192, 48, 48], [32, 96, 160], [48, 160, 80]], np.uint8)[cells])
    pipeline = Pipeline()
    before = pipeline.run(picture, RECIPE)
    keys = [layer.key for layer in before.stack.layers]
    mends = []
    for _ in range(rng.integers(1, 5)):
        key, at = str(rng.choice(keys)), tuple(rng.uniform(0, 100, 2).tolist())
        line = (at, tuple(rng.uniform(0, 100, 2).tolist()))
        width = float(rng.uniform(0.5, 6))
        mends.append([
            WidenAlong(layer=key, lines=(line,), width=width),
            PareAlong(layer=key, lines=(line,), width=width),
            GrowPiece(layer=key, at=at, by=width / 2),
            TakePiece(layer=key, at=at, to=str(rng.choice(keys))),
            EaseOutline(layer=key, at=at, within=0.1),
        ][rng.integers(5)])  # fmt: skip
    there = lambda points: to_source(before.picture, before.finished, before.stack, points)  # noqa: E731
    after = pipeline.run(picture, RECIPE.with_("checks", mends=tuple(mend.placed(there) for mend in mends))).stack
    for layer in after.layers:
        assert not len(find_crossings(layer.path.segments).segments), layer.key
        assert layer.polygons.valid and layer.polygons.crossed.max(initial=0.0) < 1e-3
    new = shapes(after)
    for one, other in combinations(new, 2):
        assert shapely.area(shapely.intersection(new[one], new[other])) < 1e-3, (one, other)
