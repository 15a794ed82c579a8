"""What kind of picture it is."""

from typing import Literal, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.colour import lab_of
from sketchloom.core.picture import Picture, reduce_picture
from sketchloom.core.picture.paper import grain_of
from sketchloom.core.regions.evidence import SOLID, carried_out, evidence_of, over_colour
from sketchloom.core.regions.flat.cores import is_clean
from sketchloom.core.regions.flat.flat import separate_flat
from sketchloom.core.regions.flat.patches import even_patches
from sketchloom.core.regions.ink.drawing import PAPER, evened, separate_ink
from sketchloom.core.regions.ink.page import page_alone
from sketchloom.core.regions.settings import SeparateSettings

__all__ = ["Found", "Kind", "Road", "find_kind", "flat_share", "is_two_toned", "road_of"]

Kind = Literal["flat", "ink", "lineart", "photo"]

SHADED_SHARE, SHADED_INKS = 0.55, 6
"""With less of the area in flat patches and more inks than these, it is shaded."""
_PAPER_CHROMA = 14
_EVEN_BORDER = 4
_EVEN_SHARE = 0.25
_PIXELS = 250_000
_GREY = 16.0
"""L*a*b* chroma that drawings in one dark tone stay under."""
_LEAST_INK, _MOST_INK = 0.002, 0.6
"""Of the area, in a drawing made of lines."""
_LEAST_TONE, _TONE_STEP = 0.02, 3.0
"""Of the picture, exactly even, that makes a tone; and steps of L* between two."""
_HALO, _CALM = 2, 2.0
"""px beside a line that its blur reaches, and over which what lies beside it is calmed."""
_LIGHT_STEP, _HUE_STEP = 8.0, 3.5
"""L*, and a*b*, that areas on two sides of a line differ by where one is coloured in."""
_LEAST_AREA = 0.002
"""Of the picture; a smaller area is none that anybody colours in."""
_DEEP_INK, _DEEP_PAPER = 4.0, 6.0
"""px from the other side, of what is looked at for whether it is even."""
_INK_SPREAD, _PAPER_SPREAD = 0.06, 0.022
"""Standard deviations, as part of the contrast, that ink and paper stay under in a drawing."""
_LEAST_SOLID = 50
"""px that say something."""
_THIN = 0.012
"""Half of a line's usual width, as part of the longer side; thicker ones are shapes."""


class Found(NamedTuple):
    """What kind of picture was found."""

    kind: Kind
    why: str


class Road(NamedTuple):
    """Which road the picture takes."""

    mode: Kind
    why: str


def find_kind(picture: Picture, keep_ground: bool = False) -> Found:
    """Tell flat art, an ink drawing, line art and a photo apart, and say why.

    Parameters
    ----------
    picture : Picture
    keep_ground : bool
        Whether clear pixels are to be cut too: then they are seen as white.
    """
    evidence, _, clears = evidence_of(picture, keep_ground)
    kind, why = _kind_of_cut_out(picture) if clears else _kind_of(evidence)
    if kind == "flat" and picture.opaque and _is_line_art(picture):
        return Found("lineart", "thin lines of one dark tone round several areas")
    return Found(kind, why)


def road_of(found: Found | None, settings: SeparateSettings) -> Road:
    """Choose the road: what a maker chose, else by what was found.

    Line art is cut as an ink drawing until somebody asks to colour it in.

    Parameters
    ----------
    found : Found or None
        None where the settings choose.
    settings : SeparateSettings
    """
    if settings.layers:
        return Road("flat", "drawings that came as separate layers")
    if settings.mode != "auto":
        return Road(settings.mode, "as chosen")
    assert found is not None
    if found.kind == "lineart":
        return Road("ink", f"{found.why}; its lines are cut as ink until colouring in is asked for")
    return Road(*found)


def _is_line_art(picture: Picture) -> bool:
    """Whether thin strokes of one dark tone enclose areas."""
    small = over_colour(reduce_picture(picture, _PIXELS)[0], (255, 255, 255))
    if float(np.percentile(np.linalg.norm(lab_of(small[::3, ::3, :3])[..., 1:], axis=-1), 98)) >= _GREY:
        return False
    drawing = separate_ink(small, SeparateSettings())
    ink = drawing.labels == 2
    if not (is_two_toned(drawing.reading.histogram) and _LEAST_INK < float(ink.mean()) < _MOST_INK):
        return False
    if _even_tones(small, ~ink) > 1 or _step_across(small, ink) > 1:
        return False
    count, _, stats, _ = cv2.connectedComponentsWithStats((~ink).astype(np.uint8), connectivity=4)
    enclosed = int((stats[1:, cv2.CC_STAT_AREA] > _LEAST_AREA * ink.size).sum()) - 1 if count > 1 else 0
    thin = float(np.median(cv2.distanceTransform(ink.astype(np.uint8), cv2.DIST_L2, 3)[ink]))
    return enclosed >= 2 and thin < _THIN * max(ink.shape)


def _even_tones(small: Bytes, there: Bools) -> int:
    """How many tones, well apart, are exactly even over some part of a picture; the light of a scan runs through."""
    patches = even_patches(small)
    seen = small[patches.even & there][:, :3].astype(np.int16)
    least = _LEAST_TONE * there.size
    light = [
        float(lab_of(colour)[..., 0])
        for colour in patches.colours
        if np.count_nonzero((np.abs(seen - colour.astype(np.int16)) <= 1).all(1)) >= least
    ]
    return 1 + int((np.diff(np.sort(light)) > _TONE_STEP).sum()) if light else 0


def _step_across(small: Bytes, ink: Bools) -> float:
    """The largest step of tone between two areas that only a line parts, as part of what is taken for one.

    Both sides are looked at beside the line that parts them, so that neither
    the light of a scan nor a page that has yellowed makes a step; and over the
    length of the line, so that grain makes none.
    """
    paper = cv2.erode((~ink).astype(np.uint8), np.ones((2 * _HALO + 1,) * 2, np.uint8), borderValue=1)
    count, area_of, stats, _ = cv2.connectedComponentsWithStats(paper, connectivity=4)
    if count < 3:
        return 0.0
    large = stats[:, cv2.CC_STAT_AREA] > _LEAST_AREA * ink.size
    large[0] = False
    paper = large[area_of].view(np.uint8)
    weight = cv2.GaussianBlur(paper.astype(np.float32), (0, 0), _CALM)
    calm = cv2.GaussianBlur(lab_of(small[..., :3]).astype(np.float32) * paper[..., None], (0, 0), _CALM)
    calm /= np.maximum(weight, 1e-3)[..., None]
    _, nearest = cv2.distanceTransformWithLabels(1 - paper, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    place = np.zeros(int(nearest.max()) + 1, np.int64)  # of each label
    there = np.flatnonzero(paper)
    place[nearest.ravel()[there]] = there
    beside = place[nearest]
    area = area_of.ravel()[beside]
    pairs = [
        (beside[:, :-1], beside[:, 1:], area[:, :-1] != area[:, 1:]),
        (beside[:-1], beside[1:], area[:-1] != area[1:]),
    ]
    first = np.concatenate([one[differs] for one, _, differs in pairs])
    last = np.concatenate([other[differs] for _, other, differs in pairs])
    low, high = np.sort([area_of.ravel()[first], area_of.ravel()[last]], axis=0)
    turned = area_of.ravel()[first] > area_of.ravel()[last]
    steps = calm.reshape(-1, 3)[first] - calm.reshape(-1, 3)[last]
    steps[turned] *= -1
    out = 0.0
    for pair in np.unique(low * count + high):
        of_pair = steps[low * count + high == pair]
        if len(of_pair) >= _LEAST_SOLID:
            light, *hue = np.median(of_pair, axis=0)
            out = max(out, abs(float(light)) / _LIGHT_STEP, float(np.hypot(*hue)) / _HUE_STEP)
    return out


def _kind_of(evidence: Bytes) -> tuple[Kind, str]:
    """Tell flat art, an ink drawing and a photo apart, and say why; `evidence` is (H, W, 4) uint8, opaque."""
    if is_clean(evidence):
        return "flat", "even areas with sharp edges"
    if even_patches(evidence).share >= _EVEN_SHARE:
        return "flat", "even areas, and edges that were compressed"
    page = page_alone(evidence)
    if page is not None and _is_grey(page[..., :3]) and _is_drawn(_small(page)):
        return "ink", "one dark tone on a page that lies on something"
    calm: Bytes = cv2.GaussianBlur(evidence, (0, 0), 2.0).astype(np.uint8, copy=False)  # grain has a colour of its own
    border = np.concatenate([calm[0], calm[-1], calm[:, 0], calm[:, -1]])[:, :3]
    even_border = np.ptp(np.percentile(border, [3, 97], axis=0), axis=0).max() <= _EVEN_BORDER
    small = _small(evidence)
    if not even_border and _is_grey(calm[..., :3]):
        if _is_drawn(small):
            return "ink", "one dark tone on paper that is not quite even"
        return "photo", "many greys, and few of them even"
    if _is_shaded(small):
        return "photo", "shades that run into each other"
    if even_border:
        return "flat", "an even border, and colours that are not quite even"
    return "flat", "colours that are not quite even"


def _kind_of_cut_out(picture: Picture) -> tuple[Kind, str]:
    """Tell what kind of picture is left where parts of it are clear: only what stays says it."""
    inside = _solid(picture)
    if np.count_nonzero(inside) < _LEAST_SOLID:
        return "flat", "even areas on clear ground"
    if is_clean(picture.rgba, inside) or even_patches(picture.rgba).even[inside].mean() >= _EVEN_SHARE:
        return "flat", "even areas on clear ground"
    reduced, _ = reduce_picture(picture, _PIXELS)
    small, there = carried_out(reduced), _solid(reduced)
    if np.count_nonzero(there) < _LEAST_SOLID:  # nothing but fine strokes
        if _is_grey(picture.rgba[..., :3][inside]):
            return "ink", "fine strokes of one dark tone, whose paper was cleared"
        return "flat", "fine strokes on clear ground"
    calm: Bytes = cv2.GaussianBlur(small, (0, 0), 1.0).astype(np.uint8, copy=False)
    if _is_grey(calm[..., :3][there]):
        if _is_drawn(over_colour(reduced, (255, 255, 255)), there):
            return "ink", "one dark tone whose paper was cleared"
        return "photo", "many greys, and few of them even"
    if _is_shaded(small, there):
        return "photo", "shades that run into each other, cut out of their ground"
    return "flat", "colours that are not quite even, on clear ground"


def _solid(picture: Picture) -> Bools:
    """Pixels that no clear one is beside; (H, W) bool."""
    opaque = (picture.rgba[..., 3] >= SOLID).view(np.uint8)
    return np.asarray(cv2.erode(opaque, np.ones((3, 3), np.uint8), borderValue=0) > 0)


def _small(plane: Bytes) -> Bytes:
    """Reduce to what a kind can be told by."""
    scale = (_PIXELS / (plane.shape[0] * plane.shape[1])) ** 0.5
    if scale >= 1:
        return plane
    size = max(1, round(plane.shape[1] * scale)), max(1, round(plane.shape[0] * scale))
    return cv2.resize(plane, size, interpolation=cv2.INTER_AREA).astype(np.uint8, copy=False)


def _is_drawn(small: Bytes, there: Bools | None = None) -> bool:
    """Whether the dark and the light of a grey picture are ink and paper.

    In a drawing the ink is even, or the paper is, once its light is evened;
    where all strokes are fine neither can be said, and fine strokes are
    drawn. In a photograph both sides of any threshold hold shades.

    Parameters
    ----------
    small : (H, W, 4) uint8
        Opaque.
    there : (H, W) bool, optional
        Where the picture is not clear.
    """
    grey = evened(small)
    ink = (separate_ink(small, SeparateSettings()).labels == 2).view(np.uint8)
    into_ink, into_paper = (cv2.distanceTransform(side, cv2.DIST_L2, 3) for side in (ink, 1 - ink))
    deep_ink, deep_paper = into_ink > _DEEP_INK, into_paper > _DEEP_PAPER
    if there is not None:
        deep_ink, deep_paper = deep_ink & there, deep_paper & there
    if np.count_nonzero(deep_ink) < _LEAST_SOLID:
        return True
    bare = np.count_nonzero(deep_paper) >= _LEAST_SOLID
    paper = grey[deep_paper] if bare else np.array([PAPER])
    contrast = max(1.0, float(np.median(paper)) - float(np.median(grey[deep_ink])))
    if float(grey[deep_ink].std()) < _INK_SPREAD * contrast:
        return True
    if bare:
        return float(paper.std()) < _PAPER_SPREAD * contrast
    return float(np.median(into_ink[ink > 0])) < _THIN * max(ink.shape)


def _is_shaded(small: Bytes, there: Bools | None = None) -> bool:
    """Whether there are many tones, and most pixels stray from theirs."""
    art = separate_flat(small)
    grain = grain_of(cv2.cvtColor(small, cv2.COLOR_RGBA2GRAY).astype(np.uint8, copy=False))
    return len(art.colours) > SHADED_INKS and flat_share(small, art.labels, art.colours, grain, there) < SHADED_SHARE


def _is_grey(calm: Bytes) -> bool:
    """Whether hardly any pixel differs in colour from the tint of the whole; (..., 3) uint8."""
    pixels = calm.reshape(-1, 3)
    sample = pixels[:: max(1, len(pixels) // _PIXELS)].astype(np.int16)
    tint = np.median(sample, axis=0)
    chroma = np.ptp(sample - (tint - tint.mean()), axis=1)
    return bool(np.percentile(chroma, 97) < 2 * _PAPER_CHROMA and np.median(chroma) < _PAPER_CHROMA)


def flat_share(evidence: Bytes, labels: Bytes, mix: Floats, noise: float, there: Bools | None = None) -> float:
    """Share of pixels that, once calmed, keep to their own tone; a gradient strays from the tone it is given to."""
    smooth = cv2.GaussianBlur(evidence[..., :3], (0, 0), 1.0 + min(2.0, 0.4 * noise)).astype(np.int16)
    stray = np.abs(smooth - np.rint(mix).astype(np.int16)[labels - 1]).max(2)
    near = stray <= 3.0 + 0.4 * noise
    return float((near if there is None else near[there]).mean())


def is_two_toned(histogram: Floats) -> bool:
    """Whether hardly any of an ink drawing's evened greys lies half way between ink and paper."""
    return float(histogram[90:190].sum() / max(1.0, histogram.sum())) < 0.2
