import io
import json
import zipfile

import numpy as np
import pytest
from fontTools.pens.areaPen import AreaPen
from svgelements import SVG
from svgelements import Path as SvgPath

from sketchloom.core.errors import ArgumentError, Cancelled, JobError, NothingToCutError, WriteError
from sketchloom.core.job import (
    History,
    Job,
    Pipeline,
    Recipe,
    decode_recipe,
    encode_recipe,
    read_job,
    report_of,
    worst_place,
    write_job,
)
from sketchloom.core.layers import LayerRule
from sketchloom.core.send import write_all, write_whole
from tests.conftest import FOUR_INKS, check_svg, draw, picture_of, svg_text

PICTURE = draw(FOUR_INKS)
PLAIN = Recipe()


def run(recipe: Recipe = PLAIN, **options):
    return Pipeline(0).run(PICTURE, recipe, **options)


def area(path) -> float:
    pen = AreaPen()
    path.draw(pen)
    return abs(pen.value)


def test_each_layer_is_one_path_in_mm():
    result = run(Recipe().with_("finish", width=150.0))
    svg = SVG.parse(io.StringIO(svg_text(result.stack)))
    paths = [e for e in svg.elements() if isinstance(e, SvgPath)]
    assert len(paths) == 4
    assert svg_text(result.stack).startswith('<?xml version="1.0" encoding="UTF-8"?>\n<svg ')
    assert 'width="150mm" height="150mm" viewBox="0 0 150 150"' in svg_text(result.stack)


def test_the_written_width_is_exact_on_either_page():
    for page in ("design", "picture"):
        result = run(Recipe().with_("finish", width=123.4, page=page))
        assert result.stack.size[0] == 123.4
    xs = [layer.path.bounds for layer in run(Recipe().with_("finish", width=123.4)).stack.layers]
    assert min(b[0] for b in xs) == pytest.approx(0, abs=2e-3)
    assert max(b[2] for b in xs) == pytest.approx(123.4, abs=2e-3)


def test_a_set_height_gives_the_width():
    result = run(Recipe().with_("finish", height=80.0))
    assert result.stack.size == pytest.approx((80.0, 80.0), abs=0.05)


def test_without_a_size_96_px_are_an_inch():
    result = run(Recipe().with_("finish", page="picture"))
    assert result.stack.size[0] == pytest.approx(200 * 25.4 / 96, abs=1e-3)  # CSS Values 3: 1in = 96px


def test_flush_areas_are_those_of_the_shapes():
    result = run(Recipe().with_("finish", page="picture", width=200.0))
    by_hex = {layer.ink.hex: layer for layer in result.stack.layers}
    # circle and triangle formulas; the ellipse lies partly on the triangle's ink border, so it is left out
    assert by_hex["#8e2a5b"].area + by_hex["#4f8a4b"].area + by_hex["#f2e6cf"].area == pytest.approx(
        np.pi * 60**2, rel=2e-3
    )
    for layer in result.stack.layers:
        assert area(layer.path) == pytest.approx(layer.area, rel=1e-6)


def test_a_carried_layer_is_its_own_and_all_above():
    flush = run()
    whole = tuple(LayerRule(layer.key, islands=True) for layer in flush.stack.layers)
    carried = run(Recipe().with_("layers", build="carried", rules=whole))
    above = 0.0
    for one, other in zip(reversed(flush.stack.layers), reversed(carried.stack.layers), strict=True):
        above += one.area
        assert other.area == pytest.approx(above, rel=1e-6)
        assert one.ink == other.ink
    # common practice: the bottom layer is the whole silhouette
    assert carried.stack.layers[0].pieces == 1
    single = run(Recipe().with_("layers", build="single"))
    assert single.stack.layers[0].area == pytest.approx(above, rel=1e-6)


def test_the_order_of_layers_can_be_set():
    result = run(Recipe().with_("layers", order=("#8e2a5b", "#3a2a33"), build="carried"))
    assert [layer.ink.hex for layer in result.stack.layers][-1] == "#3a2a33"


def test_loose_pieces_are_those_beyond_the_first():
    body = "".join(f'<circle cx="{x}" cy="100" r="15" fill="#205080"/>' for x in (40, 100, 160))
    layer = Pipeline(0).run(draw(body), Recipe()).stack.layers[0]
    assert (layer.pieces, layer.loose) == (3, 2)


def test_same_picture_and_recipe_give_the_same_bytes(tmp_path):
    texts = {svg_text(run(Recipe().with_("finish", width=90.0)).stack) for _ in range(2)}
    assert len(texts) == 1
    job = Job("Test", "a.png", b"data", Recipe())
    for name in ("one.loom", "two.loom"):
        write_job(tmp_path / name, job, b"<svg/>", b"png")
    assert (tmp_path / "one.loom").read_bytes() == (tmp_path / "two.loom").read_bytes()


def test_a_change_recomputes_its_stage_and_below_only():
    pipeline = Pipeline()
    pipeline.run(PICTURE, Recipe())
    again = pipeline.run(PICTURE, Recipe())
    assert set(again.timings.values()) == {0.0}
    smoother = pipeline.run(PICTURE, Recipe().with_("trace", smoothness=0.2))
    below = {"trace", "hand", "finish", "centre lines", "layers", "mended", "order", "slip"}
    assert {name for name, s in smoother.timings.items() if s} == {"bounds", *below}
    carried = pipeline.run(PICTURE, Recipe().with_("layers", build="carried"))
    assert {name for name, s in carried.timings.items() if s} == {
        "sets",
        "centre lines",
        "layers",
        "mended",
        "order",
        "slip",
    }


def test_remembered_stages_give_what_a_fresh_run_gives():
    other = draw('<circle cx="90" cy="80" r="50" fill="#205080"/>')
    changes = [
        (),
        (("trace", {"smoothness": 0.2}),),
        (("trace", {"corner": 60.0}),),
        (("layers", {"build": "carried"}),),
        (("layers", {"order": ("#3a2a33",)}), ("separate", {"names": (("#3a2a33", "Plate"),)})),
        (("separate", {"inks": 2}), ("trace", {"smoothness": 0.2})),
        (("tidy", {"least_area": 30.0}),),
        (("finish", {"width": 70.0}),),
    ]
    warm, cold = Pipeline(), Pipeline(0)
    for picture in (PICTURE, other, PICTURE):
        for change in changes:
            recipe = Recipe()
            for part, values in change:
                recipe = recipe.with_(part, **values)
            for preview in (False, True):
                texts = {svg_text(pipe.run(picture, recipe, preview=preview).stack) for pipe in (warm, cold)}
                assert len(texts) == 1
    assert cold.bytes_kept == 0


def test_the_cache_keeps_to_its_limit():
    pipeline = Pipeline(cache_bytes=2_000_000)
    for inks in (1, 2, 3, 4):
        pipeline.run(PICTURE, Recipe().with_("separate", inks=inks))
        assert pipeline.bytes_kept <= 2_000_000


def test_a_run_can_be_cancelled_at_any_report():
    for stop_at in range(0, 12, 3):
        reports = []

        def progress(stage, done, reports=reports, stop_at=stop_at):
            reports.append(stage)
            if len(reports) > stop_at:
                raise Cancelled

        with pytest.raises(Cancelled):
            run(progress=progress)


def test_a_preview_keeps_the_decisions_of_the_full_picture():
    picture = draw(FOUR_INKS, 1000, 200)
    pipeline = Pipeline()
    recipe = Recipe().with_("finish", width=100.0).with_("separate", inks=3)
    full, preview = pipeline.run(picture, recipe), pipeline.run(picture, recipe, preview=True)
    assert preview.reduction < 1
    assert [layer.ink for layer in preview.stack.layers] == [layer.ink for layer in full.stack.layers]
    assert preview.stack.size == pytest.approx(full.stack.size, abs=0.2)
    for one, other in zip(preview.stack.layers, full.stack.layers, strict=True):
        assert one.area == pytest.approx(other.area, rel=0.01)
    assert pipeline.run(picture, Recipe(), preview=True).stack.size == pytest.approx(
        pipeline.run(picture, Recipe()).stack.size, abs=0.5
    )


def test_all_ground_is_nothing_to_cut():
    white = picture_of(np.full((20, 20, 3), 255, np.uint8))
    with pytest.raises(NothingToCutError):
        Pipeline(0).run(white, Recipe())
    kept = Pipeline(0).run(white, Recipe().with_("separate", ground="keep").with_("finish", page="picture"))
    assert kept.stack.layers[0].area == pytest.approx((20 * 25.4 / 96) ** 2, rel=1e-3)


def test_a_single_pixel_runs():
    one = picture_of(np.full((1, 1, 3), 90, np.uint8))
    result = Pipeline(0).run(one, Recipe().with_("separate", ground="keep").with_("tidy", least_area=0.0))
    assert result.stack.layers[0].path.nodes == 4


def test_values_out_of_range_are_named():
    for stage, change in (
        ("separate", {"inks": 0}),
        ("separate", {"threshold": 1.5}),
        ("trace", {"smoothness": -1.0}),
        ("tidy", {"least_area": float("nan")}),
        ("finish", {"width": 0.0}),
    ):
        with pytest.raises(ArgumentError):
            run(Recipe().with_(stage, **change))


def test_a_recipe_survives_json():
    recipe = Recipe().with_("separate", inks=3).with_("layers", order=("#112233",)).with_("finish", width=152.4)
    assert decode_recipe(encode_recipe(recipe), "r.json") == recipe
    for data in (
        b"",
        b"{}",
        b'{"version": 1, "recipe": {"trace": {"smoothness": "x"}}}',
        b'{"version": 99, "recipe": {}}',
    ):
        with pytest.raises(JobError):
            decode_recipe(data, "r.json")


def test_a_job_file_survives_and_a_damaged_one_says_so(tmp_path):
    job = Job("Fair", "../../bad name.png", b"\x00\x01", Recipe().with_("separate", inks=2))
    path = tmp_path / "fair.loom"
    write_job(path, job, b"<svg/>", b"png")
    again = read_job(path)
    assert (again.picture, again.recipe, again.picture_name) == (b"\x00\x01", job.recipe, "bad name.png")
    with zipfile.ZipFile(path) as archive:
        assert sorted(archive.namelist()) == ["job.json", "layers.svg", "pictures/bad name.png", "preview.png"]
        assert json.loads(archive.read("job.json"))["version"] == 4
    data = path.read_bytes()
    for broken in (data[: len(data) // 2], b"", b"PK\x03\x04", data[:-30]):
        path.write_bytes(broken)
        with pytest.raises(JobError):
            read_job(path)


def test_files_are_written_all_or_not_at_all(tmp_path):
    (tmp_path / "a.svg").write_text("old")
    with pytest.raises(WriteError):
        write_all({tmp_path / "a.svg": b"new", tmp_path / "no" / "b.svg": b"new"})
    assert (tmp_path / "a.svg").read_text() == "old"
    assert [p.name for p in tmp_path.iterdir()] == ["a.svg"]
    with pytest.raises(WriteError):
        write_whole(tmp_path, b"")


def test_a_wrong_svg_is_not_called_sent():
    stack = run().stack
    text = svg_text(stack)
    check_svg(text, stack)
    with pytest.raises(WriteError):
        check_svg(text.replace("M", "M9", 1), stack)
    with pytest.raises(WriteError):
        check_svg(text, stack, stack.layers[:1])


def test_history_undoes_a_gesture_as_one_step():
    history = History(Recipe())
    for smoothness in (0.1, 0.2, 0.3):
        history.push("Smoothness", Recipe().with_("trace", smoothness=smoothness), gesture=7)
    history.push("Inks", history.recipe.with_("separate", inks=2))
    assert history.undo_name == "Inks"
    assert history.undo()
    assert history.recipe.trace.smoothness == 0.3
    assert history.undo()
    assert history.recipe == Recipe()
    assert not history.undo()
    assert history.redo()
    assert history.redo_name == "Inks"
    history.push("Other", Recipe().with_("separate", inks=5))
    assert history.redo_name is None


def test_history_takes_back_and_makes_again_what_was_done_beside_the_recipe():
    history, shelf = History(Recipe()), ["b"]
    history.push("Inks", Recipe().with_("separate", inks=2))
    history.push_beside("Stock", lambda: shelf.remove("b"), lambda: shelf.append("b"))
    assert history.undo_name == "Stock" and history.recipe.separate.inks == 2
    assert history.undo() and shelf == [] and history.recipe.separate.inks == 2
    assert history.undo() and history.recipe == Recipe() and not history.undo()
    assert history.redo() and history.redo() and shelf == ["b"] and not history.redo()
    history.undo()
    history.push("Other", Recipe().with_("separate", inks=5))
    assert not history.redo() and shelf == []


@pytest.mark.parametrize("quarters", [0, 1, 2, 3])
def test_the_worst_place_is_the_farthest_sample_of_any_edge_but_the_frame(quarters):
    corner = draw(
        '<ellipse cx="0" cy="0" rx="120" ry="60" fill="#3a2a33"/><circle cx="150" cy="150" r="30" fill="#8e2a5b"/>'
    )
    recipe = Recipe().with_("trace", smoothness=1.5).with_("separate", ground="keep")
    result = Pipeline(0).run(picture_of(np.rot90(corner.rgba, quarters)), recipe)
    planar, deviation = result.planar, result.curves.deviation
    farthest, at = -1.0, None
    for arc in range(len(planar.tail)):
        if 0 in (planar.left[arc], planar.right[arc]):
            continue  # beyond the frame lies no picture
        for sample in range(deviation.offset[arc], deviation.offset[arc + 1]):
            if deviation.away[sample] > farthest:
                farthest, at = deviation.away[sample], deviation.place[sample]
    assert worst_place(result) == pytest.approx(tuple(at / 200), abs=1e-6)
    assert report_of(result)["deviation_mm"]["largest"] == pytest.approx(
        deviation.largest[(planar.left > 0) & (planar.right > 0)].max() / result.finished.px_per_mm, abs=1e-4
    )


def test_the_report_adds_up():
    report = report_of(run(Recipe().with_("finish", width=100.0)))
    assert report["size_mm"][0] == 100.0
    assert report["pieces"] == sum(layer["pieces"] for layer in report["palette"])
    assert report["nodes"] == sum(layer["nodes"] for layer in report["palette"])
    assert 0 < report["deviation_mm"]["mean"] < report["deviation_mm"]["largest"] < 1
    assert {"tones", "map", "edges", "trace", "layers"} <= set(report["timings_s"])


def test_a_history_is_listed_and_jumped_in_with_what_lies_outside_the_recipe():
    history, shelf = History(Recipe()), ["old"]
    assert history.changes == () and history.place == 0 and not history.jump(0) and not history.jump(1)
    first = Recipe().with_("finish", width=50.0)
    history.push("Width", first)
    shelf[0] = "new"
    history.push_beside("Stock changed", lambda: shelf.__setitem__(0, "old"), lambda: shelf.__setitem__(0, "new"))
    history.push("Way of building", first.with_("layers", build="carried"))
    history.push("Behind", history.recipe.with_("look", behind=(1, 2, 3)))
    assert history.changes == (("Width", "size"), ("Stock changed", ""), ("Way of building", "layers"),
                               ("Behind", "layers"))  # fmt: skip
    assert history.jump(1) and history.recipe == first and shelf == ["old"] and history.place == 1
    assert history.jump(4) and history.recipe.look.behind == (1, 2, 3) and shelf == ["new"]
    assert history.jump(0) and history.recipe == Recipe() and len(history.changes) == 4
    assert not history.jump(5) and not history.jump(-1) and history.place == 0
    history.push("Other", Recipe().with_("finish", width=9.0))
    assert [change.name for change in history.changes] == ["Other"]  # what came after is gone, as was told
