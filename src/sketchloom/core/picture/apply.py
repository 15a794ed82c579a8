"""The Prepare step: a list of rows, each done to the picture in turn; the opened picture is never changed."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.picture.clear import box_subject, clear_colour, clear_pale, with_clear, without_ground
from sketchloom.core.picture.load import MOST_PIXELS
from sketchloom.core.picture.paper import paper_light
from sketchloom.core.picture.picture import Picture
from sketchloom.core.picture.place import box_of, on_picture, outline_mask, stroke_mask, unit_at
from sketchloom.core.picture.rows import (
    Calm,
    ClearBox,
    ClearColour,
    ClearOutline,
    ClearPale,
    Crop,
    Enlarge,
    EvenLight,
    MirrorHalf,
    Paint,
    Row,
    Sharpen,
    Straighten,
    Turn,
    parts_of,
)
from sketchloom.core.picture.sharpen import enlarged, sharpened
from sketchloom.core.picture.straighten import find_page, straighten
from sketchloom.core.picture.turn import half_mirrored, turned
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Done", "Prepared", "do_row", "prepare"]


_MORE_PIXELS, _FEW_PIXELS = 4, 1_000_000
"""How many times as many pixels a straightened page may have, or these whatever the picture has."""


class Done(NamedTuple):
    """A picture after a row."""

    picture: Picture
    unplaced: int
    """Parts of the row, itself or its strokes, that found no place."""


class Prepared(NamedTuple):
    """The opened picture, and what each row left."""

    opened: Picture
    done: tuple[Done, ...]

    @property
    def picture(self) -> Picture:
        """The prepared picture."""
        return self.done[-1].picture if self.done else self.opened

    @property
    def unplaced(self) -> tuple[int, ...]:
        """Rows of which a part found no place."""
        return tuple(place for place, done in enumerate(self.done) if done.unplaced)

    def before(self, place: int) -> Picture:
        """Give the picture that a row was done to."""
        return self.done[place - 1].picture if place else self.opened


def prepare(picture: Picture, rows: tuple[Row, ...], tick: Tick = no_tick) -> Prepared:
    """Do rows in order."""
    prepared = Prepared(picture, ())
    for row in rows:
        prepared = Prepared(picture, (*prepared.done, do_row(prepared.picture, row, tick)))
    return prepared


def do_row(picture: Picture, row: Row, tick: Tick = no_tick) -> Done:
    """Do one row.

    A row that is off, or finds no place on the picture (because it lies
    outside what earlier rows left, or there is no page to be found), leaves
    the picture as it was.

    Raises
    ------
    Cancelled
        When `tick` raises it.
    """
    if not row.on:
        return Done(picture, 0)
    tick(0.0)
    match row:
        case Straighten():
            made = _straighten(picture, row)
        case EvenLight():
            made = _with(picture, _evened(picture.rgba))
        case Calm():
            made = _with(picture, _calmed(picture, row))
        case Sharpen():
            sigma = None if row.radius is None else row.radius * unit_at(picture)
            made = _with(picture, sharpened(picture.rgba, sigma))
        case Enlarge():
            made = _enlarge(picture, row)
        case Crop():
            made = _crop(picture, row)
        case Turn():
            made = _with(picture, *turned(picture.rgba, row.quarters, row.mirror))
        case MirrorHalf():
            made = _mirror_half(picture, row)
        case ClearColour():
            made = _clear_colour(picture, row)
        case ClearPale():
            made = _with(picture, with_clear(picture.rgba, clear_pale(picture.rgba, row.level)))
        case ClearOutline():
            inside = outline_mask(picture, row.points)
            made = None if inside is None else _with(picture, with_clear(picture.rgba, ~inside))
        case ClearBox():
            return _clear_box(picture, row, tick)
        case Paint():
            return _paint(picture, row)
    return Done(picture, parts_of(row)) if made is None else Done(made, 0)


def _with(picture: Picture, rgba: Bytes, back: Floats | None = None, times: float = 1.0) -> Picture:
    """Give the picture with new pixels, so many `times` as close; `back` maps their px to the old ones."""
    source = picture.source_of if back is None else picture.source_of @ back
    return Picture(np.ascontiguousarray(rgba), picture.note, source, density=picture.density * times)


def _straighten(picture: Picture, row: Straighten) -> Picture | None:
    corners = find_page(picture.rgba) if row.corners is None else on_picture(picture, row.corners)
    if corners is None or not _is_quad(corners):
        return None
    most = min(MOST_PIXELS, max(_MORE_PIXELS * picture.width * picture.height, _FEW_PIXELS))
    laid = straighten(picture.rgba, corners, most)
    return None if laid is None else _with(picture, *laid)


def _is_quad(corners: Floats) -> bool:
    """Whether the corners go round a convex area of some size."""
    (ax, ay), (bx, by) = (np.roll(corners, -1 - k, 0).T - np.roll(corners, -k, 0).T for k in (0, 1))
    turns = ax * by - ay * bx
    return bool((turns > 1.0).all() or (turns < -1.0).all())


def _evened(rgba: Bytes) -> Bytes:
    grey = cv2.cvtColor(np.ascontiguousarray(rgba[..., :3]), cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)
    paper = paper_light(grey)
    level = float(np.percentile(paper[::8, ::8], 95))
    even = rgba.astype(np.float32)
    even[..., :3] *= (max(level, 230.0) / paper)[..., None]
    return np.clip(np.rint(even), 0, 255).astype(np.uint8)


def _calmed(picture: Picture, row: Calm) -> Bytes:
    reach = float(np.clip(row.radius * unit_at(picture), 0.5, 12.0))
    rgb = np.ascontiguousarray(picture.rgba[..., :3])
    calm = cv2.bilateralFilter(rgb, 2 * int(np.ceil(reach)) + 1, 40, reach)
    return np.dstack([calm, picture.rgba[..., 3]])


def _enlarge(picture: Picture, row: Enlarge) -> Picture | None:
    if not 1 <= row.times <= 8 or picture.width * picture.height * row.times**2 > MOST_PIXELS:
        return None
    return _with(picture, enlarged(picture.rgba, row.times), np.diag([1 / row.times, 1 / row.times, 1.0]), row.times)


def _crop(picture: Picture, row: Crop) -> Picture | None:
    box = box_of(picture, row.first, row.last)
    if box is None:
        return None
    left, top, width, height = box
    back = np.array([[1, 0, left], [0, 1, top], [0, 0, 1.0]])
    return _with(picture, picture.rgba[top : top + height, left : left + width], back)


def _mirror_half(picture: Picture, row: MirrorHalf) -> Picture | None:
    first, last, keep = on_picture(picture, [row.first, row.last, row.keep])
    level, upright = np.abs(last - first)
    middle = (first + last) / 2
    way = 0 if upright >= level else 1
    along, across = (picture.width, picture.height) if way == 0 else (picture.height, picture.width)
    half = float(middle[way]) if keep[way] < middle[way] else along - float(middle[way])
    if 2 * half * across > MOST_PIXELS:
        return None
    both = half_mirrored(picture.rgba, float(middle[way]), way == 0, bool(keep[way] < middle[way]))
    return None if both is None else _with(picture, *both)


def _clear_colour(picture: Picture, row: ClearColour) -> Picture | None:
    at = None
    if row.at is not None:
        x, y = np.floor(on_picture(picture, [row.at])[0]).astype(int).tolist()
        if not (0 <= x < picture.width and 0 <= y < picture.height):
            return None
        at = x, y
    colour = row.colour or (_border_colour(picture) if at is None else _colour_at(picture, at))
    cleared = clear_colour(picture.rgba, colour, row.reach, row.everywhere, at)
    return _with(picture, without_ground(picture.rgba, cleared, colour))


def _border_colour(picture: Picture) -> tuple[int, int, int]:
    rgb = picture.rgba[..., :3]
    return _median(np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]]))


def _colour_at(picture: Picture, at: tuple[int, int]) -> tuple[int, int, int]:
    x, y = at
    return _median(picture.rgba[max(0, y - 1) : y + 2, max(0, x - 1) : x + 2, :3].reshape(-1, 3))


def _median(colours: Bytes) -> tuple[int, int, int]:
    red, green, blue = np.median(colours, axis=0)
    return int(red), int(green), int(blue)


def _clear_box(picture: Picture, row: ClearBox, tick: Tick) -> Done:
    box = box_of(picture, row.first, row.last)
    if box is None:
        return Done(picture, parts_of(row))
    keep, lost = stroke_mask(picture, row.keep)
    drop, more = stroke_mask(picture, row.drop)
    subject = box_subject(picture.rgba, box, keep, drop, tick)
    if not subject.any():
        return Done(picture, parts_of(row))
    return Done(_with(picture, with_clear(picture.rgba, ~subject)), lost + more)


def _paint(picture: Picture, row: Paint) -> Done:
    mask, lost = stroke_mask(picture, row.strokes)
    if not mask.any():
        return Done(picture, lost)
    if row.colour is None:
        return Done(_with(picture, with_clear(picture.rgba, mask)), lost)
    rgba = picture.rgba.copy()
    rgba[mask] = (*row.colour, 255)
    return Done(_with(picture, rgba), lost)
