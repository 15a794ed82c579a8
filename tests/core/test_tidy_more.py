"""Work along outlines and by hand, mirrored halves, limits of one ink: measured on the written paths."""

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, given
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import box

from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job import History, Pipeline, Recipe, decode_recipe, encode_recipe, report_of
from sketchloom.core.picture import Crop, Turn
from sketchloom.core.send import SVG, files_of
from sketchloom.core.tidy import (
    Bridge,
    CutOut,
    Draw,
    Give,
    Grow,
    InkLimits,
    JoinBeside,
    Keep,
    Pieces,
    Place,
    Split,
    TidySettings,
    Together,
    Trim,
    anchors_of,
    by_hand,
    ellipse,
    flattened,
    rectangle,
    regular,
    smooth,
    straight,
)
from sketchloom.core.tidy.thin import narrowest
from tests.conftest import draw, tries
from tests.core.test_tidy import (
    ART,
    BLUE,
    GREEN,
    IN_FRAME,
    IN_RED,
    IN_RING,
    IN_SQUARE,
    RED,
    SIDE,
    WORK,
    anchors,
    areas,
    at,
    pieces,
    traced,
)


def area_of(result, key: str) -> shapely.Geometry:
    """A layer's area in mm, by the even-odd rule."""
    out = shapely.Polygon()
    for layer in result.stack.layers:
        for contour in layer.path.contours if layer.ink.key == key else ():
            out = shapely.symmetric_difference(out, shapely.Polygon(flattened(contour * 50) / 50).buffer(0))
    return out


UPRIGHT = at(100, 0), at(100, 200)
TWINS = (
    f'<circle cx="40" cy="50" r="25" fill="{RED}"/><circle cx="160" cy="50" r="25" fill="{RED}"/>'
    f'<rect x="20" y="110" width="160" height="70" fill="{GREEN}"/>'
)


def circle_of(count: int, noise: float = 0.0, radius: float = 0.2) -> list[tuple[float, float]]:
    turns, rng = 2 * np.pi * np.arange(count) / count, np.random.default_rng(4)
    far = radius + rng.normal(0, noise, count) if noise else np.full(count, radius)
    return [(0.5 + r * np.cos(t), 0.5 + r * np.sin(t)) for r, t in zip(far, turns, strict=True)]


def off_circle(curve) -> float:
    line = flattened(np.array(curve) * 1000)
    return float(np.abs(np.hypot(*(line - 500).T) - 200).max())


def test_a_curve_through_eight_places_of_a_circle_is_nearly_that_circle():
    """An interpolating cubic spline errs by the fourth power of the spacing (de Boor, A Practical Guide to Splines)."""
    eight, sixteen = (off_circle(smooth(circle_of(count))) for count in (8, 16))
    assert eight < 0.3 and sixteen < eight / 10
    open_curve = smooth([at(10, 10), at(60, 30), at(90, 90)], closed=False)
    assert open_curve[0] == at(10, 10) and open_curve[3] == pytest.approx(at(60, 30)) and len(open_curve) == 7


def test_a_line_by_hand_is_followed_and_its_corners_stay():
    shaky = by_hand(circle_of(160, noise=0.0008), 0.002, closed=True)
    assert off_circle(shaky) < 2.0 and len(shaky) < 3 * 10
    bent = by_hand([at(20, 20), at(100, 20), at(100, 120)], 0.002, closed=False)
    line = flattened(np.array(bent) * SIDE)
    assert shapely.LineString(line).hausdorff_distance(shapely.LineString([(20, 20), (100, 20), (100, 120)])) < 0.2
    assert by_hand([at(5, 5)], 0.002, closed=True)[0] == at(5, 5)


@pytest.mark.parametrize(("sides", "dent"), [(3, 0.0), (6, 0.0), (5, 0.5)])
def test_a_regular_shape_has_the_area_of_its_formula(sides, dent):
    """n/2 sin(2 pi/n) r^2 for a polygon; n r R sin(pi/n) for a star of radii r and R (Weisstein, MathWorld, memory)."""
    radius = 30
    shape = regular(at(110 - radius, 55 - radius), at(110 + radius, 55 + radius), sides, dent)
    result = traced(Draw(curve=shape, ink="#f5a918"), size=800)
    true = sides / 2 * np.sin(2 * np.pi / sides) * radius**2
    if dent:
        true = sides * np.sin(np.pi / sides) * radius * (1 - dent) * radius
    assert areas(result)["#f5a918"] == pytest.approx(true, rel=2e-3)


def test_an_outline_parts_with_a_gap_of_its_width_or_without():
    shape = ellipse(at(100, 30), at(150, 80))
    plain, gapped, parted = traced(), traced(CutOut(curve=shape, gap=2.0)), traced(CutOut(curve=shape))
    assert areas(plain)[RED] - areas(gapped)[RED] == pytest.approx(2 * np.pi * 25 * 2, rel=5e-3)
    assert pieces(gapped)[RED] == 2 and pieces(parted)[RED] == 1
    assert areas(parted)[RED] == pytest.approx(areas(plain)[RED])
    given_away = traced(CutOut(curve=shape), Give(pieces=anchors((125, 55)), ink=BLUE))
    assert areas(given_away)[BLUE] - areas(plain)[BLUE] == pytest.approx(np.pi * 625, rel=5e-3)
    assert traced(CutOut(curve=ellipse(at(185, 92), at(195, 98)))).tidied.unplaced == (0,)


def test_a_line_of_colour_change_makes_two_inks_of_one():
    line = (at(130, 10), at(130, 100))
    result = traced(Split(line=line, ink="#f5a918"))
    ink = area_of(result, "#f5a918")
    assert ink.hausdorff_distance(box(130, 20, 180, 90)) < 0.2
    assert sum(areas(result).values()) == pytest.approx(sum(areas(traced()).values()), rel=1e-4)


MIRRORED = [
    (Give(pieces=anchors((40, 50)), ink=BLUE), {BLUE: 2 * np.pi * 625}),
    (Grow(pieces=anchors((40, 50)), by=2.0), {RED: 2 * np.pi * 27**2}),
    (Draw(curve=ellipse(at(40, 130), at(60, 150)), ink=BLUE), {BLUE: 2 * np.pi * 100}),
    (Draw(curve=straight([at(40, 140), at(60, 140)])[:4], ink=BLUE, width=4.0), {BLUE: 2 * (80 + np.pi * 4)}),
    (CutOut(curve=rectangle(at(40, 130), at(60, 150)), gap=2.0), {GREEN: 160 * 70 - 2 * (22**2 - 18**2)}),
    (Split(line=(at(60, 100), at(60, 190)), ink=BLUE), {BLUE: 2 * 40 * 70}),
    (Split(line=(at(60, 100), at(60, 190)), gap=3.0), {GREEN: 160 * 70 - 2 * 3 * 70}),
    (Bridge(first=at(60, 100), last=at(60, 190), width=3.0), {GREEN: 160 * 70 - 2 * 3 * 70}),
    (Trim(curve=rectangle(at(10, 100), at(60, 190))), {GREEN: 2 * 40 * 70}),
    (Trim(curve=rectangle(at(10, 100), at(60, 190)), side="inside"), {GREEN: 80 * 70}),
    (Place(pieces=anchors((40, 50)), scale=0.5), {RED: 2 * np.pi * 12.5**2}),
]


@pytest.mark.parametrize(("work", "expected"), MIRRORED, ids=[type(work).__name__ for work, _ in MIRRORED])
def test_with_an_axis_work_is_done_on_the_other_half_too(work, expected):
    both = traced(msgspec.structs.replace(work, axis=UPRIGHT), body=TWINS)
    assert not both.tidied.unplaced
    for key, area in expected.items():
        assert areas(both)[key] == pytest.approx(area, rel=5e-3)
        own = area_of(both, key)
        other = affinity.scale(own, -1, 1, origin=(100, 0))
        assert shapely.symmetric_difference(own, other).area < 0.01 * own.area + 2


def test_what_is_moved_and_turned_goes_the_other_way_on_the_other_half():
    """The mirror image of a turn is a turn the other way (any text on isometries of the plane)."""
    body = f'<path d="M20 30h50v20h-50z" fill="{RED}"/><path d="M130 30h50v20h-50z" fill="{RED}"/>' + (
        f'<rect x="20" y="150" width="160" height="30" fill="{GREEN}"/>'
    )
    for more in ({}, {"mirror": True}):
        work = Place(pieces=anchors((45, 40)), by=(0.05, 0.2), turn=30.0, axis=UPRIGHT, **more)
        own = area_of(traced(work, body=body), RED)
        assert own.area == pytest.approx(2000, rel=5e-3)
        other = affinity.scale(own, -1, 1, origin=(100, 0))
        assert shapely.symmetric_difference(own, other).area < 12


def test_a_flip_is_mirrored_over_a_slanted_axis_too():
    ell = f'<path d="M20 60h40v12h-28v30h-12z" fill="{RED}"/>'
    start, end = np.array([60.0, 190.0]), np.array([160.0, 20.0])
    along = (end - start) / np.linalg.norm(end - start)
    over = 2 * np.outer(along, along) - np.eye(2)
    move = [*over.ravel(), *(start - over @ start)]
    matrix = f"matrix({over[0, 0]} {over[1, 0]} {over[0, 1]} {over[1, 1]} {move[4]} {move[5]})"
    axis = at(*start), at(*end)
    work = Place(pieces=anchors((26, 80)), mirror=True, turn=20.0, axis=axis)
    own = area_of(traced(work, body=f'{ell}<g transform="{matrix}">{ell}</g>', size=800), RED)
    other = affinity.affine_transform(own, move)
    assert own.area == pytest.approx(2 * 840, rel=0.01)
    assert shapely.symmetric_difference(own, other).area < 25


def test_what_is_lost_on_one_half_is_not_put_elsewhere_on_the_other():
    lost = Place(pieces=(msgspec.structs.replace(anchors((40, 50))[0], area=0.9),), by=(0.1, 0.0), axis=UPRIGHT)
    result = traced(lost, body=TWINS)
    assert result.tidied.unplaced == (0,) and areas(result) == areas(traced(body=TWINS))


def test_a_line_that_changes_the_colour_leaves_no_gap():
    result = traced(Split(line=(at(130, 10), at(130, 100)), ink=BLUE, gap=4.0))
    assert sum(areas(result).values()) == pytest.approx(sum(areas(traced()).values()), rel=1e-4)


def test_an_outline_parts_only_what_it_crosses_and_along_it():
    round_all = CutOut(curve=rectangle(at(10, 10), at(190, 95)))
    assert traced(round_all).tidied.unplaced == (0,)
    shape = ellipse(at(100, 30), at(150, 80))
    disc = area_of(traced(CutOut(curve=shape), Give(pieces=anchors((125, 55)), ink="#f5a918")), "#f5a918")
    assert disc.hausdorff_distance(shapely.Point(125, 55).buffer(25, quad_segs=200)) < 0.06


def test_what_is_kept_with_an_axis_stays_on_both_halves():
    dots = "".join(f'<rect x="{x}" y="40" width="4" height="4" fill="{RED}"/>' for x in (38, 78, 118, 158))
    body = dots + f'<rect x="20" y="110" width="160" height="70" fill="{GREEN}"/>'
    result = traced(Keep(pieces=anchors((40, 42)), axis=UPRIGHT), body=body, least_area=30.0)
    assert pieces(result)[RED] == 2 and not result.tidied.unplaced


def test_each_ink_has_its_own_least_width():
    tails = "".join(
        f'<rect x="{x}" y="40" width="60" height="60" fill="{ink}"/>'
        f'<rect x="{x + 20}" y="100" width="3" height="30" fill="{ink}"/>'
        for x, ink in ((20, RED), (110, GREEN))
    )
    limits = TidySettings(limits=TidySettings().with_limits(RED, least_width=2.0)).with_limits(GREEN, least_width=5.0)
    result = traced(body=tails, limits=limits)
    assert report_of(result)["tidy"]["hairs"] == 1
    assert areas(result)[RED] - areas(result)[GREEN] == pytest.approx(3 * 30, rel=0.1)


def test_a_piece_across_the_axis_is_worked_on_once():
    work = JoinBeside(pieces=anchors((100, 55)), axis=UPRIGHT)
    body = (
        f'<rect x="20" y="20" width="160" height="160" fill="{GREEN}"/><circle cx="100" cy="55" r="20" fill="{RED}"/>'
    )
    result = traced(work, body=body)
    assert not result.tidied.unplaced and pieces(result).get(RED, 0) == 0
    give = Give(pieces=anchors((40, 50)), ink=BLUE, axis=(at(0, 150), at(200, 150)))
    assert traced(give, body=TWINS).tidied.unplaced == (0,)  # the other half lies outside the picture: that is told


def test_limits_of_one_ink_leave_the_others():
    dots = "".join(
        f'<rect x="{15 + 18 * i}" y="{y}" width="4" height="4" fill="{ink}"/>'
        for i in range(9)
        for y, ink in ((30, RED), (60, GREEN))
    )
    body = (
        dots + f'<rect x="20" y="100" width="80" height="80" fill="{RED}"/><circle cx="60" cy="140" r="9" fill="#fff"/>'
    )
    body += (
        f'<rect x="110" y="100" width="60" height="80" fill="{GREEN}"/><circle cx="140" cy="140" r="9" fill="#fff"/>'
    )
    body += f'<rect x="170" y="120" width="20" height="2.4" fill="{GREEN}"/>'
    body += f'<rect x="10" y="110" width="10" height="2.4" fill="{RED}"/>'
    settings_ = TidySettings()
    limits = settings_.with_limits(GREEN, least_area=30.0, fill_holes=300.0, least_width=4.0)
    result = traced(body=body, limits=limits)
    assert pieces(result) == {RED: 10, GREEN: 1}
    tidy = report_of(result)["tidy"]
    assert tidy["holes_filled"] == 1 and tidy["hairs"] == 1
    (large,) = [part for part in shapely.get_parts(area_of(result, RED)) if part.area > 100]
    assert len(large.interiors) == 1
    general = traced(body=body, least_area=30.0, limits=TidySettings().with_limits(GREEN, least_area=0.0))
    assert pieces(general) == {RED: 1, GREEN: 10}


def test_limits_are_kept_by_key_and_go_when_they_say_nothing():
    limits = TidySettings(limits=TidySettings().with_limits(RED, least_area=3.0))
    assert limits.limits_of(RED) == InkLimits(RED, 3.0) and limits.limits_of(BLUE) == InkLimits(BLUE)
    assert limits.with_limits(RED, least_area=None) == ()
    both = TidySettings(limits=limits.with_limits(BLUE, least_width=1.0))
    assert [one.key for one in both.limits] == sorted([RED, BLUE])


@pytest.mark.parametrize(
    "tidy",
    [
        {"limits": (InkLimits("red", 1.0),)},
        {"limits": (InkLimits(RED, 1.0), InkLimits(RED, 2.0))},
        {"limits": (InkLimits(RED, float("nan")),)},
        {"limits": (InkLimits(RED, least_width=-1.0),)},
        {"work": (Give(pieces=anchors(IN_RED), ink=RED, axis=(at(1, 1), at(1, 1))),)},
        {"work": (Split(line=(at(1, 1), at(2, 2)), ink="nothing"),)},
        {"work": (CutOut(curve=rectangle(at(1, 1), at(9, 9)), gap=-1.0),)},
    ],
)
def test_what_is_wrong_is_refused(tidy):
    with pytest.raises(ArgumentError):
        Recipe().with_("tidy", **tidy).check()


def test_new_kinds_are_written_and_read_back():
    work = (
        CutOut(curve=rectangle(at(1, 1), at(9, 9)), gap=0.4, axis=UPRIGHT),
        Together(pieces=anchors(IN_RED, IN_RING)),
        Split(line=(at(1, 1), at(5, 5)), ink=BLUE),
    )
    recipe = Recipe().with_("tidy", work=work, limits=TidySettings().with_limits(RED, fill_holes=4.0))
    assert decode_recipe(encode_recipe(recipe), "a.json") == recipe


@pytest.mark.parametrize("width", [4, 7, 12, 20, 30])
def test_the_narrowest_place_is_the_neck_and_not_a_corner(width):
    own = np.zeros((320, 320), bool)
    own[40:140, 110:210] = own[180:280, 110:210] = True
    own[140:180, 160 - width // 2 : 160 - width // 2 + width] = True
    assert narrowest(own) == pytest.approx(width, abs=1.1)


def test_the_narrowest_place_of_a_plain_shape_is_its_width():
    own = np.zeros((200, 300), bool)
    own[60:90, 20:280] = True
    assert narrowest(own) == pytest.approx(30, abs=1.1)
    y, x = np.mgrid[:200, :200]
    assert narrowest((x - 100) ** 2 + (y - 100) ** 2 < 60**2) == pytest.approx(120, abs=2.2)


def test_pieces_that_are_kept_together_are_found_from_one_another():
    result = traced(Together(pieces=anchors(IN_RED, IN_RING)), Together(pieces=anchors(IN_RING, IN_FRAME)))
    found = Pieces(result.tidied, result.picture, result.scale.px_per_mm)
    ends = [found.at(at(*place)) for place in (IN_RED, IN_RING, IN_FRAME, IN_SQUARE)]
    work = result.recipe.tidy.work
    assert set(found.together([ends[0]], work)) == set(ends[:3])
    assert found.together([ends[3]], work) == [ends[3]]
    dots = "".join(f'<circle cx="{x}" cy="{y}" r="9" fill="{RED}"/>' for x in (40, 160) for y in (40, 90))
    both = traced(Together(pieces=anchors((40, 40), (40, 90)), axis=UPRIGHT), body=dots)
    found = Pieces(both.tidied, both.picture, both.scale.px_per_mm)
    four = [found.at(at(x, y)) for x in (40, 160) for y in (40, 90)]
    for pair in (four[:2], four[2:]):
        assert set(found.together(pair[:1], both.recipe.tidy.work)) == set(pair)


def test_what_is_put_elsewhere_is_found_there():
    result = traced()
    found = Pieces(result.tidied, result.picture, result.scale.px_per_mm)
    how = {"by": (0.1, 0.05), "turn": 40.0, "scale": 0.6}
    chosen = [found.at(at(*IN_FRAME)), found.at(at(*IN_RING))]
    there = found.anchors_after(chosen, **how)
    moved = traced(Place(pieces=found.anchors(chosen), **how))
    again = Pieces(moved.tidied, moved.picture, moved.scale.px_per_mm)
    keys = [again.measure(piece).key for piece in again.found(there)]
    assert keys == [GREEN, BLUE]


def written(result) -> bytes:
    (data,) = files_of(SVG, result.stack.cuts, False).values()
    return data


def placed_share(work, result) -> float:
    return 1 - len(result.tidied.unplaced) / len(work)


def many_pieces() -> tuple[str, list[tuple[int, int]]]:
    inks = ("#b3275f", "#4f8a4b", "#2a6fdb", "#f5a918", "#7a4fa0", "#333333", "#88c9ee")
    places = [(20 + 27 * i, 20 + 27 * j) for i in range(7) for j in range(7)]
    body = "".join(
        f'<circle cx="{x}" cy="{y}" r="{7 + (3 * i) % 5}" fill="{inks[i % 7]}"/>' for i, (x, y) in enumerate(places)
    )
    return body, places


def test_records_stay_in_place_whatever_else_is_changed():
    """Five inks asked and seven again, another smoothness, a crop, a quarter turn, twice the size: 95 % and more."""
    body, places = many_pieces()
    plain = traced(body=body)
    faces, runs = plain.tidied.faces, plain.tidied.runs
    chosen = [face for face in range(1, len(faces.label)) if faces.label[face]]
    found = anchors_of(plain.regions, plain.picture, faces, runs, chosen)
    work = [Give(pieces=(anchor,), ink="#101010") for anchor in found]
    assert len(work) == len(places) == 49
    recipe = Recipe().with_("separate", mode="flat").with_("finish", page="picture", width=float(SIDE))
    recipe = recipe.with_("tidy", work=tuple(work))
    pipeline = Pipeline()
    picture, large = draw(body, 400, SIDE), draw(body, 800, SIDE)
    runs_ = [
        pipeline.run(picture, recipe.with_("separate", inks=5)),
        pipeline.run(picture, recipe.with_("separate", inks=7)),
        pipeline.run(picture, recipe.with_("trace", smoothness=0.3)),
        pipeline.run(picture, msgspec.structs.replace(recipe, prepare=(Crop(first=at(5, 5), last=at(198, 197)),))),
        pipeline.run(picture, msgspec.structs.replace(recipe, prepare=(Turn(quarters=1),))),
        pipeline.run(large, recipe),
        pipeline.run(picture, recipe),
    ]
    for result in runs_:
        assert placed_share(work, result) >= 0.95
        assert areas(result).keys() == {"#101010"}
    assert written(Pipeline(0).run(picture, recipe)) == written(runs_[-1])


STEPS = st.lists(st.one_of(WORK, st.sampled_from(["undo", "redo", "undo"])), min_size=2, max_size=9)


@tries(12, suppress_health_check=list(HealthCheck))
@given(STEPS)
def test_any_sequence_with_undo_and_redo_gives_the_bytes_of_a_fresh_run(steps):
    """What a memory of earlier results gives after undo and redo is what is worked out anew."""
    picture, warm = draw(ART, 120, SIDE), Pipeline()
    base = Recipe().with_("separate", mode="flat").with_("finish", page="picture", width=float(SIDE))
    history = History(base)

    def outcome(pipeline) -> tuple[bytes, tuple[int, ...]] | None:
        try:
            result = pipeline.run(picture, history.recipe)
        except NothingToCutError:
            return None
        return written(result), result.tidied.unplaced

    seen: dict[bytes, object] = {}
    for step in steps:
        if step == "undo":
            history.undo()
        elif step == "redo":
            history.redo()
        else:
            work = (*history.recipe.tidy.work, step)
            history.push(step.sentence, history.recipe.with_("tidy", work=work))
        now = outcome(warm)
        assert seen.setdefault(encode_recipe(history.recipe), now) == now
    assert outcome(Pipeline(0)) == outcome(warm)
