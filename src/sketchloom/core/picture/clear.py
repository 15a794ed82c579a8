"""Clear the ground: by its colour, by how pale it is, or by a box round the subject."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.picture.apart import run_apart
from sketchloom.core.progress import Tick, no_tick

__all__ = ["box_subject", "clear_colour", "clear_pale", "with_clear", "without_ground"]

_CUT_PIXELS = 160_000
_BAND = 3
_ROUNDS = 6
_SETTLED = 5e-4
"""Share of the pixels; a round that moves fewer is the last."""
_EDGE = 2
_HUE_WEIGHT = 1.5
_RING = 0.25
"""Of the box's sides: what lies so far round it tells what the ground looks like."""
_BINS, _SPREAD = 32, 1.0
"""Of each channel, that colours are counted in, and how far a count reaches, bins."""
_LIKE = 0.5
"""As usual outside the box as inside."""
_EDGE_STEP, _TONE, _SEEDS = 12.0, 10, 4
"""8-bit steps a px that bar the way inwards, and that one tone spans to either side; px between places of the edge."""
_HOLE, _PINHOLE, _CRUMB = 0.03, 8e-3, 0.03
"""Of the subject: a hole that may be filled, one that is filled whatever it looks like, and a part that goes."""


def clear_colour(
    rgba: Bytes,
    colour: tuple[int, int, int],
    reach: float,
    everywhere: bool,
    at: tuple[int, int] | None = None,
) -> Bools:
    """Find the ground by its colour.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    colour : (int, int, int)
        sRGB.
    reach : float
        Largest difference of any channel, 8-bit steps.
    everywhere : bool
        All of that colour, not only what hangs together with the border.
    at : (int, int), optional
        Column and row of a pixel; what hangs together with it goes instead.

    Returns
    -------
    (H, W) bool
    """
    off = np.abs(rgba[..., :3].astype(np.int16) - np.array(colour, np.int16)).max(2)
    near = off <= reach
    if everywhere or not near.any():
        return near
    count, parts = cv2.connectedComponents(near.view(np.uint8), connectivity=4)
    touched = np.zeros(count, bool)
    if at is not None:
        touched[parts[at[1], at[0]]] = True
    else:
        touched[np.unique(np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]]))] = True
    touched[0] = False
    return touched[parts]


def clear_pale(rgba: Bytes, level: float) -> Bools:
    """Find all that is paler than a level: in every channel above that share of the lightest.

    The soft edge of something darker stays with it.
    """
    value = rgba[..., :3].min(2)
    white = float(np.percentile(value[:: max(1, len(value) // 500)], 98))
    dark = (value < level * white).astype(np.uint8)
    return cv2.dilate(dark, np.ones((3, 3), np.uint8)) == 0


def box_subject(rgba: Bytes, box: tuple[int, int, int, int], keep: Bools, drop: Bools, tick: Tick = no_tick) -> Bools:
    """Cut out the subject in a box.

    The cut is made on a reduced picture, in a process that can be ended,
    then once more in a narrow band along its edge at full size, by the
    colours on either side.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    box : (int, int, int, int)
        Left, top, width and height in px; the subject lies wholly inside.
    keep, drop : (H, W) bool
        Pixels that surely belong to the subject, and that surely do not.
    tick : callable

    Returns
    -------
    (H, W) bool
        True on the subject; nowhere when the box holds none.

    References
    ----------
    .. [1] C. Rother, V. Kolmogorov and A. Blake, "GrabCut: interactive
       foreground extraction using iterated graph cuts", 2004.
    """
    sides = zip(box[:2], box[2:], rgba.shape[1::-1], strict=True)
    (left, right), (top, bottom) = (
        (max(0, round(begin - _RING * side)), min(most, round(begin + (1 + _RING) * side)))
        for begin, side, most in sides
    )
    around = np.s_[top:bottom, left:right]
    found = np.zeros(rgba.shape[:2], bool)
    inner = box[0] - left, box[1] - top, box[2], box[3]
    found[around] = _subject_in(rgba[around], inner, keep[around], drop[around], tick)
    if found.any():
        found[keep] = True
        found[drop] = False
    return found


def _subject_in(rgba: Bytes, box: tuple[int, int, int, int], keep: Bools, drop: Bools, tick: Tick) -> Bools:
    """Cut out the subject of a picture that reaches no farther than what lies round the box."""
    height, width = rgba.shape[:2]
    scale = min(1.0, (_CUT_PIXELS / (width * height)) ** 0.5)
    size = max(8, round(width * scale)), max(8, round(height * scale))
    near = cv2.resize(np.ascontiguousarray(rgba[..., :3]), size, interpolation=cv2.INTER_AREA).astype(np.uint8)
    small = _hues(near)
    left, top = max(1, round(box[0] * scale)), max(1, round(box[1] * scale))
    right, bottom = (min(round((box[i] + box[i + 2]) * scale), size[i] - 1) for i in (0, 1))
    sure = np.full(small.shape[:2], cv2.GC_BGD, np.uint8)
    inside = np.zeros(small.shape[:2], bool)
    inside[top:bottom, left:right] = True
    like = _like_ground(small, inside)
    reaches = _reaching_in(small, (left, top, right, bottom)) | (like > _LIKE)
    sure[inside] = np.where(reaches[inside], cv2.GC_PR_BGD, cv2.GC_PR_FGD)
    for marked, value in ((keep, cv2.GC_FGD), (drop, cv2.GC_BGD)):
        if marked.any():
            sure[cv2.resize(marked.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.3] = value
    subject = _whole_subject(run_apart(_cut, small, sure, tick=tick), like, sure)
    if not subject.any():
        return np.zeros((height, width), bool)
    same = size == (width, height)
    return subject.astype(bool) if same else _refined(rgba, subject, near, _BAND)


def _like_ground(small: Bytes, inside: Bools) -> Floats:
    """How much more usual each pixel's colour is outside the box than inside; (h, w) float32, 0 to 1.

    Of a colour of the ground alone as large a part lies inside as of the
    ground; of the subject's own colours nothing lies outside.
    """
    from scipy.ndimage import gaussian_filter

    bins = small.astype(np.int64) * _BINS // 256
    code = (bins[..., 0] * _BINS + bins[..., 1]) * _BINS + bins[..., 2]
    usual: list[Floats] = []
    for there in (~inside, inside):
        count = np.bincount(code[there], minlength=_BINS**3).reshape(_BINS, _BINS, _BINS)
        share = np.asarray(gaussian_filter(count / float(there.sum() + 1), _SPREAD), np.float64)
        usual.append(share.ravel()[code])
    return np.asarray(usual[0] / np.maximum(usual[0] + usual[1], 1e-12), np.float32)


def _reaching_in(small: Bytes, box: tuple[int, int, int, int]) -> Bools:
    """Find what goes on from the box's edge inwards in one colour: as a subject lies wholly inside, it is ground."""
    left, top, right, bottom = box
    calm = cv2.medianBlur(small, 5)
    step = np.hypot(cv2.Sobel(calm, cv2.CV_32F, 1, 0), cv2.Sobel(calm, cv2.CV_32F, 0, 1)).max(2) / 4
    mask = np.zeros((small.shape[0] + 2, small.shape[1] + 2), np.uint8)
    mask[1:-1, 1:-1] = step > _EDGE_STEP
    barred = mask.copy()
    across, down = range(left, right, _SEEDS), range(top, bottom, _SEEDS)
    seeds = [(x, y) for x in across for y in (top, bottom - 1)] + [(x, y) for y in down for x in (left, right - 1)]
    flags = 4 | cv2.FLOODFILL_FIXED_RANGE | cv2.FLOODFILL_MASK_ONLY | (2 << 8)
    for seed in seeds:
        if not mask[seed[1] + 1, seed[0] + 1]:
            cv2.floodFill(calm, mask, seed, 0, (_TONE,) * 3, (_TONE,) * 3, flags)
    return np.asarray(((mask == 2) & (barred == 0))[1:-1, 1:-1])


def _whole_subject(cut: Bytes, like: Floats, sure: Bytes) -> Bytes:
    """Fill what was cut out within the subject, and drop what lies about it.

    A small hole stays where it looks like the ground and is not tiny, or
    where a stroke says so; a small part goes unless a stroke keeps it.
    """
    subject = cut.copy()
    whole = max(1, int(np.count_nonzero(cut)))
    for value, word in ((0, cv2.GC_BGD), (1, cv2.GC_FGD)):
        count, part, stats, _ = cv2.connectedComponentsWithStats((subject == value).view(np.uint8), connectivity=4)
        area = stats[:, cv2.CC_STAT_AREA]
        marked = np.zeros(count, bool)
        marked[np.unique(part[sure == word])] = True  # outside the box all is surely ground
        mean = np.bincount(part.ravel(), like.ravel(), count) / np.maximum(area, 1)
        if value == 0:
            goes = (area < _HOLE * whole) & (mean < _LIKE) | (area < _PINHOLE * whole)
        else:
            goes = area < _CRUMB * whole
        goes &= ~marked
        goes[0] = False
        subject[goes[part]] = 1 - value
    return subject


def _hues(rgb: np.ndarray) -> Bytes:
    """CIELAB in 8 bits with hues drawn apart, so that light and shade part less than colours do."""
    lab = cv2.cvtColor(rgb.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    spread = lab * [255 / 100, _HUE_WEIGHT, _HUE_WEIGHT] + [0, 128, 128]
    return np.clip(np.rint(spread), 0, 255).astype(np.uint8)


def _cut(small: Bytes, sure: Bytes, tick: Tick) -> Bytes:
    """Cut a reduced picture; (h, w) uint8, 1 on the subject."""
    mask, back, front = sure.copy(), np.zeros((1, 65)), np.zeros((1, 65))
    if not (mask & 1).any() or (mask & 1).all():
        return (mask & 1).astype(np.uint8)
    cv2.setRNGSeed(1)
    before = mask & 1
    for turn in range(_ROUNDS):
        tick(turn / _ROUNDS)
        cv2.grabCut(small, mask, (0, 0, 1, 1), back, front, 1, cv2.GC_INIT_WITH_MASK if turn == 0 else cv2.GC_EVAL)
        after = mask & 1
        if np.count_nonzero(after != before) < _SETTLED * mask.size:
            break
        before = after
    tick(1.0)
    return (mask & 1).astype(np.uint8)


def _refined(rgba: Bytes, small: Bytes, near: Bytes, band: int) -> Bools:
    """Decide the band along the edge at full size by the mean colours near by on either side.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    small : (h, w) uint8
        The cut, 1 on the subject.
    near : (h, w, 3) uint8
        The reduced picture.
    band : int
        Px of the reduced picture that the means reach on either side.
    """
    height, width = rgba.shape[:2]
    soft = cv2.resize(small.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
    result = soft > 0.5
    rows, columns = np.nonzero((soft >= 0.01) & (soft <= 0.99))
    soft = soft[rows, columns]
    core = np.ones((3, 3), np.uint8)
    at = (
        ((columns + 0.5) * (small.shape[1] / width) - 0.5).astype(np.float32),
        ((rows + 0.5) * (small.shape[0] / height) - 0.5).astype(np.float32),
    )
    reach = (4 * band + 1, 4 * band + 1)
    colour = rgba[rows, columns, :3].astype(np.float32)
    off = []
    for side in (small, 1 - small):
        sure = cv2.erode(side, core).astype(np.float32)
        mass = np.maximum(cv2.blur(sure, reach), 1e-4)
        mean = cv2.blur(near.astype(np.float32) * sure[..., None], reach) / mass[..., None]
        off.append(((colour - _sampled(mean, *at)) ** 2).sum(1))
    share = off[1] / np.maximum(off[0] + off[1], 1e-6)  # 1 where it is all subject
    result[rows, columns] = 0.5 * soft + 0.5 * share > 0.5
    return result


def _sampled(values: Floats, x: Floats, y: Floats) -> Floats:
    """Values between pixels, bilinear; (n, 3) float32."""
    corner_x, corner_y = np.floor(x).astype(np.intp), np.floor(y).astype(np.intp)
    right, down = (x - corner_x)[:, None], (y - corner_y)[:, None]
    x0, x1 = (np.clip(corner_x + step, 0, values.shape[1] - 1) for step in (0, 1))
    y0, y1 = (np.clip(corner_y + step, 0, values.shape[0] - 1) for step in (0, 1))
    above = values[y0, x0] * (1 - right) + values[y0, x1] * right
    below = values[y1, x0] * (1 - right) + values[y1, x1] * right
    return above * (1 - down) + below * down


def with_clear(rgba: Bytes, cleared: Bools) -> Bytes:
    """Make pixels clear, with an edge a pixel soft; (H, W, 4) uint8."""
    keep = cv2.GaussianBlur((~cleared).astype(np.float32), (0, 0), 0.6)
    out = rgba.copy()
    out[..., 3] = np.minimum(out[..., 3], np.rint(255 * np.clip((keep - 0.15) / 0.7, 0, 1)).astype(np.uint8))
    return out


def without_ground(rgba: Bytes, cleared: Bools, ground: tuple[int, int, int]) -> Bytes:
    """Make the ground clear, and take its colour out of the soft edges beside it; (H, W, 4) uint8.

    An edge pixel is a blend of the ground with what lies behind the edge. Of
    the pixels around it the one farthest from the ground stands for the
    latter; the blend's share becomes its alpha.
    """
    out = rgba.copy()
    out[cleared, 3] = 0
    square = np.ones((2 * _EDGE + 1, 2 * _EDGE + 1), np.uint8)
    near = cv2.dilate((~cleared).view(np.uint8), np.ones((3, 3), np.uint8))
    rows, columns = np.nonzero((cv2.dilate(cleared.view(np.uint8), square) > 0) & (near > 0))
    if not len(rows):
        return out
    colour = rgba[..., :3].astype(np.float32)
    apart = np.where(cleared, -1.0, ((colour - np.array(ground, np.float32)) ** 2).sum(2))
    best, ink = np.full(len(rows), -2.0), np.zeros((len(rows), 3), np.float32)
    for down in range(-_EDGE, _EDGE + 1):
        for right in range(-_EDGE, _EDGE + 1):
            at = np.clip(rows + down, 0, len(rgba) - 1), np.clip(columns + right, 0, rgba.shape[1] - 1)
            better = apart[at] > best
            best[better], ink[better] = apart[at][better], colour[at][better]
    way: Floats = ink - np.array(ground, np.float32)
    share = ((colour[rows, columns] - ground) * way).sum(1) / np.maximum((way**2).sum(1), 1e-6)
    share = np.clip(share, 0, 1)
    out[rows, columns, :3] = np.rint(np.where((share < 0.97)[:, None], ink, colour[rows, columns]))
    out[rows, columns, 3] = np.minimum(rgba[rows, columns, 3], np.rint(255 * share))
    return out
