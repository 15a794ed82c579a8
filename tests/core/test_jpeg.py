"""What a JPEG file stored is found again from its picture, and flat art drawn within it."""

import io
from functools import lru_cache

import numpy as np
import pytest
from PIL import Image
from scipy.fft import dctn

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import JpegTables, load_picture
from sketchloom.core.regions import SeparateSettings, find_tones
from sketchloom.core.regions.flat.flat import FlatArt, shadows_joined
from sketchloom.core.worn import find_stored
from sketchloom.core.worn.blocks import coefficients, from_coefficients
from sketchloom.core.worn.compressed import Within
from sketchloom.core.worn.jpeg import _CHROMA, _LUMA, table_of
from tests.conftest import FOUR_INKS, draw, picture_of

BADGE = FOUR_INKS + "".join(
    f'<path d="M{20 + 23 * i} 185 l9 -{6 + 2 * i} l8 12z" fill="#c8602a"/>'
    f'<circle cx="{30 + 20 * i}" cy="{32 + i}" r="{3 + i % 4}" fill="#e9b44c"/>'
    for i in range(7)
)


@lru_cache
def drawn() -> np.ndarray:
    return draw(BADGE, 320, 200).rgba[..., :3]


def as_jpeg(rgb: np.ndarray, **options) -> bytes:
    kept = io.BytesIO()
    Image.fromarray(rgb).save(kept, "JPEG", **options)
    return kept.getvalue()


def decoded(file: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(file)).convert("RGB"))


@pytest.mark.parametrize("quality", [10, 49, 50, 75, 92])
def test_tables_are_those_that_a_common_encoder_writes(quality):
    """ITU-T T.81, annex K, as libjpeg scales them (Pillow writes with it)."""
    written = Image.open(io.BytesIO(as_jpeg(drawn(), quality=quality))).quantization
    assert table_of(_LUMA, quality).tolist() == list(written[0])
    assert table_of(_CHROMA, quality).tolist() == list(written[1])


def test_blocks_are_turned_as_scipy_turns_them():
    squares = np.random.default_rng(1).normal(0, 50, (3, 16, 16)).astype(np.float32)
    made = coefficients(squares).reshape(3, 2, 2, 8, 8)
    for square, across, down in ((0, 0, 0), (1, 1, 0), (2, 1, 1)):
        block = squares[square, 8 * down : 8 * down + 8, 8 * across : 8 * across + 8]
        assert np.allclose(made[square, down, across], dctn(block, norm="ortho"), atol=1e-3)
    assert np.allclose(from_coefficients(coefficients(squares), (16, 16)), squares, atol=1e-3)


@pytest.mark.parametrize("quality", [20, 40, 60, 75, 85])
@pytest.mark.parametrize("subsampling", ["4:2:0", "4:2:2", "4:4:4"])
def test_what_was_stored_is_found_again(quality, subsampling):
    seen = decoded(as_jpeg(drawn(), quality=quality, subsampling=subsampling))
    stored = find_stored(seen)
    assert stored is not None
    assert stored.steps[0].tolist() == table_of(_LUMA, quality).tolist()
    assert stored.halving == {"4:2:0": (2, 2), "4:2:2": (1, 2), "4:4:4": (1, 1)}[subsampling]
    assert np.abs(np.clip(stored.decoded(), 0, 255) - seen).mean() < 0.6


def test_a_grey_file_is_told():
    stored = find_stored(np.repeat(decoded(as_jpeg(drawn()[..., 1], quality=60))[..., :1], 3, 2))
    assert stored is not None
    assert stored.steps[0].tolist() == table_of(_LUMA, 60).tolist()


@pytest.mark.parametrize("size", [(200, 160), (161, 203), (49, 64)])
def test_the_drawing_lies_within_what_was_stored_of_it(size):
    """Half a step to either side, but for the chroma that the encoder rounds first."""
    picture = np.ascontiguousarray(drawn()[60 : 60 + size[0], 30 : 30 + size[1]])
    file = as_jpeg(picture, quality=50)
    tables = Image.open(io.BytesIO(file)).quantization
    stored = find_stored(decoded(file), JpegTables(tuple(tables[0]), tuple(tables[1])))
    within = Within(stored)
    assert np.sqrt(((within.held(picture).astype(float) - picture) ** 2).mean()) < 1.2
    off = np.sqrt(((decoded(file).astype(float) - picture) ** 2).mean())
    assert np.sqrt(((within.calmest(decoded(file)).astype(float) - picture) ** 2).mean()) < 0.7 * off


@pytest.mark.parametrize(
    "rgb",
    [
        drawn(),
        np.full((64, 64, 3), 128, np.uint8),
        np.random.default_rng(1).integers(0, 256, (128, 128, 3)).astype(np.uint8),
        np.zeros((12, 300, 3), np.uint8),
    ],
    ids=["clean", "even", "noise", "narrow"],
)
def test_what_came_through_no_jpeg_is_left_alone(rgb):
    assert find_stored(rgb) is None


@pytest.mark.parametrize(("row", "column"), [(3, 5), (8, 0), (13, 10)])
def test_a_picture_that_was_cut_afterwards_is_known_by_its_blocks(row, column):
    """A crop moves the blocks away from the picture's top left."""
    seen = np.ascontiguousarray(decoded(as_jpeg(drawn(), quality=50))[row:, column:])
    stored = find_stored(seen)
    assert stored is not None
    assert ((stored.at[0] + row) % 16, (stored.at[1] + column) % 16) == (0, 0)
    calm = Within(stored).calmest(seen)
    off = [np.sqrt(((one.astype(float) - drawn()[row:, column:]) ** 2).mean()) for one in (calm, seen)]
    assert off[0] < 0.75 * off[1]


def test_steps_of_their_own_come_from_the_file(tmp_path):
    steps = [[9 + k // 5 for k in range(64)], [13 + k // 3 for k in range(64)]]
    path = tmp_path / "own.jpg"
    path.write_bytes(as_jpeg(drawn(), qtables=steps, subsampling="4:2:0"))
    picture = load_picture(path)
    assert picture.tables is not None
    stored = find_stored(np.ascontiguousarray(picture.rgba[..., :3]), picture.tables)
    assert stored is not None
    assert sorted(stored.steps[0].tolist()) == sorted(steps[0])


def test_a_picture_that_was_turned_is_not_taken_by_the_tables_of_its_file(tmp_path):
    turned = Image.Exif()
    turned[0x0112] = 6
    path = tmp_path / "turned.jpg"
    path.write_bytes(as_jpeg(drawn(), quality=60, exif=turned))
    assert load_picture(path).tables is None


@pytest.mark.parametrize("quality", [40, 60, 80])
def test_flat_art_is_drawn_anew_in_its_inks(quality):
    """With fewer pixels off than the file decodes to, and not one ink more."""
    seen = decoded(as_jpeg(drawn(), quality=quality))
    tones = find_tones(picture_of(seen), SeparateSettings(mode="flat", ground="keep"))
    assert len(tones.mix) == 7
    off = [(np.abs(rgb.astype(int) - drawn()).max(2) > 12).mean() for rgb in (seen, tones.evidence[..., :3])]
    assert off[1] < 0.35 * off[0]


@pytest.mark.parametrize("quality", [45, 60, 75])
def test_compressed_art_comes_in_as_many_pieces_as_it_was_drawn_in(quality):
    """What rings beside an edge, and is as pale as another ink, makes no piece of it."""
    pieces = []
    for rgb in (drawn(), decoded(as_jpeg(drawn(), quality=quality))):
        done = Pipeline(0).run(picture_of(rgb), Recipe().with_("separate", ground="keep"))
        pieces.append([layer.pieces for layer in done.stack.layers])
    assert pieces[0] == pieces[1]


def test_a_tone_that_nobody_can_tell_from_a_larger_one_is_its_shadow():
    """And what is drawn, or as large, stays: 2.3 CIE76 is just noticed (Mahy et al. 1994)."""
    whites, browns = [(254, 254, 254), (250, 250, 251)], [(88, 54, 58), (70, 42, 46), (89, 55, 58)]
    sizes = [9000, 300, 2000, 90, 1900]  # pale crumbs, two true browns, and one brown that came twice
    labels = np.repeat(np.arange(1, 6, dtype=np.uint8), sizes)[None]
    joined = shadows_joined(FlatArt(labels, np.array(whites + browns, float)))
    assert joined.colours.tolist() == [list(whites[0]), list(browns[0]), list(browns[1])]
    assert np.bincount(joined.labels.ravel()).tolist() == [0, 9300, 3900, 90]
    even = FlatArt(np.repeat(np.uint8([1, 2]), 500)[None], np.array(whites, float))
    assert shadows_joined(even) is even


@pytest.mark.parametrize("quality", [25, 75])
def test_what_a_file_cut_off_at_black_and_white_does_not_hide_its_tables(quality):
    lines = "".join(
        f'<path d="M{10 + 9 * i} 10L{190 - 7 * i} {190 - i}" stroke="#000" stroke-width="3"/>' for i in range(20)
    )
    stored = find_stored(decoded(as_jpeg(draw(lines, 320, 200).rgba[..., :3], quality=quality)))
    assert (np.ravel(stored.steps[0]) == table_of(_LUMA, quality)).all()
