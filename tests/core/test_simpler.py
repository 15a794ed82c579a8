"""Steps of a photograph come out with simple outlines, and with nothing too small or thin to cut."""

import numpy as np
import pytest
from scipy import ndimage
from skimage import data

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.regions.photo.simpler import _Least, _merged, _opened, _shortened, simpler_steps, working_scale
from tests.conftest import picture_of


def off_of(labels: np.ndarray, count: int) -> np.ndarray:
    """As many steps off as labels differ."""
    return np.abs(labels[None].astype(np.float32) - np.arange(count, dtype=np.float32)[:, None, None])


def disc(radius: float, size: int = 80) -> np.ndarray:
    y, x = np.mgrid[:size, :size] + 0.5
    return (np.hypot(x - size / 2, y - size / 2) < radius).astype(np.uint8)


def test_what_no_disc_fits_in_goes_and_the_rest_stays():
    labels = disc(24)
    labels[38:41, :16] = 1  # a line of 3 px
    opened = _opened(labels, 2, 3.0)
    assert not opened[38:41, :12].any()
    # the opening of a disc by a smaller one is itself (Serra, "Image Analysis and Mathematical Morphology", 1982)
    assert (opened[:, 20:] == disc(24)[:, 20:]).mean() > 0.99


def test_a_disc_rounds_the_corners_of_what_it_opens():
    labels = np.zeros((80, 80), np.uint8)
    labels[20:60, 20:60] = 1
    opened = _opened(labels, 2, 8.0)
    # a square opened by a disc loses (4 - pi) r^2 at its corners
    assert labels.sum() - opened.sum() == pytest.approx((4 - np.pi) * 8**2, rel=0.25)


def test_small_and_thin_pieces_join_what_they_are_least_unlike():
    labels = np.zeros((60, 60), np.uint8)
    labels[:, 30:] = 3
    labels[10:13, 28:32] = 2  # between steps 0 and 3, nearer to 3
    labels[40:42, 5:25] = 1  # two px thin, 40 px2
    labels[45:55, 40:50] = 0  # large enough
    merged = _merged(labels, off_of(labels, 4), _Least(30.0, 4.0))
    assert set(np.unique(merged)) == {0, 3}
    assert (merged[10:13, 28:32] == 3).all() and (merged[40:42, 5:25] == 0).all()
    assert (merged[45:55, 40:50] == 0).all() and (merged[:, 30] == 3).all()


def test_outlines_shorten_where_contrast_is_weak_and_hold_where_it_is_strong():
    zigzag = np.zeros((64, 64), np.uint8)
    for row in range(64):
        zigzag[row, 32 + (3 if row // 2 % 2 else -3) :] = 1
    weak = 0.1 * off_of(zigzag, 2)
    flowed = _shortened(zigzag, weak, 4.0, 20)
    edges = np.argmax(flowed == 1, axis=1)[8:-8]
    assert np.ptp(edges) <= 1  # a straight line is the shortest
    np.testing.assert_array_equal(_shortened(zigzag, 2 * off_of(zigzag, 2), 4.0, 20), zigzag)


@pytest.mark.parametrize("shape", [(80, 80), (200, 160)])
def test_shares_add_up_and_say_which_step_is_where(shape):
    labels = np.minimum(disc(30) + disc(15), 2).astype(np.uint8)
    simple = simpler_steps(off_of(labels, 3), shape, 3.0)
    assert simple.labels.shape == shape and simple.shares.shape == (3, *shape)
    np.testing.assert_allclose(simple.shares.sum(0), 1, atol=1e-5)
    np.testing.assert_array_equal(simple.shares.argmax(0), simple.labels)
    area = np.array([(simple.labels >= k).mean() for k in (1, 2)]) * 80 * 80
    assert area == pytest.approx([np.pi * 30**2, np.pi * 15**2], rel=0.04)
    assert working_scale(6.4) == 0.5 and working_scale(2.0) == 1.0


@pytest.mark.parametrize(("name", "most"), [("coffee", 60), ("chelsea", 100), ("rocket", 50)])
def test_photographs_at_200_mm_are_few_pieces_that_can_be_cut(name, most):
    recipe = Recipe().with_("finish", width=200.0).with_("separate", mode="photo", inks=4)
    result = Pipeline(0).run(picture_of(getattr(data, name)()), recipe)
    assert sum(layer.pieces for layer in result.stack.layers) <= most
    per_mm2 = result.scale.px_per_mm**2
    for label in np.unique(result.regions.labels):
        parts, count = ndimage.label(result.regions.labels == label)
        sizes = ndimage.sum_labels(np.ones(parts.shape), parts, range(1, count + 1)) / per_mm2
        assert (sizes >= 2).all()  # under 4 mm2 in both directions is a crumb: common practice
    nodes = sum(layer.path.nodes for layer in result.stack.layers)
    length = sum(layer.cut_length for layer in result.stack.layers)
    assert 100 * nodes / length < 13  # in 100 mm of cut


def test_steps_nest_and_a_finer_detail_keeps_more():
    picture = picture_of(data.chelsea())
    recipe = Recipe().with_("finish", width=200.0).with_("separate", mode="photo", inks=4)
    many = [
        sum(layer.pieces for layer in Pipeline(0).run(picture, recipe.with_("separate", detail=mm)).stack.layers)
        for mm in (0.7, 1.0, 2.5)
    ]
    assert many[0] > many[1] > many[2]
