"""The Prepare step: a list of rows, each done to the picture in turn; the opened picture is never changed."""

from typing import NamedTuple

import cv2
import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.picture.clear import box_subject, clear_colour, with_clear
from sketchloom.core.picture.page import find_page, straighten
from sketchloom.core.picture.paper import paper_surface
from sketchloom.core.picture.picture import Picture
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Calm", "ClearBox", "ClearColour", "Crop", "EvenLight", "Prepared", "Row", "Straighten", "Turn", "prepare"]

Point = tuple[float, float]


class _Row(msgspec.Struct, frozen=True, tag=True, kw_only=True):
    on: bool = True


class Straighten(_Row, frozen=True, tag="straighten", kw_only=True):
    """Lay a page straight; without corners they are found."""

    corners: tuple[Point, Point, Point, Point] | None = None


class EvenLight(_Row, frozen=True, tag="even-light", kw_only=True):
    """Divide by the light on the bare paper."""


class Calm(_Row, frozen=True, tag="calm", kw_only=True):
    """Smooth noise, not edges."""

    radius: float
    """Of the largest grain, a fraction of the longer side."""


class Crop(_Row, frozen=True, tag="crop", kw_only=True):
    """Keep a rectangle: its top left and bottom right."""

    first: Point
    last: Point


class Turn(_Row, frozen=True, tag="turn", kw_only=True):
    """Turn by quarters to the right, then mirror left and right."""

    quarters: int = 0
    mirror: bool = False


class ClearColour(_Row, frozen=True, tag="clear-colour", kw_only=True):
    """Clear the ground by its colour; None takes the border's."""

    colour: tuple[int, int, int] | None = None
    reach: float = 24.0
    everywhere: bool = False


class ClearBox(_Row, frozen=True, tag="clear-box", kw_only=True):
    """Clear all but the subject in a box: its top left and bottom right."""

    first: Point
    last: Point


Row = Straighten | EvenLight | Calm | Crop | Turn | ClearColour | ClearBox
"""Places are source coordinates: fractions of the opened picture's longer side."""


class Prepared(NamedTuple):
    """A prepared picture, and the rows that could not be placed on it."""

    picture: Picture
    unplaced: tuple[int, ...]


def prepare(picture: Picture, rows: tuple[Row, ...], tick: Tick = no_tick) -> Prepared:
    """Do the rows that are on, in order.

    A row whose place lies outside what earlier rows left, or a page that is
    not found, is skipped and listed.
    """
    unplaced = []
    for number, row in enumerate(rows):
        tick(number / len(rows))
        if row.on:
            done = _do(picture, row)
            if done is None:
                unplaced.append(number)
            else:
                picture = done
    return Prepared(picture, tuple(unplaced))


def _do(picture: Picture, row: Row) -> Picture | None:
    if isinstance(row, Straighten):
        return _straighten(picture, row)
    if isinstance(row, EvenLight):
        return _even_light(picture)
    if isinstance(row, Calm):
        return _calm(picture, row)
    if isinstance(row, Crop):
        return _crop(picture, row)
    if isinstance(row, Turn):
        return _turn(picture, row)
    if isinstance(row, ClearColour):
        colour = row.colour or _border_colour(picture)
        cleared = clear_colour(picture.rgba, colour, row.reach, row.everywhere)
        return _with(picture, with_clear(picture.rgba, cleared))
    box = _box(picture, row.first, row.last)
    if box is None:
        return None
    return _with(picture, with_clear(picture.rgba, ~box_subject(picture.rgba, box)))


def _with(picture: Picture, rgba: np.ndarray, back: Floats | None = None) -> Picture:
    """Give the picture with new pixels; `back` maps their px to the old ones."""
    source = picture.source_of if back is None else picture.source_of @ back
    return Picture(np.ascontiguousarray(rgba), picture.note, source)


def _here(picture: Picture, points: list[Point]) -> Floats:
    """Source coordinates as px of a picture; (n, 2)."""
    flat = np.column_stack([np.array(points, float), np.ones(len(points))]) @ np.linalg.inv(picture.source_of).T
    return flat[:, :2] / flat[:, 2:]


def _box(picture: Picture, first: Point, last: Point) -> tuple[int, int, int, int] | None:
    """Left, top, width, height in px of the rectangle that holds a source rectangle; None if outside."""
    corners = _here(picture, [first, (last[0], first[1]), last, (first[0], last[1])])
    left, top = np.floor(np.maximum(corners.min(0), 0) + 1e-6).astype(int)
    right, bottom = np.ceil(np.minimum(corners.max(0), (picture.width, picture.height)) - 1e-6).astype(int)
    if right - left < 1 or bottom - top < 1:
        return None
    return int(left), int(top), int(right - left), int(bottom - top)


def _straighten(picture: Picture, row: Straighten) -> Picture | None:
    corners = find_page(picture.rgba) if row.corners is None else _here(picture, list(row.corners))
    if corners is None:
        return None
    page, back = straighten(picture.rgba, corners)
    return _with(picture, page, back)


def _even_light(picture: Picture) -> Picture:
    grey = cv2.cvtColor(np.ascontiguousarray(picture.rgba[..., :3]), cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)
    paper = paper_surface(grey)
    level = float(np.percentile(paper[::8, ::8], 95))
    rgba = picture.rgba.astype(np.float32)
    rgba[..., :3] *= (max(level, 230.0) / paper)[..., None]
    return _with(picture, np.clip(np.rint(rgba), 0, 255).astype(np.uint8))


def _calm(picture: Picture, row: Calm) -> Picture:
    reach = row.radius * max(1.0, 1 / max(float(picture.source_of[0, 0]), 1e-9))
    reach = float(np.clip(reach, 0.5, 12.0))
    rgb = np.ascontiguousarray(picture.rgba[..., :3])
    calm = cv2.bilateralFilter(rgb, 2 * int(np.ceil(reach)) + 1, 40, reach)
    return _with(picture, np.dstack([calm, picture.rgba[..., 3]]))


def _crop(picture: Picture, row: Crop) -> Picture | None:
    box = _box(picture, row.first, row.last)
    if box is None:
        return None
    left, top, width, height = box
    back = np.array([[1, 0, left], [0, 1, top], [0, 0, 1.0]])
    return _with(picture, picture.rgba[top : top + height, left : left + width], back)


def _turn(picture: Picture, row: Turn) -> Picture:
    rgba, back = picture.rgba, np.eye(3)
    for _ in range(row.quarters % 4):
        back = back @ np.array([[0, 1, 0], [-1, 0, rgba.shape[0]], [0, 0, 1.0]])
        rgba = np.rot90(rgba, -1)
    if row.mirror:
        back = back @ np.array([[-1, 0, rgba.shape[1]], [0, 1, 0], [0, 0, 1.0]])
        rgba = rgba[:, ::-1]
    return _with(picture, rgba, back)


def _border_colour(picture: Picture) -> tuple[int, int, int]:
    rgb = picture.rgba[..., :3]
    border = np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]])
    red, green, blue = np.median(border, axis=0)
    return int(red), int(green), int(blue)
