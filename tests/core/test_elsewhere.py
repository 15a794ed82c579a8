"""Files of other programs: what they fill, and how their groups are laid; resvg and shapely say what is right."""

import io
import os

import ezdxf
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from resvg_py import svg_to_bytes

from sketchloom.core.elsewhere import read_drawing, stack_of, subject_of
from sketchloom.core.elsewhere.dxf_file import read_dxf
from sketchloom.core.elsewhere.svg_file import read_svg
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import Memory, changed_elsewhere, find_all, mend_all
from sketchloom.core.layers import FillWindow, TakePiece
from tests.conftest import tries

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 100 100"'
SIZED = f'{HEAD} width="100mm" height="100mm">'


def drawing(body: str):
    return read_svg((SIZED + body + "</svg>").encode(), "a.svg")


def subject(body: str):
    return subject_of(drawing(body), None, (), Memory.new())


def area(checked) -> float:
    return sum(float(shapely.area(checked.outline(layer).union)) for layer in checked.layers)


def seen(body: str) -> np.ndarray:
    """Where resvg draws anything, a pixel 0.5 mm; (200, 200) bool."""
    data = svg_to_bytes(svg_string=f"{HEAD}>{body}</svg>", width=200, height=200, background="white")
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("L")) < 128


def covered(checked) -> np.ndarray:
    """Where the middles of the same pixels lie in the pieces of a checked drawing."""
    shape = shapely.union_all([checked.outline(layer).union for layer in checked.layers])
    x, y = np.meshgrid(np.arange(200) / 2 + 0.25, np.arange(200) / 2 + 0.25)
    return shapely.contains_xy(shape, x, y)


SQUARES = {
    "even-odd squares that overlap": '<path fill="#a00" fill-rule="evenodd" d="M10 10H60V60H10Z M40 40H90V90H40Z"/>',
    "squares that overlap": '<path fill="#a00" d="M10 10H60V60H10Z M30 30H80V60H30Z M90 90V97H97V90Z"/>',
    "overlapping, run both ways": '<path fill="#a00" d="M10 10H60V60H10Z M40 40V90H90V40Z"/>',
    "one within another, run alike": '<path fill="#a00" d="M10 10H90V90H10Z M30 30H50V50H30Z M2 95L90 99L90 95Z"/>',
    "one within another, run both ways": '<path fill="#a00" d="M10 10H90V90H10Z M30 30V50H50V30Z"/>',
    "apart, run both ways": '<path fill="#a00" d="M10 10H60V60H10Z M70 70V90H90V70Z"/>',
    "a bow": '<path fill="#a00" d="M10 10L90 90V10L10 90Z"/>',
    "a ring on a disc": '<circle cx="50" cy="50" r="30" fill="#a00"/>'
    '<path fill="#a00" fill-rule="evenodd" d="M35 35H65V65H35Z M42 42H58V58H42Z"/>',
    "a star": '<path fill="#a00" d="M50 5L79 95L3 39H97L21 95Z"/>',
    "an even-odd star": '<path fill="#a00" fill-rule="evenodd" d="M50 5L79 95L3 39H97L21 95Z"/>',
}


@pytest.mark.parametrize("name", SQUARES)
def test_what_a_file_fills_goes_by_its_rule_whichever_way_outlines_run(name):
    wrong = covered(subject(SQUARES[name])) != seen(SQUARES[name])
    assert wrong.mean() < 0.004  # along the edges of slanting lines


@pytest.mark.parametrize("name", SQUARES)
def test_mending_a_file_loses_nothing_that_it_fills(name):
    before = subject(SQUARES[name])
    found = find_all(before)
    done = mend_all(before, found, found)
    mends = [mend for fix in done.fixes for mend in fix.mends]
    assert changed_elsewhere(before, done.subject, mends)[0] == 0
    assert not any(one.kind == "crossing" for one in done.findings)
    written = sum(float(layer.path.areas.sum()) for layer in stack_of(done.subject).cuts)
    widened = sum(mend.width * 100 for mend in mends if hasattr(mend, "width"))
    assert abs(written - area(before)) <= 0.5 + widened


POINT = st.tuples(st.integers(5, 95), st.integers(5, 95))


@given(
    st.lists(st.lists(POINT, min_size=3, max_size=6), min_size=1, max_size=3), st.sampled_from(["nonzero", "evenodd"])
)
@tries(40)
def test_any_polygons_fill_what_resvg_fills(polygons, rule):
    path = " ".join("M" + "L".join(f"{x} {y}" for x, y in one) + "Z" for one in polygons)
    body = f'<path fill="#a00" fill-rule="{rule}" d="{path}"/>'
    try:
        checked = subject(body)
    except Exception as error:
        assert "nothing" in str(error) or "cross" in str(error)
        return
    far = np.abs(covered(checked).astype(int) - seen(body))
    assert far.mean() < 0.02


@pytest.mark.parametrize(
    "body",
    [
        '<symbol id="s" viewBox="0 0 1 1"><rect width="1" height="1"/></symbol>'
        '<use xlink:href="#s" x="10" y="10" width="20" height="40"/>',
        '<symbol id="s"><rect x="1" y="1" width="10" height="10"/></symbol>'
        '<use href="#s" x="30" transform="scale(2)"/>',
        '<svg x="10" y="10" width="50" height="50" viewBox="0 0 5 5"><rect width="3" height="5"/></svg>',
        '<svg x="10%" y="10" width="50%" height="50" viewBox="5 5 20 10" preserveAspectRatio="xMinYMax">'
        '<rect x="5" y="5" width="20" height="10"/></svg>',
        '<svg width="80" height="50" viewBox="0 0 10 10" preserveAspectRatio="none"><rect width="9" height="9"/></svg>',
        '<switch><g systemLanguage="zz"><rect width="90" height="90"/></g><rect width="20" height="20"/></switch>',
        '<g opacity="0"><rect width="90" height="90"/></g><rect width="20" height="20"/>',
        '<g style="fill:#f00; opacity: 0"><rect width="90" height="90"/></g><rect width="20" height="20"/>',
    ],
)
def test_groups_lie_where_resvg_draws_them(body):
    assert (covered(subject(body)) != seen(body)).mean() < 0.004


def test_layers_of_a_dxf_that_are_not_plotted_are_not_cut():
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    document.layers.add("OFF").off()
    document.layers.add("FROZEN").freeze()
    document.layers.add("HELP").dxf.plot = 0
    for place, layer in enumerate(("OFF", "FROZEN", "HELP", "Defpoints", "CUT")):
        space.add_circle((30 * place, 0), 10, dxfattribs={"layer": layer})
    space.add_circle((0, 90), 10, dxfattribs={"layer": "CUT", "invisible": 1})
    text = io.StringIO()
    document.write(text)
    cuts = read_dxf(text.getvalue().encode(), "a.dxf").stack.cuts
    assert [(cut.name, len(cut.path.contours)) for cut in cuts] == [("CUT", 1)]


def test_a_wide_stroke_that_is_taken_for_a_shape_is_told():
    notes = drawing('<path d="M10 10H90" stroke="#00f" stroke-width="4" fill="none"/>').notes
    assert len(notes) == 1 and "follow its middle" in notes[0]


@pytest.mark.parametrize("body", [
    '<g transform="translate(1e9 1e9)"><rect width="5" height="5"/></g>',
    '<path d="M10 10H90" fill="none" stroke="#00f" stroke-width="1e300"/>',
])  # fmt: skip
@pytest.mark.filterwarnings("error")
def test_what_lies_too_far_off_is_refused(body):
    with pytest.raises(ArgumentError, match="100 m"):
        drawing(body)


def test_what_changes_elsewhere_than_at_its_mend_is_told():
    before = subject('<path fill="#a00" d="M10 10H30V30H10Z M40 10H60V30H40Z M70 10H95V40H70Z M75 15V30H90V15Z"/>')
    key = before.layers[0].key
    take, fill = TakePiece(layer=key, at=(20.0, 20.0)), FillWindow(layer=key, at=(80.0, 20.0))
    after = before.mended((take, fill))
    assert changed_elsewhere(before, after, (take, fill))[0] == 0
    lost, (x, y) = changed_elsewhere(before, after, (take,))
    assert lost == pytest.approx(225, rel=0.02) and 75 < x < 90 and 15 < y < 30
    assert changed_elsewhere(before, after, (fill,))[0] == pytest.approx(400, rel=0.02)


def test_a_pipe_is_refused_and_never_waited_for(tmp_path):
    for ending in (".svg", ".dxf"):
        os.mkfifo(pipe := tmp_path / f"pipe{ending}")
        with pytest.raises(ArgumentError, match="no plain file"):
            read_drawing(pipe)


def test_a_dimension_counts_what_its_block_draws():
    document = ezdxf.new()
    space = document.modelspace()
    document.blocks.new("X0").add_circle((0, 0), 5)
    for level in range(1, 7):
        block = document.blocks.new(f"X{level}")
        for place in range(10):
            block.add_blockref(f"X{level - 1}", (place, 0))
    space.add_circle((0, 0), 5)
    dimension = space.add_linear_dim((0, 5), (0, 0), (9, 0))
    dimension.render()
    dimension.dimension.dxf.geometry = "X6"
    text = io.StringIO()
    document.write(text)
    with pytest.raises(ArgumentError, match="draws more than"):
        read_dxf(text.getvalue().encode(), "a.dxf")


def test_lines_end_to_end_are_one_contour_however_many():
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    angle = np.linspace(0, 2 * np.pi, 3001)
    at = np.stack([50 * np.cos(angle), 50 * np.sin(angle)], 1)
    order = np.random.default_rng(1).permutation(3000)
    for number in order.tolist():
        space.add_line(*(at[[number, number + 1]] if number % 3 else at[[number + 1, number]]))
    text = io.StringIO()
    document.write(text)
    (cut,) = read_dxf(text.getvalue().encode(), "a.dxf").stack.cuts
    assert len(cut.path.contours) == 1 and cut.area == pytest.approx(np.pi * 2500, rel=1e-4)


@pytest.mark.parametrize(
    "style", ["a{" * 20_000, "/*" * 50_000, " " * 100_000 + "x", "{}}}{{{;;:::@@@ a{b", "@media{a{fill:red}}"]
)
def test_a_broken_style_sheet_says_nothing_and_takes_no_time(style):
    (cut,) = drawing(f'<style>{style}</style><path class="a" d="M10 10H90V90H10Z" fill="#f00"/>').stack.cuts
    assert cut.ink.hex == "#ff0000"


def test_a_style_sheet_colours_what_it_names():
    (cut,) = drawing(
        '<style>/* { */ .a { fill : #00ff00 ; stroke:none }</style><path class="a" d="M10 10H90V90H10Z"/>'
    ).stack.cuts
    assert cut.ink.hex == "#00ff00"


def test_more_colours_than_anybody_cuts_are_refused():
    body = "".join(
        f'<rect x="{i % 20}" y="{i // 20}" width=".5" height=".5" fill="#{i * 3000:06x}"/>' for i in range(500)
    )
    with pytest.raises(ArgumentError, match="500 colours or layers"):
        drawing(body)
