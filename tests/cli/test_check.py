"""`sketch-loom check`: files of other programs, and jobs, to exit code, report and mended file."""

import io
import json
import os
import subprocess
import sys
from pathlib import Path

import ezdxf
import msgspec
import pytest
import shapely
import svgpathtools
from PIL import Image

from sketchloom.cli.main import main
from sketchloom.core.inspect import KINDS
from sketchloom.core.job import Pipeline, read_job, set_aside, write_job
from sketchloom.core.picture import load_picture
from tests.conftest import FOUR_INKS, draw
from tests.drawn import MISSES, SHOWN, STOCKS, svg

SQUARE = '<path fill="#c03030" d="M5 5h30v30h-30z"/>'


@pytest.fixture
def check(tmp_path):
    """Check SVG text; gives the exit code and the report."""

    def run(text, *words, name="drawing.svg"):
        path, report = tmp_path / name, tmp_path / "report.json"
        path.write_bytes(text if isinstance(text, bytes) else text.encode())
        code = main(["check", str(path), "--report", str(report), *map(str, words)])
        return code, json.loads(report.read_text()) if report.exists() else None

    return run


def kinds(report):
    return {finding["kind"] for finding in report["findings"]}


@pytest.mark.parametrize("kind", SHOWN)
def test_each_kind_is_found_in_a_file_and_not_where_it_is_only_just_none(check, kind):
    stock = ["--stock", STOCKS[kind]] if kind in STOCKS else []
    code, report = check(svg(SHOWN[kind]), *stock)
    found = [finding for finding in report["findings"] if finding["kind"] == kind]
    assert found, report["findings"]
    spoils = KINDS[kind].severity == "spoils"
    assert found[0]["severity"] == KINDS[kind].severity
    assert code == (1 if spoils else 0) and report["ready"] is not spoils
    assert all(0 <= value <= 60 for value in found[0]["at_mm"])
    assert found[0]["layer"] in {layer["id"] for layer in report["layers"]}
    _, report = check(svg(MISSES[kind]), *stock)
    assert kind not in kinds(report)


@pytest.mark.parametrize("kind", [kind for kind in SHOWN if kind not in STOCKS and kind != "like-inks"])
def test_a_mended_file_no_longer_has_it_and_has_nothing_as_bad(check, tmp_path, kind):
    mended = tmp_path / "mended.svg"
    _, before = check(svg(SHOWN[kind]), "-o", mended)
    proposed = next(finding["fix"] for finding in before["findings"] if finding["kind"] == kind)
    assert proposed
    code, after = check(mended.read_bytes(), name="again.svg")
    assert kind not in kinds(after) and code == 0
    assert kinds(after) <= kinds(before)
    paths, _ = svgpathtools.svgstr2paths(mended.read_text())
    assert all(path.isclosed() for whole in paths for path in whole.continuous_subpaths())


def test_small_pieces_are_dropped_as_specks_but_not_where_they_are_the_design(check, tmp_path):
    specks = "".join(f'<path fill="#c03030" d="M{5 + 4 * i} 50h.5v.5h-.5z"/>' for i in range(10))
    left = []
    for text in (SQUARE + specks, specks):
        out = tmp_path / "mended.svg"
        check(svg(text), "-o", out)
        left.append(out.read_text().count("M"))
    assert left == [1, 10]
    assert "small" not in kinds(check(out.read_text(), name="again.svg")[1])  # they were grown


def test_stripes_half_a_millimetre_apart_cannot_all_widen_and_the_sentence_says_so(check):
    stripes = "".join(f"M5 {5 + i / 2}h40v0.25h-40z" for i in range(12))
    _, report = check(svg(f'<path fill="#000" d="{stripes}"/>'))
    necks = [finding for finding in report["findings"] if finding["kind"] == "neck"]
    assert len(necks) == 12
    assert all(neck["fix"] is None and "no room to widen" in neck["sentence"] for neck in necks)


def test_the_report_has_the_figures_of_every_layer(check):
    _, report = check(svg(SHOWN["neck"] + '<rect x="2" y="40" width="10" height="3" fill="#2060a0"/>'))
    assert report["size_mm"] == [60, 60]
    red, blue = report["layers"]
    assert (red["paths"], red["pieces"], red["nodes"]) == (1, 1, 12)
    assert red["narrowest_mm"] == pytest.approx(0.5, rel=0.02)
    assert blue["colour"] == "#2060a0" and blue["narrowest_mm"] == pytest.approx(3, rel=0.02)
    neck = report["findings"][0]
    assert neck["measure"] == pytest.approx(0.5, rel=0.02) and (neck["limit"], neck["unit"]) == (0.8, "mm")
    assert 19 < neck["at_mm"][0] < 31 and neck["at_mm"][1] == pytest.approx(12.5, abs=0.1)


def test_transforms_groups_styles_uses_and_viewbox_are_honoured(check):
    """SVG 2: nested transforms multiply, a use is drawn where it is placed, a viewBox scales to width and height."""
    body = (
        "<style>.r{fill:#c03030}</style><defs><path id='a' d='M0 0h20v20h-20z'/></defs>"
        "<g transform='translate(10 20)'><g transform='scale(2 1)' class='r'><use xlink:href='#a' x='5'/></g></g>"
        "<rect x='160' y='60' width='40' height='40' style='fill:none;stroke:#2060a0;stroke-width:4'/>"
    )
    text = svg(body).replace('viewBox="0 0 60 60"', 'viewBox="0 0 240 240"')
    _, report = check(text, "--limits", limits_file(check, {"double-line": 0}))
    red, blue = report["layers"]
    assert (red["colour"], blue["colour"]) == ("#c03030", "#2060a0")
    assert red["narrowest_mm"] == pytest.approx(5, rel=0.01)  # 20 of 240 units to 60 mm
    assert blue["pieces"] == 1 and blue["narrowest_mm"] == pytest.approx(1, rel=0.02)  # a stroke 4 units wide


def limits_file(check, limits):
    path = Path(os.environ["XDG_CONFIG_HOME"]).parent / "limits.json"
    path.write_text(json.dumps(limits))
    return path


@pytest.mark.parametrize("width, opens", [(0.1, True), (0.5, False)])
def test_a_straight_line_is_its_stroke_alone_though_lines_are_filled_black_unless_told(check, width, opens):
    """SVG 2, 13.3.1: fill is black by default; 10.5: a line has no interior, and its fill is never seen."""
    stroke = f'stroke="#2060a0" stroke-width="{width}"'
    _, report = check(svg(SQUARE + f'<line x1="40" y1="10" x2="55" y2="18" {stroke}/>'))
    assert [layer["colour"] for layer in report["layers"]] == ["#c03030", "#2060a0"]
    assert ("open" in kinds(report)) is opens
    _, report = check(svg(f'<path d="M40 10L55 18M5 5h20v20z" {stroke}/>'))
    assert [layer["colour"] for layer in report["layers"]] == ["#000000", "#2060a0"]
    assert ("open" in kinds(report)) is opens
    assert report["layers"][0]["paths"] == 1 and (report["layers"][1]["paths"] == 1) is opens
    _, report = check(svg(f'<polyline points="10,10 20,20 30,10" {stroke}/>'))  # it encloses something
    assert "#000000" in {layer["colour"] for layer in report["layers"]} and "open" in kinds(report)


def test_a_width_scales_what_is_cut_and_units_say_how_large_it_was(check):
    _, report = check('<svg xmlns="http://www.w3.org/2000/svg" width="4in" height="2in" viewBox="0 0 4 2">'
                      '<path d="M1 0.5h2v1h-2z"/></svg>')  # fmt: skip
    assert report["size_mm"] == [101.6, 50.8] and report["layers"][0]["narrowest_mm"] == pytest.approx(25.4)
    _, report = check(svg(SQUARE), "--width", "90mm")
    assert report["layers"][0]["narrowest_mm"] == pytest.approx(90) and report["size_mm"] == [180, 180]


def test_limits_come_from_the_stock_and_from_a_file(check):
    drawing = svg(MISSES["neck"])
    assert "neck" not in kinds(check(drawing)[1])
    assert "neck" in kinds(check(drawing, "--stock", "Card")[1])  # card holds 1.2 mm
    _, report = check(drawing, "--limits", limits_file(check, {"neck": 1.5}))
    assert report["findings"][0]["limit"] == 1.5
    assert "neck" not in kinds(check(svg(SHOWN["neck"]), "--limits", limits_file(check, {"neck": 0.4}))[1])


@pytest.mark.parametrize(
    "text", ['{"necks": 1}', '{"neck": -1}', '{"neck": "wide"}', "[1]", "nonsense", '{"gap": 1e99}']
)
def test_limits_that_cannot_be_are_one_sentence(check, tmp_path, capsys, text):
    path = tmp_path / "limits.json"
    path.write_text(text)
    code, report = check(svg(SQUARE), "--limits", path)
    assert code == 2 and report is None
    assert len(capsys.readouterr().err.strip().splitlines()) == 1


def test_a_bitmap_and_text_inside_are_told(check, capsys):
    body = SQUARE + '<image href="data:image/png;base64,AAAA" width="9" height="9"/><text x="5" y="50">Fair</text>'
    code, report = check(svg(body))
    assert code == 0 and len(report["notes"]) == 2
    assert "bitmap" in report["notes"][0] and "text" in report["notes"][1]
    assert check(svg('<image href="a.png" width="9" height="9"/>'), name="b.svg")[0] == 3
    assert "nothing" in capsys.readouterr().err


def dxf(draw_on, units=4) -> bytes:
    """A drawing made with ezdxf."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = units
    draw_on(document)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def test_a_dxf_of_lines_and_arcs_is_read_as_closed_outlines(check):
    """The area of the slot is that of a rectangle and a disc: 40 x 20 + pi 10^2."""

    def slot(document):
        space = document.modelspace()
        document.layers.add("Cut", color=1)
        for start, end in (((10, 0), (50, 0)), ((50, 20), (10, 20))):
            space.add_line(start, end, dxfattribs={"layer": "Cut"})
        space.add_arc((50, 10), 10, -90, 90, dxfattribs={"layer": "Cut"})
        space.add_arc((10, 10), 10, 90, 270, dxfattribs={"layer": "Cut"})
        space.add_circle((10, 10), 2, dxfattribs={"layer": "Cut"})

    code, report = check(dxf(slot), name="slot.dxf")
    (layer,) = report["layers"]
    assert code == 0 and report["findings"] == []
    assert (layer["id"], layer["colour"], layer["paths"], layer["pieces"]) == ("Cut", "#ff0000", 2, 1)
    assert report["size_mm"] == pytest.approx([60, 20])
    assert layer["narrowest_mm"] == pytest.approx(8, rel=0.03)  # between the hole and the round end


def test_a_dxf_in_inches_with_blocks_and_a_spline_and_an_open_line(check):
    def drawn(document):
        block = document.blocks.new("leaf")
        block.add_lwpolyline([(0, 0), (1, 0), (1, 1), (0, 1)], close=True)
        document.modelspace().add_blockref("leaf", (2, 0), dxfattribs={"xscale": 2})
        document.modelspace().add_line((0, 3), (1, 3))

    code, report = check(dxf(drawn, units=1), name="leaf.dxf")
    assert code == 1 and kinds(report) == {"open"}
    assert report["size_mm"] == pytest.approx([101.6, 76.2])


@pytest.mark.parametrize(("name", "data", "code"), [
    ("a.svg", b"", 2),
    ("a.svg", b"<svg", 2),
    ("a.svg", b"\x89PNG\r\n\x1a\n", 2),
    ("a.svg", b"<html></html>", 2),
    ("a.svg", svg("").encode(), 3),
    ("a.svg", svg('<path d="M0 0"/><circle r="0"/><path d="nonsense"/>').encode(), 3),
    ("a.svg", svg(SQUARE).encode()[:120], 2),
    ("a.svg", b'<!DOCTYPE svg [<!ENTITY a "b">]>' + svg(SQUARE).encode(), 2),
    ("a.svg", b'<?xml version="1.0" encoding="utf-16"?>' + svg(SQUARE).encode(), 2),
    ("a.svg", svg('<g id="a"><use xlink:href="#a"/></g>').encode(), 2),
    ("a.svg", svg("<g>" * 300 + SQUARE + "</g>" * 300).encode(), 2),
    ("a.svg", svg('<path d="M0 0h1e308v1e308h-1e308z"/>').encode(), None),
    ("a.dxf", b"", None),
    ("a.dxf", b"not a drawing at all", 2),
    ("a.dxf", b"  0\nSECTION\n  2\nENTITIES\n  0\nENDSEC\n  0\nEOF\n", None),
    ("a.txt", b"x", 2),
    ("a.loom", b"x", 2),
])  # fmt: skip
def test_what_cannot_be_read_is_one_sentence(check, capsys, name, data, code):
    got, report = check(data, name=name)
    lines = capsys.readouterr().err.strip().splitlines()
    assert got in ((code,) if code else (2, 3)) and report is None
    assert len(lines) == 1 and "Traceback" not in lines[0]


def test_a_name_of_several_lines_is_told_in_one(tmp_path, capsys):
    assert main(["check", str(tmp_path / "no\nsuch.svg")]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_a_file_that_is_not_there_and_targets_that_cannot_be_meant_are_refused(tmp_path, capsys):
    assert main(["check", str(tmp_path / "none.svg")]) == 2
    drawing = tmp_path / "a.svg"
    drawing.write_text(svg(SQUARE))
    for words in (["-o", str(drawing)], ["-o", "a.dxf"], ["--report", "a.txt"], ["--width", "no"], ["--stock", "no"]):
        assert main(["check", str(drawing), *words]) == 2
    assert drawing.read_text() == svg(SQUARE)
    assert len(capsys.readouterr().err.strip().splitlines()) == 6


BOMB = (
    '<g id="l0">' + SQUARE + "</g>"
    + "".join(f'<g id="l{n}">' + f'<use xlink:href="#l{n - 1}"/>' * 20 + "</g>" for n in range(1, 12))
)  # fmt: skip
HOSTILE = {
    "uses that use uses": svg(BOMB),
    "a file beside it": svg('<use xlink:href="beside-it.svg#a"/><image href="file:///etc/passwd" width="9" height="9"/>'
                            '<style>@import url("http://example.invalid/a.css");</style>' + SQUARE),
    "very many objects": svg('<path d="M0 0h1v1z"/>' * 200_000),
    "a very long path": svg('<path d="M0 0' + "l1 1" * 2_500_000 + 'z"/>'),
    "a large path": svg('<path d="M0 0' + "".join(f"L{i % 60} {i % 59}" for i in range(60_000)) + 'z"/>'),
    "dashes without end": svg('<path stroke="#000" stroke-width="1" stroke-dasharray="0.0001" fill="none" '
                              'd="M0 0h1000000"/>'),
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_open_nothing_and_take_no_more_than_a_gigabyte(tmp_path, name):
    """Run apart, with its memory measured and with every file that it opens noted."""
    path = tmp_path / "hostile.svg"
    path.write_text(HOSTILE[name])
    code = (
        "import sys\n"
        "from sketchloom.cli.main import main\n"
        "opened = []\n"
        "sys.addaudithook(lambda event, args: opened.append((event, str(args[0]))) "
        "if event in ('open', 'socket.connect', 'urllib.Request') else None)\n"
        f"code = main(['check', {str(path)!r}])\n"
        "told = ('passwd', 'beside-it', '.css')\n"
        "bad = [one for one in opened if one[0] != 'open' or any(word in one[1] for word in told)]\n"
        "print('OPENED', bad)\n"
        "peak = next(line for line in open('/proc/self/status') if line.startswith('VmHWM'))\n"  # its own, from exec on
        "print('KILOBYTES', peak.split()[1])\n"
        "sys.exit(code)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode in (0, 1, 2, 3), done.stderr[-500:]
    assert "Traceback" not in done.stderr and "OPENED []" in done.stdout
    assert int(done.stdout.split("KILOBYTES")[1]) < 1_000_000


def test_a_dxf_whose_blocks_insert_each_other_without_end_is_refused(check):
    def bomb(document):
        for n in range(9):
            block = document.blocks.new(f"b{n}")
            for _ in range(12):
                block.add_blockref(f"b{n - 1}", (0, 0)) if n else block.add_line((0, 0), (1, 1))
        document.modelspace().add_blockref("b8", (0, 0))

    def circle(document):
        document.blocks.new("a").add_blockref("a", (0, 0))
        document.modelspace().add_blockref("a", (0, 0))

    assert check(dxf(bomb), name="bomb.dxf")[0] == 2
    assert check(dxf(circle), name="circle.dxf")[0] == 2


@pytest.fixture
def job(tmp_path):
    """A job of a drawing whose stem is narrow, saved by the command line."""
    body = FOUR_INKS + '<path d="M30 30h30v4h-30z" fill="#4f8a4b"/><path d="M60 31.8h20v0.5h-20z" fill="#4f8a4b"/>'
    png, path = tmp_path / "plate.png", tmp_path / "plate.loom"
    Image.fromarray(draw(body, 800, 200).rgba).save(png)
    assert main(["trace", str(png), "--save-job", str(path), "--width", "100mm"]) == 0
    return path


def test_a_job_is_checked_mended_and_left_as_it_is(job, tmp_path, capsys):
    report, mended, before = tmp_path / "r.json", tmp_path / "m.svg", job.read_bytes()
    assert main(["check", str(job), "--report", str(report), "-o", str(mended)]) == 1
    told = json.loads(report.read_text())
    neck = next(finding for finding in told["findings"] if finding["kind"] == "neck")
    assert neck["measure"] == pytest.approx(0.25, abs=0.08) and neck["fix"] == "thicken"
    assert neck["layer"] in {layer["id"] for layer in told["layers"]}
    assert job.read_bytes() == before
    assert "m.svg: 2 places mended. Ready to cut: nothing was found." in capsys.readouterr().out
    again = tmp_path / "again.json"
    assert main(["check", str(mended), "--report", str(again)]) == 0
    assert json.loads(again.read_text())["ready"]
    assert main(["check", str(job), "--width", "400mm", "--report", str(report)]) == 0  # 1 mm wide then


def test_what_is_left_so_in_a_job_does_not_count_in_what_is_left_after_mending(job, tmp_path, capsys):
    read = read_job(job)
    result = Pipeline().run(load_picture(read.picture, read.picture_name), read.recipe, names=("checked",))
    neck = next(one for one in result.checked.findings if one.kind == "neck")
    write_job(job, msgspec.structs.replace(read, recipe=set_aside(result, read.recipe, neck, "a hinge")))
    assert main(["check", str(job), "-o", str(tmp_path / "m.svg")]) == 0
    assert "m.svg: 1 place mended. Ready to cut: nothing was found." in capsys.readouterr().out


def test_a_mended_file_still_holds_the_design(check, tmp_path, capsys):
    """Area by shapely of what svgpathtools reads: the neck of 0.5 mm is 0.3 mm wider, and nothing else is."""
    mended = tmp_path / "mended.svg"
    check(svg(SHOWN["neck"]), "-o", mended)
    assert "mended.svg: 1 place mended. Ready to cut: nothing was found." in capsys.readouterr().out
    paths, _ = svgpathtools.svgstr2paths(mended.read_text())
    points = [[(p.real, p.imag) for p in (segment.point(t) for segment in whole for t in (0, 0.25, 0.5, 0.75))]
              for whole in paths]  # fmt: skip
    area = shapely.Polygon(points[0]).area
    assert 2 * 15 * 15 + 10 * 0.8 <= area <= 2 * 15 * 15 + 10 * 1.0
