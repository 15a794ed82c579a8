"""What kind of picture it is."""

from typing import Literal, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.picture import Picture, reduce_picture
from sketchloom.core.picture.paper import grain_of
from sketchloom.core.regions.colour import lab_of
from sketchloom.core.regions.cores import is_clean
from sketchloom.core.regions.drawing import separate_ink
from sketchloom.core.regions.evidence import evidence_of, over_colour
from sketchloom.core.regions.flat import separate_flat
from sketchloom.core.regions.patches import even_patches
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
_LEAST_AREA = 0.002
"""Of the picture; a smaller area is none that anybody colours in."""
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
    kind, why = _kind_of(evidence, clears)
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
    count, _, stats, _ = cv2.connectedComponentsWithStats((~ink).astype(np.uint8), connectivity=4)
    enclosed = int((stats[1:, cv2.CC_STAT_AREA] > _LEAST_AREA * ink.size).sum()) - 1 if count > 1 else 0
    thin = float(np.median(cv2.distanceTransform(ink.astype(np.uint8), cv2.DIST_L2, 3)[ink]))
    return enclosed >= 2 and thin < _THIN * max(ink.shape)


def _kind_of(evidence: Bytes, clears: bool) -> tuple[Kind, str]:
    """Tell flat art, an ink drawing and a photo apart, and say why.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    clears : bool
        Whether parts of it are clear.
    """
    if clears or is_clean(evidence):
        return "flat", "even areas with sharp edges"
    if even_patches(evidence).share >= _EVEN_SHARE:
        return "flat", "even areas, and edges that were compressed"
    scale = (_PIXELS / (evidence.shape[0] * evidence.shape[1])) ** 0.5
    small = evidence
    if scale < 1:
        size = max(1, round(evidence.shape[1] * scale)), max(1, round(evidence.shape[0] * scale))
        small = cv2.resize(evidence, size, interpolation=cv2.INTER_AREA).astype(np.uint8, copy=False)
    calm: Bytes = cv2.GaussianBlur(evidence, (0, 0), 2.0).astype(np.uint8, copy=False)  # grain has a colour of its own
    border = np.concatenate([calm[0], calm[-1], calm[:, 0], calm[:, -1]])[:, :3]
    even_border = np.ptp(np.percentile(border, [3, 97], axis=0), axis=0).max() <= _EVEN_BORDER
    if not even_border and _is_grey(calm):
        if is_two_toned(separate_ink(small, SeparateSettings()).reading.histogram):
            return "ink", "one dark tone on paper that is not quite even"
        return "photo", "many greys, and few of them even"
    art = separate_flat(small)
    grain = grain_of(cv2.cvtColor(small, cv2.COLOR_RGBA2GRAY).astype(np.uint8, copy=False))
    if len(art.colours) > SHADED_INKS and flat_share(small, art.labels, art.colours, grain) < SHADED_SHARE:
        return "photo", "shades that run into each other"
    if even_border:
        return "flat", "an even border, and colours that are not quite even"
    return "flat", "colours that are not quite even"


def _is_grey(calm: Bytes) -> bool:
    """Whether hardly any pixel differs in colour from the tint of the whole."""
    step = max(1, int((calm.shape[0] * calm.shape[1] / _PIXELS) ** 0.5))
    sample = calm[::step, ::step, :3].reshape(-1, 3).astype(np.int16)
    tint = np.median(sample, axis=0)
    chroma = np.ptp(sample - (tint - tint.mean()), axis=1)
    return bool(np.percentile(chroma, 97) < 2 * _PAPER_CHROMA and np.median(chroma) < _PAPER_CHROMA)


def flat_share(evidence: Bytes, labels: Bytes, mix: Floats, noise: float) -> float:
    """Share of pixels that, once calmed, keep to their own tone; a gradient strays from the tone it is given to."""
    smooth = cv2.GaussianBlur(evidence[..., :3], (0, 0), 1.0 + min(2.0, 0.4 * noise)).astype(np.int16)
    stray = np.abs(smooth - np.rint(mix).astype(np.int16)[labels - 1]).max(2)
    return float((stray <= 3.0 + 0.4 * noise).mean())


def is_two_toned(histogram: Floats) -> bool:
    """Whether hardly any of an ink drawing's evened greys lies half way between ink and paper."""
    return float(histogram[90:190].sum() / max(1.0, histogram.sum())) < 0.2
