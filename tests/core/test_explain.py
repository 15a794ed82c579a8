"""Every edge pixel goes to one of the inks it is a blend of."""

import numpy as np
import pytest
from PIL import Image

from sketchloom.core.regions.flat.cores import clean_cores, is_clean
from sketchloom.core.regions.flat.explain import explain_edges
from sketchloom.core.regions.flat.noisy import noisy_cores
from sketchloom.core.regions.join import join_cheapest
from tests.conftest import FOUR_INKS, draw, picture_of

THREE = np.array([[255.0, 255, 255], [30, 40, 50], [200, 60, 80]])


def opaque(rgb: np.ndarray) -> np.ndarray:
    return np.dstack([rgb, np.full(rgb.shape[:2], 255)]).astype(np.uint8)


def row_of(values: list[float], ink: int = 1) -> np.ndarray:
    """A picture whose columns are blends of the first ink and another."""
    share = np.array(values)[None, :, None]
    return opaque(np.rint(np.repeat(THREE[0] + share * (THREE[ink] - THREE[0]), 9, 0)))


def cores_of(evidence: np.ndarray) -> np.ndarray:
    labels = np.zeros(evidence.shape[:2], np.uint8)
    for i, colour in enumerate(THREE):
        labels[(evidence[..., :3] == colour).all(2)] = i + 1
    return labels


def test_a_blend_goes_to_its_nearer_end():
    evidence = row_of([0, 0, 0, 0.3, 1, 1, 1, 0.7, 0, 0, 0])
    labels = explain_edges(evidence, cores_of(evidence), THREE)
    assert labels[4].tolist() == [1, 1, 1, 1, 2, 2, 2, 2, 1, 1, 1]


def test_a_blend_never_becomes_a_third_ink():
    # half way between white and the dark ink lies the third ink's own colour
    inks = np.array([[255.0, 255, 255], [30, 40, 50], [142, 148, 152]])
    evidence = row_of([0, 0, 0, 0, 0.5, 1, 1, 1, 1])
    evidence[:, 4, :3] = inks[2]
    cores = cores_of(evidence)
    labels = explain_edges(evidence, cores, inks)
    assert set(np.unique(labels)) == {1, 2}


def test_ringing_is_no_ink_of_its_own():
    evidence = row_of([0, 0, 0, 0, 0.4, 1, 1, 1, 1])
    evidence[:, 6, :3] = THREE[1] - 0.12 * (THREE[0] - THREE[1])
    labels = explain_edges(evidence, cores_of(evidence), THREE)
    assert labels[4].tolist() == [1, 1, 1, 1, 1, 2, 2, 2, 2]


def test_a_faint_line_is_kept_where_its_share_peaks():
    evidence = row_of([0, 0, 0, 0, 0.4, 0, 0, 0, 0], ink=2)
    labels = explain_edges(evidence, cores_of(evidence), THREE)
    assert labels[4].tolist() == [1, 1, 1, 1, 3, 1, 1, 1, 1]


def test_a_diagonal_hair_stays_in_one_piece():
    hair = '<path d="M20 20L180 171" stroke="#1e2832" stroke-width="1.1"/>'
    picture = draw(hair + '<rect x="5" y="150" width="30" height="30" fill="#1e2832"/>')
    cores = clean_cores(picture.rgba)
    labels = explain_edges(picture.rgba, cores.labels, cores.colours)
    dark = int(np.argmin(cores.colours.sum(1))) + 1
    from scipy import ndimage

    _, count = ndimage.label(labels[:145] == dark)
    assert count <= 2


def test_clean_art_is_told_from_noisy(tmp_path):
    picture = draw(FOUR_INKS)
    assert is_clean(picture.rgba)
    Image.fromarray(picture.rgba[..., :3]).save(tmp_path / "a.jpg", quality=80)
    assert not is_clean(opaque(np.asarray(Image.open(tmp_path / "a.jpg"))))


def test_the_inks_of_a_jpeg_are_those_of_the_art(tmp_path):
    picture = draw(FOUR_INKS, 400, 200)
    Image.fromarray(picture.rgba[..., :3]).save(tmp_path / "a.jpg", quality=80)
    found = noisy_cores(opaque(np.asarray(Image.open(tmp_path / "a.jpg")))).colours
    for true in clean_cores(picture.rgba).colours:
        assert np.abs(found - true).max(1).min() <= 5


def test_even_noise_does_not_break_the_search():
    noise = np.random.default_rng(8).integers(0, 256, (120, 120, 3))
    cores = noisy_cores(opaque(noise))
    assert 1 <= len(cores.colours) <= 48


@pytest.mark.parametrize("count", [1, 2, 3])
def test_the_cheapest_tones_join_first(count):
    colours = np.array([[255.0, 255, 255], [20, 20, 20], [40, 30, 30], [200, 40, 40]])
    owner = join_cheapest(colours, np.array([1000.0, 500, 20, 300]), count)
    assert len(set(owner.tolist())) == count
    if count == 3:
        assert owner.tolist() == [0, 1, 1, 3]


def test_a_gradient_is_cut_into_a_few_steps():
    y, x = np.mgrid[0:200, 0:200]
    cores = clean_cores(picture_of(np.dstack([x, y, 255 - x]).astype(np.uint8)).rgba)
    assert len(cores.colours) <= 48
