"""PDF pages, phone pictures, files of several pictures, and pages with several drawings."""

import io

import numpy as np
import pillow_heif
import pypdfium2 as pdfium
import pytest
from PIL import Image

from sketchloom.core.errors import PictureError
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import Crop, Straighten, Turn, find_drawings, load_picture, prepare
from tests.conftest import FOUR_INKS, draw, picture_of
from tests.core.test_prepare import photographed

FRAMES = [Image.new("RGB", (200, 100), colour) for colour in ("#c02020", "#20a030", "#2030c0")]


def saved(kind: str, frames: list[Image.Image], **options) -> bytes:
    buffer = io.BytesIO()
    frames = [frame.copy() for frame in frames]
    frames[0].save(buffer, kind, save_all=len(frames) > 1, append_images=frames[1:], **options)
    return buffer.getvalue()


@pytest.mark.parametrize("kind", ["PDF", "TIFF", "GIF"])
def test_any_page_of_a_file_can_be_taken(kind):
    data = saved(kind, FRAMES)
    for page, frame in enumerate(FRAMES, 1):
        picture = load_picture(data, "fair.x", page, dpi=72)
        assert picture.pages == 3
        assert np.abs(picture.rgba[50, 100, :3].astype(int) - frame.getpixel((5, 5))).max() < 12
        assert picture.note == f"Page {page} of 3 in fair.x is used."
    with pytest.raises(PictureError, match="so there is no page 4"):
        load_picture(data, "fair.x", 4)


@pytest.mark.parametrize(("dpi", "size"), [(72, (200, 100)), (150, (417, 209)), (300, (834, 417))])
def test_a_pdf_page_is_drawn_at_its_dots_an_inch(dpi, size):
    # 200 x 100 points; a point is 1/72 inch (ISO 32000-1, 8.3.2.3)
    picture = load_picture(saved("PDF", FRAMES[:1], resolution=72.0), "page.pdf", dpi=dpi)
    assert (picture.width, picture.height) == size
    assert picture.note == ""


def test_a_pdf_that_cannot_be_used_says_why():
    data = saved("PDF", FRAMES)
    with pytest.raises(PictureError, match=r"half\.pdf is damaged or only half there"):
        load_picture(b"%PDF-1.7 and then nothing", "half.pdf")
    with pytest.raises(PictureError, match="at most 120 million can be opened, so take fewer dpi"):
        load_picture(data, "large.pdf", dpi=10_000)
    for dpi in (0.0, -300.0, 1e308, float("nan")):
        with pytest.raises(PictureError, match="A page cannot be drawn at"):
            load_picture(data, "large.pdf", dpi=dpi)
    with pytest.raises(PictureError, match=r"small\.pdf has 3 pages, so there is no page 7"):
        load_picture(data, "small.pdf", 7)


def test_a_drawing_in_a_pdf_is_the_drawing():
    document = pdfium.PdfDocument.new()
    page = document.new_page(144, 144)
    image = pdfium.PdfImage.new(document)
    image.set_bitmap(pdfium.PdfBitmap.from_pil(Image.fromarray(draw(FOUR_INKS, 600, 200).rgba[..., :3])))
    image.set_matrix(pdfium.PdfMatrix().scale(144, 144))
    page.insert_obj(image)
    page.gen_content()
    buffer = io.BytesIO()
    document.save(buffer)
    result = Pipeline(0).run(load_picture(buffer.getvalue(), "art.pdf", dpi=300), Recipe())
    assert sorted(layer.ink.hex for layer in result.stack.layers) == sorted(
        ["#3a2a33", "#f2e6cf", "#8e2a5b", "#4f8a4b"]
    )


def test_a_heic_phone_picture_is_opened_upright():
    rgb = draw(FOUR_INKS, 256, 200).rgba[..., :3].copy()
    rgb[:40] = 10, 200, 30
    exif = Image.Exif()
    exif[0x0112] = 6  # shown turned by a quarter to the right (EXIF 2.32, 4.6.4 A)
    buffer = io.BytesIO()
    pillow_heif.from_pillow(Image.fromarray(rgb)).save(buffer, quality=90, exif=exif.tobytes())
    picture = load_picture(buffer.getvalue(), "phone.heic")
    assert np.abs(picture.rgba[..., :3].astype(int) - np.rot90(rgb, -1)).mean() < 4


SHEET = "".join(
    f'<g transform="translate({x} {y}) scale(.25)">{FOUR_INKS}</g>'
    for x, y in ((10, 12), (75, 18), (140, 10), (12, 80), (72, 74), (138, 84), (20, 145), (100, 142))
)


def test_drawings_on_a_page_are_found_in_reading_order():
    page = draw(SHEET, 800, 200)
    found = find_drawings(page)
    assert len(found) == 8
    places = np.array([first for first, _ in found])
    assert np.allclose(places[:3, 1], [0.07, 0.1, 0.06], atol=0.03)
    assert (np.diff(places[:3, 0]) > 0.2).all()
    for first, last in found:
        result = Pipeline(0).run(page, Recipe(prepare=(Crop(first=first, last=last),)))
        assert len(result.stack.layers) == 4


def test_drawings_on_a_page_that_lies_askew_are_found_once_it_is_straight():
    page = np.full((800, 800, 3), 255, np.uint8)
    page[100:300, 90:300] = page[420:700, 450:720] = page[500:640, 100:260] = 30
    shot = photographed(drawing=page)
    straight = prepare(shot, (Straighten(),))
    found = find_drawings(straight.picture)
    assert len(found) == 3
    for first, last in found:
        cut = prepare(shot, (Straighten(), Crop(first=first, last=last))).picture
        assert 0.5 < (cut.rgba[..., 0] < 100).mean() < 0.98


def test_one_drawing_is_not_taken_apart():
    assert find_drawings(draw(FOUR_INKS, 400)) == ()
    eyes = '<circle cx="90" cy="100" r="8"/><circle cx="110" cy="100" r="8"/>'
    ring = '<circle cx="100" cy="100" r="80" fill="none" stroke="#000" stroke-width="6"/>'
    assert find_drawings(draw(ring + eyes, 400, 200)) == ()
    assert find_drawings(picture_of(np.full((30, 40, 3), 255, np.uint8))) == ()
    noise = np.random.default_rng(3).integers(0, 255, (200, 200, 3)).astype(np.uint8)
    assert find_drawings(picture_of(noise)) == ()


def test_places_of_drawings_hold_after_a_turn():
    straight, turned = (prepare(draw(SHEET, 800, 200), rows).picture for rows in ((), (Turn(quarters=1),)))
    one, other = find_drawings(straight), find_drawings(turned)
    middles = [sorted(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2) for a, b in found) for found in (one, other)]
    assert np.allclose(middles[0], middles[1], atol=0.01)
