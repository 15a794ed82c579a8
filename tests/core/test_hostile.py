"""Files that mean harm, and values that no picture can use: one sentence, no more memory than is stated."""

import bz2
import io
import json
import struct
import tracemalloc
import zipfile

import numpy as np
import pytest
from PIL import Image

from sketchloom.core.errors import ArgumentError, JobError, PictureError, SketchLoomError
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe, job_of_layers, read_job, read_recipe
from sketchloom.core.layers import LayerRule
from sketchloom.core.picture import (
    ClearBox,
    ClearPale,
    Enlarge,
    MirrorHalf,
    Straighten,
    Stroke,
    Turn,
    load_picture,
    prepare,
)
from tests.conftest import FOUR_INKS, check_svg, draw, picture_of, svg_text


def one_sentence(error: BaseException) -> str:
    text = str(error)
    assert isinstance(error, SketchLoomError) and text.endswith((".", ").")) and "\n" not in text
    return text


def test_the_size_of_every_frame_of_a_tiff_counts(monkeypatch):
    frames = [Image.new("L", (20, 20)), Image.new("L", (300, 300))]
    buffer = io.BytesIO()
    frames[0].save(buffer, "TIFF", save_all=True, append_images=frames[1:])
    assert load_picture(buffer.getvalue(), "two.tif", 2).width == 300
    monkeypatch.setattr("sketchloom.core.picture.load.MOST_PIXELS", 10_000)
    assert load_picture(buffer.getvalue(), "two.tif", 1).width == 20
    with pytest.raises(PictureError, match="300 x 300 pixels"):
        load_picture(buffer.getvalue(), "two.tif", 2)


@pytest.mark.parametrize("reach", [0.04, 1.3, 50.0, 99.0])
def test_a_page_is_never_straightened_to_more_than_was_there(reach):
    picture = draw(FOUR_INKS, 400, 200)
    near, far = 0.5 - reach, 0.5 + reach
    for corners in (
        ((near, near), (far, near), (far, far), (near, far)),
        ((0.5, 0.49), (far, near), (far, far), (0.5, 0.51)),
        ((0.1, 0.1), (0.1001, 0.1), (0.9, 0.9), (near, far)),
    ):
        tracemalloc.start()
        done = prepare(picture, (Straighten(corners=corners),)).picture
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        assert done.width * done.height <= max(1_000_000, 4 * 400 * 400)
        assert peak < 100_000_000


def test_what_grows_past_the_limit_is_left_as_it_was(monkeypatch):
    monkeypatch.setattr("sketchloom.core.picture.apply.MOST_PIXELS", 200_000)
    picture = draw(FOUR_INKS, 400, 200)
    rows = (Enlarge(times=2), MirrorHalf(first=(0.9, 0), last=(0.9, 1), keep=(0.1, 0.5)))
    assert prepare(picture, rows).unplaced == (0, 1)
    half = MirrorHalf(first=(0.5, 0), last=(0.5, 1), keep=(0.1, 0.5))
    assert prepare(picture, (half,)).unplaced == ()


def job_with(tmp_path, members, method=zipfile.ZIP_DEFLATED, head=None):
    path = tmp_path / "job.loom"
    plain = {"version": 2, "name": "A", "picture": "pictures/a.png", "recipe": {}}
    with zipfile.ZipFile(path, "w", method) as archive:
        archive.writestr("job.json", json.dumps({**plain, **(head or {})}))
        for name, data in members.items():
            archive.writestr(name, data)
    return path


@pytest.mark.parametrize("method", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_a_job_is_read_stored_or_deflated_only(tmp_path, method):
    path = job_with(tmp_path, {"pictures/a.png": b"x" * 100}, method)
    with pytest.raises(JobError, match="packed in a way that no job"):
        read_job(path)


def test_no_more_of_a_job_is_read_than_is_stated_whatever_it_says_of_itself(tmp_path, monkeypatch):
    monkeypatch.setattr("sketchloom.core.job.jobfile._MOST_PICTURE", 50_000)
    path = job_with(tmp_path, {"pictures/a.png": bytes(40_000_000)})
    data = bytearray(path.read_bytes())
    place = data.rfind(b"PK\x01\x02", 0, data.rfind(b"pictures/a.png"))
    data[place + 24 : place + 28] = struct.pack("<I", 10)  # it lies: ten bytes
    for content in (path.read_bytes(), bytes(data)):
        path.write_bytes(content)
        tracemalloc.start()
        with pytest.raises(JobError) as told:
            read_job(path)
        assert tracemalloc.get_traced_memory()[1] < 2_000_000
        tracemalloc.stop()
        one_sentence(told.value)


def test_broken_archives_say_one_sentence(tmp_path):
    whole = job_with(tmp_path, {"pictures/a.png": bz2.compress(b"noise" * 999)}).read_bytes()
    rng = np.random.default_rng(4)
    for cut in range(0, len(whole), 37):
        spoilt = bytearray(whole)
        spoilt[cut : cut + 9] = rng.integers(0, 256, 9, np.uint8).tobytes()
        (tmp_path / "b.loom").write_bytes(bytes(spoilt))
        try:
            read_job(tmp_path / "b.loom")
        except SketchLoomError as error:
            one_sentence(error)


DEEP = b'{"version": 2, "recipe": ' + b'{"a":' * 5000 + b"1" + b"}" * 5001
ODD = [
    DEEP,
    b"[" * 100_000,
    b'{"version": 1, "recipe": {"separate": {"names": [[1, 2]]}}}',
    b'{"version": 1, "recipe": {"layers": {"strokes": 5}}}',
    b'{"version": "x", "recipe": {}}',
    b'{"version": 2, "recipe": {"finish": {"width": 1e999}}}',
    b"\xff\xfe{}",
    b"null",
]


@pytest.mark.parametrize("data", ODD, ids=range(len(ODD)))
def test_odd_json_says_one_sentence(data, tmp_path):
    with pytest.raises(SketchLoomError) as told:
        decode_recipe(data, "odd.json")
    one_sentence(told.value)
    (tmp_path / "odd.json").write_bytes(data)
    with pytest.raises(SketchLoomError):
        read_recipe(tmp_path / "odd.json")


@pytest.mark.parametrize("head", [{"dpi": 0}, {"dpi": -300}, {"dpi": 1e308}, {"page": 0}, {"page": -1}])
def test_a_job_that_draws_its_page_at_no_size_is_refused(tmp_path, head):
    path = job_with(tmp_path, {"pictures/a.png": b"x"}, head=head)
    with pytest.raises(JobError, match="at a size that cannot be used"):
        read_job(path)


def test_names_with_control_characters_reach_no_file(tmp_path):
    path = job_with(tmp_path, {"pictures/a.png": b"x"}, head={"name": "A\x00B\nC"})
    assert read_job(path).name == "ABC"
    cover = 255 - draw('<circle cx="50" cy="50" r="30"/>', 100).rgba[..., 0]
    layer = picture_of(np.dstack([np.full((100, 100, 3), 40, np.uint8), cover]))
    laid = job_of_layers("Layers", [("po\x07t", layer), ("\n", layer)])
    names = [name for _, name in laid.job.recipe.separate.layers]
    assert names == ["po t", "Layer"]
    laid.job.recipe.check()
    stack = Pipeline(0).run(load_picture(laid.job.picture), laid.job.recipe).stack
    check_svg(svg_text(stack), stack)


def test_a_layer_with_two_colours_is_told_of():
    body = '<rect x="10" y="10" width="80" height="40"/><rect x="10" y="50" width="80" height="40" fill="#fff"/>'
    cover = 255 - draw('<rect x="10" y="10" width="80" height="80"/>', 100).rgba[..., 0]
    two = picture_of(np.dstack([draw(body, 100).rgba[..., :3], cover]))
    one = picture_of(np.dstack([np.full((100, 100, 3), 40, np.uint8), cover]))
    assert job_of_layers("Layers", [("pot", two), ("snail", one)]).note.endswith("pot had more than one colour.")
    assert job_of_layers("Layers", [("snail", one), ("snail", one)]).note == ""


@pytest.mark.parametrize(
    "recipe",
    [
        Recipe(prepare=tuple(Turn(quarters=1) for _ in range(20_000))),
        Recipe().with_("separate", inks=64),
        Recipe().with_("separate", layers=tuple(((i % 256, i // 256, 0), f"L{i}") for i in range(256))),
    ],
    ids=["rows", "inks", "layers"],
)
def test_more_than_can_be_kept_is_refused(recipe):
    with pytest.raises(ArgumentError) as told:
        recipe.check()
    one_sentence(told.value)
    with pytest.raises(ArgumentError):
        decode_recipe(encode_recipe(recipe), "r.json")


@pytest.mark.parametrize(
    "recipe",
    [
        Recipe().with_("separate", mode="photo", inks=48, steps_by="colour"),
        Recipe(prepare=(ClearPale(level=1.0),)),
        Recipe(prepare=(ClearBox(first=(0, 0), last=(1, 1), keep=(Stroke(((0.5, 0.5),), 0.3),)),)),
    ],
    ids=["photo of 48", "all pale", "box on a few px"],
)
@pytest.mark.parametrize("side", [5, 60])
def test_the_ends_of_the_ranges_give_a_result_or_one_sentence(recipe, side):
    rgb = np.random.default_rng(side).integers(0, 256, (side, side + 1, 3)).astype(np.uint8)
    failure = Pipeline(0).results(picture_of(rgb), recipe).failure
    if failure is not None:
        one_sentence(failure.error)


@pytest.mark.parametrize(("width", "height"), [(2, 6), (1, 1), (3, 2), (6, 1), (1, 9)])
def test_a_dash_of_a_few_pixels_is_no_trouble_as_a_centre_line(width, height):
    rgb = np.full((30, 30, 3), 255, np.uint8)
    rgb[10 : 10 + height, 10 : 10 + width] = 32, 80, 128
    recipe = Recipe().with_("separate", mode="ink").with_("tidy", least_area=0.0)
    keys = Pipeline(0).run(picture_of(rgb), recipe, names=("inks",)).plan.keys
    recipe = recipe.with_("layers", rules=tuple(LayerRule(key, None, True) for key in keys))
    stack = Pipeline(0).run(picture_of(rgb), recipe).stack
    check_svg(svg_text(stack), stack)


def test_a_null_in_a_name_says_one_sentence(tmp_path):
    for read in (load_picture, read_recipe):
        with pytest.raises(SketchLoomError, match="no file of such a name"):
            read(tmp_path / "a\0b.json")


def test_a_chessboard_made_alike_can_be_called_off():
    y, x = np.mgrid[0:28, 0:28]
    rgb = np.where(((x + y) % 2)[..., None], [30, 60, 120], [240, 230, 200]).astype(np.uint8)
    recipe = Recipe().with_("separate", mode="photo", ground="keep", detail=0.0).with_("tidy", least_area=0.0)
    recipe = recipe.with_("trace", mirror=3.0)
    told = []
    Pipeline(0).run(picture_of(rgb), recipe, lambda stage, done: told.append((stage, done)))
    late = [done for stage, done in told if stage == "trace" and 0.9 <= done < 1]
    assert len(late) > 300  # once an arc, so Esc is never far
