"""How layers are built from faces, against pixels counted by scipy."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage

from sketchloom.core.curves import face_areas, find_crossings
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.job import Pipeline, Recipe, report_of
from sketchloom.core.layers import (
    BASE,
    CLEAR,
    Hole,
    LayerPart,
    LayerRule,
    LayerSettings,
    Window,
    detail_costs,
    plan_layers,
)
from sketchloom.core.picture import source_points
from sketchloom.core.planar import planar_map
from sketchloom.core.regions import find_faces
from sketchloom.core.stock import GENERIC, find_stock
from tests.conftest import draw, palette_of, picture_of, tries

PALETTE = palette_of((200, 30, 40), (30, 120, 60), (20, 40, 160), (240, 200, 20))
KEYS = tuple(ink.key for ink in PALETTE)
MAPS = arrays(np.uint8, st.tuples(st.integers(1, 11), st.integers(1, 11)), elements=st.integers(0, 4))
PAPER = find_stock(GENERIC, "paper")
VINYL = find_stock(GENERIC, "adhesive vinyl")


def planned(labels: np.ndarray, **given_settings):
    """The plan of a label map, and a function that gives a layer as pixels."""
    labels = labels.copy()
    labels[0, 0] = 1  # something is cut
    planar = planar_map(labels)
    _, runs = find_faces(labels)
    plan = plan_layers(planar, KEYS, PALETTE, LayerSettings(**given_settings))
    pixels = np.repeat(runs.face, runs.length).reshape(labels.shape)
    return labels, plan, [layer.faces.chosen[pixels] for layer in plan.layers]


@given(MAPS)
def test_flush_layers_are_the_inks_and_together_the_design(labels):
    labels, plan, masks = planned(labels)
    for layer, mask in zip(plan.layers, masks, strict=True):
        assert (mask == (labels == KEYS.index(layer.key) + 1)).all()
        assert layer.faces.pieces == ndimage.label(mask)[1]
    assert (np.sum(masks, axis=0) == (labels > 0)).all()


@given(MAPS, st.permutations(range(4)))
def test_a_carried_layer_hangs_on_its_ink_and_lies_on_those_below(labels, order):
    labels, plan, masks = planned(labels, build="carried", order=tuple(KEYS[i] for i in order))
    rank = np.full(5, -1)
    rank[[i + 1 for i in order]] = range(4)
    ranks = rank[labels]
    whole, _ = ndimage.label(ranks >= 0)
    below = np.zeros(labels.shape, bool)
    for layer, mask in zip(plan.layers, masks, strict=True):
        height = rank[KEYS.index(layer.key) + 1]
        parts, count = ndimage.label(ranks >= height)
        own = np.unique(parts[ranks == height])
        assert (mask == np.isin(parts, own)).all()
        pieces, count = ndimage.label(mask)
        assert layer.faces.pieces == count
        for piece in range(1, count + 1):  # every part of it shows
            assert (ranks[pieces == piece] == height).any()
        # what lies on nothing stands by itself: there is no lower ink in all that hangs together with it
        for part in np.unique(whole[mask & ~below]):
            assert ranks[whole == part].min() == height
        below |= mask


@given(MAPS)
def test_with_needless_islands_kept_each_layer_covers_all_above(labels):
    rules = tuple(LayerRule(key, islands=True) for key in KEYS)
    labels, plan, masks = planned(labels, build="carried", rules=rules)
    for layer, mask in zip(plan.layers, masks, strict=True):
        assert (mask == (labels >= KEYS.index(layer.key) + 1)).all()


@given(MAPS)
def test_a_base_covers_all_and_fills_what_is_asked_for(labels):
    labels, plan, masks = planned(labels, build="backed")
    assert plan.layers[0].key == BASE
    assert (masks[0] == (labels > 0)).all()
    labels, plan, masks = planned(labels, build="backed", fill_ground=True)
    assert (masks[0] == ndimage.binary_fill_holes(labels > 0)).all()
    labels, plan, masks = planned(labels, build="single", fill_ground=True)
    assert (masks[0] == ndimage.binary_fill_holes(labels > 0)).all()


@given(MAPS)
def test_filled_carried_layers_lie_on_those_below_too(labels):
    labels, _, masks = planned(labels, build="carried", fill_ground=True)
    filled = ndimage.binary_fill_holes(labels > 0)
    assert (np.logical_or.reduce(masks) <= filled).all()
    ground = ndimage.label(labels == 0)[0]
    for height, mask in enumerate(masks):
        for hole in np.unique(ground[mask & (labels == 0)]):
            here = ground == hole
            assert mask[ndimage.binary_dilation(here) & ~here].all()  # it alone surrounds what it fills
            assert (
                height == 0 or not (here & ~np.logical_or.reduce(masks[:height])).any() or _stands_alone(labels, here)
            )


def _stands_alone(labels, here):
    whole, _ = ndimage.label(labels > 0)
    ring = ndimage.binary_dilation(here) & ~here
    return all(labels[whole == part].min() == labels[ring].min() for part in np.unique(whole[ring]) if part)


@given(MAPS)
def test_enclosed_ground_can_be_a_layer_of_its_own(labels):
    labels, plan, masks = planned(labels, clear=True)
    enclosed = ndimage.binary_fill_holes(labels > 0) & (labels == 0)
    by_key = dict(zip([layer.key for layer in plan.layers], masks, strict=True))
    assert (CLEAR in by_key) == enclosed.any()
    if enclosed.any():
        assert plan.layers[0].key == CLEAR
        assert (by_key[CLEAR] == enclosed).all()


@tries(25)
@given(MAPS)
def test_a_stencil_and_what_it_cuts_away_make_the_sheet(labels):
    labels = np.kron(np.pad(labels, 1, constant_values=1), np.ones((6, 6), np.uint8))
    rgb = np.array([[255, 255, 255], *(ink.found for ink in PALETTE)], np.uint8)[labels]
    recipe = Recipe().with_("separate", ground="keep").with_("tidy", least_area=0.0)
    recipe = recipe.with_("layers", build="stencil", margin=7.0).with_("finish", page="picture", width=100.0)
    picture = draw("")
    picture = type(picture)(np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)]))
    sheet = Pipeline(0).run(picture, recipe).stack
    flat = Pipeline(0).run(picture, recipe.with_("layers", build="flush")).stack
    width, height = sheet.size
    assert width == pytest.approx(114, abs=1e-3)
    cut = sum(layer.area for layer in flat.layers)
    assert sheet.layers[0].area + cut == pytest.approx(width * height, rel=1e-9)
    assert sheet.layers[0].path.areas.sum() == pytest.approx(sheet.layers[0].area, rel=1e-6)


def result_of(body: str, size: int = 300, **layers):
    """Trace drawn shapes, 1 px a mm; `base` keeps what was asked for of layers."""
    recipe = Recipe().with_("finish", page="picture", width=float(size)).with_("layers", **layers)
    return Pipeline(0).run(draw(body, size), recipe)


@tries(15)
@given(MAPS)
def test_openings_that_reach_the_edge_of_a_stencil_are_open_there(labels):
    labels = np.kron(labels, np.ones((6, 6), np.uint8))
    rgb = np.array([[255, 255, 255], *(ink.found for ink in PALETTE)], np.uint8)[labels]
    recipe = Recipe().with_("separate", ground="keep").with_("tidy", least_area=0.0)
    recipe = recipe.with_("layers", build="stencil", margin=0.0).with_("finish", page="picture", width=100.0)
    picture = picture_of(rgb)
    cut = Pipeline(0).run(picture, recipe.with_("layers", build="flush")).stack
    assume(len(cut.layers) > 1)
    cut_away = tuple(layer.key for layer in cut.layers[::2])
    area = sum(layer.area for layer in cut.layers[::2])
    sheet = Pipeline(0).run(picture, recipe.with_("tidy", cut_away=cut_away)).stack
    width, height = sheet.size
    assert sheet.layers[0].path.areas.sum() == pytest.approx(width * height - area, abs=0.01)
    assert not len(find_crossings(sheet.layers[0].path.segments).place)


def test_a_stencil_that_is_all_cut_away_says_so():
    recipe = Recipe().with_("separate", ground="keep").with_("layers", build="stencil", margin=0.0)
    with pytest.raises(NothingToCutError, match="margin"):
        Pipeline(0).run(draw('<rect width="200" height="200" fill="#205080"/>'), recipe.with_("finish", page="picture"))


def key_of(result, name: str) -> str:
    return next(ink.key for ink in result.palette if ink.hex == name)


BUN = (
    '<circle cx="150" cy="150" r="120" fill="#b58a5a"/>'
    '<circle cx="150" cy="150" r="80" fill="#f3e6cc"/>'
    '<circle cx="150" cy="150" r="45" fill="#a03030"/>'
    '<circle cx="150" cy="52" r="9" fill="#303030"/>'
)


def test_a_seed_on_a_bun_lies_on_the_bun_alone():
    """Of four carried layers the seed, on the lowest, was cut in all four materials."""
    order = ("#b58a5a", "#f3e6cc", "#a03030", "#303030")
    lean = result_of(BUN, build="carried", order=order)
    kept = result_of(BUN, build="carried", order=order, rules=tuple(LayerRule(key, islands=True) for key in order))
    assert [layer.pieces for layer in lean.stack.layers] == [1, 1, 1, 1]
    assert [layer.pieces for layer in kept.stack.layers] == [1, 2, 2, 1]
    assert [layer.loose for layer in kept.stack.layers] == [0, 1, 1, 0]
    one_off = result_of(BUN, build="carried", order=order, rules=(LayerRule("#f3e6cc", islands=True),))
    assert [layer.pieces for layer in one_off.stack.layers] == [1, 2, 1, 1]


RING = (
    '<circle cx="150" cy="150" r="120" fill="#303030"/><circle cx="150" cy="150" r="90" fill="#fff"/>'
    '<circle cx="150" cy="150" r="50" fill="#303030"/><circle cx="150" cy="150" r="20" fill="#fff"/>'
)


def test_a_hole_is_filled_or_kept_whatever_holds_for_the_rest():
    result = result_of(RING, build="single")
    (inner,) = source_points(result.picture, np.array([[150.0, 150.0]]))
    whole = np.pi * 120**2
    kept = result.stack.layers[0].area
    assert kept == pytest.approx(np.pi * (120**2 - 90**2 + 50**2 - 20**2), rel=2e-3)
    one = result_of(RING, build="single", holes=(Hole(inner, True),)).stack.layers[0].area
    assert one == pytest.approx(kept + np.pi * 20**2, rel=2e-3)
    all_but_one = result_of(RING, build="single", fill_ground=True, holes=(Hole(inner, False),)).stack.layers[0].area
    assert all_but_one == pytest.approx(whole - np.pi * 20**2, rel=2e-3)
    by_layer = result_of(RING, rules=(LayerRule("#303030", fill_ground=True),)).stack.layers[0].area
    assert by_layer == pytest.approx(whole, rel=2e-3)
    lost = result_of(RING, holes=(Hole((0.0, 0.0), True),))
    assert lost.planned.unplaced == ("Hole",)


def test_layers_are_laid_together_renamed_hidden_and_copied():
    base = result_of(BUN)
    order = [layer.key for layer in base.stack.layers]
    rules = (
        LayerRule("#303030", into="#a03030"),
        LayerRule("#a03030", name="Filling", copies=1),
        LayerRule("#f3e6cc", hidden=True),
    )
    result = result_of(BUN, rules=rules)
    assert [layer.key for layer in result.stack.layers] == [*order[:3], "#a03030+1"]
    filling = result.stack.layer("#a03030")
    assert (filling.name, filling.inks) == ("Filling", ("#a03030", "#303030"))
    assert filling.area == pytest.approx(base.stack.layer("#a03030").area + base.stack.layer("#303030").area)
    assert [layer.name for layer in result.stack.sent] == ["Tan", "Filling", "Filling copy 1"]
    report = report_of(result)
    assert [entry["name"] for entry in report["layers"]] == ["Tan", "Filling", "Filling copy 1"]
    assert report["hidden_layers"] == [base.stack.layer("#f3e6cc").name]
    with pytest.raises(NothingToCutError, match="hidden"):
        result_of(BUN, rules=tuple(LayerRule(key, hidden=True) for key in order))


def test_a_layer_is_split_by_its_pieces_and_along_a_line():
    body = "".join(f'<rect x="{x}" y="100" width="40" height="80" fill="#205080"/>' for x in (30, 130, 230))
    plain = result_of(body)
    middle, left, right = source_points(plain.picture, np.array([[150.0, 140.0], [0.0, 140.0], [300.0, 140.0]]))
    parts = (LayerPart("#205080", "2", places=(middle,)),)
    one = result_of(body, parts=parts)
    assert [(layer.key, layer.pieces, round(layer.area)) for layer in one.stack.layers] == [
        ("#205080", 2, 6400),
        ("#205080/2", 1, 3200),
    ]
    both = result_of(body, parts=(*parts, LayerPart("#205080", "3", line=(left, right))))
    areas = {layer.key: layer.area for layer in both.stack.layers}
    # walking to the right, with y down, the left hand is up: 40 of 80 mm of two pieces
    assert areas == pytest.approx({"#205080": 3200, "#205080/3": 3200, "#205080/2": 3200}, rel=1e-3)
    assert [layer.path.nodes for layer in both.stack.layers] == [8, 8, 4]
    nothing = (LayerPart("#205080", "2", places=((0.0, 0.0),)), LayerPart("#ffffff", "2", line=(left, right)))
    lost = result_of(body, parts=nothing)
    assert len(lost.stack.layers) == 1 and len(lost.planned.unplaced) == 2


def test_loose_pieces_cost_nothing_on_a_carrier():
    body = "".join(f'<circle cx="{x}" cy="100" r="15" fill="#205080"/>' for x in (40, 100, 160))
    assert [result_of(body, stock=stock).stack.layers[0].loose for stock in (None, PAPER, VINYL)] == [2, 2, 0]


SCARECROW = (
    '<ellipse cx="150" cy="160" rx="110" ry="120" fill="#4a3024"/>'  # rim
    '<ellipse cx="150" cy="160" rx="100" ry="110" fill="#d8bd8e"/>'  # cloth
    '<path d="M62 110 Q150 20 238 110 L262 250 L214 210 L214 120 H86 L86 210 L38 250Z" fill="#e8b53a"/>'  # straw
    '<path d="M100 120H200V190H100Z" fill="#e8b53a"/>'  # straw before the face
    + "".join(
        f'<circle cx="{x}" cy="155" r="16" fill="#2a57a0"/>'  # button
        f'<path d="M{x - 8} 153h16v4h-16z M{x - 2} 147h4v16h-4z" fill="#c03030"/>'  # thread cross
        for x in (125, 175)
    )
)


def test_a_scarecrows_eyes_are_cut_away_to_show_the_cloth():
    order = ("#4a3024", "#d8bd8e", "#e8b53a", "#2a57a0", "#c03030")
    result = result_of(SCARECROW, build="carried", order=order)
    assert [layer.key for layer in result.stack.layers] == list(order)
    loose = {layer.key: layer.loose for layer in result.stack.layers}
    assert loose["#2a57a0"] == loose["#c03030"] == 1  # two buttons and two crosses: one more than the first of each
    planar, curves = result.planar, result.finished.curves
    labels = planar.faces.label
    keys = result.regions.keys
    eyes = np.flatnonzero(np.isin(labels, [keys.index(key) + 1 for key in ("#2a57a0", "#c03030")])).tolist()
    costs = detail_costs(
        planar, result.grouping, result.recipe.layers, face_areas(planar, curves), curves.lengths(), eyes
    )
    assert costs[0].show == "#d8bd8e"  # the cloth is proposed
    assert {cost.show for cost in costs} == {"", "#4a3024", "#d8bd8e"}  # straw lies all round: it would show no eye
    piece = next(cost for cost in costs if not cost.show)
    windows = tuple(
        Window(key, at, "#d8bd8e")
        for key in ("#2a57a0", "#c03030")
        for at in source_points(result.picture, planar.faces.inside[labels == keys.index(key) + 1])
    )
    cut = result_of(SCARECROW, build="carried", order=order, windows=windows)
    assert [layer.key for layer in cut.stack.layers] == list(order[:3])  # no button is laid any more
    assert sum(layer.loose for layer in cut.stack.layers) == costs[0].whole.loose
    assert piece.whole.loose - costs[0].whole.loose == 2
    # what is left to place by hand, counted on pixels by scipy
    shown = np.isin(cut.regions.labels, [keys.index("#e8b53a") + 1])
    assert cut.stack.layers[-1].loose == ndimage.label(shown)[1] - 1
    straw, cloth = cut.stack.layers[2], cut.stack.layers[1]
    eye = np.pi * 16**2
    assert (straw.path.areas < -0.9 * eye).sum() == 2 and cloth.path.areas.min() > -0.9 * eye


def test_windows_that_straw_hides_are_found_and_filled():
    """Straw that lies upon cloth needs no window in it; an inlay's window is filled by its piece and is none."""
    tufts = "".join(f'<path d="M{x} 90 l24 0 l8 110 l-40 0z" fill="#e8b53a"/>' for x in (70, 140, 210))
    body = f'<rect x="20" y="20" width="260" height="260" fill="#d8bd8e"/>{tufts}'
    order = ("#d8bd8e", "#e8b53a")
    inlay = result_of(body, order=order)
    assert report_of(inlay)["hidden_windows"] == 0
    rules = (LayerRule("#d8bd8e", build="flush"),)
    laid = result_of(body, build="carried", order=order, rules=rules)
    report = report_of(laid)
    straw = laid.stack.layer("#e8b53a")
    assert report["hidden_windows"] == 3
    assert report["hidden_windows_cut_mm"] == pytest.approx(straw.path.length, abs=0.01)
    filled = result_of(body, build="carried", order=order, rules=rules, fill_windows=True)
    cloth, before = filled.stack.layer("#d8bd8e"), laid.stack.layer("#d8bd8e")
    assert before.cut_length - cloth.cut_length == pytest.approx(straw.path.length, abs=0.01)
    assert report_of(filled)["hidden_windows"] == 0


def test_bulk_under_three_layers_is_told_and_cut_away():
    rings = "".join(
        f'<circle cx="150" cy="150" r="{r}" fill="{c}"/>'
        for r, c in ((130, "#b58a5a"), (105, "#f3e6cc"), (80, "#a03030"), (55, "#303030"), (30, "#2a57a0"))
    )
    order = ("#b58a5a", "#f3e6cc", "#a03030", "#303030", "#2a57a0")
    thick = result_of(rings, build="carried", order=order)
    assert thick.orders.present.thickest == 5
    assert report_of(thick)["bulk"] == 3  # the blue under four and three others, the black under three
    thin = result_of(rings, build="carried", order=order, thin_bulk=True)
    areas = [layer.area / np.pi for layer in thin.stack.layers]
    assert areas == pytest.approx([130**2 - 55**2, 105**2 - 30**2, 80**2, 55**2, 30**2], rel=5e-3)


def test_bulk_that_holds_a_layer_together_stays():
    labels = np.array([[1, 2, 3, 4, 3, 2, 1]], np.uint8)
    _, plan, masks = planned(labels, build="carried", order=KEYS, thin_bulk=True)
    assert plan.bulk == 0 and masks[0].all()
    _, plan, masks = planned(np.vstack([labels, np.ones(7, np.uint8)]), build="carried", order=KEYS)
    assert plan.bulk == 1 and masks[0].all()  # here it could go: the row below holds both ends


def test_copies_and_parts_go_with_what_they_are_of():
    key = "#a03030"
    rules = (LayerRule(key, copies=1, stock=VINYL), LayerRule("#303030", stock=PAPER))
    plain = result_of(BUN, rules=rules)
    left, right = source_points(plain.picture, np.array([[0.0, 150.0], [300.0, 150.0]]))
    parted = result_of(BUN, rules=rules, parts=(LayerPart(key, "2", line=(left, right)),))
    stocks = {layer.key: layer.stock for layer in parted.stack.layers}
    assert stocks[f"{key}+1"] == stocks[f"{key}/2"] == stocks[key] == VINYL
    assert stocks["#303030"] == PAPER and stocks["#f3e6cc"] is None
    hidden = result_of(BUN, rules=(LayerRule(key, copies=1, hidden=True),))
    assert [layer.key for layer in hidden.stack.layers if layer.hidden] == [key, f"{key}+1"]


def test_hiding_a_layer_leaves_the_base_as_it_is():
    shown = result_of(BUN, build="backed").stack
    outer = max((layer for layer in shown.layers if layer.key != "base"), key=lambda layer: layer.area).key
    hidden = result_of(BUN, build="backed", rules=(LayerRule(outer, hidden=True),)).stack
    assert [layer.key for layer in hidden.layers] == [layer.key for layer in shown.layers]
    assert hidden.layer("base").area == shown.layer("base").area and hidden.size == shown.size
