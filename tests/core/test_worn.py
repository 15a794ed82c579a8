"""What a picture went through is told, and undone: enlarged, blurred and grainy drawings trace as they were drawn."""

import io
from functools import cache

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage

from sketchloom.core.job import Pipeline, Recipe, report_of
from sketchloom.core.picture import Enlarge, Picture, Sharpen
from sketchloom.core.worn import Enlargement, find_enlargement, redrawn, restored
from sketchloom.core.worn.blur import grain_level, ramp_sigma
from sketchloom.core.worn.inverse import before_enlarging
from sketchloom.core.worn.kernels import KERNELS, enlarging, solved
from tests.conftest import draw, picture_of

FAIR = (
    '<rect x="14" y="22" width="170" height="150" rx="30" fill="#3a5f8a"/>'
    '<circle cx="84" cy="96" r="52" fill="#f2e6cf"/><path d="M60 70 L128 88 L90 150 Z" fill="#8e2a5b"/>'
    '<ellipse cx="140" cy="52" rx="34" ry="13" fill="#d9a13b" transform="rotate(24 140 52)"/>'
    '<path d="M30 160 Q90 110 172 150" fill="none" stroke="#4f8a4b" stroke-width="7"/>'
)
RESAMPLING = {"bilinear": Image.Resampling.BILINEAR, "bicubic": Image.Resampling.BICUBIC}


@cache
def fair(size: int) -> np.ndarray:
    """A drawing of five inks on white."""
    return draw(FAIR, size, 200).rgba[..., :3]


def grown(rgb: np.ndarray, size: int, kernel: str) -> np.ndarray:
    """Enlarge by a library that is not ours (Pillow)."""
    way = RESAMPLING.get(kernel, Image.Resampling.NEAREST)
    return np.asarray(Image.fromarray(rgb).resize((size, size), way))


def jpeg(rgb: np.ndarray, quality: int) -> np.ndarray:
    """Save as JPEG and open again."""
    file = io.BytesIO()
    Image.fromarray(rgb).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file).convert("RGB"))


def blurred(rgb: np.ndarray, sigma: float) -> np.ndarray:
    """Blur by a library that is not ours (SciPy)."""
    return np.rint(ndimage.gaussian_filter(rgb.astype(float), (sigma, sigma, 0))).astype(np.uint8)


def grainy(rgb: np.ndarray, level: float) -> np.ndarray:
    """Add Gaussian grain."""
    noise = np.random.default_rng(7).normal(0, level, rgb.shape)
    return np.rint(np.clip(rgb + noise, 0, 255)).astype(np.uint8)


def traced(rgb: np.ndarray, *rows):
    recipe = Recipe(prepare=rows).with_("finish", page="picture").with_("separate", ground="keep")
    return Pipeline(0).run(picture_of(rgb), recipe)


def nodes(result) -> int:
    return sum(layer.path.nodes for layer in result.stack.layers)


def mismatch(result, size: int = 600) -> float:
    """Share of the picture whose nearest true ink is another than what was drawn there."""
    from tests.conftest import render, svg_text

    inks = np.array([(255, 255, 255), (58, 95, 138), (242, 230, 207), (142, 42, 91), (217, 161, 59), (79, 138, 75)])
    true, made = (
        np.linalg.norm(image[:, :, None].astype(int) - inks, axis=3).argmin(2)
        for image in (fair(size), render(svg_text(result.stack), size))
    )
    return float((true != made).mean())


@pytest.mark.parametrize("kernel", ["bilinear", "bicubic"])
@pytest.mark.parametrize(("before", "after"), [(200, 300), (200, 512), (200, 800), (230, 700)])
def test_factor_and_kernel_of_an_enlargement_are_told(before, after, kernel):
    assert find_enlargement(grown(fair(before), after, kernel)) == Enlargement(before, before, kernel)


def test_an_enlargement_is_told_through_jpeg_before_and_after_it():
    assert find_enlargement(grown(jpeg(fair(200), 75), 600, "bicubic")) == Enlargement(200, 200, "bicubic")
    assert find_enlargement(jpeg(grown(fair(200), 600, "bicubic"), 85)) == Enlargement(200, 200, "bicubic")


def test_blocks_are_told_and_what_was_drawn_in_blocks_is_left():
    small = fair(128)
    assert find_enlargement(grown(small, 256, "nearest"), sharp=True) == Enlargement(128, 128, "nearest")
    assert find_enlargement(grown(small, 300, "nearest"), sharp=True) == Enlargement(128, 128, "nearest")
    pixels = np.random.default_rng(1).integers(0, 5, (40, 40))  # five inks, pixel by pixel
    pixels = np.array([(255, 255, 255), (9, 9, 9), (200, 30, 40), (20, 120, 60), (30, 60, 170)], np.uint8)[pixels]
    assert find_enlargement(grown(pixels, 320, "nearest"), sharp=True) is None


def test_a_picture_of_another_shape_keeps_it():
    wide = fair(240)[:120]
    large = np.asarray(Image.fromarray(wide).resize((600, 300), Image.Resampling.BICUBIC))
    assert find_enlargement(large) == Enlargement(240, 120, "bicubic")


@pytest.mark.parametrize(
    "rgb",
    [fair(400), blurred(fair(400), 1.2), jpeg(fair(400), 40), jpeg(fair(400), 85), grainy(fair(400), 6)],
    ids=["clean", "blurred", "jpeg 40", "jpeg 85", "grainy"],
)
def test_what_was_not_enlarged_is_told_so(rgb):
    found = restored(picture_of(rgb))
    assert found.enlargement is None and found.factor == 1
    assert np.shares_memory(found.picture.rgba, found.picture.rgba) and found.picture.width == 400


@pytest.mark.parametrize("kernel", ["nearest", "bilinear", "bicubic"])
def test_undoing_an_enlargement_gives_the_picture_back(kernel):
    small = fair(160)
    back = before_enlarging(grown(small, 400, kernel), Enlargement(160, 160, kernel))
    assert np.abs(back.astype(int) - small).max() <= (0 if kernel == "nearest" else 6)
    assert np.abs(back.astype(int) - small).mean() < 0.1  # rounding of the large one


@pytest.mark.parametrize("kernel", KERNELS)
def test_kernels_keep_an_even_colour_and_are_solved_back(kernel):
    matrix = enlarging(97, 40, kernel)
    np.testing.assert_allclose(matrix.sum(1), 1)
    values = np.random.default_rng(2).normal(size=(40, 3))
    np.testing.assert_allclose(solved(matrix, matrix @ values), values, atol=1e-3)


@pytest.mark.parametrize("sigma", [0.0, 0.8, 1.2, 2.0])
def test_blur_is_measured(sigma):
    assert ramp_sigma(blurred(fair(360), sigma)) == pytest.approx(sigma, abs=0.15)


@pytest.mark.parametrize("level", [3.0, 6.0, 10.0])
def test_grain_is_measured(level):
    # independent grain in three channels, weighed .35, .4 and .25, has the root of the sum of squares: 0.587
    grey = np.full((300, 300, 3), 128, np.uint8)
    assert grain_level(grainy(grey, level)) == pytest.approx(0.587 * level, rel=0.12)
    assert grain_level(grey) == 0


def test_an_enlarged_drawing_traces_as_it_was():
    small, large = traced(fair(200)), traced(grown(fair(200), 800, "bicubic"))
    assert large.worn.enlargement == Enlargement(200, 200, "bicubic") and large.worn.factor == 4
    assert large.reduction == 0.25 and not large.preview
    assert len(large.planar.faces.label) == len(small.planar.faces.label)
    assert abs(nodes(large) - nodes(small)) <= 0.1 * nodes(small)
    assert large.stack.size == pytest.approx((800 * 25.4 / 96,) * 2, abs=0.01)
    assert mismatch(large) < 0.004


def test_enlarging_in_prepare_adds_nothing_but_size():
    plain, twice = traced(fair(200)), traced(fair(200), Enlarge(times=2))
    assert twice.worn.factor == 2 and nodes(twice) == nodes(plain)
    assert twice.stack.size == pytest.approx(plain.stack.size)
    off = traced(fair(200), Enlarge(times=3), Enlarge(times=2, on=False))
    assert off.worn.factor == 3 and nodes(off) == nodes(plain)


@pytest.mark.parametrize(("wear", "most"), [(lambda p: blurred(p, 1.2), 0.003), (lambda p: grainy(p, 6), 0.003)])
def test_blurred_and_grainy_drawings_keep_their_inks_and_pieces(wear, most):
    clean, worn = traced(fair(360)), traced(wear(fair(360)))
    assert len(worn.palette.cut) == len(clean.palette.cut) == 6
    assert len(worn.planar.faces.label) == len(clean.planar.faces.label)
    assert nodes(worn) <= 1.5 * nodes(clean)
    assert worn.regions.soft > 0 and clean.regions.soft == 0
    assert mismatch(worn) < most


def test_a_picture_that_is_too_large_to_draw_anew_is_left_as_it_is(monkeypatch):
    evidence = picture_of(grainy(fair(200), 6)).rgba
    assert redrawn(evidence) is not None
    monkeypatch.setattr("sketchloom.core.worn.redraw._MOST_PIXELS", 39_999)
    assert redrawn(evidence) is None


def test_the_size_that_detail_needs_is_told():
    assert restored(picture_of(fair(360))).detail_px == 360
    # a Gaussian passes a tenth of the contrast at 0.342 / sigma lines a pixel, which take two pixels each
    found = restored(picture_of(blurred(fair(360), 2.0)))
    assert found.detail_px == pytest.approx(360 * 2 * 0.3416 / 2.0, rel=0.08)


@pytest.mark.parametrize(
    "paint", [lambda x, y: 0 * x + 255, lambda x, y: x / 3, lambda x, y: 90 + 60 * np.sin(x / 40 + y / 60)]
)
def test_blank_pictures_and_soft_shades_are_not_taken_for_enlarged(paint):
    y, x = np.mgrid[:420, :600]
    plane = np.rint(np.clip(paint(x, y), 0, 255)).astype(np.uint8)
    assert find_enlargement(np.repeat(plane[..., None], 3, 2)) is None


def test_clear_and_tiny_pictures_are_taken_as_they_are():
    rgba = np.dstack([grown(fair(100), 300, "bicubic"), np.full((300, 300), 255, np.uint8)])
    rgba[:20, :20, 3] = 0
    assert restored(Picture(rgba)).enlargement is None
    for side in (1, 2, 5, 17, 40):
        assert restored(picture_of(grown(fair(100), side, "bicubic"))).picture.width == side


@pytest.mark.parametrize(("way", "times"), [(Image.Resampling.BILINEAR, 3), (Image.Resampling.NEAREST, 2)])
def test_clear_pictures_that_were_enlarged_are_given_back_with_what_is_clear(way, times):
    """Pillow enlarges colours times how opaque they are, and so does this: what comes back is what was enlarged."""
    art = np.dstack([fair(200), np.full((200, 200), 255, np.uint8)])
    y, x = np.mgrid[:200, :200] + 0.5
    art[..., 3] = np.rint(255 * np.clip(80.5 - np.hypot(x - 100, y - 100), 0, 1))
    art[art[..., 3] == 0] = 0
    large = Image.fromarray(art).resize((200 * times, 200 * times), way)
    found = restored(picture_of(np.asarray(large)))
    assert found.factor == times and found.picture.width == 200
    share, was = found.picture.rgba[..., 3:] / 255, art[..., 3:] / 255
    assert np.abs(share - was).max() < 0.02
    assert np.abs(found.picture.rgba[..., :3] * share - art[..., :3] * was).max() < 6
    hard = np.asarray(Image.fromarray(art).resize((600, 600), Image.Resampling.BILINEAR)).copy()
    hard[..., 3] = np.where(hard[..., 3] > 127, 255, 0)
    assert restored(picture_of(hard)).enlargement is None  # cleared after it was enlarged: left as it is


def test_work_by_hand_keeps_its_place_on_an_enlarged_picture():
    from sketchloom.core.job import ink_at

    small, large = traced(fair(200)), traced(grown(fair(200), 800, "bicubic"))
    for at in ((0.42, 0.48), (0.7, 0.26), (0.45, 0.5), (0.02, 0.02)):
        assert ink_at(small, at).hex == ink_at(large, at).hex


def test_crumbs_of_compression_join_what_is_around_them_and_dots_stay(monkeypatch):
    """Six px where the picture is drawn anew; more where what was stored cannot be told; clean, none."""
    dots = "".join(f'<circle cx="{24 + 17 * i}" cy="188" r="2.4" fill="#222831"/>' for i in range(10))
    rgb = draw(FAIR + dots, 400, 200).rgba[..., :3]
    plain = Pipeline(0).run(picture_of(rgb), Recipe().with_("separate", ground="keep"))
    floors = []
    for quality in (95, 75, 40):
        worn = Pipeline(0).run(picture_of(jpeg(rgb, quality)), Recipe().with_("separate", ground="keep"))
        assert worn.tidied.floor == worn.tidied.least  # at 96 px to the inch a quarter mm2 is less
        floors.append(worn.tidied.floor)
        pieces = [sum(layer.pieces for layer in result.stack.layers) for result in (worn, plain)]
        assert pieces[1] <= pieces[0] <= pieces[1] + 2
    assert floors == pytest.approx([6, 6, 6])
    monkeypatch.setattr("sketchloom.core.regions.flat.tones.find_stored", lambda *_: None)
    lost = Pipeline(0).run(picture_of(jpeg(rgb, 40)), Recipe().with_("separate", ground="keep"))
    assert 6 < lost.tidied.floor <= 24
    assert plain.tidied.floor == 0 and plain.tidied.least == pytest.approx(0.25 * plain.scale.px_per_mm**2)


def test_the_floor_of_a_worn_picture_is_as_large_in_its_preview(monkeypatch):
    for room in ("pipeline", "stages.prepare"):
        monkeypatch.setattr(f"sketchloom.core.job.{room}.PREVIEW_PIXELS", 40_000)
    picture = picture_of(jpeg(fair(400), 60))
    recipe = Recipe().with_("separate", ground="keep")
    full, preview = (Pipeline().run(picture, recipe, preview=one) for one in (False, True))
    shown = [result.tidied.floor / result.scale.px_per_mm**2 for result in (full, preview)]
    assert shown[0] == pytest.approx(shown[1]) and shown[0] > 0


def test_a_wish_for_less_than_the_picture_tells_does_not_bring_its_crumbs_back():
    picture = picture_of(jpeg(fair(300), 40))
    recipe = Recipe().with_("separate", ground="keep")
    least, large = (Pipeline(0).run(picture, recipe.with_("tidy", least_area=area)) for area in (0.0, 20.0))
    assert report_of(least)["least_piece_px"] == {
        "used": round(least.tidied.floor, 2),
        "of_the_picture": round(least.tidied.floor, 2),
    }
    assert large.tidied.least == pytest.approx(20 * large.scale.px_per_mm**2)


@pytest.mark.parametrize(
    "rows", [(Sharpen(),), (Sharpen(radius=3 / 800),), (Enlarge(times=2), Sharpen()), (Sharpen(), Enlarge(times=2))]
)
def test_sharpening_what_was_enlarged_adds_no_piece(rows):
    """It is done at the size that the picture has detail for."""
    large = grown(fair(200), 800, "lanczos") if not any(isinstance(row, Enlarge) for row in rows) else fair(400)
    plain, sharp = (
        Pipeline(0).run(picture_of(large), Recipe(prepare=chosen).with_("separate", ground="keep"))
        for chosen in ((), rows)
    )
    counts = [sum(layer.pieces for layer in result.stack.layers) for result in (plain, sharp)]
    assert counts[0] == counts[1]
    assert len(sharp.palette) == len(plain.palette)
