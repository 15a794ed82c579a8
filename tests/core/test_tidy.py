"""Work on pieces: records done again on every fresh label map, measured on the written paths with shapely."""

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from shapely.geometry import Point, Polygon, box

from sketchloom.core.curves.path import points_at
from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe, report_of
from sketchloom.core.picture import Crop
from sketchloom.core.regions import LabelMap
from sketchloom.core.tidy import (
    Anchor,
    Bind,
    Bridge,
    Bridging,
    CutOut,
    Draw,
    FillHoles,
    Give,
    Grow,
    JoinBeside,
    Keep,
    Place,
    Smooth,
    Split,
    TidySettings,
    Trim,
    anchors_of,
    clean,
    ellipse,
    find_islands,
    proposed_bridges,
    rectangle,
    straight,
)
from sketchloom.core.tidy.sheet import Sheet
from tests.conftest import draw, picture_of, tries

SIDE = 200
RED, GREEN, BLUE = "#b3275f", "#4f8a4b", "#2a6fdb"
ART = (
    f'<rect x="20" y="20" width="160" height="70" fill="{RED}"/>'
    f'<rect x="40" y="35" width="30" height="30" fill="{GREEN}"/>'
    f'<rect x="20" y="110" width="70" height="70" fill="{GREEN}"/><circle cx="55" cy="145" r="18" fill="#ffffff"/>'
    f'<circle cx="140" cy="145" r="30" fill="{BLUE}"/><circle cx="140" cy="145" r="12" fill="#ffffff"/>'
)
IN_RED, IN_SQUARE, IN_FRAME, IN_RING = (150, 60), (55, 50), (30, 145), (118, 145)


def at(x: float, y: float) -> tuple[float, float]:
    return x / SIDE, y / SIDE


def anchors(*places) -> tuple[Anchor, ...]:
    return tuple(Anchor(at(*place)) for place in places)


def traced(*work, body: str = ART, size: int = 400, rows=(), **tidy):
    """Trace at two px a mm of a page 200 mm wide, so that a unit of the drawing is a mm; white is ground everywhere."""
    recipe = (
        Recipe(prepare=rows)
        .with_("separate", mode="flat", grounded=("#ffffff",))
        .with_("finish", page="picture", width=float(SIDE))
    )
    return Pipeline(0).run(draw(body, size, SIDE), recipe.with_("tidy", work=work, **tidy))


def areas(result) -> dict[str, float]:
    return {layer.ink.key: layer.area for layer in result.stack.layers}


def pieces(result) -> dict[str, int]:
    return {layer.ink.key: layer.pieces for layer in result.stack.layers}


def test_pieces_are_given_to_another_ink_to_a_new_one_and_to_the_ground():
    plain = areas(traced())
    given_away = areas(traced(Give(pieces=anchors(IN_SQUARE), ink=RED)))
    assert given_away[RED] == pytest.approx(160 * 70, rel=2e-3) and GREEN in given_away
    fresh = areas(traced(Give(pieces=anchors(IN_SQUARE, IN_RING), ink="#f5a918")))
    assert fresh["#f5a918"] == pytest.approx(900 + np.pi * (900 - 144), rel=2e-3) and BLUE not in fresh
    cleared = areas(traced(Give(pieces=anchors(IN_SQUARE), ink="")))
    assert cleared[RED] == pytest.approx(plain[RED], rel=1e-4) and cleared[GREEN] == pytest.approx(
        plain[GREEN] - 900, rel=2e-3
    )


def test_holes_are_filled_and_pieces_join_their_neighbour():
    filled = areas(traced(FillHoles(pieces=anchors(IN_FRAME))))
    assert filled[GREEN] == pytest.approx(70 * 70 + 900, rel=2e-3)
    joined = areas(traced(JoinBeside(pieces=anchors(IN_SQUARE))))
    assert joined[RED] == pytest.approx(160 * 70, rel=2e-3)


def test_work_that_finds_no_place_is_told_and_the_rest_is_done():
    nowhere = Give(pieces=(Anchor((3.0, 3.0)),), ink=RED)
    other_size = Give(pieces=(Anchor(at(*IN_SQUARE), 1.5),), ink=RED)
    result = traced(nowhere, Give(pieces=anchors(IN_SQUARE), ink=RED), other_size, Split(line=(at(1, 1), at(1, 9))))
    assert result.tidied.unplaced == (0, 2, 3) and report_of(result)["unplaced"]["tidy"] == [0, 2, 3]
    assert report_of(result)["tidy"]["unplaced"] == 3
    assert areas(result)[RED] == pytest.approx(160 * 70, rel=2e-3)


def test_work_that_is_switched_off_does_nothing():
    off = Give(pieces=anchors(IN_SQUARE), ink="#f5a918", on=False)
    assert areas(traced(off)) == areas(traced())


def test_a_split_without_a_gap_parts_what_can_be_chosen_and_not_what_is_cut():
    line = Split(line=(at(100, 10), at(110, 100)))
    result = traced(line)
    assert pieces(result) == pieces(traced()) and areas(result)[RED] == pytest.approx(areas(traced())[RED], rel=1e-4)
    halves = areas(traced(line, Give(pieces=anchors(IN_RED), ink=BLUE)))
    wanted = box(20, 20, 180, 90).intersection(Polygon([(100, 10), (110, 100), (300, 100), (300, 10)])).area
    assert halves[BLUE] - areas(traced())[BLUE] == pytest.approx(wanted, rel=1e-3)


def test_a_split_with_a_gap_leaves_that_gap():
    result = traced(Split(line=(at(100, 10), at(110, 100)), gap=3.0))
    assert pieces(result)[RED] == 2
    cut = (
        shapely.LineString([(100, 10), (110, 100)])
        .buffer(1.5, cap_style="flat")
        .intersection(box(20, 20, 180, 90))
        .area
    )
    assert areas(traced())[RED] - areas(result)[RED] == pytest.approx(cut, rel=0.01)


@pytest.mark.parametrize("size", [400, 800])
def test_drawn_shapes_come_out_as_they_were_drawn(size):
    """Against shapely: nodes and middles of the curves lie within a twentieth of a px of the true outline."""
    blank = f'<rect x="5" y="5" width="190" height="190" fill="{GREEN}"/>'
    shapes = {
        "#b3275f": (rectangle(at(20.3, 20.7), at(80.1, 60.4)), box(20.3, 20.7, 80.1, 60.4)),
        "#2a6fdb": (ellipse(at(110, 30), at(170.4, 90.4)), Point(140.2, 60.2).buffer(30.2, quad_segs=400)),
        "#f5a918": (straight([at(30, 120), at(160, 133), at(150, 170)]), Polygon([(30, 120), (160, 133), (150, 170)])),
    }
    work = [Draw(curve=curve, ink=key) for key, (curve, _) in shapes.items()]
    result = traced(*work, body=blank, size=size)
    assert areas(result).keys() == {GREEN, *shapes}
    px = SIDE / size
    for layer in result.stack.layers:
        if layer.ink.key not in shapes:
            continue
        truth = shapes[layer.ink.key][1]
        assert layer.area == pytest.approx(truth.area, rel=1e-3)
        on = np.concatenate(
            [points_at(layer.path.segments, np.full(len(layer.path.segments), t)) for t in (0, 0.25, 0.5, 0.75)]
        )
        away = shapely.distance(truth.exterior, shapely.points(on))
        corners = shapely.points(shapely.get_coordinates(truth.exterior))
        by_corner = (
            shapely.distance(shapely.points(on), shapely.union_all(corners)) < 2 * px if len(corners) < 9 else away < 0
        )
        assert away[~by_corner].max() < 0.05 * px and away.max() < 0.2 * px


def test_a_stroke_has_its_width_and_a_shape_of_no_ink_cuts_away():
    blank = f'<rect x="5" y="5" width="190" height="190" fill="{GREEN}"/>'
    line = (at(40, 40), at(80, 60), at(120, 80), at(160, 100))
    stroke = traced(Draw(curve=line, ink=RED, width=6.0), body=blank)
    truth = shapely.LineString([(40, 40), (160, 100)]).buffer(3.0, quad_segs=64)
    assert areas(stroke)[RED] == pytest.approx(truth.area, rel=5e-3)
    cut = traced(Draw(curve=rectangle(at(40, 40), at(90, 90)), ink=""), body=blank)
    assert areas(cut)[GREEN] == pytest.approx(190 * 190 - 2500, rel=1e-3)


@pytest.mark.parametrize(("side", "area"), [("outside", 50 * 40), ("inside", 160 * 70 - 900 - 50 * 40)])
def test_trimming_keeps_one_side_of_an_outline(side, area):
    result = traced(Trim(curve=rectangle(at(100, 30), at(150, 70)), side=side))
    assert areas(result)[RED] == pytest.approx(area, rel=2e-3)
    assert (BLUE in areas(result)) == (side == "inside")


@pytest.mark.parametrize("width", [2.0, 4.5])
@pytest.mark.parametrize("direction", ["nearest", "upright", "level"])
def test_bridges_hold_the_islands_of_a_stencil_and_are_as_wide_as_asked(width, direction):
    """A ring and a frame with a hole: their middles fall out. Measured on the areas of what is cut."""
    size = 1600  # eight px a mm
    result = traced(bridges=Bridging(width, 2, direction), size=size)
    assert not result.tidied.islands and result.tidied.bridges == 4
    ring = shapely.difference(Point(140, 145).buffer(30, quad_segs=200), Point(140, 145).buffer(12, quad_segs=200))
    gone = ring.area - areas(result)[BLUE]
    one = ring.intersection(box(140, 145 - width / 2, 200, 145 + width / 2)).area
    assert gone == pytest.approx(2 * one, rel=0.05)


def test_islands_are_told_and_one_bridge_by_hand_holds_one():
    assert len(traced().tidied.islands) == 2
    across = Bridge(first=at(140, 145), last=at(140, 190), width=3.0)
    result = traced(across)
    assert len(result.tidied.islands) == 1 and report_of(result)["tidy"]["bridges"] == 1
    assert report_of(result)["tidy"]["islands"] == 1


def test_the_inks_that_are_cut_away_can_be_chosen():
    assert len(traced(cut_away=(BLUE,)).tidied.islands) == 1
    assert len(traced(cut_away=()).tidied.islands) == 0


def test_hairs_and_tails_go_and_wide_ones_and_necks_stay():
    """At 8 px a mm and a least width of 0.5 mm: tails of 0.3 mm go, of 0.6 mm stay, a neck of 0.3 mm stays."""
    body = (
        f'<g fill="{RED}"><rect x="20" y="20" width="60" height="60"/><rect x="80" y="30" width="30" height="2.4"/>'
        '<rect x="80" y="60" width="30" height="4.8"/><path d="M30 80l0 40l2.4 0l0 -40z"/>'
        '<rect x="20" y="120" width="60" height="60"/><rect x="120" y="120" width="2.4" height="50"/>'
        '<path d="M130 30L190 20L190 90z"/></g>'
    )
    recipe = Recipe().with_("separate", mode="flat").with_("finish", page="picture", width=25.0)
    plain, thinned = (
        Pipeline(0).run(draw(body, 200, 200), recipe.with_("tidy", least_area=0.0, least_width=width))
        for width in (0.0, 0.5)
    )
    tidy = report_of(thinned)["tidy"]
    assert tidy["hairs"] == 2 and tidy["necks"] == 1
    gone = (areas(plain)[RED] - areas(thinned)[RED]) * 64
    assert gone == pytest.approx(2.4 * 30 + 2.4 * 50, rel=0.12)


@pytest.mark.parametrize("turn", range(0, 90, 15))
def test_the_width_of_a_tail_is_told_however_it_leans(turn):
    def arm(width: float) -> np.ndarray:
        body = (
            f'<g transform="rotate({turn} 100 100)"><rect x="60" y="60" width="80" height="80" fill="{RED}"/>'
            f'<rect x="140" y="{100 - width / 2}" width="40" height="{width}" fill="{RED}"/></g>'
        )
        recipe = Recipe().with_("separate", mode="flat").with_("finish", page="picture", width=25.0)
        run = Pipeline(0).run(
            draw(body, 200, 200), recipe.with_("tidy", least_area=0.0, least_width=0.5), names=("tidy",)
        )
        return (
            report_of(run)["tidy"]["hairs"]
            if run.has("layers")
            else sum(one.kind == "hair" for one in run.tidied.cleaned.taken)
        )

    assert arm(2.4) == 1 and arm(4.8) == 0


def test_holes_of_ground_are_filled_and_larger_ones_stay():
    result = traced(fill_holes=500.0)
    assert report_of(result)["tidy"]["holes_filled"] == 1
    assert areas(result)[BLUE] == pytest.approx(np.pi * 900, rel=2e-3)
    assert areas(result)[GREEN] == pytest.approx(areas(traced())[GREEN], rel=1e-4)


def test_three_hundred_specks_go_and_no_larger_dot_and_a_lost_one_comes_back():
    rng = np.random.default_rng(4)
    places = [(8 + 10 * (i % 19), 8 + 10 * (i // 19)) for i in range(320)]
    large = set(rng.choice(320, 20, replace=False).tolist())
    dots = "".join(
        f'<rect x="{x}" y="{y}" width="{w}" height="{w}" fill="{RED}"/>'
        for i, (x, y) in enumerate(places)
        for w in [2.0 if i in large else 1.0]
    )
    result = traced(body=dots, least_area=2.5)
    assert report_of(result)["tidy"]["specks"] == 300 and pieces(result)[RED] == 20
    lost = next(place for i, place in enumerate(places) if i not in large)
    again = traced(Keep(pieces=anchors((lost[0] + 0.5, lost[1] + 0.5))), body=dots, least_area=2.5)
    assert pieces(again)[RED] == 21 and not again.tidied.unplaced


def test_records_find_their_pieces_again_after_a_crop_at_twice_the_size_and_with_other_inks():
    result = traced()
    faces, runs = result.tidied.faces, result.tidied.runs
    chosen = [face for face in range(1, len(faces.label)) if faces.label[face]]
    work = [
        Give(pieces=(anchor,), ink="#f5a918")
        for anchor in anchors_of(result.regions, result.picture, faces, runs, chosen)
    ]
    for other in (
        traced(*work, size=800),
        traced(*work, rows=(Crop(first=at(10, 10), last=at(195, 190)),)),
        traced(*work, least_area=1.0),
    ):
        assert not other.tidied.unplaced
        assert areas(other).keys() == {"#f5a918"}


def test_a_warm_run_gives_what_a_cold_one_does():
    warm = Pipeline()
    work = (
        Give(pieces=anchors(IN_SQUARE), ink=RED),
        Split(line=(at(100, 10), at(110, 100)), gap=3.0),
        Draw(curve=ellipse(at(120, 30), at(150, 60)), ink=BLUE),
        Bridge(first=at(140, 145), last=at(140, 190), width=3.0),
    )
    recipe = Recipe().with_("separate", mode="flat").with_("finish", page="picture", width=float(SIDE))
    picture = draw(ART, 200, SIDE)
    for count in (0, 1, 3, 4, 2, 4, 0):
        one = recipe.with_("tidy", work=work[:count])
        for width in (200.0, 100.0):
            sized = one.with_("finish", width=width)
            assert areas(warm.run(picture, sized)) == areas(Pipeline(0).run(picture, sized))


def test_work_is_written_and_read_back():
    work = (
        Give(pieces=anchors(IN_SQUARE), ink=RED), JoinBeside(pieces=anchors(IN_RED)),
        FillHoles(pieces=anchors(IN_FRAME)),
        Keep(pieces=anchors(IN_RING), on=False), Split(line=(at(1, 1), at(5, 5)), gap=0.4),
        Bridge(first=at(1, 1), last=at(9, 9), width=2.0), Draw(curve=rectangle(at(1, 1), at(9, 9)), ink="", width=1.5),
        Trim(curve=ellipse(at(1, 1), at(9, 9)), side="inside"), Grow(pieces=anchors(IN_RED), by=-0.5),
        Smooth(pieces=anchors(IN_RED), radius=1.0), Place(pieces=anchors(IN_RED), by=(0.1, 0.0), turn=30.0, copy=True),
    )  # fmt: skip
    recipe = Recipe().with_("tidy", work=work, bridges=Bridging(2.0, 3, "level"), cut_away=(RED,), least_width=0.5)
    assert decode_recipe(encode_recipe(recipe), "a.json") == recipe


@pytest.mark.parametrize(
    "tidy",
    [
        {"least_width": -1.0}, {"fill_holes": float("nan")}, {"bridges": Bridging(0.0)}, {"bridges": Bridging(1.0, 99)},
        {"work": (Give(pieces=(), ink=RED),)}, {"work": (Give(pieces=anchors(IN_RED), ink="red"),)},
        {"work": (Split(line=(at(1, 1),)),)}, {"work": (Draw(curve=(at(1, 1),) * 5, ink=RED),)},
        {"work": (Bridge(first=(float("inf"), 0.0), last=at(1, 1), width=1.0),)}, {"cut_away": ("no key",)},
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_refused_in_one_sentence(tidy):
    with pytest.raises(ArgumentError):
        Recipe().with_("tidy", **tidy).check()


def test_bridges_of_one_island_lie_apart():
    labels = np.zeros((80, 80), np.uint8)
    labels[20:60, 20:60] = 1
    labels[32:48, 32:48] = 0
    islands, parts = find_islands(labels, {1})
    assert len(islands) == 1 and islands[0].area == 256
    for count in (1, 2, 3, 4):
        (ends,) = proposed_bridges(parts, [1], count, 3.0)
        assert len(ends) == count
        middles = np.array([(first + last) / 2 for first, last in ends])
        if count > 1:
            apart = np.linalg.norm(middles[:, None] - middles[None], axis=2)[np.triu_indices(count, 1)]
            assert apart.min() > 8


PLACE = st.tuples(st.floats(-0.1, 1.1), st.floats(-0.1, 1.1))
INK = st.sampled_from(["", RED, GREEN, "#f5a918"])
PIECES = st.lists(st.builds(Anchor, PLACE), min_size=1, max_size=3).map(tuple)
AXIS = st.none() | st.just((at(100, 0), at(100, 200))) | st.just((at(20, 30), at(160, 190)))
WORK = st.one_of(
    st.builds(Give, pieces=PIECES, ink=INK, axis=AXIS),
    st.builds(JoinBeside, pieces=PIECES, axis=AXIS),
    st.builds(CutOut, curve=st.builds(ellipse, PLACE, PLACE), gap=st.sampled_from([0.0, 2.0]), axis=AXIS),
    st.builds(Split, line=st.lists(PLACE, min_size=2, max_size=4).map(tuple), ink=INK, axis=AXIS),
    st.builds(FillHoles, pieces=PIECES),
    st.builds(Split, line=st.lists(PLACE, min_size=2, max_size=4).map(tuple), gap=st.sampled_from([0.0, 0.0, 2.0])),
    st.builds(Bridge, first=PLACE, last=PLACE, width=st.floats(0.5, 8.0)),
    st.builds(Draw, curve=st.builds(ellipse, PLACE, PLACE), ink=INK, width=st.sampled_from([0.0, 3.0])),
    st.builds(Grow, pieces=PIECES, by=st.floats(-6, 6), leaves=st.sampled_from(["ground", "neighbours"])),
    st.builds(Smooth, pieces=PIECES, radius=st.floats(0, 6)),
    st.builds(
        Place,
        pieces=PIECES,
        by=st.tuples(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3)),
        turn=st.floats(-180, 180),
        scale=st.floats(0.3, 2),
        mirror=st.booleans(),
        copy=st.booleans(),
    ),
    st.builds(Trim, curve=st.builds(rectangle, PLACE, PLACE), side=st.sampled_from(["outside", "inside"])),
)


@tries(15, suppress_health_check=list(HealthCheck))
@given(st.lists(WORK, min_size=1, max_size=6).map(tuple))
def test_any_work_leaves_a_map_whose_flush_layers_make_the_whole(work):
    """Faces sum to the picture; flush layers sum to all that is no ground; the same work gives the same bytes."""
    try:
        one, other = (traced(*work, body=ART, size=120) for _ in range(2))
    except NothingToCutError:
        return
    assert areas(one) == areas(other)
    faces = one.tidied.faces
    assert faces.area[1:].sum() == one.regions.labels.size
    px = SIDE / 120
    length = sum(layer.cut_length for layer in one.stack.layers)
    assert abs(sum(areas(one).values()) - (one.regions.labels > 0).sum() * px**2) < 0.55 * px * length + 1e-6
    for layer in one.stack.layers:
        assert layer.area >= -1e-6


def test_cleaning_a_map_without_ink_changes_nothing():
    labels = np.zeros((20, 20), np.uint8)
    regions = LabelMap(labels, (), np.zeros((20, 20, 4), np.uint8), labels, np.zeros((1, 3)))
    assert clean(regions, TidySettings(least_width=1.0, fill_holes=3.0), 2.0).regions is regions


@pytest.mark.parametrize("by", [3.0, 0.75, -3.0])
def test_a_piece_grows_by_its_length_on_all_sides(by):
    """A square with sharp corners and a circle, against Steiner's formula for convex areas and pi r^2."""
    body = f'<rect x="30" y="40" width="60" height="50" fill="{RED}"/><circle cx="140" cy="120" r="30" fill="{BLUE}"/>'
    result = traced(Grow(pieces=anchors((60, 60)), by=by), Grow(pieces=anchors((140, 120)), by=by), body=body)
    assert areas(result)[RED] == pytest.approx((60 + 2 * by) * (50 + 2 * by), rel=2e-3)
    assert areas(result)[BLUE] == pytest.approx(np.pi * (30 + by) ** 2, rel=2e-3)
    assert {layer.ink.key: layer.path.nodes for layer in result.stack.layers}[RED] == 4


def test_what_shrinks_leaves_ground_or_lets_its_neighbours_follow():
    for leaves, other in (("ground", 0.0), ("neighbours", 900 - 24**2)):
        result = traced(Grow(pieces=anchors(IN_SQUARE), by=-3.0, leaves=leaves))
        assert areas(result)[RED] - areas(traced())[RED] == pytest.approx(other, abs=12)
        assert areas(result)[GREEN] == pytest.approx(areas(traced())[GREEN] - 900 + 24**2, rel=2e-3)


def test_corners_are_rounded_by_their_radius():
    body = f'<rect x="30" y="40" width="60" height="50" fill="{RED}"/>'
    result = traced(Smooth(pieces=anchors((60, 60)), radius=8.0), body=body)
    assert areas(result)[RED] == pytest.approx(60 * 50 - (4 - np.pi) * 64, rel=1e-3)
    assert {layer.ink.key: layer.path.nodes for layer in result.stack.layers}[RED] >= 8


def test_a_copy_lies_where_it_was_put_and_is_the_same():
    """A lost dot put back: the copy has the area of the piece, and its middle lies where it was put."""
    body = f'<circle cx="60" cy="60" r="20" fill="{RED}"/><path d="M120 40h40v10h-30v30h-10z" fill="{BLUE}"/>'
    copied = traced(Place(pieces=anchors((60, 60)), by=at(60, 90), copy=True), body=body)
    assert pieces(copied)[RED] == 2 and areas(copied)[RED] == pytest.approx(2 * np.pi * 400, rel=1e-3)
    assert layer_of(copied, RED).path.bounds == pytest.approx((40, 40, 140, 170), abs=0.05)
    turned = traced(Place(pieces=anchors((125, 60)), turn=90.0, scale=1.5), body=body)
    assert areas(turned)[BLUE] == pytest.approx(areas(traced(body=body))[BLUE] * 2.25, rel=2e-3)
    left, top, right, bottom = layer_of(turned, BLUE).path.bounds
    assert (right - left, bottom - top) == pytest.approx((60, 60), abs=0.1)
    mirrored = traced(Place(pieces=anchors((125, 60)), mirror=True), body=body)
    assert areas(mirrored)[BLUE] == pytest.approx(areas(traced(body=body))[BLUE], rel=1e-3)


def layer_of(result, key: str):
    return next(layer for layer in result.stack.layers if layer.ink.key == key)


def test_near_pieces_of_an_ink_become_one_and_far_ones_do_not():
    body = f'<g fill="{RED}"><rect x="20" y="40" width="40" height="40"/><rect x="62" y="40" width="40" height="40"/>'
    body += '<rect x="112" y="40" width="40" height="40"/></g>'
    chosen = anchors((40, 60), (80, 60), (130, 60))
    bound = traced(Bind(pieces=chosen, gap=3.0), body=body)
    assert pieces(bound)[RED] == 2 and areas(bound)[RED] == pytest.approx(3 * 1600 + 2 * 40, rel=3e-3)
    assert pieces(traced(Bind(pieces=chosen, gap=1.5), body=body))[RED] == 3


@pytest.mark.parametrize(("direction", "far"), [("level", 0), ("upright", 1)])
def test_a_ray_runs_to_what_holds_an_island_however_far_that_is(direction, far):
    """A small island in the middle of a wide and flat bar: its bridges cross the bar in their own direction."""
    labels = np.zeros((60, 300), np.uint8)
    labels[10:50, 20:280] = 1
    labels[28:32, 148:152] = 0
    _, parts = find_islands(labels, {1})
    (ends,) = proposed_bridges(parts, [1], 2, 4.0, direction)
    assert len(ends) == 2
    lengths = sorted(float(np.hypot(*(last - first))) for first, last in ends)
    across = (18, 18) if far else (128, 128)
    assert lengths == pytest.approx(across, abs=6)
    assert all(abs((last - first)[1 - far]) < 1e-9 for first, last in ends)


def test_several_pieces_are_joined_and_parted_by_one_record():
    """Each goes where it should: what one of them changes gives none of the others another number."""
    body = "".join(
        f'<rect x="{x}" y="40" width="50" height="50" fill="{ink}"/>'
        f'<circle cx="{x + 25}" cy="65" r="9" fill="#f5a918"/>'
        for x, ink in ((20, RED), (75, GREEN), (130, BLUE))
    )
    joined = traced(JoinBeside(pieces=anchors((45, 65), (100, 65), (155, 65))), body=body)
    assert {key: round(area) for key, area in areas(joined).items()} == {RED: 2500, GREEN: 2500, BLUE: 2500}
    parted = Split(line=(at(10, 52), at(190, 52)))
    halves = traced(parted, Give(pieces=anchors((45, 45), (100, 45), (155, 45)), ink="#000000"), body=body)
    assert pieces(halves)["#000000"] == 3 and areas(halves)["#000000"] == pytest.approx(3 * 50 * 12, rel=0.01)


@given(
    labels=arrays(np.uint8, st.tuples(st.integers(1, 12), st.integers(1, 12)), elements=st.integers(0, 2)),
    rim=st.integers(0, 3),
)
def test_a_window_of_a_piece_holds_its_pixels_and_no_others(labels, rim):
    evidence = np.zeros((*labels.shape, 4), np.uint8)
    keys = ("#102030", "#405060")
    regions = LabelMap(labels, keys, evidence, labels, np.zeros((3, 3)))
    sheet = Sheet(regions, picture_of(evidence), 1.0)
    for face in range(1, len(sheet.faces[0].label)):
        window, own = sheet.window(face, rim)
        whole = np.zeros(labels.shape, bool)
        whole[window] = own
        assert np.array_equal(whole, sheet.mask([face]))
