"""Layers from the command line to the written file and back: every flag, warm and cold."""

import itertools
import json

import numpy as np
import pytest
import shapely
from PIL import Image
from svgelements import SVG, Rect
from svgelements import Path as SvgPath

from sketchloom.cli.main import main
from sketchloom.core.job import Pipeline, read_job
from sketchloom.core.picture import load_picture
from sketchloom.core.send import SVG as WRITER
from sketchloom.core.send import page_of_layers
from sketchloom.core.stock import GENERIC, STOCKS, Stock
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def png(tmp_path):
    path = tmp_path / "harvest_plate.png"
    Image.fromarray(draw(FOUR_INKS, 400, 200).rgba).save(path)
    return path


@pytest.fixture
def trace(png, tmp_path):
    """Trace with flags; gives the report and the layers as polygons, read back by svgelements and even-odd."""

    def run(*words):
        out, report, job = tmp_path / "a.svg", tmp_path / "a.json", tmp_path / "a.loom"
        given = ["trace", png, "-o", out, "--report", report, "--save-job", job, "--width", "160mm", *words]
        assert main([*map(str, given)]) == 0
        told = json.loads(report.read_text())
        picture = load_picture(png.read_bytes(), png.name)
        warm = Pipeline()
        for pipeline in (Pipeline(0), warm, warm):  # the job gives the same bytes, cold and warm
            made = pipeline.run(picture, read_job(job).recipe).stack
            assert WRITER.write(page_of_layers(made.cuts)) == out.read_bytes()
        return told, polygons(out)

    return run


def polygons(file) -> dict:
    """Layers by their ids, flattened finely by svgelements' own arithmetic."""
    found = {}
    svg = SVG.parse(str(file), ppi=25.4)
    for group in svg:
        for path in (element for element in group if isinstance(element, SvgPath)):
            shape = shapely.Polygon()
            for sub in path.as_subpaths():
                steps = [step for step in SvgPath(sub) if type(step).__name__ != "Move"]
                points = np.concatenate([np.array(step.npoint(np.linspace(0, 1, 60))) for step in steps])
                shape = shapely.symmetric_difference(shape, shapely.make_valid(shapely.Polygon(points)))
            found[group.id] = shape
    return found


def keys(report) -> list[str]:
    return [entry["key"] for entry in report["palette"]]


def test_the_report_tells_all_of_each_layer(trace):
    report, shapes = trace("--build", "carried", "--stock", "card")
    assert [layer["id"] for layer in report["layers"]] == list(shapes)
    for layer in report["layers"]:
        shape = shapes[layer["id"]]
        assert layer["area_mm2"] == pytest.approx(shape.area, rel=1e-3)
        assert layer["cut_length_mm"] == pytest.approx(shape.length, rel=1e-3)
        assert layer["pieces"] == len(shapely.get_parts(shape))
        assert layer["loose"] == layer["pieces"] - 1 and layer["stock"] == "Card"
        assert layer["narrowest_mm"] > 0 and layer["inks"] == [layer["key"]]
    below = shapely.Polygon()
    for shape in shapes.values():  # the plate is the lowest: all lies on it
        assert below.is_empty or shapely.difference(shape, below.buffer(0.01)).area < 0.01
        below = below.union(shape)
    assert {"kind", "pieces", "nodes", "timings_s", "palette"} <= report.keys()


def test_an_order_by_keys_and_the_best_one(trace):
    plain, _ = trace("--build", "carried")
    turned = keys(plain)[::-1]
    report, shapes = trace("--build", "carried", "--order", ",".join(turned))
    assert [layer["key"] for layer in report["layers"]] == turned == report["order"]["present"]["inks"]
    best, shapes = trace("--build", "carried", "--order", "best")
    order = best["order"]["best"]
    assert [layer["key"] for layer in best["layers"]] == order["inks"]
    assert order["cost"] <= min(plain["order"]["present"]["cost"], report["order"]["present"]["cost"])
    assert order["loose"] == sum(layer["loose"] for layer in best["layers"])
    assert order["cut_length_mm"] == pytest.approx(sum(shape.length for shape in shapes.values()), rel=1e-3)
    assert order["area_mm2"] == pytest.approx(sum(shape.area for shape in shapes.values()), rel=1e-3)
    assert order["cost"] == pytest.approx(
        order["loose"] + order["cut_length_mm"] / 1000 + order["area_mm2"] / 10_000, abs=1e-3
    )
    pinned, _ = trace("--build", "carried", "--order", "best", "--pin", f"{order['inks'][0]}=top")
    assert pinned["layers"][-1]["key"] == order["inks"][0]


def test_a_backed_stack_with_rim_gap_colour_and_stiffeners(trace):
    report, shapes = trace(
        "--build", "backed", "--rim", "1.5mm", "--rim-gap", "0.5mm", "--base-colour", "#ffee00", "--stiffeners", "1",
        "--corners", "mitred", "--stock", "base=board", "--stock", "adhesive vinyl",
    )  # fmt: skip
    assert [layer["key"] for layer in report["layers"][:2]] == ["base", "base+1"]
    assert report["layers"][0]["colour"] == "#9a948a" or report["layers"][0]["stock"] == "Grey board"
    assert {layer["stock"] for layer in report["layers"][2:]} == {"Adhesive vinyl"}
    assert all(layer["loose"] == 0 for layer in report["layers"][2:])
    base, *others = shapes.values()
    every = shapely.union_all(others[1:])
    assert shapely.difference(every, base).area < 1e-3
    # the plate is a square of 160 mm: mitred it grows to 163, and the page with it
    assert base.area == pytest.approx(163.0**2, rel=1e-3)
    assert report["size_mm"] == pytest.approx([163.0, 163.0], abs=0.05)


def test_a_stencil_is_cut_out_of_a_sheet_with_a_margin(trace):
    flat, _ = trace()
    report, shapes = trace("--build", "stencil", "--margin", "20mm")
    (sheet,) = shapes.values()
    width, height = report["size_mm"]
    assert (width, height) == pytest.approx([side + 40 for side in flat["size_mm"]], abs=0.01)
    cut = sum(layer["area_mm2"] for layer in flat["layers"])
    assert sheet.area + cut == pytest.approx(width * height, rel=1e-4)
    assert sheet.bounds == pytest.approx((0, 0, width, height))


def test_slip_and_overlap_are_told(trace):
    report, _ = trace("--slip", "0.5mm")
    assert report["slip"]["gaps"] > 0 and report["slip"]["area_mm2"] > 1
    hidden, shapes = trace("--slip", "0.5mm", "--overlap", f"{report['slip']['overlap_mm']}mm")
    assert hidden["slip"]["gaps"] == 0
    auto, same = trace("--slip", "0.5mm", "--overlap", "auto")
    assert auto["slip"]["gaps"] == 0
    for one, other in zip(shapes.values(), same.values(), strict=True):
        assert one.area == pytest.approx(other.area, rel=1e-3)


def test_hidden_windows_are_counted_and_not_cut(trace):
    plain, _ = trace()
    first = keys(plain)[0]
    report, cut = trace("--build", "carried", "--layer", f"{first}=flush")
    assert report["hidden_windows"] > 0
    filled, whole = trace("--build", "carried", "--layer", f"{first}=flush", "--fill-windows")
    assert filled["hidden_windows"] == 0
    saved = sum(shape.length for shape in cut.values()) - sum(shape.length for shape in whole.values())
    assert report["hidden_windows_cut_mm"] == pytest.approx(saved, rel=1e-3)


def test_enclosed_ground_is_filled_or_cut_as_white_pieces(tmp_path):
    ring = '<circle cx="100" cy="100" r="80" fill="#205080"/><circle cx="100" cy="100" r="40" fill="#fff"/>'
    png = tmp_path / "ring.png"
    Image.fromarray(draw(ring, 400, 200).rgba).save(png)
    areas = {}
    for name, words in (("kept", ()), ("filled", ("--fill-ground",)), ("white", ("--white-pieces",))):
        report = tmp_path / f"{name}.json"
        assert main([*map(str, ("trace", png, "--report", report, "--width", "160mm", *words))]) == 0
        areas[name] = [layer["area_mm2"] / np.pi for layer in json.loads(report.read_text())["layers"]]
    assert areas["kept"] == pytest.approx([80**2 - 40**2], rel=2e-3)
    assert areas["filled"] == pytest.approx([80**2], rel=2e-3)
    assert areas["white"] == pytest.approx([40**2, 80**2 - 40**2], rel=2e-3)


def test_a_stock_of_ones_own_is_found_and_stays_in_the_job(png, tmp_path):
    STOCKS.write((*GENERIC, Stock("Aunt's lining", "fabric", "#00aa88", 0.4)))
    job, report = tmp_path / "a.loom", tmp_path / "a.json"
    assert main([*map(str, ("trace", png, "--save-job", job, "--stock", "aunt's lining"))]) == 0
    STOCKS.write(GENERIC)
    assert main([*map(str, ("trace", job, "--report", report))]) == 0
    assert {layer["stock"] for layer in json.loads(report.read_text())["layers"]} == {"Aunt's lining"}


def test_the_assembly_picture_is_written(png, tmp_path):
    for name in ("a.png", "a.svg"):
        assert main([*map(str, ("trace", png, "--assembly", tmp_path / name, "--build", "carried"))]) == 0
    assert Image.open(tmp_path / "a.png").width == 1600
    assert (tmp_path / "a.svg").read_bytes().startswith(b"<?xml")


def test_names_of_the_assembly_picture_stand_beside_their_layers_and_show_on_any_ground(tmp_path):
    colours = ("#8e2a5b", "#4f8a4b", "#3a6ea5", "#d9a441", "#3a2a33", "#c0392b", "#7f8c8d", "#16a085")
    bars = "".join(f'<rect x="{10 + 24 * n}" y="94" width="24" height="12" fill="{c}"/>' for n, c in enumerate(colours))
    wide, out = tmp_path / "wide.png", tmp_path / "wide.svg"
    Image.fromarray(draw(bars, 800, 200).rgba).save(wide)
    assert main([*map(str, ("trace", wide, "--assembly", out, "--behind", "#101820"))]) == 0
    drawn = [one for one in SVG.parse(str(out), ppi=25.4).elements() if isinstance(one, (SvgPath, Rect))]
    assert str(drawn[0].fill) == "#101820"
    names = sorted((one.bbox() for one in drawn[1:] if str(one.fill) == "#f5f1ea"), key=lambda box: box[1])
    assert len(names) == len(colours)  # light words on dark ground
    assert all(above[3] < below[1] for above, below in itertools.pairwise(names))


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--rim", "1mm", "--build", "stencil"], "--rim does nothing here"),
        (["--rim-gap", "1mm"], "--rim-gap does nothing here"),
        (["--margin", "1mm"], "--margin does nothing here"),
        (["--overlap", "1mm", "--build", "single"], "--overlap does nothing here"),
        (["--slip", "1mm", "--build", "stencil"], "--slip does nothing here"),
        (["--corners", "mitred", "--build", "backed"], "--corners does nothing here"),
        (["--base-colour", "#ffffff"], "--base-colour does nothing here"),
        (["--stiffeners", "2"], "--stiffeners does nothing here"),
        (["--overlap", "wide"], "not a length"),
        (["--slip=-1mm"], "A slip of -1 mm"),
        (["--rim", "900mm", "--build", "backed"], "A rim of 900 mm"),
        (["--stock", "velvet"], "There is no stock “velvet”"),
        (["--stock", "#123456=paper"], "No ink is #123456"),
        (["--pin", "#3a2a33=left"], "pins nothing"),
        (["--pin", "#123456=top"], "No ink is #123456"),
        (["--order", "#123456"], "No ink is #123456"),
        (["--order", "#3a2a33,#3a2a33"], "is no order"),
        (["--order", ","], "is no order"),
        (["--assembly", "a.pdf"], "written as .svg or .png"),
    ],
)
def test_what_cannot_be_meant_is_one_sentence(png, tmp_path, capsys, words, said):
    given = [str(tmp_path / word) if word == "a.pdf" else word for word in words]
    assert main(["trace", str(png), "-o", str(tmp_path / "a.svg"), *given]) != 0
    told = capsys.readouterr().err.strip()
    assert said in told and "\n" not in told and "Traceback" not in told
    assert not (tmp_path / "a.svg").exists()
