"""A workshop as one file, and how many threads work: the same comes of any number."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job import Glance, Job, Pipeline, Recipe, glance, job_bytes
from sketchloom.core.send import SVG, files_of, png_bytes
from sketchloom.core.stock import CUTTERS, GENERIC, Preset, Workshop, decode_workshop, encode_workshop
from sketchloom.core.threads import threads, use_threads
from tests.conftest import FOUR_INKS, draw, tries

SHOP = Workshop(GENERIC, CUTTERS, (Preset("Slow", "Card", force=3.0),), {"unit": "in", "threads": 2})


def test_a_workshop_comes_back_whole():
    assert decode_workshop(encode_workshop(SHOP), "shop.json") == SHOP
    assert json.loads(encode_workshop(SHOP))["presets"][0]["force"] == 3.0


def test_a_shelf_by_itself_is_read_too():
    from sketchloom.core.stock import STOCKS

    assert decode_workshop(STOCKS.encode(GENERIC[:2]), "stocks.json") == Workshop(GENERIC[:2], (), (), {})


def changed(**parts):
    return json.dumps({**json.loads(encode_workshop(SHOP)), **parts}).encode()


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"[]",
        b"{}",
        b'{"version": 1}',
        b"\xff\xfe{}",
        b"[" * 100_000,
        b'{"stocks":' + b"[" * 100_000,
        changed(version=2),
        changed(version="1"),
        changed(stocks=[{"name": "a"}, {"name": "A"}]),
        changed(stocks=[{"name": "a", "width": -1}]),
        changed(cutters={}),
        changed(presets=[{"name": "a", "passes": 0}]),
        changed(settings=[]),
        b'{"stocks": [], "x": "' + b"a" * 9_000_000 + b'"}',
    ],
)
def test_what_is_no_workshop_is_refused_in_a_sentence(data):
    with pytest.raises(SketchLoomError) as told:
        decode_workshop(data, "shop.json")
    assert "\n" not in str(told.value)


@tries(200)
@given(st.binary(max_size=300), st.integers(0, 4000))
def test_bytes_in_the_middle_of_a_workshop_crash_nothing(some, at):
    whole = encode_workshop(SHOP)
    try:
        decode_workshop(whole[:at] + some + whole[at + len(some) :], "shop.json")
    except SketchLoomError as error:
        assert "shop.json" in str(error) or "cannot be used" in str(error) or "no " in str(error)


def test_the_same_comes_of_any_number_of_threads():
    picture = draw(FOUR_INKS, 260)
    made = []
    try:
        for number in (1, 3, 0):
            use_threads(number)
            assert threads() == number or number == 0
            result = Pipeline().results(picture, Recipe(), names=("mended", "checked"))
            made.append((files_of(SVG, result.stack.cuts, each=False)[""], result.checked.findings))
    finally:
        use_threads(0)
    assert made[0] == made[1] == made[2]


def test_a_glance_tells_picture_size_and_date_and_what_is_gone(tmp_path):
    picture = draw(FOUR_INKS, 200)
    (tmp_path / "a.png").write_bytes(png_bytes(picture.rgba, 96))
    seen = glance(tmp_path / "a.png")
    assert seen.there and seen.pixels == (200, 200) and seen.at == (tmp_path / "a.png").stat().st_mtime
    small = np.array(seen.rgba)
    assert small.shape[0] * small.shape[1] <= 96 * 96
    assert np.abs(small[..., :3].mean((0, 1)) - picture.rgba[..., :3].mean((0, 1))).max() < 4
    job = Job("A", "a.png", png_bytes(picture.rgba, 96), Recipe().with_("finish", width=70.0))
    (tmp_path / "a.loom").write_bytes(job_bytes(job))
    assert glance(tmp_path / "a.loom").width == 70.0 and glance(tmp_path / "a.loom").rgba is not None
    red = np.full((40, 30, 4), (255, 0, 0, 255), np.uint8)
    (tmp_path / "b.loom").write_bytes(job_bytes(job, preview_png=png_bytes(red, 96)))
    assert (glance(tmp_path / "b.loom").rgba[..., 0] == 255).all()
    (tmp_path / "bad.png").write_bytes(b"no picture")
    assert glance(tmp_path / "bad.png")[0] and glance(tmp_path / "bad.png").rgba is None
    for name in ("gone.png", "a\x00b", ""):
        assert glance(tmp_path / name) == Glance(False, 0.0, None, None, None)
