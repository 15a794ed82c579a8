"""What kind of picture it is: photographs, drawings and flat art, worn, cut out and cleared."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image
from skimage import data

from sketchloom.core.job import Pipeline, Recipe, inspect_source
from sketchloom.core.picture import ClearColour, ClearPale, EvenLight, Picture
from sketchloom.core.regions import find_kind, find_tones
from sketchloom.core.regions.evidence import carried_out
from sketchloom.core.regions.flat.cores import is_clean
from sketchloom.core.regions.photo.cutout import cut_out, with_cut
from sketchloom.core.regions.settings import SeparateSettings
from tests.conftest import FOUR_INKS, draw, picture_of

SNAIL = (
    '<g fill="none" stroke="#222" stroke-width="4" stroke-linecap="round">'
    '<path d="M30 150H170M60 150A40 40 0 1 1 130 140M75 145A22 22 0 1 1 118 128"/>'
    '<path d="M130 140Q160 140 165 90"/></g>'
)
BLOCKS = '<g fill="#222"><circle cx="70" cy="80" r="42"/><rect x="110" y="90" width="60" height="80"/></g>'


def grey_of(rgb: np.ndarray) -> np.ndarray:
    return np.dstack([cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY) if rgb.ndim == 3 else rgb] * 3)


def shot(rgb: np.ndarray, fall: float = 0.4, grain: float = 4, seed: int = 1) -> np.ndarray:
    """A phone's photograph of paper: light that falls off, a tint, a blur, grain, JPEG."""
    y, x = np.mgrid[0 : rgb.shape[0], 0 : rgb.shape[1]] / rgb.shape[0]
    lit = rgb * (1 - fall * (0.7 * x + 0.3 * y))[..., None] * (0.92, 0.9, 0.83)
    soft = cv2.GaussianBlur(lit, (0, 0), 0.8) + np.random.default_rng(seed).normal(0, grain, lit.shape)
    return jpeg(np.clip(soft, 0, 255).astype(np.uint8), 80)


def jpeg(rgb: np.ndarray, quality: int) -> np.ndarray:
    held = io.BytesIO()
    Image.fromarray(rgb).save(held, "JPEG", quality=quality)
    return np.asarray(Image.open(held))


def pencil(rgb: np.ndarray) -> np.ndarray:
    """Strokes of graphite, which the grain of the paper breaks."""
    rough = cv2.GaussianBlur(np.random.default_rng(2).normal(0, 1, rgb.shape[:2]), (0, 0), 1.2)
    share = np.clip(0.6 + 0.35 * rough / rough.std(), 0.1, 1)
    return 255 - (255.0 - rgb) * share[..., None]


def sheet(body: str, size: int = 500) -> np.ndarray:
    return draw(body, size, 200).rgba[..., :3]


def cut(rgb: np.ndarray, x: float, y: float, r: float) -> Picture:
    """Only a disc of a picture stays; places in parts of its size."""
    h, w = rgb.shape[:2]
    away = np.hypot(np.arange(w)[None] + 0.5 - x * w, np.arange(h)[:, None] + 0.5 - y * h)
    return picture_of(np.dstack([rgb, np.clip((r * h - away + 0.5) * 255, 0, 255).astype(np.uint8)]))


PHOTOS = {
    "camera": lambda: picture_of(grey_of(data.camera())),
    "clock": lambda: picture_of(grey_of(data.clock())),
    "moon": lambda: picture_of(grey_of(data.moon())),
    "coins": lambda: picture_of(grey_of(data.coins())),
    "a grey cat": lambda: picture_of(grey_of(data.chelsea())),
    "a grey rocket": lambda: picture_of(grey_of(data.rocket())),
    "coffee": lambda: picture_of(data.coffee()),
    "a cat": lambda: picture_of(data.chelsea()),
    "an astronaut, saved at 40": lambda: picture_of(jpeg(data.astronaut(), 40)),
    "a cat cut out": lambda: cut(data.chelsea(), 0.45, 0.5, 0.45),
    "a grey cat cut out": lambda: cut(grey_of(data.chelsea()), 0.45, 0.5, 0.45),
    "a small camera": lambda: picture_of(cv2.resize(grey_of(data.camera()), (256, 256), interpolation=cv2.INTER_AREA)),
}
DRAWINGS = {
    "a page": lambda: picture_of(grey_of(data.page())),
    "text": lambda: picture_of(grey_of(data.text())),
    "ink": lambda: picture_of(shot(sheet(SNAIL))),
    "ink in bad light": lambda: picture_of(shot(sheet(SNAIL), 0.65, 7)),
    "blocks": lambda: picture_of(shot(sheet(BLOCKS), 0.6)),
    "pencil": lambda: picture_of(shot(pencil(sheet(SNAIL)))),
    "shaded pencil": lambda: picture_of(shot(pencil(sheet(BLOCKS)), 0.5)),
    "grey pencil": lambda: picture_of(grey_of(shot(pencil(sheet(BLOCKS)), 0.3, 8))),
}
FLAT = {
    "clean": lambda: draw(FOUR_INKS, 400, 200),
    "saved at 40": lambda: picture_of(jpeg(sheet(FOUR_INKS, 400), 40)),
    "enlarged": lambda: picture_of(cv2.resize(sheet(FOUR_INKS, 200), (800, 800), interpolation=cv2.INTER_CUBIC)),
    "blurred": lambda: picture_of(cv2.GaussianBlur(sheet(FOUR_INKS, 400), (0, 0), 1.5)),
    "grainy": lambda: picture_of(
        np.clip(sheet(FOUR_INKS, 400) + np.random.default_rng(3).normal(0, 6, (400, 400, 3)), 0, 255).astype(np.uint8)
    ),
    "cut out": lambda: cut(sheet(FOUR_INKS, 400), 0.5, 0.5, 0.42),
    "cut out, saved at 70": lambda: cut(jpeg(sheet(FOUR_INKS, 400), 70), 0.5, 0.5, 0.42),
}
ALL = [(make, kind) for kind, some in (("photo", PHOTOS), ("ink", DRAWINGS), ("flat", FLAT)) for make in some.values()]
NAMES = [*PHOTOS, *DRAWINGS, *FLAT]


@pytest.mark.parametrize(("make", "kind"), ALL, ids=NAMES)
def test_the_kind_of_a_picture(make, kind):
    assert find_kind(make()).kind == kind


@pytest.mark.parametrize(
    "rows",
    [
        (ClearColour(colour=None, reach=60.0),),
        (ClearPale(level=0.6),),
        (EvenLight(), ClearColour(colour=None, reach=60.0)),
    ],
    ids=["by colour", "by how pale it is", "evened, then by colour"],
)
def test_a_scan_whose_paper_was_cleared_is_still_a_drawing_and_keeps_its_strokes(rows):
    picture = picture_of(shot(sheet(SNAIL), 0.15))
    plain = Pipeline(0).run(picture, Recipe())
    cleared = Pipeline(0).run(picture, Recipe(prepare=rows))
    assert cleared.of("kind").kind == plain.of("kind").kind == "ink"
    ours, theirs = (result.regions.labels > 0 for result in (cleared, plain))
    assert (ours & theirs).sum() / (ours | theirs).sum() > 0.95
    contours = [len(result.stack.layers[0].path.contours) for result in (cleared, plain)]
    assert contours[0] <= contours[1] + 1


def test_fine_strokes_of_a_large_scan_are_a_drawing_when_its_paper_is_cleared():
    body = "".join(f'<path d="M20 {20 + 7 * i}Q100 {i * 9} 180 {24 + 6 * i}"/>' for i in range(20))
    rgb = shot(sheet(f'<g fill="none" stroke="#222" stroke-width="0.6">{body}</g>', 1600), 0.1)
    alpha = np.where(rgb.mean(2) > 130, 0, 255).astype(np.uint8)
    assert find_kind(picture_of(np.dstack([rgb, alpha]))).kind == "ink"


def test_the_report_says_what_was_found_of_a_cut_out():
    report = inspect_source(cut(data.chelsea(), 0.45, 0.5, 0.45))
    assert report.kind == report.mode == "photo" and report.ground == "clear"


@pytest.mark.parametrize("by", ["light", "colour"])
def test_a_cut_out_photograph_is_cut_along_its_outline_and_has_no_crumbs(by):
    picture = cut(data.chelsea(), 0.45, 0.5, 0.45)
    recipe = Recipe().with_("finish", width=150.0).with_("separate", steps_by=by)
    result = Pipeline(0).run(picture, recipe)
    radius = 0.45 * picture.height
    # the area of a disc; the steps together are all of it, the lightest too
    assert sum(layer.area for layer in result.stack.layers) == pytest.approx(
        np.pi * (radius / result.scale.px_per_mm) ** 2, rel=0.01
    )
    faces = result.planar.faces
    inside = faces.label > 0
    assert inside.sum() < 80
    assert faces.area[inside].min() > 4 * result.scale.px_per_mm**2
    assert result.ground.tone == result.tones.clear


def test_ground_that_is_kept_takes_a_cut_out_as_it_is_seen_on_white():
    picture = cut(data.chelsea(), 0.45, 0.5, 0.45)
    tones = find_tones(picture, SeparateSettings(mode="photo", ground="keep"))
    assert tones.clear is None and (tones.labels[0] == tones.labels[0, 0]).all()


def test_the_light_of_what_was_cleared_does_not_say_what_the_steps_are():
    dark = np.random.default_rng(1).integers(20, 90, (200, 200, 3)).astype(np.uint8)
    dark = cv2.GaussianBlur(dark, (0, 0), 8)
    whole = find_tones(picture_of(dark), SeparateSettings(mode="photo", ground="keep", detail=0.0), px_per_mm=4.0)
    part = find_tones(cut(dark, 0.5, 0.5, 0.4), SeparateSettings(mode="photo", detail=0.0), px_per_mm=4.0)
    assert np.allclose(whole.cuts, part.cuts, atol=12)


def test_a_crumb_and_a_hole_of_a_cut_go():
    picture = cut(data.coffee(), 0.5, 0.5, 0.4)
    alpha = picture.rgba[..., 3].copy()
    alpha[5:9, 5:9], alpha[200:204, 300:304] = 255, 0
    found = cut_out(Picture(np.dstack([picture.rgba[..., :3], alpha])), 4.0)
    assert not found.there[:12, :12].any() and found.there[195:210, 295:310].all()
    assert cut_out(picture_of(data.coffee()), 4.0) is None


def test_colours_are_carried_out_to_the_nearest():
    rgba = np.zeros((20, 30, 4), np.uint8)
    rgba[:, :10] = (200, 30, 30, 255)
    rgba[:, 24:] = (30, 30, 200, 255)
    out = carried_out(Picture(rgba))
    assert (out[:, :16, 0] == 200).all() and (out[:, 19:, 2] == 200).all() and (out[..., 3] == 255).all()
    assert is_clean(out, rgba[..., 3] > 0)


def test_the_edge_of_a_cut_lies_where_its_shares_say():
    """Half a pixel of the first column that is left: the edge runs down its middle."""
    rgb = np.full((40, 40, 3), 90, np.uint8)
    rgb[:20] = 180
    alpha = np.zeros((40, 40), np.uint8)
    alpha[:, 12:], alpha[:, 11] = 255, 128
    result = Pipeline(0).run(
        picture_of(np.dstack([rgb, alpha])),
        Recipe().with_("separate", mode="photo", inks=2, detail=0.0).with_("finish", page="picture"),
    )
    left = min(float(contour[:, 0].min()) for layer in result.stack.layers for contour in layer.path.contours)
    assert left * result.scale.px_per_mm == pytest.approx(11.5, abs=0.05)


def test_a_bit_that_the_cut_leaves_of_a_step_joins_what_is_beside_it():
    labels = np.ones((60, 60), np.uint8)
    labels[20:40, 28:34] = 2  # of 120 px, of which the cut leaves 40
    there = np.ones((60, 60), bool)
    there[:, 30:] = False
    cut_there = cut_out(picture_of(np.dstack([np.full((60, 60, 3), 99), there * 255]).astype(np.uint8)), 0.0)
    mix = np.array([[0.0] * 3, [255.0] * 3])
    laid, _ = with_cut(labels, np.full((60, 60, 4), 255, np.uint8), mix, cut_there, 4.0)
    assert (laid[:, :30] == 1).all() and (laid[:, 30:] == 3).all()


@pytest.mark.parametrize("quality", [None, 60, 90])
def test_pale_areas_that_are_even_are_flat_art_not_the_paper_of_line_art(quality):
    """A ring and a disc of near greys on white; as line art the disc was lost in its paper."""
    rgb = sheet(
        '<circle cx="100" cy="100" r="90" fill="#f3eef8"/>'
        '<circle cx="100" cy="100" r="92" fill="none" stroke="#b4acbc" stroke-width="5"/>'
        '<circle cx="100" cy="100" r="30" fill="#fff" stroke="#b4acbc" stroke-width="5"/>',
        400,
    )
    assert find_kind(picture_of(rgb if quality is None else jpeg(rgb, quality))).kind == "flat"


@pytest.mark.parametrize("tint", ["#fbebdd", "#dcefe2", "#e9e4f5"])
def test_outlined_art_of_pale_hues_is_flat_art_when_it_is_soft_and_grainy(tint):
    """Outlines round even areas; common practice of clip art that was photographed or enlarged."""
    rgb = sheet(
        f'<g stroke="#26262a" stroke-width="4"><rect x="30" y="100" width="90" height="80" fill="{tint}"/>'
        f'<circle cx="130" cy="70" r="45" fill="#f4f0e6"/><circle cx="60" cy="50" r="22" fill="#fff"/></g>',
        400,
    )
    soft = cv2.GaussianBlur(rgb, (0, 0), 0.9) + np.random.default_rng(3).normal(0, 3, rgb.shape)
    picture = picture_of(np.clip(np.rint(soft), 0, 255).astype(np.uint8))
    assert find_kind(picture).kind == "flat"
    found = [ink.found for ink in Pipeline(0).run(picture, Recipe()).palette]
    wanted = tuple(int(tint[i : i + 2], 16) for i in (1, 3, 5))
    assert min(np.abs(np.subtract(ink, wanted)).max() for ink in found) <= 4


@pytest.mark.parametrize("paper", [(1.0, 1.0, 1.0), (1.0, 0.985, 0.95)])
def test_lines_on_paper_that_has_yellowed_or_lies_in_the_shade_stay_line_art(paper):
    rgb = sheet('<g fill="none" stroke="#222" stroke-width="4"><circle cx="70" cy="80" r="50"/>'
                '<rect x="110" y="60" width="70" height="110"/></g>', 400)  # fmt: skip
    light = np.linspace(1.0, 0.96, 400)[:, None, None] * np.array(paper)
    soft = cv2.GaussianBlur(rgb, (0, 0), 0.9) * light + np.random.default_rng(3).normal(0, 2, rgb.shape)
    assert find_kind(picture_of(np.clip(np.rint(soft), 0, 255).astype(np.uint8))).kind in ("lineart", "ink")
