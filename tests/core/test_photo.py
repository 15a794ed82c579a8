"""A photograph becomes nested steps of light."""

import numpy as np
import pytest
from scipy import ndimage
from skimage import data
from skimage.color import rgb2lab
from skimage.filters import threshold_multiotsu

from sketchloom.core.curves import TraceSettings, preset
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.regions import SeparateSettings, find_tones, lab_of
from sketchloom.core.regions.photo.photo import _colours_off, colour_steps, multi_otsu, tone_steps
from tests.conftest import draw, picture_of


@pytest.mark.parametrize(
    ("name", "classes"),
    [*((name, classes) for name in ("camera", "coins", "moon") for classes in (2, 3, 4)), ("camera", 5)],
)
def test_thresholds_are_those_of_scikit_image(name, classes):
    # the same criterion; where several thresholds share the optimum (empty bins) both may name another
    grey = getattr(data, name)()
    ours = np.array(multi_otsu(np.bincount(grey.ravel(), minlength=256).astype(float), classes))
    theirs = threshold_multiotsu(grey, classes, nbins=256)
    assert np.abs(ours - theirs).max() <= 1.5


def test_a_threshold_lies_between_two_lone_neighbours():
    counts = np.zeros(256)
    counts[[10, 11]] = 1  # worked by hand: 10^2 + 11^2 is more than (10 + 11)^2 / 2, and no empty class adds to that
    assert multi_otsu(counts, 2) == (10,)


def test_steps_of_a_ramp_are_of_equal_size():
    ramp = np.tile(np.linspace(0, 255, 600).astype(np.uint8)[None, :, None], (200, 1, 3))
    labels = tone_steps(picture_of(ramp).rgba, 4).labels
    assert np.bincount(labels.ravel())[1:] / labels.size == pytest.approx(0.25, abs=0.06)
    assert (np.diff(labels[100].astype(int)) >= 0).all()


def test_the_steps_of_a_photograph_nest_and_are_as_many_as_asked():
    picture = picture_of(data.astronaut())
    for steps in (2, 4, 6):
        recipe = Recipe().with_("separate", mode="photo", inks=steps, ground="keep").with_("layers", build="carried")
        result = Pipeline(0).run(picture, recipe)
        layers = result.stack.layers
        assert len(layers) == steps
        light = [sum(layer.ink.shown) for layer in layers]
        assert light == sorted(light, reverse=True)
        areas = [layer.area for layer in layers]
        assert areas == sorted(areas, reverse=True)


def test_noise_alone_does_not_break_the_edge_of_a_step():
    rng = np.random.default_rng(1)
    rgb = np.full((200, 200, 3), 70.0)
    rgb[:, 100:] = 180
    tones = find_tones(
        picture_of(np.clip(rgb + rng.normal(0, 12, rgb.shape), 0, 255).astype(np.uint8)),
        SeparateSettings(mode="photo", inks=2, ground="keep"),
    )
    assert (tones.labels[:, :97] == 1).mean() > 0.995
    assert (tones.labels[:, 103:] == 2).mean() > 0.995


@pytest.mark.parametrize("shape", [(1, 1), (1, 40), (3, 2)])
def test_a_tiny_or_one_coloured_picture_has_fewer_steps(shape):
    tones = find_tones(picture_of(np.full((*shape, 3), 90, np.uint8)), SeparateSettings(mode="photo", ground="keep"))
    assert len(tones.mix) == 1


def test_a_preview_keeps_to_the_cuts_of_the_full_picture():
    picture = picture_of(np.repeat(np.repeat(data.coffee(), 2, 0), 2, 1))
    recipe = Recipe().with_("separate", mode="photo", inks=3, ground="keep")
    pipeline = Pipeline()
    full, small = pipeline.run(picture, recipe), pipeline.run(picture, recipe, preview=True)
    assert small.reduction < 1
    assert small.tones.cuts == full.tones.cuts
    shares = [
        np.bincount(result.regions.labels.ravel(), minlength=4)[1:] / result.regions.labels.size
        for result in (full, small)
    ]
    assert np.abs(shares[0] - shares[1]).max() < 0.03


@pytest.mark.parametrize("name", ["coffee", "astronaut"])
def test_few_colours_tell_the_picture_as_well_as_scipys_best_of_ten(name):
    # the same criterion as Lloyd's, on the calmed picture itself: the mean squared distance in L*a*b*
    from scipy.cluster.vq import kmeans2

    few = colour_steps(picture_of(getattr(data, name)()).rgba, 6)
    sample = lab_of(few.even[::4, ::4, :3].reshape(-1, 3))

    def loss(means: np.ndarray) -> float:
        return float(((sample[:, None] - means[None]) ** 2).sum(2).min(1).mean())

    theirs = min(loss(kmeans2(sample, 6, minit="++", seed=seed)[0]) for seed in range(10))
    assert loss(lab_of(few.mix)) < 1.1 * theirs
    again = colour_steps(picture_of(getattr(data, name)()).rgba, 6)
    assert (again.labels == few.labels).all() and (again.mix == few.mix).all()


@pytest.mark.parametrize("way", ["light", "colour"])
def test_less_detail_means_fewer_pieces_and_the_large_ones_stay(way):
    picture = picture_of(data.coffee())

    def run(detail: float):
        settings = {"mode": "photo", "ground": "keep", "steps_by": way, "detail": detail, "inks": 4}
        return Pipeline(0).run(picture, Recipe().with_("separate", **settings).with_("tidy", least_area=0.0))

    fine, coarse = run(0.3), run(4.0)
    pieces = [sum(layer.pieces for layer in result.stack.layers) for result in (fine, coarse)]
    assert pieces[1] < 0.5 * pieces[0]
    assert (fine.regions.labels == coarse.regions.labels).mean() > 0.8


def test_a_dot_smaller_than_the_detail_goes_and_a_larger_one_stays():
    body = '<circle cx="60" cy="100" r="3" fill="#222"/><circle cx="140" cy="100" r="24" fill="#222"/>'
    settings = SeparateSettings(mode="photo", inks=2, ground="keep", detail=3.0)
    tones = find_tones(draw(body, 200), settings, px_per_mm=4.0)
    assert tones.labels[100, 60] == tones.labels[20, 20] != tones.labels[100, 140]
    kept = find_tones(
        draw(body, 200), SeparateSettings(mode="photo", inks=2, ground="keep", detail=0.25), px_per_mm=4.0
    )
    assert kept.labels[100, 60] == kept.labels[100, 140]


def test_a_step_is_shown_as_light_as_what_it_stands_for():
    rgb = data.coffee()
    tones = find_tones(picture_of(rgb), SeparateSettings(mode="photo", ground="keep"), px_per_mm=3.0)
    light = rgb2lab(rgb)[..., 0]  # scikit-image's CIELAB
    for label, colour in enumerate(tones.found, 1):
        shown = rgb2lab(np.array([[colour]], np.uint8))[0, 0, 0]
        assert shown == pytest.approx(light[tones.labels == label].mean(), abs=0.6)


def test_colours_are_off_by_how_much_farther_they_are_than_the_nearest():
    mix = np.array([[119.0] * 3, [169.0] * 3])
    off = _colours_off(np.array([[[119] * 3, [144] * 3, [169] * 3]], np.uint8), mix)
    assert off.min(0).tolist() == [[0, 0, 0]]
    assert off[:, 0, 0] == pytest.approx([0, 1]) and off[:, 0, 2] == pytest.approx([1, 0])
    assert off[:, 0, 1] == pytest.approx([0, 0], abs=0.05)  # half way in light


def test_flat_colours_of_a_photograph_have_no_bits_too_small_to_cut():
    rgb = data.chelsea()
    detail = 4.0
    few = colour_steps(picture_of(rgb).rgba, 5, detail)
    count = 0
    for label in range(1, len(few.mix) + 1):
        parts, found = ndimage.label(few.labels == label)
        count += found
        assert np.bincount(parts.ravel())[1:].min() >= 4.5 * detail**2
    assert count < 60 and few.soft == 0.5 * detail


def test_the_steps_of_a_photograph_wind_and_art_has_corners():
    assert [TraceSettings().corner_in(photo) for photo in (False, True)] == [24, 60]
    assert TraceSettings(corner=30.0).corner_in(True) == 30
    assert [preset("Draw", photo)["corner"] for photo in (False, True)] == [40, None]
    curved, angular = (
        Pipeline(0).run(picture_of(data.chelsea()), Recipe().with_("trace", corner=corner).with_("finish", width=200.0))
        for corner in (None, 24.0)
    )
    assert sum(layer.path.nodes for layer in curved.stack.layers) < sum(la.path.nodes for la in angular.stack.layers)
