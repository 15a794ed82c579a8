"""Tones of a drawing: paper and ink, and for line art one more for each colour of enclosed areas."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.palette import Colour, keys_of
from sketchloom.core.picture import Picture, source_points, unit_at
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.evidence import over_colour
from sketchloom.core.regions.flat.touching import lines_joined
from sketchloom.core.regions.ink.drawing import InkDrawing, InkReading, separate_ink, silhouette
from sketchloom.core.regions.ink.lineart import (
    FILLS,
    Areas,
    Leak,
    enclosed_areas,
    find_leaks,
    proposed_fills,
    with_closings,
    with_fills,
)
from sketchloom.core.regions.ink.page import page_alone
from sketchloom.core.regions.kind import Kind
from sketchloom.core.regions.settings import Closing, SeparateSettings
from sketchloom.core.regions.tones import WHITE, Tones, as_colour
from sketchloom.core.worn import ramp_sigma

__all__ = ["find_drawing", "ink_tones"]

COLOURS = 5
"""That a first colouring of line art takes, where no number is chosen."""


def find_drawing(
    picture: Picture,
    settings: SeparateSettings,
    mode: Kind,
    tick: Tick = no_tick,
    decided: InkReading | None = None,
    under: bool = False,
) -> InkDrawing:
    """Split ink from paper, and fill the silhouette if that is wanted.

    With `under`, the colours under what was cleared are those of the paper,
    and the split is made as if nothing had been cleared.
    """
    if under and not picture.opaque:
        alpha = picture.rgba[..., 3:]
        drawing = separate_ink(np.dstack([picture.rgba[..., :3], np.full_like(alpha, 255)]), settings, tick, decided)
        share = alpha[..., 0] / np.float32(255)
        even = np.rint(255 - (255 - drawing.even) * share).astype(np.uint8)
        drawing = drawing._replace(labels=np.where(even < 128, 2, 1).astype(np.uint8), even=even)
    else:
        seen = over_colour(picture, WHITE)
        page = page_alone(seen) if picture.opaque else None
        drawing = separate_ink(seen if page is None else page, settings, tick, decided)
    return silhouette(drawing) if settings.silhouette and mode == "ink" else drawing


def ink_tones(
    picture: Picture,
    settings: SeparateSettings,
    mode: Kind,
    tick: Tick,
    decided: Tones | None,
    px_per_mm: float,
    drawing: InkDrawing,
) -> Tones:
    """Paper and ink as two tones, and for line art one more for each colour of enclosed areas."""
    on_white = over_colour(picture, WHITE)
    mix = np.array([[255.0] * 3, [0.0] * 3])
    leaks: tuple[Closing, ...] = decided.leaks if decided else ()
    areas = None
    if mode == "lineart":
        drawing = with_closings(drawing, picture, settings.closings)
        if not decided:
            gap = settings.gap * px_per_mm if settings.gap is not None else None
            leaks = tuple(_as_closing(leak, picture) for leak in find_leaks(drawing.labels == 2, gap, tick))
        if settings.close_gaps:
            drawing = with_closings(drawing, picture, leaks)
        areas = enclosed_areas(drawing.labels == 2)
    labels, evidence = lines_joined(drawing.labels, np.repeat(drawing.even[..., None], 4, 2), mix)
    blur = ramp_sigma(np.repeat(drawing.even[..., None], 3, 2)) or 0.0
    if decided:
        if areas is not None:
            labels = _like_full(labels, areas, decided.labels)
        return decided._replace(labels=labels, evidence=evidence, blur=blur)
    shown = _medians(on_white, labels, 2)
    rank: tuple[int, ...] = ()
    lost: tuple[int, ...] = ()
    if areas is not None:
        labels, colours, lost = _coloured_in(labels, areas, picture, settings)
        shown += colours
        mix = np.vstack([mix, np.full((len(colours), 3), 255.0)])
        rank = (0, len(shown) - 1, *range(1, len(shown) - 1))
    return Tones(
        labels, mix, tuple(shown), keys_of(shown), evidence, mode,
        reading=drawing.reading, leaks=leaks, rank=rank, unplaced=lost, blur=blur,
    )  # fmt: skip


def _as_closing(leak: Leak, picture: Picture) -> Closing:
    first, last = source_points(picture, np.stack([leak.first, leak.last]))
    return Closing(first, last, round(leak.width / unit_at(picture, (leak.first + leak.last) / 2), 6))


def _coloured_in(
    labels: Bytes, areas: Areas, picture: Picture, settings: SeparateSettings
) -> tuple[Bytes, list[Colour], tuple[int, ...]]:
    """Label enclosed areas by their colours, largest first; and the fills that lie in none."""
    count = min(max(settings.inks or COLOURS, 1), len(FILLS))
    chosen, lost = with_fills(areas, proposed_fills(areas, labels == 2, count), picture, settings.fills)
    weight: dict[Colour, int] = {}
    for colour, size in zip(chosen, areas.size, strict=True):
        if colour is not None:
            weight[colour] = weight.get(colour, 0) + int(size)
    colours = sorted(weight, key=lambda colour: (-weight[colour], colour))
    number = np.ones(len(chosen) + 1, np.uint8)
    for area, colour in enumerate(chosen, 1):
        if colour is not None:
            number[area] = 3 + colours.index(colour)
    return np.where(areas.parts > 0, number[areas.parts], labels).astype(np.uint8), colours, lost


def _like_full(labels: Bytes, areas: Areas, full: Bytes) -> Bytes:
    """Label the areas of a reduced picture as most of their pixels are labelled in the full one."""
    there = cv2.resize(full, labels.shape[::-1], interpolation=cv2.INTER_NEAREST)
    count = len(areas.size) + 1
    votes = np.bincount((areas.parts * 256 + there).ravel(), minlength=count * 256).reshape(count, 256)
    votes[:, :1] = votes[:, 2] = 0
    number = np.maximum(votes.argmax(1), 1).astype(np.uint8)
    return np.where(areas.parts > 0, number[areas.parts], labels).astype(np.uint8)


def _medians(on_white: Bytes, labels: Bytes, count: int) -> list[Colour]:
    """The median colour of each label from 1 up; white where there is no pixel."""
    shown = []
    for label in range(1, count + 1):
        some = on_white[..., :3][labels == label]
        shown.append(as_colour(np.median(some[:: max(1, len(some) // 20_000)], axis=0)) if len(some) else WHITE)
    return shown
