"""The source report: a table of pictures made for it, each with its right verdict."""

import cv2
import numpy as np
import pytest
from skimage import data
from skimage.morphology import skeletonize

from sketchloom.core.job import inspect_source
from sketchloom.core.regions.ink.skeleton import loose_ends, thin
from tests.conftest import FOUR_INKS, draw, picture_of

LINES = '<g fill="none" stroke="#101014" stroke-width="2.2">{}</g>'
HOUSE = '<path d="M40 100H160V180H40Z"/><path d="M30 100L100 40L170 100Z"/><path d="M80 180V130H115V180"/>'
OPEN = '<path d="M40 100V180H100M110 180H160V100"/><path d="M30 100L100 40L170 100Z"/><path d="M60 130H95V160H60Z"/>'


def noisy(rgb: np.ndarray, spread: float) -> np.ndarray:
    return np.clip(rgb + np.random.default_rng(5).normal(0, spread, rgb.shape), 0, 255).astype(np.uint8)


def lit(rgb: np.ndarray, dark: float) -> np.ndarray:
    slope = np.linspace(1, dark, rgb.shape[1])[None, :, None]
    return np.clip((rgb * 0.85 + 20) * slope, 0, 255).astype(np.uint8)


def art(size: int = 800) -> np.ndarray:
    return draw(FOUR_INKS, size, 200).rgba[..., :3]


def lines(body: str, size: int = 800) -> np.ndarray:
    return draw(LINES.format(body), size, 200).rgba[..., :3]


def many_inks() -> np.ndarray:
    rng = np.random.default_rng(3)
    body = "".join(
        f'<rect x="{20 + 32 * (i % 5)}" y="{20 + 32 * (i // 5)}" width="26" height="26" '
        f'fill="rgb({",".join(map(str, rng.integers(0, 230, 3)))})"/>'
        for i in range(25)
    )
    return draw(body, 800, 200).rgba[..., :3]


def shaded() -> np.ndarray:
    y, x = np.mgrid[0:600, 0:600] / 600
    ball = np.clip(1.2 - 2 * np.hypot(x - 0.4, y - 0.35), 0, 1)[..., None]
    rgb = np.array([40, 60, 120]) + ball * np.array([200, 150, 60]) + (y * 60)[..., None]
    return noisy(np.clip(rgb, 0, 255), 2)


TABLE = {
    "sharp flat art": (art(), "flat", "should trace cleanly"),
    "a thumbnail": (art(160), "flat", "Too small"),
    "an enlarged thumbnail": (
        cv2.resize(art(200), (800, 800), interpolation=cv2.INTER_LINEAR),
        "flat",
        "Enlarged 4 times",
    ),
    "a shaded render": (shaded(), "photo", "photo or shaded"),
    "a photograph": (data.astronaut(), "photo", "photo or shaded"),
    "a dark photograph": ((data.coffee() * 0.25).astype(np.uint8), "photo", "dark photo"),
    "blurred art": (cv2.GaussianBlur(art(), (0, 0), 6), "flat", "blurred"),
    "twenty-five inks": (many_inks(), "flat", "inks mean"),
    "a drawing in uneven light": (noisy(lit(lines(HOUSE), 0.4), 4), "ink", "uneven light"),
    "a noisy scan": (noisy(lit(lines(HOUSE), 0.95), 9), "ink", "noisy"),
    "line art": (lines(HOUSE), "lineart", "this is line art"),
    "open outlines": (lines(OPEN), "lineart", "may not close"),
    "grey art": (draw('<circle cx="100" cy="100" r="70" fill="#202020"/>', 800, 200).rgba[..., :3], "flat", "cleanly"),
}


@pytest.mark.parametrize("name", TABLE)
def test_each_picture_gets_its_verdict(name):
    rgb, kind, words = TABLE[name]
    report = inspect_source(picture_of(rgb), 150.0)
    assert words in report.verdict
    if words != "Too small":
        assert report.kind == kind
    assert report.verdict.endswith(".")
    assert report.verdict.count(".") == 1 or "mm" in report.verdict


def test_the_report_counts_pixels_and_inks():
    report = inspect_source(picture_of(art()), 200.0)
    assert report.px_per_mm == 4.0
    assert report.smallest_detail_mm == 0.5
    assert report.inks == 4
    assert report.ground == "#ffffff"
    assert report.detail_px == 800 and report.enlarged == 1
    large = inspect_source(picture_of(cv2.resize(art(200), (400, 400), interpolation=cv2.INTER_LINEAR)), 100.0)
    assert (large.detail_px, large.enlarged, large.px_per_mm) == (200, 2.0, 4.0)
    assert large.smallest_detail_mm == 1.0  # two pixels of the 200
    assert "Sharpen" not in large.verdict
    assert inspect_source(picture_of(art())).px_per_mm == pytest.approx(96 / 25.4, abs=1e-3)


def test_noise_is_measured():
    for spread in (3.0, 6.0):
        report = inspect_source(picture_of(noisy(np.full((300, 300, 3), 150.0), spread)), 100.0)
        # grey is 0.299 r + 0.587 g + 0.114 b (ITU-R BT.601), so independent noise shrinks by the weights' norm
        assert report.noise == pytest.approx(spread * np.sqrt(0.299**2 + 0.587**2 + 0.114**2), rel=0.15)


def test_thinning_agrees_with_scikit_image():
    mask = draw(LINES.format(HOUSE).replace("2.2", "7"), 300, 200).rgba[..., 0] < 128
    ours, theirs = thin(mask), skeletonize(mask, method="zhang")
    assert (ours & ~theirs).sum() + (theirs & ~ours).sum() <= 0.04 * theirs.sum()  # it breaks ties otherwise


def test_ends_of_strokes_are_found():
    mask = draw('<path d="M40 100H160" stroke="#000" stroke-width="6" fill="none"/>', 400, 200).rgba[..., 0] < 128
    ends, width, _ = loose_ends(mask)
    assert len(ends) == 2
    assert width == pytest.approx(12, abs=2)
    assert sorted(ends[:, 0].tolist())[0] == pytest.approx(80, abs=8)
    closed = draw('<circle cx="100" cy="100" r="60" stroke="#000" stroke-width="6" fill="none"/>', 400, 200)
    assert len(loose_ends(closed.rgba[..., 0] < 128)[0]) == 0
    dot = np.zeros((9, 9), bool)
    dot[4:6, 4:6] = True  # thinned away
    ends, width, _ = loose_ends(dot)
    assert len(ends) == 0 and width == 0
