"""Drawn subjects laid over photographs that ship with scikit-image, so that the true mask is known."""

import cv2
import numpy as np
from skimage import data

from tests.conftest import draw

SUBJECT = (
    '<path d="M60 170C20 120 40 40 100 30C160 40 185 110 145 170Z" fill="#c8402c"/>'
    '<circle cx="80" cy="90" r="16" fill="#f4d23c"/><rect x="105" y="100" width="34" height="40" fill="#2a57a0"/>'
)
_FILLS = ("#c8402c", "#f4d23c", "#2a57a0")
PHOTOS = ("astronaut", "chelsea", "rocket", "coffee")


def composite(name: str, fills: tuple[str, str, str] = _FILLS, size: int = 400) -> tuple[np.ndarray, np.ndarray]:
    """Give a photograph with a subject on it, (size, size, 3) uint8, and the subject's mask."""
    photo = cv2.resize(getattr(data, name)()[..., :3], (size, size), interpolation=cv2.INTER_AREA)
    own, black = SUBJECT, SUBJECT
    for old, new in zip(_FILLS, fills, strict=True):
        own, black = own.replace(old, new), black.replace(old, "#000")
    cover = 1 - draw(black, size, 200).rgba[..., :1] / 255.0
    rgb = np.rint(photo * (1 - cover) + draw(own, size, 200).rgba[..., :3] * cover).astype(np.uint8)
    return rgb, cover[..., 0] > 0.5


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    """Intersection over union."""
    return float((one & other).sum() / (one | other).sum())


def clicks_round(mask: np.ndarray, count: int, shake: float = 1.5) -> np.ndarray:
    """Places round a mask's edge, as an unsteady hand clicks them; (count, 2) px."""
    found, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    edge = max(found, key=len)[:, 0]
    at = np.linspace(0, len(edge), count, endpoint=False).astype(int)
    return edge[at] + 0.5 + np.random.default_rng(count).uniform(-shake, shake, (count, 2))
