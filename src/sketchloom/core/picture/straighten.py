"""Find the page in a picture that was taken at an angle, and lay it straight."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats

__all__ = ["find_page", "page_shape", "straighten"]

_PIXELS = 400_000
_LEAST_SHARE = 0.15
_REACH = 7
_EVEN_TABLE, _BEYOND, _LEAST_APART = 4.0, 4.0, 2.5
"""Steps of 8-bit L*a*b*: what the table strays from its colour; times that, and more, that a page differs."""
_LONGEST_SIDE = 32_000
"""px; what cv2 can warp to."""


def find_page(rgba: Bytes) -> Floats | None:
    """Find the four corners of a page that stands out from what it lies on.

    The page is the largest convex part with four sides that differs from the
    picture's border and is lighter, if only a little, where light falls on it
    from one side. Each side is then moved to where the light changes most, at
    full size.

    Parameters
    ----------
    rgba : (H, W, 4) uint8

    Returns
    -------
    (4, 2) float64 or None
        Top left, top right, bottom right, bottom left in px; None if there is
        no such page.
    """
    height, width = rgba.shape[:2]
    scale = min(1.0, (_PIXELS / (width * height)) ** 0.5)
    size = max(8, round(width * scale)), max(8, round(height * scale))
    reduced = cv2.resize(rgba[..., :3], size, interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(reduced, (0, 0), 1.5).astype(np.uint8, copy=False)
    corners = max((_four_corners(mask) for mask in _page_masks(small)), key=_quad_area, default=None)
    if corners is None or _quad_area(corners) < _LEAST_SHARE * size[0] * size[1] or not _lighter(small, corners):
        return None
    corners = corners / [size[0] / width, size[1] / height]
    grey = cv2.cvtColor(np.ascontiguousarray(rgba[..., :3]), cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)
    return _in_order(_refined(grey, corners, _REACH / scale))


def _lighter(small: Bytes, corners: Floats) -> bool:
    """Whether what lies inside is lighter than the picture's border, as paper on a table is."""
    inside = np.zeros(small.shape[:2], np.uint8)
    cv2.fillConvexPoly(inside, np.rint(corners).astype(np.int32), 1)
    light = small.mean(2)
    border = np.concatenate([light[0], light[-1], light[:, 0], light[:, -1]])
    return float(np.median(light[inside > 0])) > float(np.median(border)) + 8


def _page_masks(small: Bytes) -> list[Bools]:
    grey = cv2.cvtColor(small, cv2.COLOR_RGB2GRAY)
    lab = cv2.cvtColor(small, cv2.COLOR_RGB2LAB).astype(np.float32)
    border = np.concatenate([lab[:3].reshape(-1, 3), lab[-3:].reshape(-1, 3), lab[:, :3].reshape(-1, 3)])
    apart = np.sqrt(((lab - np.median(border, axis=0)) ** 2).sum(2))
    apart8 = np.clip(apart * (255 / max(1.0, float(apart.max()))), 0, 255).astype(np.uint8)
    masks = []
    for image in (grey, apart8):
        _, mask = cv2.threshold(image, 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
        masks.append(cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((9, 9))) > 0)
    of_border = np.sqrt(((border - np.median(border, axis=0)) ** 2).sum(1))
    table = np.median(of_border)  # the grain of what lies at most of the border
    if table < _EVEN_TABLE:
        beyond = (apart > _BEYOND * table + _LEAST_APART).astype(np.uint8)
        opened = cv2.morphologyEx(beyond, cv2.MORPH_OPEN, np.ones((5, 5)))
        masks.append(cv2.morphologyEx(opened, cv2.MORPH_CLOSE, np.ones((9, 9))) > 0)
    return masks


def _quad_area(corners: Floats | None) -> float:
    return 0.0 if corners is None else float(abs(cv2.contourArea(corners.astype(np.float32))))


def _four_corners(mask: Bools) -> Floats | None:
    found, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not found:
        return None
    hull = cv2.convexHull(max(found, key=cv2.contourArea))
    around = cv2.arcLength(hull, True)
    for share in (0.01, 0.02, 0.03, 0.05, 0.08):
        corners = cv2.approxPolyDP(hull, share * around, True)[:, 0].astype(np.float64)
        if len(corners) == 4 and _quad_area(corners) > 0.9 * cv2.contourArea(hull):
            ends = np.stack([corners, np.roll(corners, -1, axis=0)], 1)
            low, high = (ends <= 2).all(1), (ends >= np.array(mask.shape[::-1]) - 3).all(1)
            along: Bools = np.any(low | high, axis=1)  # sides on the picture's own
            return None if along.sum() >= 2 else corners
    return None


def _refined(grey: Bytes, corners: Floats, reach: float) -> Floats:
    """Move each side to the largest change of light across it, and meet the sides again."""
    lines = []
    smooth = cv2.GaussianBlur(grey, (0, 0), 1.0).astype(np.float32)
    offsets = np.linspace(-reach, reach, int(4 * reach) + 1)
    middle = corners.mean(0)
    for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        along = end - start
        normal = np.array([-along[1], along[0]]) / max(1e-9, float(np.linalg.norm(along)))
        if normal @ (middle - start) < 0:
            normal = -normal
        at = start + np.linspace(0.08, 0.92, 160)[:, None] * along
        spots = (at[:, None] + offsets[None, :, None] * normal).astype(np.float32)
        profile = cv2.remap(
            smooth, spots[..., 0] - 0.5, spots[..., 1] - 0.5, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        step = np.abs(np.diff(profile, axis=1))
        best = step.argmax(1)
        found = at + ((offsets[best] + offsets[best + 1]) / 2)[:, None] * normal
        strong = step.max(1) >= 0.4 * np.median(step.max(1))
        vx, vy, x, y = cv2.fitLine(found[strong].astype(np.float32), cv2.DIST_HUBER, 0, 1e-4, 1e-4).ravel().tolist()
        lines.append(np.array([-vy, vx, -(-vy * x + vx * y)]))
    meet = [np.cross(lines[i - 1], lines[i]) for i in range(4)]
    return np.array([m[:2] / m[2] if abs(m[2]) > 1e-9 else corners[i] for i, m in enumerate(meet)])


def _in_order(corners: Floats) -> Floats:
    """Top left first, then clockwise."""
    middle = corners.mean(0)
    turn = np.argsort(np.arctan2(*(corners - middle).T[::-1]))
    corners = corners[turn]
    first = int(np.argmin(corners.sum(1)))
    return np.roll(corners, -first, axis=0)


def page_shape(corners: Floats, width: int, height: int) -> tuple[int, int]:
    """Width and height in px of the page that a perspective view shows.

    The ratio of its sides follows from the view, taken with square pixels
    and the picture's middle as principal point; the longer of opposite sides
    gives the size.

    References
    ----------
    .. [1] Z. Zhang and L.-W. He, "Whiteboard scanning and image
       enhancement", Digital Signal Processing 17(2), 2007, section 3.
    """
    m1, m2, m4, m3 = (np.array([x - width / 2, y - height / 2, 1.0]) for x, y in corners)
    k2 = np.cross(m1, m4) @ m3 / (np.cross(m2, m4) @ m3)
    k3 = np.cross(m1, m4) @ m2 / (np.cross(m3, m4) @ m2)
    n2, n3 = k2 * m2 - m1, k3 * m3 - m1
    sides = [float(np.linalg.norm(corners[i] - corners[i - 1])) for i in range(4)]
    down, across = max(sides[0], sides[2]), max(sides[1], sides[3])
    ratio = across / max(down, 1e-9)
    if abs(n2[2]) > 1e-4 and abs(n3[2]) > 1e-4:
        focal2 = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
        if focal2 > (0.3 * max(width, height)) ** 2:
            weight = np.array([1 / focal2, 1 / focal2, 1.0])
            ratio = float(np.sqrt((n2**2 * weight).sum() / (n3**2 * weight).sum()))
    if not 1e-3 < ratio < 1e3:  # corners that no page has
        ratio = across / max(down, 1e-9)
    wide = max(across, down * ratio)
    return max(1, round(wide)), max(1, round(wide / max(ratio, 1e-3)))


def straighten(rgba: Bytes, corners: Floats, most_pixels: int) -> tuple[Bytes, Floats] | None:
    """Lay the page with these corners straight.

    Returns
    -------
    (h, w, 4) uint8, (3, 3) float64, or None
        The page, and the homography from its px to those of `rgba`; None for
        a page of more than `most_pixels`.
    """
    width, height = page_shape(corners, rgba.shape[1], rgba.shape[0])
    if width * height > most_pixels or max(width, height) > _LONGEST_SIDE:
        return None
    flat = np.array([[0, 0], [width, 0], [width, height], [0, height]], np.float32)
    back = cv2.getPerspectiveTransform(flat, corners.astype(np.float32))
    shift = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])  # cv2 counts from pixels' middles
    centred = np.linalg.inv(shift) @ back @ shift
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    page = cv2.warpPerspective(rgba, centred, (width, height), flags=flags, borderMode=cv2.BORDER_REPLICATE)
    return page.astype(np.uint8, copy=False), back.astype(np.float64)
