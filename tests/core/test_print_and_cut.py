"""The print and its cut line, each read by a library that did not write it, lie on each other."""

import cv2
import numpy as np
import pytest
import shapely

from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job import Pipeline, PrintSettings, print_and_cut
from tests.conftest import draw
from tests.core.send import readers

MM_A_PIXEL = 25.4 / 200


@pytest.fixture(scope="module")
def sticker():
    """A leaf and a ring on clear ground; 200 px that are 80 mm wide."""
    return draw(
        '<path d="M40 100C40 40 120 40 120 100C120 160 40 160 40 100Z" fill="#4f8a4b"/>'
        '<circle cx="150" cy="60" r="24" fill="none" stroke="#8e2a5b" stroke-width="10"/>',
        200,
    )


def made(picture, **settings):
    """Pixels of the print, size of the page, the cut line filled, and lines of the marks."""
    both = print_and_cut(picture, 80.0, PrintSettings(200.0, **settings), Pipeline(0))
    image = cv2.imdecode(np.frombuffer(both.png, np.uint8), cv2.IMREAD_UNCHANGED)
    size, found = readers.read_svg(both.svg)
    assert image.shape[:2] == tuple(round(side / MM_A_PIXEL) for side in size[::-1])
    lines = found["#000000"]
    shut = [line for line in lines if np.allclose(line[0], line[-1]) and shapely.Polygon(line).area > 60]
    return image, readers.filled(shut), [line for line in lines if not any(line is one for one in shut)]


def printed(image: np.ndarray, but: np.ndarray | None = None) -> shapely.Geometry:
    """What is not clear, holes filled, as polygons in mm."""
    mask = ((image[..., 3] > 127) & (True if but is None else ~but)).astype(np.uint8)
    contours, _ = cv2.findContours(cv2.resize(mask, None, fx=4, fy=4, interpolation=cv2.INTER_NEAREST),
                                   cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)  # fmt: skip
    shapes = [shapely.Polygon((one[:, 0] + 0.5) * MM_A_PIXEL / 4) for one in contours if len(one) > 40]
    return shapely.union_all([shape.buffer(0) for shape in shapes])


@pytest.mark.parametrize("offset", [0.0, 2.0, 9.0, -1.0])
def test_the_cut_line_lies_at_its_offset_all_round(clear_sticker, offset):
    image, cut, _ = made(clear_sticker, offset=offset)
    meant = printed(image).buffer(offset, quad_segs=32)
    edge = shapely.points(shapely.get_coordinates(shapely.segmentize(cut.boundary, 0.2)))
    away = shapely.distance(edge, printed(image).boundary)
    assert np.abs(away - abs(offset)).max() < 0.4  # a pixel of the picture that was traced
    assert cut.area == pytest.approx(meant.area, rel=0.02)


@pytest.fixture(scope="module")
def clear_sticker(sticker):
    """The same without its white ground."""
    rgba = sticker.rgba.copy()
    rgba[(rgba[..., :3] > 245).all(2)] = 0
    return type(sticker)(rgba)


@pytest.mark.parametrize("marks", ["corners", "crosses", "holes"])
def test_marks_are_printed_where_the_file_of_the_cut_line_has_them(clear_sticker, marks):
    image, cut, lines = made(clear_sticker, offset=1.5, marks=marks)
    whole = shapely.union_all([shapely.LineString(line).buffer(0.25) for line in lines])
    black = (image[..., :3] < 40).all(2) & (image[..., 3] > 127)
    rows, columns = np.nonzero(black)
    points = shapely.points((columns + 0.5) * MM_A_PIXEL, (rows + 0.5) * MM_A_PIXEL)
    assert shapely.distance(points, whole).max() < 0.1 and not shapely.intersects(whole, cut)
    assert black.sum() * MM_A_PIXEL**2 == pytest.approx(whole.area, rel=0.15)
    _, _, right, bottom = cut.bounds
    corners = [(sum(line[:, 0] > right) > 0, sum(line[:, 1] > bottom) > 0) for line in lines]
    assert len(set(corners)) == 4
    _, plain, none = made(clear_sticker, offset=1.5)
    assert not none and plain.area == pytest.approx(cut.area, rel=1e-3)


def test_what_is_asked_beyond_reason_is_one_sentence(clear_sticker):
    with pytest.raises(NothingToCutError, match="take a smaller offset"):
        made(clear_sticker, offset=-40.0)
    for offset in (51.0, float("nan"), float("-inf")):
        with pytest.raises(ArgumentError, match="cannot be cut"):
            made(clear_sticker, offset=offset)
    with pytest.raises(ArgumentError, match="too many to save"):
        print_and_cut(clear_sticker, 900.0, PrintSettings(2400.0), Pipeline(0))


def test_a_picture_of_which_nothing_is_clear_gets_room_for_an_offset_and_marks(sticker):
    image, cut, lines = made(sticker, offset=3.0, marks="corners")
    left, top, right, bottom = cut.bounds
    assert (right - left, bottom - top) == pytest.approx((86.0, 86.0), abs=0.05)
    assert left > 4 and min(line.min() for line in lines) > 0.2
    assert (image[0] == 0).all() and (image[:, -1] == 0).all()
