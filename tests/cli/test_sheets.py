"""Sheets from the command line to the written files: read back by svgelements, held against what `trace` writes."""

import json

import msgspec
import numpy as np
import pytest
import shapely
from PIL import Image
from shapely import affinity
from svgelements import SVG
from svgelements import Path as SvgPath

from sketchloom.cli.main import main
from sketchloom.core.job import read_job, write_job
from sketchloom.core.layers import LayerRule
from sketchloom.core.stock import GENERIC, STOCKS, Stock
from tests.conftest import FOUR_INKS, draw

_PIECES = (
    '<rect x="8" y="8" width="60" height="24" fill="#3a2a33"/><circle cx="150" cy="50" r="40" fill="#3a2a33"/>'
    '<path d="M20 60 Q60 60 60 120 L20 180 Z" fill="#8e2a5b"/><circle cx="150" cy="50" r="18" fill="#ffffff"/>'
    '<ellipse cx="120" cy="150" rx="50" ry="30" fill="#8e2a5b"/>'
    '<rect x="60" y="40" width="30" height="14" fill="#4f8a4b"/>'
)


@pytest.fixture
def png(tmp_path):
    path = tmp_path / "seed_packets.png"
    Image.fromarray(draw(_PIECES, 600, 200).rgba).save(path)
    return path


def flattened(path: SvgPath, many: int = 160):
    """A path as polygons, even-odd, by svgelements' own arithmetic."""
    shape = shapely.Polygon()
    for sub in path.as_subpaths():
        steps = [step for step in SvgPath(sub) if type(step).__name__ != "Move"]
        points = np.concatenate([np.array(step.npoint(np.linspace(0, 1, many))) for step in steps])
        shape = shapely.symmetric_difference(shape, shapely.make_valid(shapely.Polygon(points)))
    return shape


def groups_of(file) -> dict:
    """Paths of a written file by their group and id."""
    found: dict[str, dict] = {}
    for group in SVG.parse(str(file), ppi=25.4):
        for path in (element for element in group if isinstance(element, SvgPath)):
            found.setdefault(group.id, {})[path.id] = path
    return found


@pytest.fixture
def sheets(png, tmp_path):
    """Lay with flags; gives the report and the folder, after all that must hold of any layout was looked at."""

    def run(*words, source=png, distance=3.0, others=()):
        out, report, job = tmp_path / "out", tmp_path / "s.json", tmp_path / "s.loom"
        for old in out.glob("*") if out.exists() else ():
            old.unlink()
        given = ["sheets", source, "-o", out, "--report", report, "--save-job", job, "--width", "160mm", *words]
        assert main([*map(str, given)]) == 0
        told = json.loads(report.read_text())
        assert {one["file"] for one in told["sheets"]} == {path.name for path in out.iterdir()}
        design, ids = _traced(job, tmp_path)
        guests = {one["layer"]: one["id"] for one in told["guests"]}
        for other in others:
            shapes, _ = _traced(other, tmp_path)
            name = read_job(other).name
            design |= {key: shapes[key.partition("//")[2]] for key in guests if key.startswith(f"{name}//")}
        _hold(told, out, design, ids | guests, distance)
        return told, out

    return run


def _traced(job, tmp_path, many: int = 160) -> tuple[dict, dict]:
    """Pieces of a job's layers as `trace` writes them, and the ids of their layers, by key."""
    traced, figures = tmp_path / "t.svg", tmp_path / "t.json"
    assert main([*map(str, ("trace", job, "-o", traced, "--report", figures))]) == 0
    layers = {layer["id"]: layer["key"] for layer in json.loads(figures.read_text())["layers"]}
    design = {
        layers[group]: [shape for path in paths.values() for shape in shapely.get_parts(flattened(path, many))]
        for group, paths in groups_of(traced).items()
        if group in layers
    }
    return design, {key: name for name, key in layers.items()}


def _hold(told, out, design, ids, distance) -> None:
    copies = {
        key: max(
            one["copy"] for one in told["placements"] if one["layer"].rpartition("//")[0] == key.rpartition("//")[0]
        )
        for key in design
    }
    seen = {key: [0] * len(shapes) for key, shapes in design.items()}
    for sheet in told["sheets"]:
        cuts = groups_of(out / sheet["file"]).get("cuts", {})
        x, y, width, height = sheet["usable_mm"]
        placed: dict[str, list] = {}
        for one in (one for one in told["placements"] if one["sheet"] == sheet["name"]):
            box = np.array(one["box_mm"])
            place = next(
                place for place, shape in enumerate(design[one["layer"]])
                if np.abs(np.array(shape.bounds) - box).max() < 0.02 and abs(shape.area - one["area_mm2"]) < 0.5
            )  # fmt: skip
            seen[one["layer"]][place] += 1
            shape = design[one["layer"]][place]
            if one["flipped"]:
                shape = affinity.scale(shape, -1, 1, origin=(0, 0))
            shape = affinity.translate(affinity.rotate(shape, one["turn_deg"], origin=(0, 0)), *one["at_mm"])
            placed.setdefault(one["layer"], []).append(shape)
        assert {ids[key] for key in placed} == set(cuts)
        written = []
        for key, shapes in placed.items():
            there = flattened(cuts[ids[key]])
            meant = shapely.union_all(shapes)
            assert shapely.symmetric_difference(there, meant).area <= 0.002 * meant.length
            written += list(shapely.get_parts(there))
        assert shapely.box(x, y, x + width, y + height).buffer(0.01).covers(shapely.union_all(written))
        if sheet["nested"]:
            one, other = shapely.STRtree(written).query(np.array(written, object), "dwithin", distance - 0.02)
            assert not (one < other).any()
    assert all(set(counts) == {copies[key]} for key, counts in seen.items())


def test_pieces_are_laid_one_by_one_apart_and_whole(sheets):
    told, _ = sheets("--nested", "--copies", "3")
    assert len(told["sheets"]) == 4 and len(told["placements"]) == 3 * 6
    assert told["cut_time_s"] < told["time_s"] and told["travel_mm"] > 0


@pytest.mark.parametrize("words", [
    (), ("--turn", "none"), ("--nested", "--turn", "any"), ("--nested", "--flip", "on"),
    ("--nested", "--distance", "0mm", "--border", "12mm"), ("--nested", "--sheet", "130x100mm"),
    ("--build", "carried"), ("--build", "backed", "--rim", "4mm", "--nested"), ("--build", "stencil", "--nested"),
])  # fmt: skip
def test_every_way_of_laying_holds(sheets, words):
    told, _ = sheets(*words, distance=0.0 if "0mm" in words else 3.0)
    assert all(one["flipped"] == ("on" in words) for one in told["placements"])


def test_another_job_lies_on_the_same_sheets_where_stock_and_colour_are_the_same(sheets, tmp_path):
    """The report says of every piece of both jobs where it lies; what has no sheet in common is left out."""
    other, path = tmp_path / "seed-tags.loom", tmp_path / "tags.png"
    tags = (
        '<rect x="10" y="10" width="90" height="40" fill="#8e2a5b"/><circle cx="150" cy="140" r="40" fill="#101080"/>'
    )
    Image.fromarray(draw(tags + '<circle cx="60" cy="140" r="30" fill="#4f8a4b"/>', 500, 200).rgba).save(path)
    assert main(["sheets", str(path), "-o", str(tmp_path / "o"), "--save-job", str(other), "--width", "110mm",
                 "--copies", "2"]) == 0  # fmt: skip
    told, _ = sheets("--nested", "--copies", "3", "--with", other, others=[other])
    assert len(told["sheets"]) == 4  # as alone: both lie on three of them
    assert sorted(one["layer"] for one in told["guests"]) == ["tags//#4f8a4b", "tags//#8e2a5b"]
    assert sum(one["layer"].startswith("tags//") for one in told["placements"]) == 4
    alone, _ = sheets("--nested", "--copies", "3")
    assert alone["cut_length_mm"] < told["cut_length_mm"] and not alone["guests"]


def test_sheets_are_made_ready_for_the_knife(sheets, png, tmp_path):
    """Groups of the file: cuts with tabs are open lines, marks are the same on every sheet, weeding crosses no cut."""
    told, out = sheets("--weeding-box", "4mm", "--weeding-lines", "--marks", "crosses", "--sheet", "250x250mm")
    for sheet in told["sheets"]:
        groups = groups_of(out / sheet["file"])
        assert set(groups) == {"cuts", "marks", "weeding"} and len(groups["cuts"]) == len(groups["marks"]) == 1
        assert [f"{name}-marks" for name in groups["cuts"]] == list(groups["marks"])
        cut = flattened(next(iter(groups["cuts"].values())))
        for path in groups["weeding"].values():
            for sub in path.as_subpaths():
                line = SvgPath(sub)
                points = np.concatenate([np.array(step.npoint(np.linspace(0, 1, 9))) for step in list(line)[1:]])
                assert shapely.LineString(points).distance(cut) >= 0.99
    assert told["travel_mm"] <= told["travel_before_mm"] + 1000
    job, report = tmp_path / "s.loom", tmp_path / "again.json"
    assert main(["sheets", str(job), "-o", str(tmp_path / "again"), "--report", str(report)]) == 0
    assert json.loads(report.read_text())["cut_length_mm"] == told["cut_length_mm"]
    for name in (path.name for path in out.iterdir()):
        assert (tmp_path / "again" / name).read_bytes() == (out / name).read_bytes()

    words = ["--tabs", "3:2mm", "--kerf", "0.2mm", "--overcut", "0.4mm", "--hole", "4mm:3mm"]
    assert main(["sheets", str(png), "-o", str(tmp_path / "b"), "--width", "160mm", "--nested", *words]) == 0
    for file in (tmp_path / "b").iterdir():
        for path in groups_of(file)["cuts"].values():
            assert all(type(list(sub)[-1]).__name__ != "Close" for sub in path.as_subpaths())


@pytest.mark.parametrize(("words", "said"), [
    (("--tabs", "3"), "4:3mm"), (("--tabs", "x:3mm"), "number of tabs"), (("--hole", "5mm"), "5mm:10mm"),
    (("--hole", "150mm:20mm"), "no room for a hole"), (("--kerf", "50mm"), "kerf of 50 mm"),
    (("--weeding-box", "0.1mm"), "margin of a weeding box"),
    (("--sheet", "100x80mm", "--seam", "none"), "take larger sheets"), (("--seam-overlap", "900mm"), "overlap"),
])  # fmt: skip
def test_what_cannot_be_made_ready_is_one_sentence(png, tmp_path, capsys, words, said):
    assert main(["sheets", str(png), "-o", str(tmp_path / "o"), "--width", "160mm", *words]) == 2
    told = capsys.readouterr().err.strip()
    assert said in told and "\n" not in told and not (tmp_path / "o").exists()


def test_what_is_too_large_is_parted_and_the_report_says_where(png, tmp_path):
    """Parts put together are the layer that `trace` writes; only what fits nowhere is parted."""
    job, report, out = tmp_path / "s.loom", tmp_path / "s.json", tmp_path / "out"
    words = ["--width", "900mm", "--build", "backed", "--sheet", "12x16in", "--save-job", str(job)]
    assert main(["sheets", str(png), "-o", str(out), "--report", str(report), *words]) == 0
    told = json.loads(report.read_text())
    design, ids = _traced(job, tmp_path, 3000)
    areas = dict.fromkeys(design, 0.0)
    assert "base" in {seam["layer"] for seam in told["seams"]}
    for key, shapes in design.items():
        parts = [one for one in told["placements"] if one["layer"] == key]
        cut = [seam for seam in told["seams"] if seam["layer"] == key]
        assert len(parts) > len(shapes) if cut else len(parts) == len(shapes)
        for seam in cut:
            on = shapely.length(shapely.intersection(shapely.LineString(seam["line_mm"]), shapely.union_all(shapes)))
            assert seam["length_mm"] <= on + 0.1 and 0 <= seam["visible_mm"] <= seam["length_mm"]
    for sheet in told["sheets"]:
        x, y, width, height = sheet["usable_mm"]
        cuts = groups_of(out / sheet["file"])["cuts"]
        written = {key: flattened(cuts[ids[key]], 3000) for key in design if ids[key] in cuts}
        assert shapely.box(x, y, x + width, y + height).buffer(0.01).covers(shapely.union_all(list(written.values())))
        for key, shape in written.items():
            areas[key] += shape.area
    for key, shapes in design.items():
        assert areas[key] == pytest.approx(sum(shape.area for shape in shapes), abs=0.05)


def test_a_job_beside_that_cannot_be_laid_is_one_sentence(png, tmp_path, capsys):
    (tmp_path / "half.loom").write_bytes(b"PK")
    for other in (png, tmp_path / "half.loom", tmp_path / "gone.loom"):
        assert main(["sheets", str(png), "-o", str(tmp_path / "o"), "--with", str(other)]) == 2
        said = capsys.readouterr().err.strip()
        assert other.name in said and "\n" not in said and not (tmp_path / "o").exists()


def test_film_is_cut_on_its_back_from_a_roll(sheets):
    told, _ = sheets("--stock", "heat-transfer film", "--nested")
    assert all(sheet["flipped"] and sheet["size_mm"][0] == 305 for sheet in told["sheets"])
    assert all(
        stock["roll_mm"] == sheet["size_mm"][1] for stock, sheet in zip(told["stock"], told["sheets"], strict=True)
    )


def test_copies_of_layers_are_layers_and_hidden_ones_are_not_laid(sheets, png, tmp_path):
    told, _ = sheets("--nested")
    key, other = dict.fromkeys(one["layer"] for one in told["placements"]), tmp_path / "hidden.loom"
    hidden, copied = list(key)[:2]
    job = read_job(tmp_path / "s.loom")
    assert job.recipe.sheets.nested
    rules = (LayerRule(hidden, hidden=True), LayerRule(copied, copies=2))
    write_job(other, msgspec.structs.replace(job, recipe=job.recipe.with_("layers", rules=rules)))
    told, _ = sheets(source=other)
    laid = [one["layer"] for one in told["placements"]]
    assert hidden not in laid
    assert laid.count(f"{copied}+1") == laid.count(f"{copied}+2") == laid.count(copied) > 0


def test_drawn_lines_lie_on_the_sheet_of_their_layer(tmp_path):
    path = tmp_path / "lines.png"
    body = (
        '<path d="M20 20 L180 40 L60 180" fill="none" stroke="#202020" stroke-width="5"/>'
        + FOUR_INKS.split("/>")[3]
        + "/>"
    )
    Image.fromarray(draw(body, 600, 200).rgba).save(path)
    out, report = tmp_path / "out", tmp_path / "s.json"
    given = ["sheets", path, "-o", out, "--report", report, "--width", "120mm", "--centre-lines", "#202020"]
    assert main([*map(str, given)]) == 0
    told = json.loads(report.read_text())
    assert told["pens"]
    pens = groups_of(out / next(s["file"] for s in told["sheets"] if s["name"] == told["pens"][0]["sheet"]))["pens"]
    assert len(pens) == 1


def test_a_job_lays_itself_the_same_and_a_search_is_kept_in_it(png, tmp_path, capsys):
    given = ["sheets", png, "--width", "160mm", "--nested", "--tighter", "1", "--copies", "6"]
    assert main([*map(str, [*given, "-o", tmp_path / "a", "--save-job", tmp_path / "a.loom"])]) == 0
    assert "tr" in capsys.readouterr().err
    for folder in ("b", "c"):
        assert main([*map(str, ["sheets", tmp_path / "a.loom", "-o", tmp_path / folder])]) == 0
    for path in (tmp_path / "a").iterdir():
        assert path.read_bytes() == (tmp_path / "b" / path.name).read_bytes()
        assert path.read_bytes() == (tmp_path / "c" / path.name).read_bytes()


@pytest.mark.parametrize(("words", "said"), [
    (("--sheet", "40x40mm"), "larger sheets"),
    (("--sheet", "wide"), "no size of a sheet"),
    (("--sheet", "0x40mm"), "1 mm to 100 m"),
    (("--border", "200mm", "--sheet", "300x300mm"), "larger sheets"),
    (("--cutter", "scissors"), "no cutter"),
    (("--stock", "adhesive vinyl", "--cutter", "laser"), "chlorine"),
    (("--speed", "fast"), "no speed"),
    (("--report", "a.txt"), ".json"),
    (("--tighter", "nan"), "seconds"),
])  # fmt: skip
def test_what_cannot_be_laid_is_one_sentence(png, tmp_path, capsys, words, said):
    assert main([*map(str, ["sheets", png, "-o", tmp_path / "out", "--width", "160mm", *words])]) == 2
    told = capsys.readouterr().err.strip()
    assert said in told and "\n" not in told
    assert not (tmp_path / "out").exists()


def test_a_file_where_the_folder_should_be_is_one_sentence(png, tmp_path, capsys):
    (tmp_path / "out").write_text("here")
    assert main(["sheets", str(png), "-o", str(tmp_path / "out")]) == 2
    assert "there is a file of that name" in capsys.readouterr().err


def test_sheets_have_the_size_of_their_stock_and_layers_of_one_colour_share_them(png, tmp_path):
    mine = Stock("My card", "card", "#336699", width=250.0, height=200.0, price=0.5)
    STOCKS.write((mine, *GENERIC))
    report = tmp_path / "s.json"
    given = [
        "sheets",
        png,
        "-o",
        tmp_path / "out",
        "--report",
        report,
        "--width",
        "120mm",
        "--stock",
        "My card",
        "--nested",
    ]
    assert main([*map(str, given)]) == 0
    told = json.loads(report.read_text())
    assert len(told["sheets"]) == 1 and told["sheets"][0]["size_mm"] == [250.0, 200.0]
    assert told["cost"] == 0.5 and len({one["layer"] for one in told["placements"]}) == 4
