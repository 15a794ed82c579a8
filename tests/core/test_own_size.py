"""The size that a file says its picture has."""

import io

import numpy as np
import pytest
from PIL import Image

from sketchloom.core.errors import PictureError
from sketchloom.core.job import Pipeline, Recipe, measure_opened, report_of
from sketchloom.core.picture import load_picture
from sketchloom.core.survey import report_at


def square(width: int = 400) -> Image.Image:
    """A red square that fills the middle half of a white picture."""
    rgb = np.full((width, width, 3), 255, np.uint8)
    rgb[width // 4 : -width // 4, width // 4 : -width // 4] = (192, 48, 48)
    return Image.fromarray(rgb)


def saved(kind: str, **more) -> bytes:
    buffer = io.BytesIO()
    square().save(buffer, kind, **more)
    return buffer.getvalue()


def report(data: bytes, name: str, recipe: Recipe | None = None, dpi: float = 300.0) -> dict:
    return report_of(Pipeline(0).run(load_picture(data, name, dpi=dpi), recipe or Recipe()))


@pytest.mark.parametrize("kind", ["PNG", "TIFF", "JPEG"])
@pytest.mark.parametrize("dpi", [200, 300, 600])
def test_a_scan_is_as_large_as_its_file_says(kind, dpi):
    told = report(saved(kind, dpi=(dpi, dpi)), "scan")
    assert told["size_from"] == "dpi" and told["design_mm"] == pytest.approx([200 / dpi * 25.4] * 2, rel=2e-3)


@pytest.mark.parametrize("more", [{}, {"dpi": (72, 72)}, {"dpi": (96, 96)}, {"dpi": (300, 150)}, {"dpi": (1e5, 1e5)}])
def test_what_programs_write_that_know_no_size_is_not_believed(more):
    told = report(saved("PNG", **more), "drawing.png")
    assert told["size_from"] == "96" and told["design_mm"] == pytest.approx([200 / 96 * 25.4] * 2, rel=2e-3)


def test_a_camera_states_any_size():
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x829A] = 0.01  # EXIF 2.32: ExposureTime
    assert report(saved("JPEG", dpi=(300, 300), exif=exif), "photo.jpg")["size_from"] == "96"


@pytest.mark.parametrize("dpi", [150.0, 300.0])
def test_a_page_is_as_large_as_it_is_however_fine_it_is_drawn(dpi):
    data = saved("PDF", resolution=100.0)  # 400 px are 288 points: ISO 32000-1, 72 to the inch
    told = report(data, "plan.pdf", dpi=dpi)
    assert told["size_from"] == "page" and told["design_mm"] == pytest.approx([2 * 25.4] * 2, rel=5e-3)


def test_what_is_typed_goes_before_what_a_file_says():
    data = saved("PNG", dpi=(300, 300))
    told = report(data, "scan.png", Recipe().with_("finish", width=80.0))
    assert told["size_from"] == "asked" and told["design_mm"] == told["size_mm"] == pytest.approx([80, 80])
    with_rim = report(data, "scan.png", Recipe().with_("finish", width=80.0).with_("layers", rim=3.0))
    assert with_rim["design_mm"] == pytest.approx([80, 80]) and with_rim["size_mm"] == pytest.approx([86, 86], abs=0.02)


def test_the_source_report_says_the_same():
    measures = measure_opened(load_picture(saved("PNG", dpi=(300, 300)), "scan.png"), Pipeline(0))
    told = report_at(measures)
    assert told.size_from == "dpi" and told.px_per_mm == pytest.approx(300 / 25.4, rel=1e-3)
    assert report_at(measures, 100.0).size_from == "asked"


def test_a_picture_of_no_width_to_speak_of_is_refused_before_it_takes_memory():
    buffer = io.BytesIO()
    Image.new("1", (1, 70_000)).save(buffer, "PNG")
    with pytest.raises(PictureError, match="70000 pixels long"):
        load_picture(buffer.getvalue(), "thread.png")
