"""Every format read back by readers that are not ours, and compared with the layers."""

import dataclasses
import shutil
import subprocess
from pathlib import Path

import cv2
import numpy as np
import pypdfium2 as pdfium
import pytest
import shapely
from hypothesis import Phase, given
from hypothesis import strategies as st

import sketchloom
from sketchloom.core.cut import CutStack
from sketchloom.core.errors import ArgumentError, WriteError
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.layers import LayerRule
from sketchloom.core.machine import Drawn, read_hpgl
from sketchloom.core.picture import load_picture
from sketchloom.core.send import (
    WRITERS,
    Item,
    Page,
    PdfWriter,
    PngWriter,
    files_of,
    names_of,
    page_of_layers,
    page_of_sheet,
    written,
)
from sketchloom.core.send.hpgl import HpglWriter
from sketchloom.core.sheets import Ready, SheetSettings, lay_out
from tests.conftest import FOUR_INKS, draw, picture_of, tries
from tests.core.send import readers
from tests.core.sheets.drawn import INKS, cut_of, strewn, work_of

ENDINGS = tuple(ending for ending in WRITERS if ending != ".png")
"""Of those that hold outlines."""


def read(ending: str, data: bytes, page: Page) -> dict[str, list]:
    """Contours by colour; the page must be as large as it is meant to be."""
    if ending == ".hpgl":
        return readers.read_hpgl(data, page.size[1], [item.colour for item in page.items])
    size, found = getattr(readers, f"read_{ending[1:]}")(data)
    assert size == pytest.approx(page.size, abs=0.01)
    return found


def drawn(contour: np.ndarray) -> np.ndarray:
    """Points along a contour."""
    return np.vstack([contour[:1], *(readers.cubic(contour[at : at + 4]) for at in range(0, len(contour) - 1, 3))])


def assert_as_meant(ending: str, page: Page) -> None:
    """Area of each layer within 0.1 %, and no point of it farther than 0.05 mm from where it is meant."""
    data = written(WRITERS[ending], page)
    assert data == written(WRITERS[ending], page)
    found = read(ending, data, page)
    assert set(found) == {item.colour for item in page.items}
    for item in page.items:
        meant = [drawn(contour) for contour in item.path.contours]
        lines, other = (
            shapely.multilinestrings([shapely.linestrings(line) for line in some])
            for some in (meant, found[item.colour])
        )
        apart = [shapely.distance(one, shapely.points(shapely.get_coordinates(shapely.segmentize(two, 0.5)))).max()
                 for one, two in ((lines, other), (other, lines))]  # fmt: skip
        assert max(apart) < 0.05
        if item.filled:
            area = readers.filled(meant).area
            within = 0.025 / 2 * shapely.length(lines) if ending == ".hpgl" else 0.0  # the grid may take so much
            assert readers.filled(found[item.colour]).area == pytest.approx(area, rel=1e-3, abs=max(within, 0.01))


@pytest.fixture(scope="module")
def traced():
    picture = draw(FOUR_INKS, 300)
    return Pipeline().run(picture, Recipe().with_("finish", width=120.0), names=("palette", "sheets"))


@pytest.mark.parametrize("ending", ENDINGS)
def test_layers_are_in_the_file_as_they_are(traced, ending):
    assert_as_meant(ending, page_of_layers(traced.stack.cuts, title="Four inks"))


@pytest.mark.parametrize("ending", ENDINGS)
def test_the_demo_badge_in_every_way_of_building(badge, ending):
    for build in ("flush", "carried", "backed"):
        result = badge[0].run(badge[1], Recipe().with_("finish", width=180.0).with_("layers", build=build),
                              names=("palette", "mended"))  # fmt: skip
        page = page_of_layers(result.stack.cuts)
        if len({item.colour for item in page.items}) == len(page.items):
            assert_as_meant(ending, page)
        else:  # what is told apart by its colour has one of its own
            assert_as_meant(ending, coloured(page))


@pytest.fixture(scope="module")
def badge():
    return Pipeline(), load_picture(Path(sketchloom.__file__).parent / "demo" / "fair-badge.png")


def coloured(page: Page) -> Page:
    """The same with a colour for each item."""
    return dataclasses.replace(
        page, items=tuple(item._replace(colour=f"#{n + 1:02x}4080") for n, item in enumerate(page.items))
    )


@tries(8, phases=(Phase.explicit, Phase.generate))
@given(st.integers(0, 10**6), st.sampled_from(ENDINGS))
def test_any_map_of_colours(seed, ending):
    """Blocks of four colours drawn at random, which meet in every way that pixels can."""
    rng = np.random.default_rng(seed)
    colours = np.array([(58, 42, 51), (142, 42, 91), (79, 138, 75), (255, 255, 255)], np.uint8)
    blocks = rng.integers(0, 4, rng.integers(3, 9, 2))
    rgb = colours[np.kron(blocks, np.ones((12, 12), int))]
    recipe = Recipe().with_("finish", width=80.0).with_("separate", mode="flat", ground="keep")
    result = Pipeline(0).run(picture_of(rgb), recipe, names=("palette", "mended"))
    assert_as_meant(ending, page_of_layers(result.stack.cuts))


@pytest.mark.parametrize("ending", ENDINGS)
def test_scored_and_drawn_layers_and_centre_lines(ending):
    picture = draw(
        '<rect x="20" y="20" width="160" height="160" fill="#d8a02c"/>'
        '<path d="M50 60H150M50 90C80 70 120 120 150 90" stroke="#274690" stroke-width="8" fill="none"/>',
        200,
    )
    first = Pipeline().run(picture, Recipe(), names=("palette", "mended"))
    blue = next(ink.key for ink in first.palette.cut if ink.shown[2] > 100)
    rules = (LayerRule(blue, kind="score", centre_line=True),)
    result = Pipeline().run(picture, Recipe().with_("layers", rules=rules), names=("palette", "mended"))
    page = page_of_layers(result.stack.cuts)
    assert [item.filled for item in page.items] == [True, False, False] and len(page.items[2].widths) == 2
    data = written(WRITERS[ending], page)
    many = {item.colour: sum(len(one.path.contours) for one in page.items if one.colour == item.colour)
            for item in page.items}  # fmt: skip
    if ending == ".hpgl":
        assert len(read_hpgl(data)) == sum(many.values()) and {one.pen for one in read_hpgl(data)} == {1, 2, 3}
    else:
        assert {colour: len(lines) for colour, lines in read(ending, data, page).items()} == many


@tries(12, phases=(Phase.explicit, Phase.generate))
@given(st.integers(0, 10**6), st.sampled_from(ENDINGS))
def test_any_pieces_on_any_page(seed, ending):
    rng = np.random.default_rng(seed)
    cuts = tuple(cut_of(strewn(rng, int(rng.integers(1, 9))), ink) for ink in INKS[: int(rng.integers(1, 4))])
    low = np.min([cut.path.bounds[:2] for cut in cuts], axis=0)
    cuts = tuple(cut.with_path(cut.path.moved(5 - low)) for cut in cuts)
    size = np.max([cut.path.bounds[2:] for cut in cuts], axis=0) + 5
    assert_as_meant(ending, page_of_layers(CutStack(cuts, (float(size[0]), float(size[1])))))


@pytest.mark.parametrize("ending", ENDINGS)
def test_outlines_that_touch_and_holes(ending):
    """Two squares that meet at a corner, and a ring."""
    ring = shapely.Point(60, 20).buffer(15) - shapely.Point(60, 20).buffer(8)
    cut = cut_of([shapely.box(5, 5, 20, 20), shapely.box(20, 20, 35, 35), ring])
    assert_as_meant(ending, page_of_layers(CutStack((cut,), (80.0, 40.0))))


@pytest.mark.parametrize("ending", ENDINGS)
def test_sheets_with_marks_weeding_and_tabs(ending):
    cuts = [cut_of(strewn(np.random.default_rng(3), 6)), cut_of([shapely.box(0, 0, 4, 4)], INKS[1], kind="score")]
    ready = Ready(marks="crosses", weeding="pieces", tabs=2)
    layout = lay_out(work_of(cuts), SheetSettings(ready=ready))
    for sheet in layout.sheets:
        page = page_of_sheet(sheet, names_of(cuts))
        data = written(WRITERS[ending], page)
        many = sum(len(item.path.contours) for item in page.items)
        if ending == ".hpgl":
            assert len(read_hpgl(data)) == many
        else:
            assert sum(map(len, read(ending, data, page).values())) == many
        assert {item.group for item in page.items} >= {"cuts", "weeding"}


@pytest.mark.parametrize("ending", ENDINGS)
def test_a_file_that_is_not_what_was_meant_is_not_called_right(traced, ending, monkeypatch):
    """Each with a point moved, a layer too few, or cut in half."""
    page, writer = page_of_layers(traced.stack.cuts), WRITERS[ending]
    item = page.items[-1]
    contours = [contour.copy() for contour in item.path.contours]
    contours[0][3] += 0.06
    moved = item._replace(path=dataclasses.replace(item.path, contours=tuple(contours)))
    wrongs = [(*page.items[:-1], moved), page.items[:-1], (*page.items[:-1], item._replace(path=item.path.reversed()))]
    pages = [dataclasses.replace(page, items=items) for items in wrongs]
    if ending != ".hpgl":  # which says no size
        pages.append(dataclasses.replace(page, size=(page.size[0] + 0.5, page.size[1])))
    for wrong in pages:
        assert not writer.is_right(writer.write(wrong), page)
    data = writer.write(page)
    monkeypatch.setattr(type(writer), "write", lambda self, page: data[: len(data) // 2])
    with pytest.raises(WriteError, match=f"The {writer.name} did not read back"):
        written(writer, page)


def test_files_of_layers_are_each_on_the_same_page(traced):
    for writer in WRITERS.values():
        files = files_of(writer, traced.stack.cuts, each=True)
        assert len(files) == len(traced.stack.cuts.cuts)
    layers = {item.layer for item in page_of_layers(traced.stack.cuts).items}
    assert set(files) == {f"-{layer}" for layer in layers}


def test_names_of_dxf_layers_hold_no_sign_that_readers_reject():
    cuts = [cut_of([shapely.box(9 * n, 0, 9 * n + 8, 8)], ink) for n, ink in enumerate((*INKS, "#123456"))]
    names = ["Rim; top/left", "rim top left", "*?", "Grün"]
    cuts = [dataclasses.replace(cut, name=name) for cut, name in zip(cuts, names, strict=True)]
    import io

    import ezdxf

    data = written(WRITERS[".dxf"], page_of_layers(CutStack(tuple(cuts), (60.0, 20.0))))
    layers = [layer.dxf.name for layer in ezdxf.read(io.StringIO(data.decode())).layers]
    assert layers[-4:] == ["Rim top left", "rim top left 2", "layer-2a6fdb", "Grün"]
    assert not any(set(name) & set('<>/\\":;?*|=,`') for name in layers)


def test_hpgl_is_turned_only_if_asked_and_knows_few_instructions():
    page = page_of_layers(CutStack((cut_of([shapely.box(10, 5, 30, 15)]),), (40.0, 20.0)))
    (drawn,) = read_hpgl(written(HpglWriter(), page))
    assert np.ptp(drawn.points, axis=0).tolist() == [800, 400] and min(drawn.points) == (400, 200)
    (turned,) = read_hpgl(written(HpglWriter(turned=True), page))
    assert np.ptp(turned.points, axis=0).tolist() == [400, 800]
    assert set(WRITERS[".hpgl"].write(page).decode("ascii").translate({ord(c): " " for c in "0123456789,-;"}).split()) \
        == {"IN", "SP", "PU", "PD"}  # fmt: skip


def test_twelve_layers_have_twelve_pens():
    cuts = [dataclasses.replace(cut_of([shapely.box(9 * n, 1, 9 * n + 8, 8)]), key=f"#{n:06x}") for n in range(12)]
    data = written(WRITERS[".hpgl"], page_of_layers(CutStack(tuple(cuts), (110.0, 10.0))))
    assert [one.pen for one in read_hpgl(data)] == list(range(1, 13))


def test_the_reader_of_hpgl_follows_pens_and_refuses_what_it_does_not_know():
    data = b"IN;SP2;PU10,20;PD30,20,30,40;PU;SP1;PA5,5;PD;PA9,5;PU0,0;SP0;"
    assert read_hpgl(data) == (Drawn(2, ((10, 20), (30, 20), (30, 40))), Drawn(1, ((5, 5), (9, 5))))
    for wrong in (b"IN;XX1;", b"PD1,2,3;", b"PDa,b;", b"%%", b"PU1.5,2;"):
        with pytest.raises(ArgumentError):
            read_hpgl(wrong)


def test_an_empty_title_and_a_layer_without_contours_are_written():
    item = Item("layer-x", "X", "draw", "#112233", cut_of([shapely.box(1, 1, 2, 2)]).path.part([]))
    for writer in WRITERS.values():
        written(writer, Page("", (10.0, 10.0), (item,)))


def test_curves_of_a_sheet_settings_page_are_the_same_bytes_again(traced):
    """On two runs of the pipeline."""
    again = Pipeline(0).run(draw(FOUR_INKS, 300), Recipe().with_("finish", width=120.0), names=("palette", "sheets"))
    for writer in WRITERS.values():
        assert writer.write(page_of_layers(again.stack.cuts)) == writer.write(page_of_layers(traced.stack.cuts))


def test_a_png_has_the_layers_where_they_are_and_clear_ground(traced):
    """Pixels counted by OpenCV against areas; an edge is half clear where half a pixel is covered."""
    page = page_of_layers(traced.stack.cuts)
    for dpi in (72.0, 300.0):
        data = PngWriter(dpi).write(page)
        assert PngWriter(dpi).is_right(data, page) and not PngWriter(dpi + 5).is_right(data, page)
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
        assert image.shape[:2] == tuple(round(side / 25.4 * dpi) for side in page.size[::-1])
        square = (25.4 / dpi) ** 2
        area = sum(layer.area for layer in traced.stack.layers)
        assert image[..., 3].sum() / 255 * square == pytest.approx(area, rel=0.01)
        for item, layer in zip(page.items, traced.stack.layers, strict=True):
            mine = (image[..., 2::-1] == np.array(item.rgb)).all(2) & (image[..., 3] == 255)
            assert mine.sum() * square == pytest.approx(layer.area, rel=0.12 if dpi < 100 else 0.03)
    half = Page("", (1.0, 1.0), (Item("layer-x", "X", "cut", "#000000", cut_of([shapely.box(0, 0, 1, 0.5)]).path),))
    (alpha,) = np.unique(cv2.imdecode(np.frombuffer(PngWriter(25.4).write(half), np.uint8), -1)[..., 3])
    assert alpha == pytest.approx(128, abs=2)
    with pytest.raises(ArgumentError, match="too many"):
        PngWriter(10_000).write(dataclasses.replace(page, size=(900.0, 900.0)))


def test_outlines_and_pieces(traced):
    page = page_of_layers(traced.stack.cuts, by_piece=True)
    assert len(page.items) == sum(layer.pieces for layer in traced.stack.layers)
    for ending in ENDINGS:
        data = written(WRITERS[ending], page.as_outlines())
        many = sum(len(item.path.contours) for item in page.items)
        if ending == ".hpgl":
            assert len(read_hpgl(data)) == many
        else:
            assert sum(map(len, read(ending, data, page).values())) == many
    svg = written(WRITERS[".svg"], page.as_outlines())
    assert b"evenodd" not in svg and svg.count(b"<g ") == len(traced.stack.layers)


@pytest.mark.parametrize("ending", ENDINGS)
def test_five_thousand_pieces(ending):
    """Contour by contour: how many, how large and where."""
    rng = np.random.default_rng(4)
    turn = np.arange(5) * np.pi / 2
    control = np.stack([np.column_stack([np.cos(turn[:-1] + by), np.sin(turn[:-1] + by)]) * far for by, far in
                        ((0.0, 1.0), (np.arctan(0.5523), np.hypot(1, 0.5523)))], 1)  # fmt: skip
    nodes, ahead = control[:, 0], control[:, 1]
    behind = np.roll(nodes, -1, 0) * 2 - np.roll(ahead, -1, 0)
    disc = np.vstack([*(np.stack([a, b, c]) for a, b, c in zip(nodes, ahead, behind, strict=True)), nodes[:1]])
    across = np.arange(2500)
    items = []
    for number, ink in enumerate(INKS[:2]):
        middle = np.column_stack([across % 50 * 6.0 + 4, across // 50 * 6.0 + 4 + 300 * number])
        radius = rng.uniform(0.8, 2.6, 2500)
        contours = tuple(np.round(disc * r + m, 4) for r, m in zip(radius, middle, strict=True))
        path = type(cut_of([shapely.box(0, 0, 1, 1)]).path)(contours, (np.zeros(4, bool),) * 2500)
        items.append(Item(f"layer-{number}", ink, "cut", ink, path))
    page = Page("Many", (310.0, 610.0), tuple(items))
    found = read(ending, written(WRITERS[ending], page), page)
    for item in items:
        lines = found[item.colour]
        assert len(lines) == 2500
        within = 0.0125 if ending == ".hpgl" else 1e-3
        bounds = np.array([[*line.min(0), *line.max(0)] for line in lines])
        meant = np.array([[*contour.min(0), *contour.max(0)] for contour in item.path.contours])
        assert np.abs(bounds - meant).max() < within + 5e-3
        areas, true = np.array([shapely.Polygon(line).area for line in lines]), np.abs(item.path.areas)
        grid = 0.025 * np.array([shapely.LineString(line).length for line in lines]) if ending == ".hpgl" else 0.0
        assert (np.abs(areas - true) <= 1e-3 * true + grid).all()
        inside = (
            0.0125 * sum(shapely.LineString(line).length for line in lines) if ending == ".hpgl" else 0.0
        )  # by chords
        assert areas.sum() == pytest.approx(true.sum(), rel=1e-3, abs=inside)


@pytest.mark.skipif(shutil.which("gs") is None, reason="Ghostscript is not installed")
def test_eps_is_drawn_by_ghostscript_as_it_is_meant(traced, tmp_path):
    """Pixels of another program, at 300 dots an inch, against those of the PNG: they part at edges alone."""
    page = page_of_layers(traced.stack.cuts)
    (tmp_path / "page.eps").write_bytes(written(WRITERS[".eps"], page))
    drawn = tmp_path / "page.png"
    asked = ["gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE", "-dEPSCrop", "-sDEVICE=png16m", "-r300",
             f"-sOutputFile={drawn}", str(tmp_path / "page.eps")]  # fmt: skip
    assert subprocess.run(asked, capture_output=True, check=True).stderr == b""
    found = cv2.imread(str(drawn))[..., ::-1]
    ours = cv2.imdecode(np.frombuffer(PngWriter(300.0).write(page), np.uint8), cv2.IMREAD_UNCHANGED)
    height, width = (min(pair) for pair in zip(found.shape[:2], ours.shape[:2], strict=True))
    assert abs(found.shape[0] - page.size[1] / 25.4 * 300) <= 1.5
    for item, layer in zip(page.items, traced.stack.layers, strict=True):
        theirs = (found == np.array(item.rgb)).all(2)
        sure = (ours[..., 2::-1] == np.array(item.rgb)).all(2) & (ours[..., 3] == 255)
        inner = cv2.erode(sure.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        reach = cv2.dilate(sure.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
        low = found.shape[0] - height  # a page of points grows at its top
        assert theirs[low:, :width][inner[-height:, :width]].all()
        assert not theirs[low:, :width][~reach[-height:, :width]].any()
        assert theirs.sum() * (25.4 / 300) ** 2 == pytest.approx(layer.area, rel=0.02)


def test_a_spot_colour_is_named_and_cut_lines_are_drawn_in_it(traced):
    page = page_of_layers(traced.stack.cuts)
    data = written(PdfWriter("Knife line"), page)
    assert b"/Separation" in data and b"Knife#20line" in data
    assert b"/Separation" not in written(PdfWriter(), page)
    assert not PdfWriter().is_right(data, page)  # filled areas were meant
    red = dataclasses.replace(page, items=tuple(item._replace(colour="#ff0000") for item in page.items))
    assert not PdfWriter().is_right(written(PdfWriter(), page), red)


def test_a_shadow_is_as_faint_in_every_picture_format():
    item = Item("layer-x", "X", "cut", "#000000", cut_of([shapely.box(0, 0, 10, 10)]).path, opacity=0.25)
    page = Page("", (10.0, 10.0), (item,))
    image = cv2.imdecode(np.frombuffer(written(PngWriter(50.8), page), np.uint8), cv2.IMREAD_UNCHANGED)
    assert image[5, 5].tolist() == [0, 0, 0, 64]
    assert b'fill-opacity="0.25"' in written(WRITERS[".svg"], page)
    rendered = pdfium.PdfDocument(written(WRITERS[".pdf"], page))[0].render().to_numpy()
    assert abs(int(rendered[10, 10, 0]) - 191) < 3
