"""Shades: gradients become even bands, even tones that follow each other one group, and each as few as are wanted."""

import io
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
from PIL import Image
from skimage import data
from skimage.color import rgb2lab

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe, report_of
from sketchloom.core.picture import load_picture
from sketchloom.core.regions import find_tones
from sketchloom.core.regions.join import join_cheapest
from sketchloom.core.regions.settings import SeparateSettings
from sketchloom.core.regions.shading.shades import borders, components, in_order
from tests.conftest import draw, picture_of

TOP, BOTTOM = np.array([32, 80, 160]), np.array([191, 224, 255])
SKY = (
    '<defs><linearGradient id="g" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#2050a0"/>'
    '<stop offset="1" stop-color="#bfe0ff"/></linearGradient></defs><rect width="200" height="200" fill="url(#g)"/>'
    '<path d="M0 200V150Q50 110 100 144T200 130V200z" fill="#3c8a3c"/>'
)
BALL = (
    '<defs><radialGradient id="g" cx="100" cy="100" r="90" gradientUnits="userSpaceOnUse">'
    '<stop offset="0" stop-color="#ffb347"/><stop offset="1" stop-color="#a33b00"/></radialGradient></defs>'
    '<circle cx="100" cy="100" r="80" fill="url(#g)"/><circle cx="80" cy="90" r="5" fill="#222222"/>'
)
FOUR_ORANGES = (
    '<circle cx="100" cy="100" r="84" fill="#b35400"/><circle cx="98" cy="98" r="75" fill="#d06a10"/>'
    '<circle cx="94" cy="94" r="60" fill="#e88a28"/><circle cx="88" cy="88" r="38" fill="#f7a845"/>'
    '<circle cx="80" cy="80" r="3" fill="#222222"/>'
)


@cache
def drawing(body: str, size: int = 400) -> np.ndarray:
    return draw(body, size, 200).rgba[..., :3]


def run(rgb: np.ndarray, *names: str, pipeline: Pipeline | None = None, **separate):
    recipe = Recipe().with_("separate", mode="flat", **separate).with_("finish", page="picture")
    return (pipeline or Pipeline(0)).run(picture_of(rgb), recipe, names=(*names, "palette"))


def keys(result) -> set[str]:
    return {ink.key for ink in result.palette}


def even_places(count: int, length: float) -> np.ndarray:
    """Where a gradient from TOP to BOTTOM over `length` px has gone even parts of its way in CIE L*a*b* (skimage)."""
    part = np.linspace(0, 1, 4001)
    lab = rgb2lab((TOP + part[:, None] * (BOTTOM - TOP)) / 255)
    way = np.append(0, np.cumsum(np.linalg.norm(np.diff(lab, axis=0), axis=1)))
    return np.interp(np.linspace(0, way[-1], count + 1)[1:-1], way, part) * length


@pytest.mark.parametrize("count", [2, 4, 7])
def test_the_bands_of_a_gradient_are_even_steps_of_colour(count):
    length = 180
    part = (np.arange(length) + 0.5) / length
    column = np.rint(TOP + part[:, None] * (BOTTOM - TOP)).astype(np.uint8)
    rgb = np.repeat(column[:, None], 200, axis=1)
    result = run(rgb, "edges", shades=(("", count),), ground="keep")
    assert len(result.tones.shades[0].keys) == count
    inner = (np.abs(result.samples.points[:, 0] - 100) < 60) & (result.samples.points[:, 1] % length > 1)
    found = np.unique(np.round(result.samples.points[inner, 1], 1))
    for place in even_places(count, length):
        assert np.abs(found - place).min() < 1.5
    assert len(found) < 8 * count


def test_a_radial_gradient_has_round_bands_and_its_pupil_stays():
    result = run(drawing(BALL), "edges", shades=(("", 3),))
    assert len(keys(result)) == 4 and "#222222" in keys(result)
    points = result.samples.points
    clear = np.linalg.norm(points - (160, 180), axis=1) > 14  # of the pupil
    radius = np.sort(np.linalg.norm(points[clear] - 200, axis=1))
    rings = np.split(radius, np.flatnonzero(np.diff(radius) > 5) + 1)[:3]
    assert [round(ring.mean()) for ring in rings][2] == 160
    assert all(np.std(ring) < 0.5 for ring in rings)


def test_a_compressed_gradient_has_as_many_pieces_as_a_clean_one():
    file = io.BytesIO()
    Image.fromarray(drawing(SKY)).save(file, "JPEG", quality=70)
    worn = np.asarray(Image.open(file).convert("RGB"))
    clean, soiled = (run(rgb, "mended", shades=(("", 4),)) for rgb in (drawing(SKY), worn))
    pieces = [sum(layer.pieces for layer in result.stack.layers) for result in (clean, soiled)]
    assert pieces[0] == 5 and pieces[1] <= pieces[0] + 1
    assert sum(layer.path.nodes for layer in soiled.stack.layers) < 120


def test_what_stays_flat_keeps_its_exact_colour():
    body = (
        '<defs><filter id="b"><feGaussianBlur stdDeviation="6"/></filter></defs><rect width="200" height="200"'
        ' fill="#e9e2d0"/><circle cx="110" cy="112" r="60" fill="#000" opacity=".35" filter="url(#b)"/>'
        '<circle cx="95" cy="92" r="60" fill="#2a7f9e"/>'
    )
    result = run(drawing(body), ground="keep")
    assert {"#e9e2d0", "#2a7f9e"} < keys(result) and len(keys(result)) == 3


@pytest.mark.parametrize("size", [200, 400])
def test_even_tones_are_no_gradient_however_worn(size):
    rgb = drawing(FOUR_ORANGES, size)
    assert run(rgb).tones.shading is None
    noisy = np.clip(rgb + np.random.default_rng(3).normal(0, 5, rgb.shape), 0, 255).astype(np.uint8)
    assert run(noisy).tones.shading is None


def test_shades_join_one_by_one_along_the_shading():
    rgb = drawing(FOUR_ORANGES)
    chain = ("#b35400", "#d06a10", "#e88a28", "#f7a845")
    group = run(rgb).tones.shades[0]
    assert group.keys == chain and group.most == 4 and not group.gradient
    for count in (4, 3, 2, 1):
        result = run(rgb, shades=((group.key, count),))
        assert len(keys(result)) == count + 1 and "#222222" in keys(result)
        owner = dict(zip(result.tones.keys, result.plan.number[1:], strict=True))
        bands = [owner[key] for key in chain]
        assert sum(one != other for one, other in pairwise(bands)) == count - 1


def test_with_a_number_asked_a_pupil_outlives_one_more_shade():
    for body in (FOUR_ORANGES, BALL):
        assert "#222222" in keys(run(drawing(body), inks=2))


def test_more_inks_than_there_are_come_out_of_the_gradient():
    usual = run(drawing(BALL))
    more = run(drawing(BALL), inks=len(usual.palette) + 3)
    assert len(more.palette) == len(usual.palette) + 3
    assert len(more.tones.shades[0].keys) == len(usual.tones.shades[0].keys) + 3


def test_one_group_has_its_number_before_the_one_for_all():
    two = (
        '<defs><linearGradient id="a" x1="0" x2="0" y1="0" y2="1"><stop stop-color="#401010"/>'
        '<stop offset="1" stop-color="#f0a0a0"/></linearGradient><linearGradient id="b"><stop stop-color="#103010"/>'
        '<stop offset="1" stop-color="#a0f0a0"/></linearGradient></defs><rect x="10" y="10" width="80" height="180"'
        ' fill="url(#a)"/><rect x="110" y="10" width="80" height="180" fill="url(#b)"/>'
    )
    groups = run(drawing(two)).tones.shades
    assert len(groups) == 2
    chosen = run(drawing(two), shades=((groups[0].key, 5), ("", 2))).tones.shades
    assert {group.key: len(group.keys) for group in chosen} == {groups[0].key: 5, groups[1].key: 2}


def test_a_warm_run_gives_what_a_cold_one_does():
    warm = Pipeline()
    for shades in ((), (("", 2),), (("", 6),), ()):
        one = run(drawing(BALL), "mended", pipeline=warm, shades=shades)
        other = run(drawing(BALL), "mended", shades=shades)
        assert report_of(one)["palette"] == report_of(other)["palette"]


def test_shades_are_written_and_read_back_and_checked():
    recipe = Recipe().with_("separate", shades=(("#e88a28", 2), ("", 1)))
    assert decode_recipe(encode_recipe(recipe), "sky.json") == recipe
    for wrong in ((("#e88a28", 0),), (("no key", 2),), (("", 1000),)):
        with pytest.raises(ArgumentError):
            Recipe().with_("separate", shades=wrong).check()


def test_the_order_of_a_chain_does_not_hang_on_the_order_it_was_found_in():
    ramp = np.linspace([20, 30, 60], [240, 200, 90], 9)
    mixed = np.random.default_rng(5).permutation(9)
    linked = np.abs(mixed[:, None] - mixed[None]) == 1
    assert (mixed[in_order(ramp[mixed], linked)] == np.arange(9)).all()
    assert [len(group) for group in components(linked)] == [9]


def test_borders_are_counted_on_both_sides():
    labels = np.array([[1, 1, 2], [1, 3, 2]], np.uint8)
    assert borders(labels, 3)[1:, 1:].tolist() == [[0, 1, 2], [1, 0, 1], [2, 1, 0]]


def test_kin_are_joined_first():
    colours = np.array([[200, 100, 0], [230, 140, 40], [30, 30, 30], [255, 255, 255]], float)
    areas = np.array([50_000, 30_000, 40, 60_000])
    assert join_cheapest(colours, areas, 3)[2] != 2
    assert join_cheapest(colours, areas, 3, kin=np.array([0, 0, -1, -1])).tolist() == [0, 0, 2, 3]


@pytest.mark.parametrize("name", ["astronaut", "coffee", "rocket", "chelsea"])
def test_every_pixel_keeps_a_tone_where_gradients_meet_other_things(name):
    """On open photographs taken for flat art (scikit-image's data), whose shadings run into everything."""
    rgb = np.ascontiguousarray(getattr(data, name)()[:300, :300, :3])
    tones = run(rgb, "tones", inks=None).tones
    assert tones.labels.min() >= 1 and tones.labels.max() <= len(tones.keys)
    assert {key for group in tones.shades for key in group.keys} <= set(tones.keys)
    assert len(set(tones.keys)) == len(tones.keys) == len(tones.mix) == len(tones.found)


DARK = (
    '<path d="M40 60Q200 0 360 60V340Q200 400 40 340Z" fill="#321b41"/>'
    '<path d="M60 120C160 60 240 60 340 120V150C240 90 160 90 60 150Z" fill="#2d242d"/>',
    '<circle cx="200" cy="200" r="170" fill="#321b41"/><path d="M90 90L300 300L290 310L80 100Z" fill="#2d242d"/>'
    '<path d="M100 280Q200 180 320 160L326 172Q210 200 112 292Z" fill="#2d242d"/>',
)


@pytest.mark.parametrize("body", DARK)
def test_two_near_inks_with_an_edge_that_was_compressed_are_no_gradient(body, tmp_path):
    """At this quality (ITU-T T.81) hardly more than the mean of a square of 8 px is kept of so weak an edge."""
    file = tmp_path / "dark.jpg"
    body += '<circle cx="200" cy="250" r="60" fill="#f4ac62"/>'
    Image.fromarray(draw(body, 400).rgba[..., :3]).save(file, "JPEG", quality=30)
    tones = find_tones(load_picture(file), SeparateSettings(), mode="flat")
    assert tones.shading is None
    assert len(set(tones.found)) == len(tones.found)


@pytest.mark.parametrize("quality", [30, 45])
@pytest.mark.parametrize("body", [SKY, BALL])
def test_a_gradient_that_was_compressed_is_one(body, quality, tmp_path):
    file = tmp_path / "graded.jpg"
    Image.fromarray(drawing(body)).save(file, "JPEG", quality=quality)
    tones = find_tones(load_picture(file), SeparateSettings(), mode="flat")
    assert tones.shading is not None
    assert len(tones.shading.ramps) == 1 and len(tones.shading.ramps[0].tones) >= 4
