"""Separate an ink drawing: estimate the paper, divide by it, threshold."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.palette import Colour
from sketchloom.core.picture.paper import grain_of, otsu, paper_light
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.settings import SeparateSettings

__all__ = ["PAPER", "InkDrawing", "InkReading", "evened", "of_colour", "sauvola", "separate_ink", "silhouette"]

PAPER = 250.0
"""Grey that bare paper is evened to."""
_SEEN = 25.0
_UNEVEN = 0.5
"""Where the palest strokes have less than this part of the strength of the darkest, the threshold is local."""
_LEAST_STROKE = 60
"""Px of a mark that counts as one."""
_FADING = 0.1
"""With less than this share of the strokes half way between pale and dark, they are of two sorts."""
_WINDOW = 32
"""Windows of the local threshold along the shorter side."""
_LIKE = 0.45
"""How far a colour may be off an ink's, as part of its own distance from the paper, and still be that ink."""
_NEUTRAL = 0.96


class InkReading(NamedTuple):
    """How an ink drawing was split."""

    threshold: float  # share of the paper's light, 0 to 1
    local: bool
    evenness: float  # strength of the palest strokes over that of the darkest
    sure: float  # share of the inked area that does not hang on the threshold
    histogram: Floats  # (256,) of the evened grey


class InkDrawing(NamedTuple):
    """An ink drawing split from its paper."""

    labels: Bytes  # (H, W), 1 paper, 2 ink
    even: Bytes  # (H, W), grey with the split at 127.5
    reading: InkReading


def separate_ink(
    evidence: Bytes, settings: SeparateSettings, tick: Tick = no_tick, decided: InkReading | None = None
) -> InkDrawing:
    """Split ink from paper.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    settings : SeparateSettings
    decided : InkReading, optional
        Of the full picture, when `evidence` is its reduced preview.
    """
    grey = evened(evidence, settings.ink_colour, tick)
    histogram = np.bincount(np.rint(grey).astype(np.uint8).ravel(), minlength=256).astype(float)
    threshold = decided.threshold if decided else settings.threshold
    if threshold is None:
        dark, light, split = _balanced_split(histogram)
        threshold = split / PAPER
    else:
        split = float(np.clip(threshold, 0.01, 0.99) * PAPER)
        dark, light = _class_levels(histogram, int(split))
    evenness = decided.evenness if decided else stroke_evenness(grey)
    local = settings.local if settings.local is not None else settings.threshold is None and evenness < _UNEVEN
    if decided:
        local = decided.local
    level: float | Floats = split
    reach: float | Floats = max(4.0, min(split - dark, light - split) if dark < split < light else 40.0)
    if local:
        level, reach = _local_level(grey, split, dark)
    tick(0.8)
    if settings.faint is not None and settings.faint * PAPER > split:
        level = _with_faint(grey, level, settings.faint * PAPER)
    even = np.clip(127.5 + (grey - level) * (127.5 / reach), 0, 255)
    if settings.strength is not None:
        even[_weak_marks(grey, even < 127.5, settings.strength * PAPER)] = 255
    ink = even < 127.5
    sure = decided.sure if decided else _sure(grey, ink, level, dark)
    tick(1.0)
    labels = np.where(ink, 2, 1).astype(np.uint8)
    return InkDrawing(labels, np.rint(even).astype(np.uint8), InkReading(threshold, local, evenness, sure, histogram))


def silhouette(drawing: InkDrawing) -> InkDrawing:
    """Fill the outline of a drawing: paper that does not reach the border becomes ink."""
    paper = (drawing.labels == 1).astype(np.uint8)
    count, parts = cv2.connectedComponents(np.pad(paper, 1, constant_values=1), connectivity=4)
    outer = parts[1:-1, 1:-1] == parts[0, 0] if count > 1 else paper > 0
    beside = cv2.dilate(outer.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    even = np.where(beside, drawing.even, 0).astype(np.uint8)
    return drawing._replace(labels=np.where(outer, 1, 2).astype(np.uint8), even=even)


def sauvola(grey: Bytes | Floats, window: int, weight: float = 0.2, span: float = 128.0) -> Floats:
    """Local threshold from the mean and the spread around each pixel; (H, W).

    Parameters
    ----------
    grey : (H, W) array
        0 to 255.
    window : int
        Odd side of the square that is looked at, px.
    weight : float
    span : float
        Of the spread.

    References
    ----------
    .. [1] J. Sauvola and M. Pietikainen, "Adaptive document image binarization", 2000.
    """
    plane = np.asarray(grey, np.float64)
    side, mirror = (window, window), cv2.BORDER_REFLECT_101
    mean = cv2.boxFilter(plane, -1, side, borderType=mirror)
    square = cv2.sqrBoxFilter(plane, cv2.CV_64F, side, borderType=mirror)
    spread = np.sqrt(np.maximum(square - mean**2, 0))
    threshold: Floats = mean * (1 + weight * (spread / span - 1))
    return threshold


def of_colour(evidence: Bytes, colour: Colour) -> Floats:
    """Grey in which only ink of one colour is dark, on paper of 250; (H, W).

    What the paper loses of each channel is taken as a mix of the ink and of
    something black, and the ink's part counts; for an ink that is black
    itself, what it takes of the channel it takes least of. Light mixes
    linearly where an edge crosses a pixel, so the shares are coverages.
    """
    rgb = evidence[..., :3]
    taken = np.empty(rgb.shape, np.float32)
    pure = np.empty(3)
    for channel in range(3):
        plane = np.ascontiguousarray(rgb[..., channel])
        paper = paper_light(plane)
        taken[..., channel] = 1 - plane / np.maximum(paper, 1)
        pure[channel] = 1 - colour[channel] / max(1.0, float(np.median(paper)))
    pure = np.clip(pure, 0.0, 1.0)
    size = float(np.linalg.norm(pure))
    if size < 0.05:
        return np.full(rgb.shape[:2], PAPER, np.float32)
    if pure.sum() / (3**0.5 * size) > _NEUTRAL:
        share = taken.min(2) / max(0.05, float(pure.min()))
    else:
        black = np.full(3, 3**-0.5)
        both = np.linalg.inv(np.array([[pure @ pure, pure @ black], [pure @ black, 1.0]]))
        along, dark = taken @ pure.astype(np.float32), taken @ black.astype(np.float32)
        share = both[0, 0] * along + both[0, 1] * dark
        other = both[1, 0] * along + both[1, 1] * dark
        alone = other < 0
        share[alone] = along[alone] / size**2
        other[alone] = 0
        rest = taken - share[..., None] * pure.astype(np.float32) - other[..., None] * np.float32(3**-0.5)
        unlike = np.linalg.norm(rest, axis=2) > _LIKE * np.linalg.norm(taken, axis=2)
        share[unlike] = 0
    out: Floats = PAPER * (1 - np.clip(share, 0, 1))
    return out


def stroke_evenness(grey: Floats) -> float:
    """Strength of the palest strokes over that of the darkest, 0 to 1.

    The strength is how far the darkest pixels of a stroke lie below the
    paper. A hand that fades has strokes of every strength; where there are
    two sorts with nothing between, as of a drawing over pencil lines, only
    the darker counts.
    """
    seen = (grey < PAPER - _SEEN).astype(np.uint8)
    _, parts, stats, _ = cv2.connectedComponentsWithStats(seen, connectivity=8)
    large = stats[:, cv2.CC_STAT_AREA] >= _LEAST_STROKE
    large[0] = False
    lowest = cv2.erode(grey, np.ones((5, 5), np.uint8))
    depth = PAPER - grey[(grey == lowest) & large[parts]]
    if len(depth) < _LEAST_STROKE:
        return 1.0
    counts = np.bincount(np.rint(depth).astype(np.int64), minlength=256).astype(float)
    last_pale = otsu(counts)
    pale, strong = _class_levels(counts, last_pale)
    gap = strong - pale
    between = counts[int(pale + 0.3 * gap) : int(strong - 0.3 * gap) + 1].sum()
    if between < _FADING * len(depth):
        depth = depth[depth > last_pale]
    low, high = np.percentile(depth, [10, 90])
    return float(low / high)


def evened(evidence: Bytes, colour: Colour | None = None, tick: Tick = no_tick) -> Floats:
    """Grey with bare paper at `PAPER` everywhere; (H, W) float32."""
    if colour is not None:
        grey = of_colour(evidence, colour)
        noise = grain_of(np.rint(grey).astype(np.uint8))
        tick(0.6)
        return np.asarray(cv2.GaussianBlur(grey, (0, 0), min(1.2, 0.5 + 0.15 * noise))) if noise > 1.0 else grey
    plain: Bytes = cv2.cvtColor(evidence, cv2.COLOR_RGBA2GRAY).astype(np.uint8, copy=False)
    noise = grain_of(plain)
    if noise > 1.0:
        plain = cv2.GaussianBlur(plain, (0, 0), min(1.2, 0.5 + 0.15 * noise)).astype(np.uint8, copy=False)
    tick(0.2)
    paper = paper_light(plain)
    tick(0.6)
    return np.clip(plain * (np.float32(PAPER) / paper), 0, 255)


def _local_level(grey: Floats, split: float, dark: float) -> tuple[Floats, Floats]:
    """Split half way between the paper and the strokes near by, and what lies on each side of it; (H, W) each.

    A local threshold tells where the strokes are, but puts their edges too
    far out; so only their strength is taken from it.
    """
    window = max(15, min(grey.shape) // _WINDOW | 1)
    floor, ceiling = dark + 0.25 * (PAPER - dark), PAPER - _SEEN
    ink = grey < np.clip(sauvola(grey, window), floor, ceiling)
    deepest = ink & (grey == cv2.erode(grey, np.ones((5, 5), np.uint8)))
    weight = deepest.astype(np.float32)
    usual = 2 * split - PAPER
    spread = window / 2
    held = cv2.GaussianBlur(weight, (0, 0), spread)
    strength = cv2.GaussianBlur(np.where(deepest, grey, 0).astype(np.float32), (0, 0), spread)
    trust = 1e-4
    deep = (strength + trust * usual) / (held + trust)
    level = np.clip((PAPER + deep) / 2, floor, ceiling)
    return level, np.maximum(4.0, PAPER - level)


def _with_faint(grey: Floats, level: float | Floats, faint: float) -> Floats:
    """Raise the split where a faint stroke hangs together with ink; (H, W)."""
    strong = grey < level
    weak = (grey < faint).astype(np.uint8)
    _, parts = cv2.connectedComponents(weak, connectivity=8)
    held = np.zeros(int(parts.max()) + 1, bool)
    held[parts[strong]] = True
    held[0] = False
    kernel = np.ones((5, 5), np.uint8)
    beside = cv2.dilate(strong.astype(np.uint8), kernel) > 0  # the soft edge of strong ink is no faint stroke
    stroke = (held[parts] & ~beside).astype(np.uint8)
    return np.where(cv2.dilate(stroke, kernel) > 0, np.maximum(level, faint), level)


def _weak_marks(grey: Floats, ink: Bools, strength: float) -> Bools:
    """Pixels in and around marks that are nowhere darker than a level; (H, W)."""
    calm = cv2.blur(grey, (3, 3))
    _, parts = cv2.connectedComponents(ink.astype(np.uint8), connectivity=8)
    strong = np.zeros(int(parts.max()) + 1, bool)
    strong[parts[ink & (calm < strength)]] = True
    strong[0] = True
    weak = (~strong[parts]).astype(np.uint8)
    return (cv2.dilate(weak, np.ones((5, 5), np.uint8)) > 0) & ~(ink & strong[parts])


def _sure(grey: Floats, ink: Bools, level: float | Floats, dark: float) -> float:
    """Share of the inked area that would be the same had the split been a tenth of the contrast higher or lower.

    Pixels that lie between ink and paper do not count: an edge crosses them.
    """
    area = int(ink.sum())
    if not area:
        return 0.0
    band = 0.1 * (PAPER - dark)
    surely_ink, surely_paper = grey < level - band, grey > level + band
    kernel = np.ones((3, 3), np.uint8)
    beside_ink, beside_paper = (cv2.dilate(side.astype(np.uint8), kernel) > 0 for side in (surely_ink, surely_paper))
    unsure = ~surely_ink & ~surely_paper & ~(beside_ink & beside_paper)
    return max(0.0, 1 - float(unsure.sum()) / area)


def _balanced_split(histogram: Floats) -> tuple[float, float, float]:
    """Means of ink and paper, and the level half way between, from Otsu's threshold on.

    Where pale marks fell to the ink, its mean lies too high; so the means are
    taken anew on the two sides until the level stays.

    References
    ----------
    .. [1] T. Ridler and S. Calvard, "Picture thresholding using an iterative selection method", 1978.
    """
    dark, light = _class_levels(histogram, otsu(histogram))
    split = (dark + light) / 2
    for _ in range(20):
        dark, light = _class_levels(histogram, int(split))
        if abs((dark + light) / 2 - split) < 0.25:
            break
        split = (dark + light) / 2
    return dark, light, split


def _class_levels(histogram: Floats, last_dark: int) -> tuple[float, float]:
    level = np.arange(256)
    dark, light = histogram[: last_dark + 1], histogram[last_dark + 1 :]
    return (
        float((dark * level[: last_dark + 1]).sum() / max(1.0, dark.sum())),
        float((light * level[last_dark + 1 :]).sum() / max(1.0, light.sum())) if light.sum() else 255.0,
    )
