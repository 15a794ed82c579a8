"""Tidy a label map: what is too small goes, work by hand is done again, islands are told and held."""

from collections.abc import Callable
from typing import Any, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools
from sketchloom.core.palette import Colour, Ink, Palette, colour_of
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions import Faces, LabelMap, Runs, find_faces, name_of
from sketchloom.core.tidy.bridges import proposed_bridges
from sketchloom.core.tidy.give import Keep
from sketchloom.core.tidy.islands import Island, cut_labels, find_islands
from sketchloom.core.tidy.kinds import AnyWork
from sketchloom.core.tidy.lines import laid_over, strip
from sketchloom.core.tidy.settings import TidySettings
from sketchloom.core.tidy.sheet import Sheet
from sketchloom.core.tidy.specks import Cleared, Taken, clear_specks
from sketchloom.core.tidy.thin import fill_holes, take_hairs
from sketchloom.core.tidy.work import over_axis

__all__ = ["Cleaned", "Tidied", "Worked", "clean", "hold_islands", "kept_pixels", "with_new_inks", "worked"]

Step = Callable[[tuple[AnyWork, ...], Callable[[Tick], "Worked"]], "Worked"]


class Cleaned(NamedTuple):
    """A label map without what is too small or too thin."""

    regions: LabelMap
    faces: Faces
    runs: Runs
    taken: tuple[Taken, ...]
    necks: int  # thinner than may be, but they join two parts
    least: float  # area that a piece had to have, px
    floor: float  # the area that the picture itself tells a piece by, px


class Worked(NamedTuple):
    """A label map after work by hand."""

    regions: LabelMap
    unplaced: tuple[int, ...] = ()  # places in the list of work that found no place, or not all


class Tidied(NamedTuple):
    """What Tidy leaves.

    An ink of which nothing is left keeps its key and its label; it has no face.
    """

    regions: LabelMap
    faces: Faces
    runs: Runs
    cleaned: Cleaned
    unplaced: tuple[int, ...] = ()
    islands: tuple[Island, ...] = ()  # of a sheet from which the chosen inks are cut away, that nothing holds
    bridges: int = 0  # laid by themselves

    @property
    def least(self) -> float:
        """Area that a piece had to have, px."""
        return self.cleaned.least

    @property
    def floor(self) -> float:
        """The area that the picture itself tells a piece by, px."""
        return self.cleaned.floor

    @property
    def gone(self) -> int:
        """Specks, hairs and holes that went."""
        return len(self.cleaned.taken)


def kept_pixels(regions: LabelMap, picture: Picture, work: tuple[AnyWork, ...]) -> Bools | None:
    """A pixel of every piece that a maker keeps; (H, W), None where there is none."""
    keeps = [one for one in work if isinstance(one, Keep) and one.on]
    at = [anchor.at for one in keeps for anchor in one.pieces]
    if not at:
        return None
    sheet = Sheet(regions, picture, 1.0)
    there = [place for one in keeps if one.axis for place in over_axis(sheet, one.axis, [a.at for a in one.pieces])]
    out = np.zeros(regions.labels.shape, bool)
    height, width = regions.labels.shape
    places = sheet.pixels([*at, *there])
    x, y = np.floor(places[:, 0]).astype(int), np.floor(places[:, 1]).astype(int)
    inside = (x >= 0) & (y >= 0) & (x < width) & (y < height)
    out[y[inside], x[inside]] = True
    return out


def clean(
    regions: LabelMap, settings: TidySettings, px_per_mm: float, floor: float = 0.0, kept: Bools | None = None
) -> Cleaned:
    """Give what is too small or too thin to a neighbour; `floor` as for `clear_specks`."""
    square, keys = px_per_mm**2, regions.keys
    thinned = take_hairs(regions, settings.each("least_width", keys, px_per_mm), kept)
    filled, holes = fill_holes(thinned.regions, settings.each("fill_holes", keys, square), kept)
    cleared: Cleared = clear_specks(filled, settings.each("least_area", keys, square), floor, kept)
    taken = (*thinned.taken, *holes, *cleared.taken)
    return Cleaned(cleared.regions, cleared.faces, cleared.runs, taken, thinned.necks, cleared.least, cleared.floor)


def worked(
    regions: LabelMap,
    picture: Picture,
    px_per_mm: float,
    work: tuple[AnyWork, ...],
    step: Step | None = None,
    tick: Tick = no_tick,
) -> Worked:
    """Do work by hand in order.

    Parameters
    ----------
    regions : LabelMap
    picture : Picture
    px_per_mm : float
    work : tuple of work
    step : callable, optional
        Takes the work up to and with a piece, and what does that piece, and
        gives its result; for a memory of results.
    """
    done = Worked(regions)
    for place, one in enumerate(work):
        tick(place / len(work))
        if not one.on:
            continue

        def do(_: Any, one: AnyWork = one, place: int = place, before: Worked = done) -> Worked:
            sheet = Sheet(before.regions, picture, px_per_mm)
            lost = one.do_both(sheet)
            return Worked(sheet.regions, (*before.unplaced, place) if lost else before.unplaced)

        done = step(work[: place + 1], do) if step else do(no_tick)
    return done


def hold_islands(
    cleaned: Cleaned, done: Worked, settings: TidySettings, picture: Picture, px_per_mm: float, ground: str = ""
) -> Tidied:
    """Lay the bridges that islands get by themselves, and tell the islands that are left; `ground` is its key."""
    regions, laid = done.regions, 0
    cut = cut_labels(regions.labels, regions.keys, settings.cut_away, ground)
    islands, parts = find_islands(regions.labels, cut)
    rule = settings.bridges
    if rule is not None and islands:
        sheet = Sheet(regions, picture, px_per_mm)
        width = rule.width * px_per_mm
        proposed = proposed_bridges(parts, range(1, len(islands) + 1), rule.count, width, rule.direction)
        strips = [strip(np.stack(ends), width) for bridges in proposed for ends in bridges]
        laid = len(strips) - laid_over(sheet, *strips)
        regions = sheet.regions
        islands, _ = find_islands(regions.labels, cut)
    faces, runs = (cleaned.faces, cleaned.runs) if regions is cleaned.regions else find_faces(regions.cells)
    return Tidied(regions, faces, runs, cleaned, done.unplaced, islands, laid)


def with_new_inks(
    palette: Palette, work: tuple[AnyWork, ...], names: dict[str, str], shown: dict[str, Colour]
) -> Palette:
    """Add the inks that work by hand brings in; each is known by its colour."""
    inks = list(palette)
    known = {ink.key for ink in inks}
    for key in (key for one in work if one.on for key in one.inks()):
        if key in known:
            continue
        colour = colour_of(key[:7])
        name = names.get(key) or name_of(colour, {ink.name for ink in inks})
        inks.append(Ink(key, name, colour, shown.get(key, colour)))
        known.add(key)
    return Palette((*(ink for ink in inks if ink.role == "cut"), *(ink for ink in inks if ink.role == "ground")))
