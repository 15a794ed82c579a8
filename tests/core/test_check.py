"""Findings on our own layers, their fixes from the recipe to the result and back, and what is worked out again."""

from collections import Counter
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

import sketchloom
from sketchloom.core.curves import measured_anew
from sketchloom.core.elsewhere.check_file import stack_of, subject_of
from sketchloom.core.elsewhere.svg_file import read_svg
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import (
    FINDERS,
    KINDS,
    Aside,
    Compared,
    FromPicture,
    Memory,
    check_report,
    find_all,
    limits_for,
    mend_all,
    readiness,
    with_sure_fixes,
)
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe, set_aside, sure, with_fix, with_fixes
from sketchloom.core.layers import Beside, FillWindow, LayerRule, RoundNotch, TakePiece, WidenAlong
from sketchloom.core.picture import load_picture
from sketchloom.core.send import SVG as WRITER
from sketchloom.core.send import page_of_layers
from sketchloom.core.stock import GENERIC, find_stock
from tests.conftest import draw, picture_of, render, tries
from tests.drawn import MISSES, NO_STOCK, SHOWN, svg

VINYL = find_stock(GENERIC, "adhesive vinyl")
CARD = find_stock(GENERIC, "card")
GLITTER = find_stock(GENERIC, "glitter film")


def drawn(body: str, own: bool = True, stock=None, memory=None, **limits):
    """A drawing as it is checked; as our own stack, it has a map."""
    subject = subject_of(read_svg(svg(body).encode(), "a.svg"), stock, tuple(limits.items()), memory or Memory.new())
    nothing = np.zeros(0)
    origin = FromPicture(20.0, nothing, nothing.reshape(0, 2), (), 0.015, "carried")
    return replace(subject, origin=origin) if own else subject


def kinds(found) -> set[str]:
    return {finding.kind for finding in found}


def test_every_kind_has_a_finder_and_a_severity():
    assert list(FINDERS) == list(KINDS)
    assert len(KINDS) == 18
    severities = [about.severity for about in KINDS.values()]
    assert severities == sorted(severities, reverse=True)  # what spoils the cut comes first


@pytest.mark.parametrize("kind", sorted(NO_STOCK - {"many-objects"}))
def test_each_kind_is_found_on_layers_and_not_where_it_is_only_just_none(kind):
    assert kind in kinds(find_all(drawn(SHOWN[kind])))
    assert kind not in kinds(find_all(drawn(MISSES[kind])))


def traced(body: str, **given_recipe):
    """Render a drawing of 60 mm at 20 px a mm with a renderer that is not ours, trace it and check the layers."""
    recipe = Recipe().with_("finish", width=60.0, page="picture")
    for part, changes in given_recipe.items():
        recipe = recipe.with_(part, **changes)
    return Pipeline().run(picture_of(render(svg(body), 1200)), recipe, names=("checked",))


TRACED = ["neck", "gap", "small", "sliver", "double-line", "sharp"]


@pytest.mark.parametrize("kind", TRACED)
def test_each_kind_is_found_on_a_traced_picture_and_not_where_it_is_only_just_none(kind):
    assert kind in kinds(traced(SHOWN[kind]).checked.findings)
    assert kind not in kinds(traced(MISSES[kind]).checked.findings)


def test_narrow_places_of_a_traced_picture_are_as_wide_as_they_were_drawn():
    (neck,) = [one for one in traced(SHOWN["neck"]).checked.findings if one.kind == "neck"]
    assert neck.measure == pytest.approx(0.5, rel=0.05)
    (gap,) = [one for one in traced(SHOWN["gap"]).checked.findings if one.kind == "gap"]
    assert gap.measure == pytest.approx(0.3, rel=0.08)


DONUT = '<path fill="#c03030" fill-rule="evenodd" d="M15 15h30v30h-30zM25 25h10v10h-10z"/>'


def test_parts_of_a_stencil_fall_out_until_they_are_bridged():
    result = traced(DONUT, layers={"build": "stencil"})
    (island,) = result.checked.findings
    assert (island.kind, island.severity, island.fix) == ("island", "spoils", "bridge")
    assert 25 < island.at[0] - result.stack.moved[0] < 35
    picture = picture_of(render(svg(DONUT), 1200))
    after = Pipeline().run(picture, with_fix(result, result.recipe, island.fixes[0]), names=("checked",))
    assert after.checked.findings == () and after.stack.layers[0].pieces == 1
    square = '<path fill="#c03030" d="M15 15h30v30h-30z"/>'
    assert traced(square, layers={"build": "stencil"}).checked.findings == ()


TWO = '<path fill="#c03030" d="M5 5h50v50h-50z"/><circle cx="20" cy="20" r="8" fill="#2060a0"/>' \
      '<circle cx="40" cy="40" r="8" fill="#2060a0"/>'  # fmt: skip


def test_pieces_placed_by_hand_are_told_on_stock_without_a_carrier_only():
    found = traced(TWO, layers={"stock": CARD}).checked.findings
    (loose,) = [one for one in found if one.kind == "loose"]
    assert loose.measure == 1 and "by hand" in loose.sentence
    assert "loose" not in kinds(traced(TWO, layers={"stock": VINYL}).checked.findings)
    assert "loose" not in kinds(traced(TWO).checked.findings)


def test_building_carried_lowers_what_is_placed_by_hand():
    across = '<path fill="#c03030" d="M5 5h50v50h-50z"/><path fill="#2060a0" d="M2 25h56v10h-56z"/>'
    pipeline, picture = Pipeline(), picture_of(render(svg(across), 1200))
    result = pipeline.run(picture, Recipe().with_("finish", width=60.0).with_("layers", stock=CARD), names=("checked",))
    before = {one.layer: one.measure for one in result.checked.findings if one.kind == "loose"}
    finding = sure(pipeline, picture, result, next(one for one in result.checked.findings if one.kind == "loose"))
    assert before and finding.fix == "carried"
    after = pipeline.run(picture, with_fix(result, result.recipe, finding.fixes[0]), names=("checked",))
    left = {one.layer: one.measure for one in after.checked.findings if one.kind == "loose"}
    assert left.get(finding.layer, 0) < before[finding.layer]


def test_nothing_lies_on_glitter():
    """Common practice: glitter film lies on plain film, never anything on glitter film."""
    red, blue = "#c03030", "#2060a0"
    rules = (LayerRule(red, stock=GLITTER), LayerRule(blue, stock=VINYL))
    found = traced(TWO, layers={"build": "carried", "rules": rules}).checked.findings
    (broken,) = [one for one in found if one.kind == "stock-rule"]
    assert (broken.severity, broken.layer, broken.fix) == ("spoils", red, "order")
    rules = (LayerRule(red, stock=VINYL), LayerRule(blue, stock=GLITTER))
    assert "stock-rule" not in kinds(traced(TWO, layers={"build": "carried", "rules": rules}).checked.findings)


def test_stocks_that_look_alike_are_told():
    """8 apart by CIEDE2000 [G. Sharma et al., 2005]; shades of one red are, red and blue are not."""
    near = msgspec.structs.replace(VINYL, colour="#c23432")
    far = msgspec.structs.replace(VINYL, colour="#2060a0")
    for stock, expected in ((near, True), (far, False)):
        rules = (LayerRule("#c03030", stock=msgspec.structs.replace(VINYL, colour="#c03030")),
                 LayerRule("#2060a0", stock=stock))  # fmt: skip
        assert ("like-inks" in kinds(traced(TWO, layers={"rules": rules}).checked.findings)) is expected


def test_what_is_finer_than_two_pixels_is_a_guess():
    thin = DONUT + '<path fill="#c03030" d="M45 29.9h12v0.2h-12z"/>'
    picture = picture_of(render(svg(thin), 400))  # 6.7 px a mm: the line is 1.3 px wide
    result = Pipeline().run(picture, Recipe().with_("finish", width=60.0, page="picture"), names=("checked",))
    found = [one for one in result.checked.findings if one.kind == "fine"]
    assert found and found[0].unit == "px" and found[0].measure < 2
    thick = DONUT + '<path fill="#c03030" d="M45 29h12v1.2h-12z"/>'
    picture = picture_of(render(svg(thick), 400))
    result = Pipeline().run(picture, Recipe().with_("finish", width=60.0, page="picture"), names=("checked",))
    assert "fine" not in kinds(result.checked.findings)


def test_curves_that_stray_from_the_picture_are_told_and_traced_closer():
    wavy = "M5 30" + "".join(f"q1.5 {-4 if i % 2 else 4} 3 0" for i in range(16)) + "V55H5Z"
    picture = picture_of(render(svg(f'<path fill="#c03030" d="{wavy}"/>'), 600))
    pipeline = Pipeline()
    rough = Recipe().with_("finish", width=120.0).with_("trace", smoothness=1.2)
    result = pipeline.run(picture, rough, names=("checked",))
    found = [one for one in result.checked.findings if one.kind == "deviation"]
    assert found and found[0].measure > 0.3
    close = pipeline.run(picture, rough.with_("trace", smoothness=0.015), names=("checked",))
    assert "deviation" not in kinds(close.checked.findings)


def test_a_layer_that_is_one_line_is_cut_once_by_its_rule():
    ring = SHOWN["double-line"]
    pipeline, picture = Pipeline(), picture_of(render(svg(ring), 1200))
    result = pipeline.run(picture, Recipe().with_("finish", width=60.0, page="picture"), names=("checked",))
    (line,) = [one for one in result.checked.findings if one.kind == "double-line"]
    line = sure(pipeline, picture, result, line)
    assert {fix.name for fix in line.fixes} >= {"outer", "inner"}
    after = pipeline.run(picture, with_fix(result, result.recipe, line.fixes[0]), names=("checked",))
    assert after.recipe.layers.rule("#c03030").edge == "outer"
    assert len(after.stack.layers[0].path.contours) == 1 and "double-line" not in kinds(after.checked.findings)


def test_windows_under_a_wider_piece_are_filled():
    after = mend_all(subject := drawn(SHOWN["hidden-window"]), found := find_all(subject), found)
    assert [fix.name for fix in after.fixes] == ["fill"] and "hidden-window" not in kinds(after.findings)
    assert shapely.area(after.subject.outline(after.subject.layers[0]).union) == pytest.approx(1600, abs=0.1)


def test_a_flush_stack_has_no_hidden_window():
    subject = drawn(SHOWN["hidden-window"])
    flush = replace(subject, origin=replace(subject.origin, build="flush"))
    assert "hidden-window" not in kinds(find_all(flush))


def test_a_small_piece_joins_the_layer_that_it_lies_in():
    body = '<path fill="#c03030" fill-rule="evenodd" d="M5 5h30v30h-30zM19.5 19.5h1v1h-1z"/>' \
           '<path fill="#2060a0" d="M19.5 19.5h1v1h-1zM45 45h9v9h-9z"/>'  # fmt: skip
    subject = drawn(body)
    (small,) = [one for one in find_all(subject) if one.kind == "small"]
    assert [fix.name for fix in small.fixes] == ["join", "drop", "grow"]
    after = subject.mended(small.fixes[0].mends)
    assert shapely.area(after.outline(after.layers[0]).union) == pytest.approx(900, abs=0.05)


def test_locked_layers_are_not_mended():
    result = traced(SHOWN["neck"], layers={"rules": (LayerRule("#c03030", locked=True),)})
    finding = with_sure_fixes(result.checked.subject, result.checked.findings, result.checked.findings[0])
    assert finding.fixes == () and "locked" in finding.sentence


def random_picture(seed: int):
    """Discs, bars, lines and rings in four inks over each other, 120 px."""
    import cv2

    rng = np.random.default_rng(seed)
    labels = np.zeros((120, 120), np.uint8)
    for _ in range(int(rng.integers(4, 14))):
        at, ink, kind = tuple(int(v) for v in rng.integers(5, 115, 2)), int(rng.integers(0, 5)), rng.integers(0, 4)
        to = tuple(int(v) for v in rng.integers(5, 115, 2))
        if kind == 0:
            cv2.circle(labels, at, int(rng.integers(2, 30)), ink, -1)
        elif kind == 1:
            cv2.rectangle(labels, at, to, ink, -1)
        elif kind == 2:
            cv2.line(labels, at, to, ink, int(rng.integers(2, 8)))
        else:
            axes = tuple(int(v) for v in rng.integers(3, 40, 2))
            cv2.ellipse(labels, at, axes, float(rng.integers(0, 180)), 0, 360, ink, int(rng.integers(2, 6)))
    colours = np.array([(240, 235, 225), (190, 40, 40), (40, 120, 60), (40, 60, 150), (230, 190, 50)], np.uint8)
    return picture_of(colours[labels])


@tries(12)
@given(st.integers(0, 10_000), st.sampled_from(["flush", "carried", "backed", "single", "stencil"]),
       st.sampled_from([15.0, 30.0, 60.0]))  # fmt: skip
def test_every_fix_that_is_offered_removes_its_finding_and_brings_nothing_as_bad(seed, build, width):
    pipeline, picture = Pipeline(), random_picture(seed)
    recipe = Recipe().with_("finish", width=width).with_("layers", build=build)
    result = pipeline.results(picture, recipe, names=("checked",))
    if result.failure is not None:  # nothing is left to cut
        assert result.failure.foreseen
        return
    found = result.checked.findings
    for finding in found[:5]:
        place, finding = finding.at, sure(pipeline, picture, result, finding)
        assert finding.at == place
        for fix in finding.fixes:
            after = pipeline.run(picture, with_fix(result, recipe, fix), names=("checked",))
            assert after.lost_mends == ()
            assert Compared(found, after.checked.findings).holds(finding), (finding.kind, fix.name)
        assert finding.fixes or "." in finding.sentence


@pytest.mark.parametrize("seed", range(8))
def test_pieces_agree_with_shapely_on_what_is_valid(seed):
    """Every piece that is sound is a valid polygon for GEOS, and the area of all is that of the layer."""
    result = Pipeline().run(random_picture(seed), Recipe().with_("finish", width=60.0), names=("checked",))
    for layer in result.checked.subject.layers:
        outline = result.checked.subject.outline(layer)
        assert shapely.is_valid(outline.pieces.shapes).all()
        assert outline.length == pytest.approx(shapely.length(outline.pieces.shapes).sum(), rel=1e-9)
        area = shapely.area(outline.union)
        assert area == pytest.approx(
            result.stack.layer(layer.key).area, rel=1e-3, abs=0.01 + outline.pieces.crossed.sum()
        )


def test_after_an_edit_only_what_it_touches_is_worked_out_again():
    grid = "".join(f"M{4 * i + 2} {4 * j + 2}h2.5v2.5h-2.5z" for i in range(14) for j in range(14))
    memory = Memory.new()
    subject = drawn(f'<path fill="#c03030" d="{grid}"/><path fill="#2060a0" d="M1 1h0.9v0.9h-0.9z"/>', memory=memory)
    known: dict[str, int] = {"tiles": 0}
    put = memory.tiles.put

    def counted(key, value):
        known["tiles"] += 1
        put(key, value)

    memory.tiles.put = counted
    find_all(subject)
    first = known["tiles"]
    find_all(subject)
    assert known["tiles"] == first > 20
    after = subject.mended((TakePiece(layer="#c03030", at=(3.0, 3.0)),))
    find_all(after)
    assert 0 < known["tiles"] - first <= first / 4


def test_the_same_is_found_warm_and_cold():
    for seed in range(3):
        recipe = Recipe().with_("finish", width=30.0)
        pipeline, picture = Pipeline(), random_picture(seed)
        cold = pipeline.run(picture, recipe, names=("checked",)).checked
        assert find_all(replace(cold.subject, memory=Memory.new())) == cold.findings
        mended = mend_all(cold.subject, cold.findings, cold.findings)
        assert find_all(replace(mended.subject, memory=Memory.new())) == mended.findings


def test_what_was_tried_is_remembered_of_its_own_recipe_only():
    pipeline, picture = Pipeline(), picture_of(render(svg(SHOWN["neck"]), 600))
    recipe = Recipe().with_("finish", width=60.0, page="picture")
    tried = []
    for rules in ((), (LayerRule("#c03030", locked=True),), ()):
        result = pipeline.run(picture, recipe.with_("layers", rules=rules), names=("checked",))
        neck = next(one for one in result.checked.findings if one.kind == "neck")
        tried.append(sure(pipeline, picture, result, neck).fixes)
    assert tried[0] and not tried[1] and tried[2] == tried[0]


def again(recipe: Recipe) -> Recipe:
    """Written, and read back."""
    return decode_recipe(encode_recipe(recipe), "recipe.json")


def test_mends_and_limits_come_back_from_a_job_and_give_the_same_bytes():
    pipeline, picture = Pipeline(), picture_of(render(svg(SHOWN["neck"]), 1200))
    recipe = Recipe().with_("finish", width=60.0, page="picture").with_("checks", limits=(("gap", 0.7),))
    result = pipeline.run(picture, recipe, names=("checked",))
    mended = with_fixes(result, recipe, mend_all(result.checked.subject, result.checked.findings,
                                                 result.checked.findings).fixes)  # fmt: skip
    assert mended.checks.mends and again(mended) == mended
    warm = pipeline.run(picture, mended)
    cold = Pipeline(0).run(picture, again(mended))
    assert WRITER.write(page_of_layers(warm.stack.cuts)) == WRITER.write(page_of_layers(cold.stack.cuts))
    assert WRITER.write(page_of_layers(warm.stack.cuts)) != WRITER.write(page_of_layers(result.stack.cuts))
    after = pipeline.run(picture, mended, names=("checked",)).checked
    assert after.findings == () and after.ready


def test_mends_stay_at_their_place_when_the_size_changes():
    picture = picture_of(render(svg(SHOWN["neck"]), 1200))
    result = traced(SHOWN["neck"])
    recipe = with_fix(result, result.recipe, result.checked.findings[0].fixes[0]).with_("finish", width=90.0)
    after = Pipeline().run(picture, recipe, names=("checked",))
    assert after.lost_mends == () and "neck" not in kinds(after.checked.findings)


def test_a_mend_that_finds_nothing_is_listed_and_harms_nothing():
    result = traced(SHOWN["neck"])
    lost = (TakePiece(layer="#c03030", at=(0.01, 0.01)), TakePiece(layer="#00ff00", at=(0.5, 0.5)))
    recipe = result.recipe.with_("checks", mends=lost)
    after = Pipeline().run(picture_of(render(svg(SHOWN["neck"]), 1200)), recipe)
    assert after.lost_mends == (0, 1)
    assert WRITER.write(page_of_layers(after.stack.cuts)) == WRITER.write(page_of_layers(result.stack.cuts))


def test_a_finding_left_so_stays_aside_until_its_place_changes():
    picture = picture_of(render(svg(SHOWN["neck"]), 1200))
    result = traced(SHOWN["neck"])
    assert not result.checked.ready
    recipe = set_aside(result, result.recipe, result.checked.findings[0], "a hinge")
    pipeline = Pipeline()
    kept = pipeline.run(picture, recipe, names=("checked",)).checked
    assert kept.ready and kept.open == () and kept.aside[0].word == "a hinge"
    smaller = pipeline.run(picture, recipe.with_("finish", width=50.0), names=("checked",)).checked
    assert not smaller.ready  # the place is another now: 0.42 mm wide
    assert again(recipe) == recipe


def test_limits_of_the_job_go_before_those_of_the_stock():
    assert limits_for(None)["neck"] == 0.8 and limits_for(CARD)["neck"] == CARD.least_piece == 1.2
    assert limits_for(CARD)["gap"] == CARD.least_gap
    assert limits_for(CARD, (("neck", 0.5), ("neck", 0.6)))["neck"] == 0.6
    assert "neck" in kinds(traced(MISSES["neck"], layers={"stock": CARD}).checked.findings)
    free = {"limits": (("neck", 0.2),)}
    assert "neck" not in kinds(traced(SHOWN["neck"], layers={"stock": CARD}, checks=free).checked.findings)


@pytest.mark.parametrize("checks", [
    {"limits": (("necks", 1.0),)},
    {"limits": (("neck", float("nan")),)},
    {"limits": (("neck", -1.0),)},
    {"aside": (Aside("neck", "#000000", (float("inf"), 0.0), 1.0),)},
    {"aside": (Aside("neck", "nonsense", (0.1, 0.0), 1.0),)},
    {"aside": (Aside("neck", "#000000", (0.1, 0.0), 1.0, "w" * 300),)},
    {"mends": (TakePiece(layer="#000000", at=(float("nan"), 0.0)),)},
    {"mends": (TakePiece(layer="#000000", at=(0.1, 0.1), to="nowhere"),)},
    {"mends": (WidenAlong(layer="#000000", lines=(), width=1.0),)},
    {"mends": (WidenAlong(layer="#000000", lines=(((0.1, 0.1),),), width=0.0),)},
    {"mends": (RoundNotch(layer="#000000", at=(0.1, 0.1), radius=1e9),)},
])  # fmt: skip
def test_checks_that_cannot_be_are_refused_in_one_sentence(checks):
    with pytest.raises(ArgumentError) as error:
        Recipe().with_("checks", **checks).check()
    assert str(error.value).count(".") <= 3


def test_readiness_is_told_in_words():
    assert readiness(()) == "Ready to cut: nothing was found."
    neck = find_all(drawn(SHOWN["neck"]))
    assert readiness(neck) == "Not ready: 1 place spoils the cut (too narrow)."
    gap = find_all(drawn(SHOWN["gap"]))
    assert readiness(gap) == "Ready to cut; 1 place is worth a look."
    assert "spoil the cut" in readiness(neck * 2 + gap)
    told = check_report(drawn(SHOWN["neck"]), neck)
    assert told["ready"] is False and told["findings"][0]["fix"] == "thicken"


BADGE = Path(sketchloom.__file__).parent / "demo" / "fair-badge.png"


def test_the_finished_badge_raises_no_alarm_at_any_usual_size():
    pipeline, picture = Pipeline(), load_picture(BADGE)
    for width in (150.0, 180.0, 200.0, 250.0):
        result = pipeline.run(picture, Recipe().with_("finish", width=width), names=("checked",))
        assert result.checked.findings == () and result.checked.ready


def test_where_outlines_meet_in_a_point_is_no_neck():
    found = find_all(drawn('<path fill="#c03030" d="M5 5L35 35V5L5 35Z M5 40H45V40.4H5Z"/>'))
    assert {"crossing", "neck"} <= kinds(found)
    assert min(one.measure for one in found if one.kind == "neck") > 0.01


def test_open_lines_are_closed_and_windows_stay_windows():
    body = '<path fill="none" stroke="#c03030" stroke-width="0.1" d="M5 5h40v40h-40z M15 15h20v20h-20v-19.5"/>'
    subject = drawn(body, own=False)
    after = mend_all(subject, found := find_all(subject), found)
    assert kinds(found) == {"open"} and after.findings == ()
    assert shapely.area(after.subject.outline(after.subject.layers[0]).union) == pytest.approx(1600 - 400, abs=0.5)


def test_an_outline_that_only_doubles_back_on_itself_holds_nothing_and_harms_nothing():
    body = '<path fill="#c03030" d="M5 5h20v20h-20zM40 40L50 50L40 40ZM30 5l4 0l4 0l-4 0z"/>'
    for own in (True, False):
        found = find_all(subject := drawn(body, own=own))
        assert len(subject.outline(subject.layers[0]).pieces.shapes) == 1
        assert all(with_sure_fixes(subject, found, finding).sentence for finding in found)
        assert mend_all(subject, found, found).findings is not None


def test_crossing_outlines_are_those_that_shapely_calls_invalid():
    """Validity of a polygon as GEOS has it (OGC Simple Features), on 200 random outlines."""
    crossed = 0
    for seed in range(200):
        points = np.random.default_rng(seed).uniform(5, 55, (int(seed % 5) + 4, 2))
        meant = shapely.Polygon(points)
        outline = "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in points) + "Z"
        found = kinds(find_all(drawn(f'<path fill="#c03030" d="{outline}"/>', own=seed % 2 == 0)))
        assert ("crossing" in found) is not bool(meant.is_valid), seed
        crossed += not meant.is_valid
    assert 50 < crossed < 199


def test_two_pieces_that_touch_at_a_point_leave_no_gap_there():
    assert "gap" not in kinds(find_all(drawn('<path fill="#c03030" d="M10 10L20 20L10 30ZM30 10L20 20L30 30Z"/>')))


def on_each_other(body: str, **limits):
    """The same drawing twice, red and blue on it; what blue gains, red gains."""
    two = drawn(body + body.replace("#c03030", "#2060a0"), **limits)
    return replace(two, carries=Beside({"#2060a0": ("#c03030",)}))


@pytest.mark.parametrize("kind", ["neck", "sharp", "small"])
def test_what_carried_layers_lie_on_gains_what_they_gain(kind):
    subject = on_each_other(SHOWN[kind])
    one = next(one for one in find_all(subject) if one.kind == kind and one.layer == "#2060a0")
    mend = next(fix for fix in one.fixes if fix.name in ("thicken", "round", "grow"))
    after = subject.mended(mend.mends)
    lower, upper = (after.outline(layer).union for layer in after.layers)
    assert shapely.area(upper) > shapely.area(subject.outline(subject.layers[1]).union)
    assert shapely.area(shapely.difference(upper, lower)) < 1e-3


def test_a_window_that_is_filled_is_filled_in_what_carries_it():
    subject = on_each_other(DONUT)
    after = subject.mended((FillWindow(layer="#2060a0", at=(30.0, 30.0)),))
    assert [len(layer.path.contours) for layer in after.layers] == [1, 1]
    after = subject.mended((FillWindow(layer="#c03030", at=(30.0, 30.0)),))  # what lies above stays
    assert [len(layer.path.contours) for layer in after.layers] == [1, 2]


def test_a_narrow_place_of_layers_that_carry_each_other_is_told_once_and_widened_in_all():
    subject = on_each_other(SHOWN["neck"])
    (neck,) = [one for one in find_all(subject) if one.kind == "neck"]
    assert neck.layer == "#2060a0" and "in Brick under it too" in neck.sentence
    finding = with_sure_fixes(subject, find_all(subject), neck)
    assert "neck" not in kinds(find_all(subject.mended(finding.fixes[0].mends)))


def test_a_narrow_place_is_told_below_where_what_lies_above_does_not_mend_it():
    layers = lambda one: {found.layer for found in find_all(one) if found.kind == "neck"}  # noqa: E731
    subject = on_each_other(SHOWN["neck"])
    assert layers(replace(subject, carries=Beside())) == {"#c03030", "#2060a0"}  # as in a file from elsewhere
    locked = replace(subject, origin=replace(subject.origin, locked=frozenset({"#2060a0"})))
    assert layers(locked) == {"#c03030", "#2060a0"}
    upper = subject.layers[1]
    finer = {**subject.limits[upper.key], "neck": 0.6}  # widened to less than the lower stock needs
    assert layers(replace(subject, limits={**subject.limits, upper.key: finer})) == {"#c03030", "#2060a0"}
    wider = SHOWN["neck"].replace("7.25", "7.15") + SHOWN["neck"].replace("#c03030", "#2060a0")
    assert layers(replace(drawn(wider), carries=subject.carries)) == {"#c03030", "#2060a0"}
    apart = on_each_other(SHOWN["neck"])
    upper = replace(apart.layers[1], path=apart.layers[1].path.moved(np.array([0.0, 20.0])))
    assert layers(replace(apart, layers=(apart.layers[0], upper))) == {"#c03030", "#2060a0"}


def test_what_is_finer_than_the_picture_in_layers_that_carry_each_other_is_told_once():
    fine = lambda one: [found.layer for found in find_all(one) if found.kind == "fine"]  # noqa: E731
    subject = on_each_other(SHOWN["neck"])
    coarse = replace(subject, origin=replace(subject.origin, px_per_mm=3.0))  # the neck is a pixel and a half wide
    assert fine(coarse) == ["#2060a0"] and sorted(fine(replace(coarse, carries=Beside()))) == ["#2060a0", "#c03030"]


def test_what_is_farthest_beyond_its_limit_comes_first_of_its_kind():
    thinner = "M5 35h15v7.2h10v-7.2h15v15h-15v-7.5h-10v7.5h-15z"
    necks = find_all(drawn(SHOWN["neck"] + f'<path fill="#2060a0" d="{thinner}"/>'))
    assert [round(one.measure, 2) for one in necks if one.kind == "neck"] == [0.3, 0.5]
    windows = "M6 6h3v3h-3zM20 6h9v9h-9z"
    body = f'<path fill="#c03030" fill-rule="evenodd" d="M2 2h50v30h-50z{windows}"/>'
    cover = '<path fill="#2060a0" d="M4 4h30v20h-30z"/>'
    areas = [one.measure for one in find_all(drawn(body + cover)) if one.kind == "hidden-window"]
    assert areas == pytest.approx([81, 9], abs=0.01)  # the more is hidden the worse


BOXES = {1: "M5 5h20v20h-20z", -1: "M5 5v20h20v-20z"}
HOLES = {1: "M10 10v5h5v-5z", -1: "M10 10h5v5h-5z"}


@pytest.mark.parametrize("rule", ["evenodd", "nonzero"])
@pytest.mark.parametrize("way", [1, -1])
def test_a_piece_of_a_file_that_is_mended_stays_a_piece_whichever_way_its_outlines_run(way, rule):
    body = f'<path fill="#c03030" fill-rule="{rule}" d="{BOXES[way]}{HOLES[way]}M40 20h1v1h-1z"/>'
    subject = drawn(body if way > 0 else body.replace("M40 20h1v1h-1z", "M40 20v1h1v-1z"), own=False)
    area = lambda one: shapely.area(one.outline(one.layers[0]).union)  # noqa: E731
    assert area(subject) == pytest.approx(376, abs=0.01)
    (small,) = [one for one in find_all(subject) if one.kind == "small"]
    after = subject.mended((next(fix for fix in small.fixes if fix.name == "grow")).mends)
    assert area(after) == pytest.approx(375 + 1.5**2 / 2, abs=0.2) and "small" not in kinds(find_all(after))
    opened = subject.mended((FillWindow(layer="#c03030", at=(12.0, 12.0)),))
    assert area(opened) == pytest.approx(401, abs=0.05)


@pytest.mark.parametrize("seed", range(8))
def test_what_is_mended_in_a_file_is_found_mended_when_it_is_read_back(seed):
    rng = np.random.default_rng(seed)
    names = rng.choice(sorted(NO_STOCK), 4, replace=False).tolist()
    turned = [f"translate({70 * place} 0) rotate({rng.integers(0, 360)} 30 30)" for place in range(4)]
    mirrored = ["", " translate(60 0) scale(-1 1)"]
    body = "".join(
        f'<g transform="{move}{mirrored[int(rng.integers(2))]}">{SHOWN[name]}</g>'
        for name, move in zip(names, turned, strict=True)
    )
    page = svg(body, width=280)
    subject = subject_of(read_svg(page.encode(), "a.svg"), None, (), Memory.new())
    found = find_all(subject)
    done = mend_all(subject, found, found)
    stack = stack_of(done.subject)
    assert all(layer.area > 0 for layer in stack.cuts)
    again = find_all(subject_of(read_svg(WRITER.write(page_of_layers(stack)), "b.svg"), None, (), Memory.new()))
    assert Counter(one.kind for one in again) == Counter(one.kind for one in done.findings)
    assert len(again) < len(found)


def test_a_thin_piece_within_one_ink_is_no_sliver():
    within = SHOWN["sliver"].replace("#207030", "#c03030")
    assert within != SHOWN["sliver"] and "sliver" not in kinds(find_all(drawn(within)))


def test_how_far_a_curve_lies_off_is_told_to_the_nearest_curve():
    """Edge samples beside a junction may lie on another curve than the one they were taken for."""
    body = (
        '<rect x="20" y="20" width="160" height="160" fill="#c03030"/><path d="M20 90L180 130V180H20Z" fill="#2060a0"/>'
        '<circle cx="110" cy="110" r="40" fill="#30a050"/>'
    )
    result = Pipeline(0).run(draw(body), Recipe().with_("finish", width=100.0).with_("trace", smoothness=1.0))
    finished = result.finished
    lines = shapely.union_all([
        shapely.linestrings(np.stack([bezier(control, share) for share in np.linspace(0, 1, 200)]))
        for control in finished.curves.segments
    ])  # fmt: skip
    arcs = np.arange(len(finished.curves.offset) - 1)
    told = measured_anew(finished.curves, finished.origin, finished.px_per_mm, arcs, close=0.0).deviation
    at = (told.place - finished.origin) / finished.px_per_mm
    true = shapely.distance(lines, shapely.points(at))
    before = finished.curves.deviation.away
    assert np.abs(told.away - np.minimum(before, true)).max() < 4e-3
    assert (before - told.away).max() > 0


def bezier(control: np.ndarray, share: float) -> np.ndarray:
    """A point of a cubic by de Casteljau's construction."""
    points = control
    while len(points) > 1:
        points = points[:-1] + share * (points[1:] - points[:-1])
    return points[0]
