"""Layers as sets of faces, bottom first, before any curve is known."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Ints
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.layers.drawn import on_others
from sketchloom.core.layers.grouping import FaceAt, Grouping, group_faces, parts_of, ways_of
from sketchloom.core.layers.rules import BASE, SHEET, LayerPart, LayerSettings, Way, part_key
from sketchloom.core.layers.windows import HiddenWindow, find_windows, thinned
from sketchloom.core.palette import Colour, Ink, Palette
from sketchloom.core.planar import OUTSIDE, PlanarMap
from sketchloom.core.regions import colour_difference, lab_of
from sketchloom.core.tidy import cut_labels

__all__ = ["FaceSet", "LayerPlan", "Planned", "Role", "plan_layers"]

Role = Literal["ink", "base", "single", "stencil"]

_WHITE, _DARK = (255, 255, 255), (38, 36, 31)


class FaceSet(NamedTuple):
    """Faces of a planar map, and the walk round them.

    Attributes
    ----------
    chosen : (F,) bool
    half_edges, offset : (B,) and (C + 1,) int
        As `PlanarMap.outline` gives them.
    pieces : int
        Connected parts.
    """

    chosen: Bools
    half_edges: Ints
    offset: Ints
    pieces: int


class Planned(NamedTuple):
    """One layer.

    Attributes
    ----------
    key : str
        What settings, files and the window know it by.
    name : str
    ink : Ink
        In whose colour it is shown.
    inks : tuple of str
        Keys of the inks that show on it.
    way : str
        How it is built.
    role : str
    faces : FaceSet
    shown : FaceSet
        Its faces and those of all layers above.
    cuts : tuple of (LayerPart, bool)
        Lines that part it, for which the curves must be known, and whether it
        is what they take.
    copy : int
        0, or the number of a copy.
    """

    key: str
    name: str
    ink: Ink
    inks: tuple[str, ...]
    way: Way
    role: Role
    faces: FaceSet
    shown: FaceSet
    cuts: tuple[tuple[LayerPart, bool], ...] = ()
    copy: int = 0


class LayerPlan(NamedTuple):
    """All layers.

    Attributes
    ----------
    layers : tuple of Planned
        Bottom first.
    grouping : Grouping
        In the order that was taken.
    windows : tuple of HiddenWindow
        Windows that upper layers hide; those that were filled are none.
    bulk : int
        Faces that lie under three layers or more.
    unplaced : tuple of str
        Windows, holes and parts that found no place.
    """

    layers: tuple[Planned, ...]
    grouping: Grouping
    windows: tuple[HiddenWindow, ...] = ()
    bulk: int = 0
    unplaced: tuple[str, ...] = ()


def plan_layers(
    planar: PlanarMap,
    keys: Sequence[str],
    palette: Palette,
    settings: LayerSettings,
    face_at: FaceAt | None = None,
    grouping: Grouping | None = None,
    cut_away: Sequence[str] | None = None,
    ground: str = "",
) -> LayerPlan:
    """Choose the faces of each layer.

    *Flush*: each layer's own faces. *Carried*: its own and all above that
    hang together with them, so that every layer rests on those below.
    *Backed*: flush on a base of all faces. *Single*: all faces, one layer.
    *Stencil*: a sheet from which the chosen inks are cut away.

    Parameters
    ----------
    planar : PlanarMap
    keys : sequence of str
        Label i is the ink ``keys[i - 1]``.
    palette : Palette
    settings : LayerSettings
    face_at : callable, optional
        Finds the face at a place of the source.
    grouping : Grouping, optional
        What `group_faces` gave, in the order that is wanted.
    cut_away : sequence of str, optional
        Keys of the inks that a stencil cuts away; all but enclosed ground by default.
    ground : str
        Key of the ground's colour.
    """
    nowhere: FaceAt = lambda at: None  # noqa: E731
    face_at = face_at or nowhere
    grouping = grouping or group_faces(planar, keys, palette, settings, face_at)
    chosen_keys = [key for key in grouping.keys if not settings.rule(key).hidden]
    chosen = np.isin(grouping.of_face, [grouping.keys.index(key) for key in chosen_keys])
    if not chosen.any():
        raise NothingToCutError("Every layer is hidden, so nothing is left to cut; show one of them.")
    if settings.build in ("single", "stencil"):
        return LayerPlan((_sheet(planar, grouping, settings, chosen, cut_away, keys, ground),), grouping, (), 0,
                         grouping.unplaced)  # fmt: skip
    ways = tuple(settings.way(key) for key in grouping.keys)
    sets, shown = on_others(planar, grouping, settings, *ways_of(planar, grouping, settings))
    solid = [own & (settings.kind_of(key) == "cut") for key, own in zip(grouping.keys, sets, strict=True)]
    windows = find_windows(planar, grouping, ways, solid)
    if settings.fill_windows and windows:
        for window in windows:
            sets[window.height] = sets[window.height] | window.faces
        windows = ()
    bulk, thin = thinned(planar, grouping, solid)
    if settings.thin_bulk:
        bulk, sets = 0, [thin[height] if solid[height].any() else own for height, own in enumerate(sets)]
    layers = [
        Planned(key, settings.rule(key).name or ink.name, ink, inks, way, "ink", _face_set(planar, own),
                _face_set(planar, above))
        for key, ink, inks, way, own, above in zip(grouping.keys, grouping.dress, grouping.inks, ways, sets, shown,
                                                   strict=True)
        if own.any()
    ]  # fmt: skip
    layers, lost = _with_parts(planar, layers, settings, palette, face_at)
    if settings.has_base:
        every = np.isin(grouping.of_face, np.arange(len(grouping.keys)))  # what is hidden still lies on it
        layers.insert(0, _base(planar, grouping, settings, every))
    copied = [
        layer._replace(
            key=layer.key if number == 0 else f"{layer.key}+{number}",
            name=layer.name if number == 0 else f"{layer.name} copy {number}",
            copy=number,
        )
        for layer in layers
        for number in range(settings.rule(layer.key).copies + 1)
    ]
    return LayerPlan(tuple(copied), grouping, windows, bulk, (*grouping.unplaced, *lost))


def _sheet(
    planar: PlanarMap,
    grouping: Grouping,
    settings: LayerSettings,
    chosen: Bools,
    cut_away: Sequence[str] | None,
    keys: Sequence[str],
    ground: str,
) -> Planned:
    """The one layer of a single or of a stencil; a stencil's faces are those that are cut away."""
    rule = settings.rule(SHEET)
    top = grouping.dress[-1]
    if settings.build == "single":
        every = _face_set(planar, grouping.filled(planar, chosen, settings.fills(SHEET)))
        ink = Ink(SHEET, rule.name or "All pieces", top.found, top.shown)
        inks = tuple(key for height, own in enumerate(grouping.inks) if (grouping.of_face[chosen] == height).any()
                     for key in own)  # fmt: skip
        return Planned(SHEET, ink.name, ink, inks, "flush", "single", every, every)
    cut_of = cut_labels(planar.faces.label, tuple(keys), None if cut_away is None else tuple(cut_away), ground)
    chosen = chosen & np.isin(planar.faces.label, sorted(cut_of))
    cut = _face_set(planar, chosen)
    cut = cut._replace(pieces=int(parts_of(planar, ~cut.chosen).max(initial=0)) + 1)  # of the sheet
    inks = tuple(keys[label - 1] for label in np.unique(planar.faces.label[chosen]).tolist() if label)
    ink = Ink(SHEET, rule.name or "Stencil", top.found, top.shown)
    return Planned(SHEET, ink.name, ink, inks, "flush", "stencil", cut, cut)


def _base(planar: PlanarMap, grouping: Grouping, settings: LayerSettings, chosen: Bools) -> Planned:
    """The solid base: all chosen faces, and enclosed ground where it is filled."""
    every = _face_set(planar, grouping.filled(planar, chosen, settings.fills(BASE)))
    colour = settings.base_colour or _stands_out(grouping)
    ink = Ink(BASE, settings.rule(BASE).name or "Base", colour, colour)
    return Planned(BASE, ink.name, ink, (), "flush", "base", every, every)


def _stands_out(grouping: Grouping) -> Colour:
    """White, or dark where an ink is nearer to white than to that."""
    labs = lab_of([ink.shown for ink in grouping.dress])
    white, dark = (float(colour_difference(labs, lab_of(colour)).min()) for colour in (_WHITE, _DARK))
    return _WHITE if white >= dark else _DARK


def _with_parts(
    planar: PlanarMap, layers: list[Planned], settings: LayerSettings, palette: Palette, face_at: FaceAt
) -> tuple[list[Planned], list[str]]:
    """Put parts that were made layers of their own just above what is left; and which found no place."""
    lost = []
    for part in settings.parts:
        key = part_key(part)
        at = next((place for place, layer in enumerate(layers) if layer.key == part.layer), None)
        if at is None:
            lost.append(f"Part of {palette[part.layer].name if part.layer in palette else part.layer}")
            continue
        whole = layers[at]
        name = settings.rule(key).name or f"{whole.name} {part.name}"
        if part.line:
            layers[at : at + 1] = [
                whole._replace(cuts=(*whole.cuts, (part, False))),
                whole._replace(key=key, name=name, cuts=(*whole.cuts, (part, True))),
            ]
            continue
        found = [face for face in map(face_at, part.places) if face is not None and whole.faces.chosen[face]]
        pieces = parts_of(planar, whole.faces.chosen)
        taken = whole.faces.chosen & np.isin(pieces, pieces[found])
        if not found:
            lost.append(f"Part of {whole.name}")
            continue
        rest = whole.faces.chosen & ~taken
        mine = _face_set(planar, taken)
        kept = [whole._replace(faces=_face_set(planar, rest), shown=_face_set(planar, rest))] if rest.any() else []
        layers[at : at + 1] = [*kept, whole._replace(key=key, name=name, faces=mine, shown=mine)]
    return layers, lost


def _face_set(planar: PlanarMap, chosen: Bools) -> FaceSet:
    chosen = chosen.copy()
    chosen[OUTSIDE] = False
    return FaceSet(chosen, *planar.outline(chosen), int(parts_of(planar, chosen).max(initial=-1)) + 1)
