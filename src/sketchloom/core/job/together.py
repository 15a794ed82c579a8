"""Drawings that were made as separate layers elsewhere, laid together as one job."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.job.jobfile import Job
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.palette import Colour, hex_of
from sketchloom.core.picture import DPI, Picture
from sketchloom.core.send.png import png_bytes

__all__ = ["MOST_LAYERS", "Laid", "are_layers", "job_of_layers"]

MOST_LAYERS = 24
_LEAST_CLEAR = 0.01
_APART = 96
"""8-bit steps of a channel that two layers' colours differ by at least, so that each is told from the others."""
_GRID = (16, 112, 208)
_PART = 0.02
"""Of a drawing; less of another colour is none that was meant."""


def are_layers(pictures: Sequence[Picture]) -> bool:
    """Whether pictures are of one size and each has clear ground: then they are layers of one drawing."""
    sizes = {(picture.width, picture.height) for picture in pictures}
    if not 2 <= len(pictures) <= MOST_LAYERS or len(sizes) != 1:
        return False
    return all(
        not picture.opaque
        and (picture.rgba[..., 3] < 128).mean() >= _LEAST_CLEAR
        and (picture.rgba[..., 3] > 127).any()
        for picture in pictures
    )


class Laid(NamedTuple):
    """Drawings laid together as one job."""

    job: Job
    note: str
    """What was lost on the way; may be empty."""


def job_of_layers(name: str, named: Sequence[tuple[str, Picture]]) -> Laid:
    """Lay drawings on each other, the first at the bottom, each as one ink that nothing separates again.

    They are laid in flat colours that surely differ, and shown in the colour
    that most of each has.

    Parameters
    ----------
    name : str
        Of the job.
    named : sequence of (str, Picture)
        For which `are_layers` holds; the names become those of the inks.
    """
    seen = [_usual_colour(picture) for _, picture in named]
    flat = _apart(seen)
    height, width = named[0][1].height, named[0][1].width
    colour: Floats = np.zeros((height, width, 3), np.float32)
    cover: Floats = np.zeros((height, width, 1), np.float32)
    for (_, picture), own in zip(named, flat, strict=True):
        alpha = picture.rgba[..., 3:].astype(np.float32) / 255
        colour = colour * (1 - alpha) + np.array(own, np.float32) * alpha
        cover = cover * (1 - alpha) + alpha
    rgba = np.concatenate([colour / np.maximum(cover, 1e-6), 255 * cover], 2)
    names: list[str] = []
    for title, _ in named:
        number, free = 2, _plain(title)
        while free in names:
            free, number = f"{_plain(title)} {number}", number + 1
        names.append(free)
    recipe = Recipe().with_(
        "separate",
        layers=tuple(zip(flat, names, strict=True)),
        shown=tuple((hex_of(own), true) for own, true in zip(flat, seen, strict=True) if own != true),
    )
    several = [title for title, picture in named if _has_several(picture)]
    note = f"Each layer becomes one ink; {', '.join(several)} had more than one colour." if several else ""
    return Laid(Job(name, "layers.png", png_bytes(np.rint(rgba).astype(np.uint8), DPI), recipe), note)


def _has_several(picture: Picture) -> bool:
    """Whether a good part of a drawing has another colour than most of it."""
    solid = picture.rgba[picture.rgba[..., 3] > 250][:, :3]
    solid = solid[:: max(1, len(solid) // 50_000)].astype(int)
    if not len(solid):
        return False
    return bool((np.abs(solid - np.median(solid, axis=0)).max(1) > _APART / 2).mean() > _PART)


def _plain(title: str) -> str:
    return "".join(letter if letter.isprintable() else " " for letter in title)[:36].strip() or "Layer"


def _usual_colour(picture: Picture) -> Colour:
    solid = picture.rgba[picture.rgba[..., 3] > 127][:, :3]
    red, green, blue = (int(v) for v in np.median(solid[:: max(1, len(solid) // 50_000)], axis=0))
    return red, green, blue


def _apart(seen: Sequence[Colour]) -> tuple[Colour, ...]:
    """Keep colours that are far from those before them; give the others the farthest of a coarse grid."""
    grid = np.array([(r, g, b) for r in _GRID for g in _GRID for b in _GRID], float)
    out: list[Colour] = []
    for colour in seen:
        if out and _nearest(np.array([colour], float), out)[0] < _APART:
            red, green, blue = (int(v) for v in grid[int(np.argmax(_nearest(grid, out)))])
            colour = red, green, blue
        out.append(colour)
    return tuple(out)


def _nearest(colours: Floats, others: Sequence[Colour]) -> Floats:
    gap: Floats = np.abs(colours[:, None] - np.array(others, float)[None]).max(2).min(1)
    return gap
