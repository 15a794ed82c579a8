"""The job sheet read by PDFium: what it says, how long its line is, and what it shows to scale."""

import ctypes
import re

import msgspec
import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as pdfium_c
import pytest

from sketchloom.core.job import Pipeline, Recipe, job_facts, set_aside, work_of
from sketchloom.core.layers import LayerRule
from sketchloom.core.paper import PAPERS, job_sheet_pdf
from sketchloom.core.stock import CUTTERS, GENERIC, Preset, cautions_for
from tests.conftest import FOUR_INKS, draw

_STAGES = ("palette", "mended", "sheets", "checked")
_MM = 25.4 / 72


def facts_of(picture, recipe, name="Plant stall", presets=(), unit="mm"):
    result = Pipeline().run(picture, recipe, names=_STAGES)
    return job_facts(name, result, (result.layout, work_of(result, [])), presets, unit)


def pages_of(data: bytes) -> list:
    return list(pdfium.PdfDocument(data))


def text_of(data: bytes) -> str:
    return " ".join(page.get_textpage().get_text_bounded() for page in pages_of(data)).replace("\r\n", " ")


def boxes_of(page) -> np.ndarray:
    """Left, low, right and high of each path of a page, mm."""
    found = []
    for one in page.get_objects():
        if one.type == pdfium_c.FPDF_PAGEOBJ_PATH:
            sides = [ctypes.c_float() for _ in range(4)]
            pdfium_c.FPDFPageObj_GetBounds(one.raw, *sides)
            found.append([side.value * _MM for side in sides])
    return np.array(found).reshape(-1, 4)


@pytest.fixture(scope="module")
def stocked():
    """Four layers of three stocks with prices, on a cutter, one that is cut mirrored."""
    picture = draw(FOUR_INKS, 300)
    recipe = Recipe().with_("finish", width=120.0).with_("sheets", cutter=CUTTERS[0], copies=2)
    layers = Pipeline().run(picture, recipe, names=("palette", "mended")).stack.layers
    shelf = [next(one for one in GENERIC if one.name == name) for name in
             ("Cream paper", "Red card", "White film", "Red card")]  # fmt: skip
    rules = tuple(
        LayerRule(layer.key, stock=msgspec.structs.replace(stock, price=1.25))
        for layer, stock in zip(layers, shelf, strict=True)
    )
    presets = (Preset("Fine on card", "card", "knife", "Fine blade", 14, 35, 2, "New mat"),)
    return facts_of(picture, recipe.with_("layers", rules=rules), presets=presets)


@pytest.mark.parametrize("paper", list(PAPERS))
def test_it_tells_the_job(stocked, paper):
    data = job_sheet_pdf(stocked, paper)
    assert data == job_sheet_pdf(stocked, paper)
    pages, text = pages_of(data), text_of(data)
    assert 1 <= len(pages) <= 3
    for page in pages:
        assert np.array(page.get_size()) * _MM == pytest.approx(PAPERS[paper], abs=0.01)
    width, height = stocked.size
    assert f"{width:.1f} × {height:.1f} mm ({width / 25.4:.2f} × {height / 25.4:.2f} in)" in text
    for number, layer in enumerate(stocked.stack.layers, 1):
        assert re.search(rf"{number} {layer.name} {layer.stock.name}", text)
    assert "2 copies" in text and "White film, mirrored" in text
    assert "Fine on card, Fine blade, force 14, 35 mm/s, 2 passes, New mat" in text and "none kept: test first" in text
    assert f"stock for {stocked.figures.cost:.2f}" in text and stocked.figures.cost > 2.5
    told = {said for kind in ("paper", "card", "heat-transfer film") for said in cautions_for(kind)}
    assert all(said in text for said in told) and "children's mouths" not in text  # that is for vinyl
    for finding in stocked.open:
        assert finding.sentence[:40] in text
    for caution in ("Make a test cut first", "manuals and local rules come first", "may use the picture"):
        assert caution in text


@pytest.mark.parametrize("paper", list(PAPERS))
def test_the_line_is_100_mm_long_and_sheets_are_to_scale(stocked, paper):
    data = job_sheet_pdf(stocked, paper)
    pages = pages_of(data)
    boxes = boxes_of(pages[0])
    wide, tall = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
    grown = 2 * 0.5 * _MM  # by which PDFium grows the bounds of a line so wide
    assert any(abs(w - grown - 100) < 0.02 and t < 1 for w, t in zip(wide, tall, strict=True))
    (scale,) = map(float, re.findall(r"at 1 : ([0-9.]+)", text_of(data)))
    meant = sorted(tuple(side / scale for side in sheet.size) for sheet in stocked.layout.sheets)
    frames = [
        (w, t) for page in pages for w, t in np.abs(boxes_of(page)[:, 2:] - boxes_of(page)[:, :2]).tolist()
    ]  # fmt: skip
    edge = 2 * 0.4 * _MM
    for width, height in meant:
        assert any(abs(w - edge - width) < 0.05 and abs(t - edge - height) < 0.05 for w, t in frames)


def test_the_approval_picture_has_the_colours_of_the_stock_on_the_ground_of_the_job():
    picture = draw('<circle cx="100" cy="100" r="70" fill="#c03030"/>')
    layer = Pipeline().run(picture, Recipe(), names=("palette", "mended")).stack.layers[0]
    stock = next(one for one in GENERIC if one.name == "Blue card")
    recipe = Recipe().with_("layers", rules=(LayerRule(layer.key, stock=stock),)).with_("look", behind=(16, 90, 32))
    page = pages_of(job_sheet_pdf(facts_of(picture, recipe)))[0]
    image = np.asarray(page.render(scale=2).to_pil().convert("RGB")).reshape(-1, 3)
    seen = {"#{:02x}{:02x}{:02x}".format(*rgb) for rgb in np.unique(image, axis=0)}
    assert {stock.colour, "#105a20"} <= seen and "#c03030" not in seen


def test_inches_and_names_with_odd_letters():
    picture = draw(FOUR_INKS)
    keys = [ink.key for ink in Pipeline().run(picture, Recipe(), names=("palette", "mended")).palette.inks]
    names = ("<b>Bunting</b> & gate", "Грядка", "花壇", "x" * 40)
    recipe = Recipe().with_("separate", names=tuple(zip(keys, names, strict=True))).with_("finish", width=100.0)
    data = job_sheet_pdf(facts_of(picture, recipe, "</para> & Sons", unit="in"))
    text = text_of(data)
    assert "</para> & Sons" in text and "<b>Bunting</b> & gate" in text and "Грядка" in text
    assert "Size, in" in text and " mm wide" not in text


@pytest.mark.parametrize("paper", list(PAPERS))
def test_however_much_there_is_three_pages_hold_it(paper):
    """Twelve layers, a hundred sheets, and pieces that each spoil the cut."""
    colours = [f"#{red}{green}{blue}" for red in ("20", "c0") for green in ("30", "d0") for blue in ("10", "80", "f0")]
    rng = np.random.default_rng(5)
    body = "".join(
        f'<rect x="{rng.uniform(0, 380):.1f}" y="{rng.uniform(0, 380):.1f}" width="{w:.1f}" height="{9 - w:.1f}" '
        f'fill="{colour}"/>'
        for colour in colours for w in rng.uniform(1, 8, 12)
    )  # fmt: skip
    recipe = Recipe().with_("finish", width=60.0).with_("tidy", least_area=0.0)
    recipe = recipe.with_("sheets", copies=9, size=(70.0, 80.0))
    facts = facts_of(draw(body, 400), recipe, "A name that goes on and on, for the plant stall")
    assert len(facts.layout.sheets) > 40 and len(facts.open) > 20
    data = job_sheet_pdf(facts, paper)
    assert len(pages_of(data)) <= 3
    assert re.search(r"and \d+ more sheets", text_of(data)) and re.search(r"and \d+ more findings", text_of(data))


def test_findings_are_told_in_the_unit_and_name_their_layer_once():
    squares = '<path d="M20 20H80V80H20ZM120 20H180V80H120ZM80 48H120V51H80Z" fill="#8e2a5b"/>'
    dots = "".join(f'<circle cx="{40 + 30 * n}" cy="150" r="10" fill="#4f8a4b"/>' for n in range(4))
    picture, recipe = draw(squares + dots, 400, 200), Recipe().with_("finish", width=40.0)
    layers = Pipeline().run(picture, recipe, names=("palette", "mended")).stack.layers
    card = next(one for one in GENERIC if one.name == "Card")
    rules = tuple(LayerRule(layer.key, stock=card) for layer in layers)
    facts = facts_of(picture, recipe.with_("layers", rules=rules), unit="in")
    green = next(layer.name for layer in layers if layer.loose == 3)
    assert "neck" in {finding.kind for finding in facts.open}
    text = text_of(job_sheet_pdf(facts))
    found = text[text.index("Findings left open") : text.index("Before you cut")]
    assert re.search(r"only 0\.\d+ in wide", found) and not re.search(r"\d mm\b", found)
    assert "left so" not in found
    recipe = recipe.with_("layers", rules=rules)
    result = Pipeline().run(picture, recipe, names=_STAGES)
    aside = set_aside(result, recipe, result.checked.open[0], "a hinge")
    told = text_of(job_sheet_pdf(facts_of(picture, aside)))
    assert "1 place looked at and left so." in told and len(facts_of(picture, aside).open) == len(facts.open) - 1
    assert found.count(f"{green} has 3 pieces") == 1 and f"{green}: {green}" not in found
