"""The source report: what a picture is good for, before any work."""

from typing import NamedTuple

import cv2
import msgspec
import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.picture import Picture, reduce_picture
from sketchloom.core.picture.paper import grain_of, paper_light
from sketchloom.core.picture.sharpen import blur_of
from sketchloom.core.regions import (
    Found,
    Ground,
    InkPlan,
    Kind,
    Road,
    SeparateSettings,
    Tones,
    find_drawing,
    find_leaks,
    flat_share,
    lab_of,
)
from sketchloom.core.regions.evidence import evidence_of, over_colour
from sketchloom.core.regions.flat.flat import separate_flat
from sketchloom.core.scale import OwnSize, SizeFrom
from sketchloom.core.units import PX_PER_MM_UNSET
from sketchloom.core.worn import Restored

__all__ = ["LIMITS", "SourceMeasures", "SourceReport", "measure_source", "report_at"]


class Limits(msgspec.Struct, frozen=True):
    """Every threshold of the verdict, in one place."""

    least_px: int = 280  # common practice: narrower is too small to trace cleanly
    least_px_per_mm: float = 3.0  # about 72 an inch, a screen's figure
    noise: float = 2.5  # 8-bit steps
    evenness: float = 0.75  # darkest over lightest paper
    blur: float = 4.5  # px from light to dark
    inks: int = 15  # common practice: fifteen inks mean fifteen sheets
    dark: float = 60.0  # L* of the lightest tenth, for a dark photo
    chroma: float = 16.0  # L*a*b* chroma that grey drawings stay under


LIMITS = Limits()
_WORK_PIXELS = 500_000
_LINE_PIXELS = 250_000
_LEAST_SHARE = 5e-4
"""Of the picture; an ink that covers less is not counted."""


class SourceReport(msgspec.Struct, frozen=True):
    """What a picture is good for.

    Attributes
    ----------
    kind : str
        What was found: flat, ink, lineart or photo.
    mode : str
        The road that tracing it takes, while nothing else is chosen.
    verdict : str
        One sentence, with what to do.
    px_per_mm : float
        At the finished size.
    size_from : str
        Where that size comes from: ``asked``, the ``page`` of a PDF, the ``dpi`` of a scan, or ``96`` px to the inch.
    detail_px : int
        Width at which the picture's detail would just fit; less than its own where it was enlarged or is blurred.
    enlarged : float
        The factor by which it was enlarged, 1 where it was not.
    smallest_detail_mm : float
        Two pixels at the width of the detail.
    inks : int
        Tones that stand out, ground left out.
    flat_share : float
        Share of the area in even patches.
    noise : float
        Spread of an even patch, 8-bit steps; as it was before it was enlarged.
    evenness : float
        Darkest over lightest paper, 1 where the light is even.
    blur : float
        Px that a sharp edge takes from light to dark; as it was before it was enlarged.
    ground : str
        ``clear``, the colour of a border of one colour, or ``none``.
    open_outlines : int
        Gaps in strokes that join two areas.
    """

    kind: Kind
    mode: Kind
    verdict: str
    px_per_mm: float
    size_from: SizeFrom
    detail_px: int
    enlarged: float
    smallest_detail_mm: float
    inks: int
    flat_share: float
    noise: float
    evenness: float
    blur: float
    ground: str
    open_outlines: int


class SourceMeasures(NamedTuple):
    """What of a report does not hang on the finished size."""

    kind: Kind
    mode: Kind
    width: int  # px
    height: int  # px
    detail_px: int  # px, of the width
    enlarged: float
    inks: int
    flat_share: float
    noise: float
    evenness: float
    blur: float
    ground: str
    open_outlines: int
    dark: bool
    own_size: OwnSize | None


def report_at(measures: SourceMeasures, width_mm: float | None = None, size_from: SizeFrom = "asked") -> SourceReport:
    """Make the report at a finished width, mm, and say where that comes from.

    Without a width it is that which the file says it has, or 96 px are an inch.
    """
    own = measures.own_size
    if width_mm:
        px_per_mm = measures.width / width_mm
    else:
        px_per_mm, size_from = (own.px_per_mm, own.says) if own is not None else (PX_PER_MM_UNSET, "96")
    report = SourceReport(
        measures.kind,
        measures.mode,
        "",
        round(px_per_mm, 3),
        size_from,
        measures.detail_px,
        round(measures.enlarged, 2),
        round(2 * measures.width / (measures.detail_px * px_per_mm), 3),
        measures.inks,
        round(measures.flat_share, 3),
        round(measures.noise, 2),
        round(measures.evenness, 3),
        round(measures.blur, 2),
        measures.ground,
        measures.open_outlines,
    )
    return msgspec.structs.replace(report, verdict=_verdict(report, measures))


def measure_source(
    picture: Picture, worn: Restored, found: Found, road: Road, tones: Tones, ground: Ground, plan: InkPlan
) -> SourceMeasures:
    """Measure all that a report says of a picture at any size.

    Parameters
    ----------
    picture : Picture
        As opened.
    worn, found, road, tones, ground, plan
        What the stages that would trace it say of it.
    """
    small, _ = reduce_picture(picture, _WORK_PIXELS)
    grey = cv2.cvtColor(np.ascontiguousarray(small.rgba[..., :3]), cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)
    lab = lab_of(small.rgba[::4, ::4, :3])
    full = _full_grey(worn.picture)
    noise = grain_of(full)
    chroma = float(np.percentile(np.linalg.norm(lab[..., 1:], axis=-1), 90))
    drawn = found.kind in ("ink", "lineart")
    paper = paper_light(grey)
    return SourceMeasures(
        kind=found.kind,
        mode=road.mode,
        width=picture.width,
        height=picture.height,
        detail_px=worn.detail_px,
        enlarged=worn.factor,
        inks=sum(share > _LEAST_SHARE for share in plan.shares.values()),
        flat_share=_flat_share(small, tones, noise),
        noise=noise,
        evenness=float(np.percentile(paper, 1) / np.percentile(paper, 99)) if drawn else 1.0,
        blur=blur_of(full),
        ground=_ground_word(tones, ground),
        open_outlines=_leaks(small) if drawn and chroma < LIMITS.chroma else 0,
        dark=float(np.percentile(lab[..., 0], 90)) < LIMITS.dark,
        own_size=picture.own_size,
    )


def _ground_word(tones: Tones, ground: Ground) -> str:
    if tones.clear is not None:
        return "clear"
    return ground.shown.hex if ground.shown is not None and tones.mode == "flat" else "none"


def _flat_share(small: Picture, tones: Tones, noise: float) -> float:
    """Share of the area in even patches, by the tones of flat art."""
    if tones.mode == "flat":
        size = small.width, small.height
        labels = cv2.resize(tones.labels, size, interpolation=cv2.INTER_NEAREST).astype(np.uint8, copy=False)
        evidence, _, _ = evidence_of(small, keep_ground=False)
        return flat_share(evidence, labels, tones.mix, noise)
    evidence = over_colour(small, (255, 255, 255))
    art = separate_flat(evidence)
    return flat_share(evidence, art.labels, art.colours, noise)


def _full_grey(picture: Picture) -> Bytes:
    """The middle of the picture at full size, at most a megapixel."""
    side = 1000
    top, left = max(0, (picture.height - side) // 2), max(0, (picture.width - side) // 2)
    part = np.ascontiguousarray(picture.rgba[top : top + side, left : left + side, :3])
    return cv2.cvtColor(part, cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)


def _leaks(picture: Picture) -> int:
    """Places where an outline does not close."""
    small, _ = reduce_picture(picture, _LINE_PIXELS)
    return len(find_leaks(find_drawing(small, SeparateSettings(), "ink").labels == 2))


def _verdict(report: SourceReport, measures: SourceMeasures) -> str:
    if measures.enlarged > 1:
        before = round(measures.width / measures.enlarged)
        small = min(measures.width, measures.height) / measures.enlarged < LIMITS.least_px
        more = f"one with at least {LIMITS.least_px} on its shorter side" if small else "its original"
        return (
            f"Enlarged {report.enlarged:g} times from {before} pixels across, and traced at that size: "
            f"find {more} if details are missing."
        )
    if min(measures.width, measures.height) < LIMITS.least_px:
        return f"Too small to trace cleanly: find one at least {LIMITS.least_px} pixels on its shorter side."
    if report.kind == "photo":
        light = "a dark photo" if measures.dark else "a photo or shaded picture"
        return f"This is {light}: trace it as Photo, in steps of light, or look for a flatter picture."
    if report.blur > LIMITS.blur:
        if report.kind == "flat":
            return (
                f"Edges are blurred over {report.blur:.0f} pixels, so fine lines may be lost: find a sharper picture."
            )
        return f"Edges are blurred over {report.blur:.0f} pixels: add Sharpen in Prepare, or find a sharper picture."
    if report.kind in ("ink", "lineart") and report.evenness < LIMITS.evenness:
        return "A drawing in uneven light: add Even the light in Prepare, or scan it again under a lamp on each side."
    if report.open_outlines:
        many = report.open_outlines
        return (
            f"{many} outline{'s' * (many > 1)} may not close, and areas behind a gap become one: close the gaps first."
        )
    if report.kind == "flat" and report.inks > LIMITS.inks:
        return f"{report.inks} inks mean {report.inks} sheets: take fewer in Separate, or look for a flatter picture."
    if report.noise > LIMITS.noise:
        return "A noisy picture: it works, but add Calm noise in Prepare if specks remain."
    if report.px_per_mm < LIMITS.least_px_per_mm:
        return (
            f"Good, but coarse at this size: details under {report.smallest_detail_mm:.1f} mm are lost; "
            "cut it smaller or find a larger picture."
        )
    if report.kind == "lineart":
        return "Good: this is line art; choose Line art to colour its areas, or cut the lines as drawn."
    what = "flat art" if report.kind == "flat" else "an ink drawing"
    return f"Good: this is {what} and should trace cleanly."
