"""Stages are declared once: what they need, what they hang on; results may be partial, and are remembered rightly."""

from pathlib import Path

import numpy as np
import pytest

import sketchloom
from sketchloom.core.errors import ArgumentError, Cancelled, NothingToCutError
from sketchloom.core.job import (
    STAGES,
    STEP_OF_STAGE,
    Pipeline,
    Recipe,
    inspect_source,
    report_of,
)
from sketchloom.core.job.memo import Memo
from sketchloom.core.job.stages import ENDS
from sketchloom.core.layers import LayerRule, TakePiece, WidenAlong
from sketchloom.core.picture import Calm, Crop, Enlarge, MirrorHalf, Picture, Turn, source_points
from sketchloom.core.regions import Pick
from tests.conftest import FOUR_INKS, draw, picture_of, svg_text

BEET, LEAF = "#8e2a5b", "#4f8a4b"
CIRCLE = '<circle cx="150" cy="150" r="30" fill="#205080"/>'


def test_every_stage_needs_only_stages_and_no_circle():
    roads = ("flat", "ink", "lineart", "photo")
    recipe = Recipe().with_("finish", width=10.0).with_("separate", gap=1.0)
    for road in roads:
        done: set[str] = set()

        def reach(name, above=(), road=road, done=done):
            assert name in STAGES and name not in above, (name, above)
            needs = STAGES[name].needs
            for need in needs if isinstance(needs, tuple) else needs(recipe, lambda: road):
                reach(need, (*above, name))
            done.add(name)

        for name in STAGES:
            reach(name)
    steps = {file.parent.name for file in (Path(sketchloom.__file__).parent / "app" / "steps").glob("*/step.py")}
    assert {STEP_OF_STAGE[name] for name in STAGES} <= steps


def test_a_stage_that_no_other_needs_is_asked_for_by_itself():
    beside = {"narrowest", "checked", "sheets"}
    assert {"choices", "order", "slip", *beside} <= set(ENDS) and not {"kind", "extent", "scale", "drawing"} & set(ENDS)
    result = Pipeline(0).run(draw(FOUR_INKS), Recipe())
    assert result.has(*(name for name in ENDS if name not in beside))
    assert not any(result.has(name) for name in beside)  # measured, checked and laid beside the work


def test_a_stage_asks_only_for_what_it_says_that_it_needs(monkeypatch):
    stage = STAGES["layers"]._replace(needs=("map", "finish", "sets", "picture"))
    monkeypatch.setitem(STAGES, "layers", stage)
    with pytest.raises(LookupError, match="does not say that it needs “centre lines”"):
        Pipeline(0).run(draw(FOUR_INKS), Recipe())


def test_a_stage_that_fails_leaves_those_above_it_standing():
    picture = draw(CIRCLE, 300)
    result = Pipeline(0).results(picture, Recipe().with_("separate", grounded=("#205080",)))
    assert result.failure is not None and result.failure.stage == "extent"
    assert isinstance(result.failure.error, NothingToCutError)
    assert [ink.key for ink in result.palette.grounded] == ["#205080"]
    assert result.choices == (None, None) and not result.has("layers")
    with pytest.raises(LookupError, match="was not reached"):
        result.stack  # noqa: B018
    whole = Pipeline(0).run(picture, Recipe())
    kept = result.over(whole)
    assert kept.stack is whole.stack and kept.palette == result.palette


@pytest.mark.parametrize(
    ("part", "change", "step"),
    [
        ("separate", {"inks": 0}, "separate"),
        ("tidy", {"least_area": -1.0}, "tidy"),
        ("trace", {"smoothness": -1.0}, "trace"),
        ("layers", {"order": ("beet",)}, "layers"),
        ("finish", {"width": -1.0}, "separate"),
    ],
)
def test_a_setting_that_cannot_be_used_fails_at_its_own_step(part, change, step):
    failure = Pipeline(0).results(draw(CIRCLE, 300), Recipe().with_(part, **change)).failure
    assert failure is not None and isinstance(failure.error, ArgumentError)
    assert STEP_OF_STAGE[failure.stage] == step
    assert failure.sentence == str(failure.error) and failure.details == ""


def test_results_are_asked_for_by_name_and_nothing_more_is_worked_out():
    result = Pipeline(0).run(draw(FOUR_INKS), Recipe(), names=("inks",))
    assert result.has("tones", "ground") and not result.has("labels")
    assert set(result.timings) == {
        "prepare",
        "restored",
        "picture",
        "kind",
        "road",
        "colours",
        "tones",
        "ground",
        "inks",
    }


def test_one_scale_goes_to_every_stage_and_preview():
    picture = draw(CIRCLE, 400)  # the circle is 60 px across
    for page, px_per_mm in (("design", 1.0), ("picture", 400 / 60)):
        recipe = Recipe().with_("finish", width=60.0, page=page)
        result = Pipeline(0).run(picture, recipe)
        assert result.scale.px_per_mm == pytest.approx(px_per_mm)
        assert result.finished.px_per_mm == pytest.approx(px_per_mm, rel=0.01)
        detail = Pipeline(0).run(picture, recipe.with_("separate", mode="photo", detail=2.0))
        assert detail.scale.px_per_mm == pytest.approx(px_per_mm, rel=0.05)
    large = draw(CIRCLE, 560, 400)
    for mode in ("flat", "photo", "lineart"):
        recipe = Recipe().with_("finish", width=60.0).with_("separate", mode=mode, gap=2.0)
        full, preview = (Pipeline(0).run(large, recipe, preview=reduced) for reduced in (False, True))
        assert preview.reduction < 1
        assert preview.scale.px_per_mm == pytest.approx(full.scale.px_per_mm * preview.reduction, rel=1e-9)


def test_a_photo_and_its_preview_have_detail_of_one_size():
    y, x = np.mgrid[0:600, 0:600]
    light = 128 + 100 * np.sin(x / 9) * np.sin(y / 9)
    picture = picture_of(np.repeat(light.astype(np.uint8)[..., None], 3, 2))
    recipe = Recipe().with_("separate", mode="photo", ground="keep", detail=1.0)
    recipe = recipe.with_("finish", width=60.0, page="picture").with_("tidy", least_area=0.0)
    full, preview = (Pipeline(0).run(picture, recipe, preview=reduced) for reduced in (False, True))
    pieces = [sum(layer.pieces for layer in result.stack.layers) for result in (full, preview)]
    assert pieces[1] == pytest.approx(pieces[0], rel=0.1)


def test_an_enlarged_picture_stays_as_large():
    picture = draw(CIRCLE, 300)
    plain = Pipeline(0).run(picture, Recipe())
    enlarged = Pipeline(0).run(picture, Recipe(prepare=(Enlarge(times=2),)))
    assert enlarged.stack.size == pytest.approx(plain.stack.size, rel=0.01)
    assert enlarged.scale == plain.scale and enlarged.reduction == 0.5  # it is worked at the size it has detail for
    assert enlarged.prepared.picture.width == 600


def test_a_typed_width_runs_only_what_hangs_on_mm_again():
    picture, pipeline = draw(FOUR_INKS, 600, 200), Pipeline()
    pipeline.run(picture, Recipe().with_("finish", width=100.0))
    again = pipeline.run(picture, Recipe().with_("finish", width=104.0))
    fresh = {name for name, spent in again.timings.items() if spent}
    assert not fresh & {"prepare", "kind", "colours", "tones", "inks", "labels", "map", "edges", "tracks", "sets"}
    assert {"scale", "tidy", "finish", "layers"} <= fresh
    more = pipeline.run(picture, Recipe().with_("separate", inks=3).with_("finish", width=104.0))
    assert not {name for name, spent in more.timings.items() if spent} & {"colours", "ground"}


CHANGES = {
    "prepare": Recipe(prepare=(Crop(first=(0.1, 0.1), last=(0.9, 0.8)), Turn(quarters=1), Calm(radius=0.004))),
    "rows": Recipe(prepare=(Crop(first=(0.1, 0.1), last=(0.9, 0.8)), Turn(mirror=True))),
    "enlarged": Recipe(prepare=(Enlarge(times=2),)),
    "picks": Recipe().with_("separate", picks=(Pick((0.5, 0.75)), Pick((0.2, 0.2), to=BEET))),
    "recolour": Recipe().with_("separate", shown=((BEET, (1, 2, 3)),), names=((LEAF, "Felt"),)),
    "joined": Recipe().with_("separate", joined=((LEAF, BEET),), locked=(BEET,)),
    "grounded": Recipe().with_("separate", grounded=(LEAF,)),
    "photo": Recipe().with_("separate", mode="photo", inks=3).with_("finish", width=50.0),
    "colours": Recipe().with_("separate", mode="photo", steps_by="colour", inks=5),
    "lineart": Recipe().with_("separate", mode="lineart", gap=1.0).with_("finish", width=80.0),
    "ink": Recipe().with_("separate", mode="ink", threshold=0.6),
    "more inks": Recipe().with_("separate", inks=12),
    "lines": Recipe().with_("layers", rules=(LayerRule(BEET, None, True), LayerRule(LEAF, "carried"))),
    "kept": Recipe().with_("separate", ground="keep").with_("tidy", least_area=40.0),
    "mends": Recipe().with_(
        "checks",
        mends=(
            WidenAlong(layer=BEET, lines=(((0.4, 0.5), (0.6, 0.5)),), width=4.0),
            TakePiece(layer=LEAF, at=(0.5, 0.75)),
        ),
    ),
    "straight": Recipe().with_("trace", square=3.0, mirror=0.5, straightness=0.2),
}


def test_what_is_remembered_is_what_a_fresh_run_gives_whatever_changed_before(monkeypatch):
    for room in ("pipeline", "stages.prepare"):  # so that a small picture has a preview of its own
        monkeypatch.setattr(f"sketchloom.core.job.{room}.PREVIEW_PIXELS", 16_000)
    pictures = draw(FOUR_INKS, 170, 200), draw('<circle cx="90" cy="80" r="50" fill="#8e2a5b"/>', 170, 200)
    warm, fresh = Pipeline(), {}
    for place in (0, 1, 0):
        for name, recipe in CHANGES.items():
            for preview in (False, True):
                which = place, name, preview
                if which not in fresh:
                    fresh[which] = svg_text(Pipeline(0).run(pictures[place], recipe, preview=preview).stack)
                assert svg_text(warm.run(pictures[place], recipe, preview=preview).stack) == fresh[which]


def test_a_pick_on_a_picture_that_was_mirrored_is_found_where_it_was_made():
    """Mirroring symmetric art gives the same pixels at other places of the source."""
    size = 'y="60" width="60" height="80" fill="#205080"'
    picture = draw(f'<rect x="20" {size}/><rect x="120" {size}/>', 200)
    at = source_points(picture, np.array([[50.0, 100.0]]))[0]
    picked = Recipe().with_("separate", picks=(Pick(at),))
    mirrored = Recipe(prepare=(Turn(mirror=True),)).with_("separate", picks=(Pick(at),))
    warm = Pipeline()
    for recipe in (picked, mirrored, picked):
        fresh = Pipeline(0).run(picture, recipe).regions.labels
        assert np.array_equal(warm.run(picture, recipe).regions.labels, fresh)


def test_memory_keeps_so_many_results_and_those_that_were_asked_for_last(monkeypatch):
    monkeypatch.setattr("sketchloom.core.job.memo._MOST", 5)
    memo = Memo(10_000)
    for number in range(9):
        memo.get(f"{number}", lambda number=number: np.full(10, number, np.uint8))
        assert not memo.get("0", lambda: np.zeros(1))[1]  # what is asked for all the time stays
    fresh = [memo.get(f"{number}", lambda: np.zeros(10, np.uint8))[1] for number in (8, 7, 6, 5, 0)]
    assert fresh == [False] * 5 and memo.bytes_kept == 50
    assert memo.get("4", lambda: np.zeros(10, np.uint8))[1]


def test_memory_counts_an_array_once_however_many_results_hold_it():
    memo, block = Memo(10_000), np.zeros(1000, np.uint8)
    for name in "abcde":
        memo.get(name, lambda: (block, block[:10]))
    assert 1000 <= memo.bytes_kept < 2000
    memo.get("f", lambda: np.zeros(9000, np.uint8))
    assert memo.bytes_kept <= 10_000
    assert memo.get("f", lambda: None)[1] is False
    big = Memo(100)
    assert big.get("x", lambda: np.zeros(1000))[1] and big.bytes_kept == 0


def test_what_a_pipeline_keeps_is_no_more_than_it_counts():
    pipeline, picture = Pipeline(), draw(FOUR_INKS, 800, 200)
    pipeline.run(picture, Recipe())
    seen: dict[int, int] = {}
    for value, _ in pipeline._memo._kept.values():
        from sketchloom.core.job.memo import _parts

        seen |= dict(_parts(value, set()))
    assert pipeline.bytes_kept == sum(seen.values())


def test_a_stage_that_finished_before_a_cancel_is_kept():
    pipeline, picture = Pipeline(), draw(FOUR_INKS, 400, 200)

    def stop(stage, done):
        if stage == "colours" and done == 1.0:
            raise Cancelled

    with pytest.raises(Cancelled):
        pipeline.run(picture, Recipe(), stop)
    assert pipeline.run(picture, Recipe()).timings["colours"] == 0


HOUSE = (
    '<g fill="none" stroke="#101014" stroke-width="2.2"><path d="M40 100H160V180H40Z"/>'
    '<path d="M30 100L100 40L170 100Z"/><path d="M80 180V130H115V180"/></g>'
)


@pytest.mark.parametrize(
    ("body", "kind", "mode"), [(HOUSE, "lineart", "ink"), (FOUR_INKS, "flat", "flat")], ids=["line art", "flat art"]
)
def test_the_kind_is_one_thing_to_inspect_and_to_trace(body, kind, mode):
    picture = draw(body, 600, 200)
    source = inspect_source(picture)
    result = Pipeline(0).run(picture, Recipe(), names=("kind", "choices", "mended"))
    told = report_of(result)
    assert (source.kind, source.mode) == (told["kind"], told["mode"]) == (kind, mode)
    assert source.inks == len(result.palette.cut)
    chosen = Pipeline(0).run(picture, Recipe().with_("separate", mode="photo"), names=("kind", "choices", "mended"))
    assert (report_of(chosen)["kind"], report_of(chosen)["mode"]) == (kind, "photo")
    if kind == "lineart":
        assert "until colouring in is asked for" in told["why"]


def test_the_key_of_a_picture_tells_where_it_lies():
    rgba = draw(FOUR_INKS).rgba
    one, other = Picture(rgba), Picture(rgba.copy(), to_source=np.diag([0.1, 0.1, 1.0]))
    assert one.key == Picture(rgba.copy()).key != other.key


def test_a_mirrored_half_keeps_its_size_in_the_source():
    row = MirrorHalf(first=(0.5, 0), last=(0.5, 1), keep=(0.2, 0.5))
    result = Pipeline(0).run(draw(FOUR_INKS), Recipe(prepare=(row,)))
    assert result.prepared.picture.density == 1.0


def test_the_report_tells_the_least_area_that_is_set_now():
    """A change of it that takes nothing more leaves every stage below as it is remembered, but not this figure."""
    pipeline, picture = Pipeline(), draw(FOUR_INKS)
    sizes = [Recipe().with_("finish", width=100.0).with_("tidy", least_area=least) for least in (4.0, 5.0)]
    used = [report_of(pipeline.run(picture, recipe))["least_piece_px"]["used"] for recipe in sizes]
    assert used[1] == pytest.approx(used[0] * 5 / 4, rel=1e-2)
