"""What laying out gives: sheets with what lies on them, and what found no place."""

import dataclasses
from dataclasses import dataclass
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_contour, straight_thirds
from sketchloom.core.cut import Cut
from sketchloom.core.sheets.blade import led_ahead
from sketchloom.core.sheets.parts import Item, Part, turned
from sketchloom.core.sheets.ready import Ready
from sketchloom.core.sheets.runs import Run, Stroke, in_cutting_order, strokes_of
from sketchloom.core.sheets.seams import Seam, SeamLine
from sketchloom.core.sheets.settings import Placement
from sketchloom.core.sheets.tabs import overcut, tabbed
from sketchloom.core.sheets.weeding import weeding_boxes, weeding_lines
from sketchloom.core.stock import Stock
from sketchloom.core.units import FINEST

__all__ = ["Group", "Laid", "Layout", "Sheet"]


class Group(NamedTuple):
    """Cuts of one stock and one colour, which share sheets."""

    key: str
    name: str
    stock: Stock | None
    colour: str
    cuts: tuple[Cut, ...]
    size: tuple[float, float]  # of a sheet, mm; of a roll, as long as it may be
    usable: tuple[float, float, float, float]  # x, y, width, height, mm
    roll: bool
    flipped: bool
    nested: bool
    ready: Ready = Ready()

    @property
    def room(self) -> tuple[float, float, float, float]:
        """Where pieces may lie: what can be used, less the margin of weeding boxes; x, y, width, height, mm."""
        away = self.ready.weeding_margin if self.ready.weeding != "none" else 0.0
        x, y, width, height = self.usable
        return x + away, y + away, max(0.0, width - 2 * away), max(0.0, height - 2 * away)


@dataclass(frozen=True, eq=False)
class Laid:
    """Something where it lies on a sheet.

    Attributes
    ----------
    item : Item
    turn : float
        Degrees, clockwise as it is seen.
    flipped : bool
        Left for right about x = 0, before it is turned.
    at : (float, float)
        By how much it is moved after that, mm.
    by_hand : bool
        Whether a hand or a search laid it.
    clashes : bool
        Whether it lies too near to something, or sticks out; only by hand.
    """

    item: Item
    turn: float
    flipped: bool
    at: tuple[float, float]
    by_hand: bool = False
    clashes: bool = False

    def lay(self, points: Floats) -> Floats:
        """Bring points of the design to the sheet, mm."""
        return np.asarray(points @ turned(self.turn, self.flipped).T + np.array(self.at))

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Extent on the sheet, mm."""
        left, top, right, bottom = self.item.body.bounds(self.turn, self.flipped)
        return left + self.at[0], top + self.at[1], right + self.at[0], bottom + self.at[1]

    @cached_property
    def shapes(self) -> Any:
        """Its parts as polygons on the sheet, mm; (P,)."""
        return shapely.transform(np.array([part.shape for part in self.item.body.parts], object), self.lay)

    def path(self, part: Part) -> Path:
        """The outline of a part on the sheet, rounded as files are written."""
        own, contours = part.cut.path.part(part.contours), []
        for contour, straight in zip(own.contours, own.straight, strict=True):
            points = np.round(self.lay(contour), FINEST) + 0.0
            index = 3 * np.arange(len(straight))[:, None] + np.arange(4)
            control = straight_thirds(points[index], straight)
            contours.append(np.vstack([control[:, :3].reshape(-1, 2), points[-1:]]))
        return Path(tuple(contours), own.straight, own.open)


@dataclass(frozen=True, eq=False)
class Sheet:
    """A sheet, and what lies on it.

    Attributes
    ----------
    group : Group
    number : int
        Of its group, from 0.
    size : (float, float)
        mm; of a roll, as long as needed.
    laid : tuple of Laid
    used : float
        Length, along the height, down to which it is used, mm.
    """

    group: Group
    number: int
    size: tuple[float, float]
    laid: tuple[Laid, ...]
    used: float

    @cached_property
    def area(self) -> float:
        """Of what is cut from it, mm2."""
        parts = (part for one in self.laid for part in one.item.body.parts)
        return sum(part.shape.area for part in parts if part.cut.kind == "cut" and not part.role)

    @cached_property
    def as_filed(self) -> tuple[Run, ...]:
        """All contours on it as the layers' files have them: layer by layer, copy by copy, from their first points."""
        place = {cut.key: number for number, cut in enumerate(self.group.cuts)}
        out: list[tuple[tuple[int, int, int], Run]] = []
        for one in self.laid:
            for part in one.item.body.parts:
                path = one.path(part)
                for number, contour, straight, closed in zip(
                    part.contours, path.contours, path.straight, path.closed, strict=True
                ):
                    rank = place.get(part.cut.key, place[one.item.body.layer]), one.item.copy, number
                    out.append((rank, Run(part.cut, contour, straight, closed, part.role)))
        return tuple(run for _, run in sorted(out, key=lambda ranked: ranked[0]))

    @cached_property
    def runs(self) -> tuple[Run, ...]:
        """All contours on it in cutting order; with tabs, run on where they close, and as the blade's axis is led."""
        ready, out = self.group.ready, list[Run]()
        for run in in_cutting_order([*self.as_filed, *self._weeding]):
            if ready.tabs and run.group == "cuts" and run.closed and self._is_outer(run):
                parts, number = tabbed(run, ready.tabs, ready.tab_width + ready.kerf), len(out)
                out += [part if part.closed else part._replace(outline=number) for part in parts]
            elif ready.overcut and run.closed and run.cut.kind == "cut":
                out.append(overcut(run, ready.overcut))
            else:
                out.append(run)
        if ready.blade_offset:
            cut = [place for place, run in enumerate(out) if run.group in ("cuts", "weeding")]
            for place, run in zip(cut, led_ahead([out[place] for place in cut], ready.blade_offset), strict=True):
                out[place] = run
        return tuple(out)

    def _is_outer(self, run: Run) -> bool:
        """Whether an outline goes round a piece: the others go round holes, the other way."""
        return (float(run.path.areas[0]) > 0) is not self.group.flipped

    @cached_property
    def _weeding(self) -> list[Run]:
        """Boxes and lines for weeding."""
        ready = self.group.ready
        if not self.laid or (ready.weeding == "none" and not ready.weeding_lines):
            return []
        cut = dataclasses.replace(self.laid[0].item.body.parts[0].cut, key="weeding", name="Weeding", kind="cut")
        bounds = [one.bounds for one in self.laid]
        boxes = weeding_boxes(bounds, ready.weeding_margin, ready.weeding != "pieces")
        out = [] if ready.weeding == "none" else [_straight(cut, _corners(box)) for box in boxes]
        if ready.weeding_lines:
            shapes = np.concatenate([one.shapes for one in self.laid])
            x, y, width, height = self.group.usable
            for box in boxes:
                within = max(box[0], x), max(box[1], y), min(box[2], x + width), min(box[3], y + height)
                out += [_straight(cut, line) for line in weeding_lines(within, shapes)]
        return out

    @cached_property
    def strokes(self) -> tuple[Stroke, ...]:
        """Cuts with what they have on it, in cutting order; a cut comes again where others lie in it and it in them."""
        return strokes_of(self.runs)


def _corners(box: tuple[float, float, float, float]) -> Floats:
    left, top, right, bottom = box
    return np.array([[left, top], [right, top], [right, bottom], [left, bottom], [left, top]])


def _straight(cut: Cut, points: Floats) -> Run:
    """Straight lines from point to point, as a run of weeding."""
    points = np.round(points, FINEST) + 0.0
    straight = np.ones(len(points) - 1, bool)
    return Run(cut, straight_contour(points), straight, bool((points[0] == points[-1]).all()), "weeding")


class Layout(NamedTuple):
    """All sheets of a job."""

    groups: tuple[Group, ...]
    sheets: tuple[Sheet, ...]
    unplaced: tuple[Placement, ...]  # of a hand or a search, whose piece is gone or fits there no more
    too_large: tuple[Item, ...]  # what fits on no sheet in any turn
    apart: tuple[str, ...]  # keys of layers that fit on a sheet only piece by piece, though register was asked for
    seams: tuple[Seam, ...] = ()
    idle_seams: tuple[SeamLine, ...] = ()  # that a hand laid and that part nothing

    def of_group(self, key: str) -> tuple[Sheet, ...]:
        """Sheets of one stock and colour."""
        return tuple(sheet for sheet in self.sheets if sheet.group.key == key)
