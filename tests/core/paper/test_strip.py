"""The instruction strip and the assembly picture, read by OpenCV, PDFium and svgelements."""

import io

import cv2
import numpy as np
import pypdfium2 as pdfium
import pytest
from svgelements import SVG as PAGE
from svgelements import Path as Outline

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.layers import LayerRule
from sketchloom.core.paper import PAPERS, assembly_file, assembly_of, strip_of, strip_pdf
from sketchloom.core.paper.lettering import words_width, wrapped
from sketchloom.core.send import SVG, WRITERS, PngWriter, written
from tests.conftest import FOUR_INKS, draw


def stack_of(picture, recipe):
    return Pipeline().run(picture, recipe, names=("palette", "mended")).stack


@pytest.fixture(scope="module")
def stack():
    return stack_of(draw(FOUR_INKS, 200), Recipe().with_("layers", build="carried"))


def pixels(page, dpi=100.0) -> np.ndarray:
    data = written(PngWriter(dpi), page)
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)[..., 2::-1]


def panels_of(page) -> list:
    """Their boxes, as the file has them."""
    items = {item.id: item for item in page.items}
    return [items[f"step-{n}-ground"].path.bounds for n in range(1, 100) if f"step-{n}-ground" in items]


def test_each_picture_lays_one_layer_more_and_the_last_has_all(stack):
    page = strip_of(stack)
    image, panels = pixels(page), panels_of(page)
    layers = stack.layers
    assert len(panels) == len(layers) + 1
    for number, (left, top, right, bottom) in enumerate(panels):
        part = image[round(top * 100 / 25.4) : round(bottom * 100 / 25.4),
                     round(left * 100 / 25.4) : round(right * 100 / 25.4)]  # fmt: skip
        here = [(part == np.array(layer.ink.shown)).all(2).mean() > 0.002 for layer in layers]
        meant = [place == number for place in range(len(layers))] if number < len(layers) else [True] * len(layers)
        assert here == meant  # what lies there already is pale
    apart = [(a, b) for a in panels for b in panels if a is not b]
    assert all(a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1] for a, b in apart)


def test_one_layer_is_one_picture_and_what_is_scored_is_told():
    one = strip_of(stack_of(draw('<circle cx="100" cy="100" r="70" fill="#2a6fdb"/>'), Recipe()))
    assert len(panels_of(one)) == 1
    picture = draw(FOUR_INKS)
    key = stack_of(picture, Recipe()).layers[-1].key
    scored = strip_of(stack_of(picture, Recipe().with_("layers", rules=(LayerRule(key, kind="score"),))))
    titles = [item.title for item in scored.items]
    assert any(title.startswith("4 Score ") for title in titles) and "Done" in titles


@pytest.mark.parametrize("paper", list(PAPERS))
def test_it_fits_one_page_of_paper_and_is_the_same_again(stack, paper):
    data = strip_pdf(strip_of(stack), paper)
    assert data == strip_pdf(strip_of(stack), paper)
    (page,) = pdfium.PdfDocument(data)
    assert sorted(side * 25.4 / 72 for side in page.get_size()) == pytest.approx(sorted(PAPERS[paper]), abs=0.01)
    image = np.asarray(page.render(scale=1).to_pil().convert("L"))
    inked = np.argwhere(image < 250)
    assert (inked.min(0) > 25).all() and (np.array(image.shape) - inked.max(0) > 25).all()  # 9 mm are free


def test_every_format_takes_the_pictures_and_the_assembly_lies_in_order(stack):
    for page in (strip_of(stack), assembly_of(stack, (16, 24, 32))):
        for writer in WRITERS.values():
            written(writer, page)
    drawn = [one for one in PAGE.parse(io.BytesIO(assembly_file(stack, None, ".svg")), ppi=25.4).elements()
             if isinstance(one, Outline)]  # fmt: skip
    tops = [one.bbox()[1] for one in drawn if one.fill.hex in {layer.colour for layer in stack.layers}]
    assert len(tops) == len(stack.layers) and tops == sorted(tops, reverse=True)  # the first laid lies lowest
    shadows = [one for one in drawn if one.fill.opacity < 0.5]
    assert len(shadows) == 3 * len(stack.layers)
    assert assembly_file(stack, None, ".svg") == written(SVG, assembly_of(stack, None))
    assert cv2.imdecode(np.frombuffer(assembly_file(stack, None, ".png"), np.uint8), -1).shape[1] == 1600


def test_words_that_find_no_room_end_in_dots():
    lines = wrapped("Seed packets for the allotment society's summer fair", 30.0, 3.2, 2)
    assert len(lines) == 2 and lines[1].endswith("…") and all(words_width(line, 3.2) <= 30.0 for line in lines)
    assert wrapped("Beet", 30.0, 3.2, 2) == ["Beet"]
    (long,) = wrapped("w" * 60, 30.0, 3.2, 1)
    assert long.endswith("…") and words_width(long, 3.2) <= 30.0
    assert wrapped("", 30.0, 3.2, 2) == [""]
