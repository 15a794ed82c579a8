"""Layers that are drawn, scored or engraved: what they lie on is whole, and they go with it to the sheet."""

import io

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage
from svgelements import SVG as PAGE
from svgelements import Path as Outline

from sketchloom.core.cut import lines_within
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.layers import LayerRule, LayerSettings
from sketchloom.core.send import SVG, names_of, page_of_layers, page_of_sheet, written
from sketchloom.core.sheets import SheetSettings, Work, lay_out
from tests.conftest import draw, tries
from tests.core.sheets.drawn import INKS, PLACES, cut_of, odd_piece, straight_path
from tests.core.test_stack import KEYS, planned

PLATE = '<rect x="10" y="10" width="80" height="60" fill="#d8a02c"/>'
FACE = (
    PLATE + '<circle cx="35" cy="35" r="8" fill="#274690"/><rect x="55" y="30" width="20" height="10" fill="#274690"/>'
)


def worked(kind: str, **changes):
    """A plate with a disc and a bar on it, 200 mm wide."""
    picture = draw(FACE, 200, 100)
    recipe = Recipe().with_("finish", width=200.0)
    found = Pipeline().run(picture, recipe, names=("palette", "mended"))
    blue = next(ink.key for ink in found.palette.cut if ink.shown[2] > 100)
    recipe = recipe.with_("layers", rules=(LayerRule(blue, kind=kind),), **changes)
    return blue, Pipeline().run(picture, recipe, names=("palette", "checked", "sheets"))


@given(arrays(np.uint8, st.tuples(st.integers(2, 11), st.integers(2, 11)), elements=st.integers(0, 4)),
       st.sets(st.sampled_from(KEYS), min_size=1, max_size=3), st.sampled_from(["flush", "carried"]))  # fmt: skip
def test_what_is_drawn_shows_and_what_it_lies_on_is_whole_there(labels, drawn, build):
    """Each part of what is drawn that touches anything cut out lies on one layer wholly."""
    rules = tuple(LayerRule(key, kind="score") for key in drawn)
    labels, plan, masks = planned(labels, build=build, rules=rules)
    of = dict(zip((layer.key for layer in plan.layers), masks, strict=True))
    lines = np.zeros(labels.shape, bool)
    for key in drawn & of.keys():
        own = labels == KEYS.index(key) + 1
        assert (of[key] == own).all()
        lines |= own
    solid = [mask for key, mask in of.items() if key not in drawn]
    cut = np.isin(labels, [i + 1 for i, key in enumerate(KEYS) if key not in drawn])
    parts, many = ndimage.label(lines)
    for number in range(1, many + 1):
        part = parts == number
        touches = (ndimage.binary_dilation(part) & cut).any()
        assert not touches or any(mask[part].all() for mask in solid)
    for key, mask in of.items():
        assert key in drawn or mask[labels == KEYS.index(key) + 1].all()


@pytest.mark.parametrize("build", ["flush", "carried"])
@pytest.mark.parametrize(("kind", "group"), [("draw", "pens"), ("score", "scores"), ("engrave", "engraves")])
def test_a_layer_goes_in_a_group_of_its_own_on_the_sheet_of_what_it_lies_on(kind, group, build):
    blue, result = worked(kind, build=build)
    (plate,) = (layer for layer in result.stack.layers if layer.key != blue)
    (drawn,) = (layer for layer in result.stack.layers if layer.key == blue)
    assert drawn.kind == kind and drawn.loose == 0 and drawn.pieces == 2
    assert plate.area == pytest.approx(200 * 150, rel=1e-3) and len(plate.path.contours) == 1  # no holes
    assert all(finding.layer != blue for finding in result.checked.findings) and blue not in result.narrowest
    (sheet,) = result.layout.sheets
    assert sheet.area == pytest.approx(plate.area, rel=1e-3)
    page = PAGE.parse(io.BytesIO(written(SVG, page_of_sheet(sheet, names_of(result.stack.cuts.cuts)))), ppi=25.4)
    groups = {one.id: one for one in page.elements() if one.id in ("cuts", group)}
    (laid,) = sheet.laid
    assert [run.group for run in sheet.runs] == [group, group, "cuts"]  # what is drawn comes first
    box = Outline(next(iter(groups[group].select(lambda e: isinstance(e, Outline))))).bbox()
    low, high = laid.lay(np.array(drawn.path.bounds).reshape(2, 2))
    assert box == pytest.approx([*np.minimum(low, high), *np.maximum(low, high)], abs=0.01)
    data = written(SVG, page_of_layers(result.stack.cuts))
    assert (b'fill="none"' in data) is (kind != "engrave")


def test_what_lies_on_nothing_is_laid_alone_and_a_backed_stack_bears_all():
    cut, alone = (
        cut_of([shapely.box(0, 0, 40, 40)], INKS[0]),
        cut_of([shapely.box(90, 0, 99, 9)], INKS[1], kind="score"),
    )
    layout = lay_out(Work((cut, alone), PLACES), SheetSettings())
    assert [group.name for group in layout.groups] == [cut.name, alone.name] and len(layout.sheets) == 2
    _, result = worked("score", build="backed")
    assert {layer.kind for layer in result.stack.layers} == {"cut", "score"}
    assert sum(group.key.endswith("score") for group in result.layout.groups) == 0


@pytest.mark.parametrize("nested", [False, True])
def test_each_part_lies_on_its_piece_however_it_is_laid(nested):
    """Two plates of two colours, with three marks of one layer on them: each goes with its own plate."""
    plates = [cut_of([shapely.box(0, 0, 50, 40), shapely.box(60, 0, 110, 40)], INKS[0]),
              cut_of([shapely.box(0, 60, 70, 100)], INKS[1])]  # fmt: skip
    marks = [shapely.box(10, 10, 20, 20), shapely.box(70, 10, 90, 30), shapely.box(30, 70, 35, 90)]
    layout = lay_out(Work((*plates, cut_of(marks, INKS[2], kind="score")), PLACES), SheetSettings(nested=nested))
    assert len(layout.groups) == 2
    seen = []
    for sheet in layout.sheets:
        for one in sheet.laid:
            pieces = shapely.union_all([part.shape for part in one.item.body.parts if part.cut.kind == "cut"])
            for part in one.item.body.parts:
                if part.cut.kind == "score":
                    assert pieces.covers(part.shape)
                    seen.append(part.shape.area)
    assert sorted(seen) == pytest.approx([100, 100, 400])


@tries(20)
@given(st.integers(0, 10**6))
def test_what_is_drawn_is_parted_with_its_piece(seed):
    """Lines on a piece that is parted: together they are the lines, and each lies on its part."""
    rng = np.random.default_rng(seed)
    base = shapely.box(0, 0, 500, 280)
    mark = odd_piece(rng, 60, 180)
    left, top, right, bottom = mark.bounds
    mark = shapely.affinity.translate(mark, rng.uniform(5 - left, 495 - right), rng.uniform(5 - top, 275 - bottom))
    kind = ("draw", "score", "engrave")[seed % 3]
    layout = lay_out(Work((cut_of([base], INKS[0]), cut_of([mark], INKS[1], kind=kind)), PLACES),
                     SheetSettings(size=(304.8, 406.4)))  # fmt: skip
    assert len(layout.seams) == 1 and not layout.too_large
    length = area = 0.0
    for sheet in layout.sheets:
        for one in sheet.laid:
            solid = next(part.shape for part in one.item.body.parts if part.cut.kind == "cut")
            for part in (part for part in one.item.body.parts if part.cut.kind == kind):
                assert solid.buffer(0.01).covers(part.shape)
                own = part.cut.path.part(part.contours)
                length, area = length + own.length, area + part.shape.area
    assert area == pytest.approx(mark.area, abs=0.05)
    if kind != "engrave":
        assert length == pytest.approx(mark.length, abs=0.05)


@tries(60)
@given(st.integers(0, 10**6))
def test_stretches_within_a_shape_are_as_long_as_geos_tells(seed):
    rng = np.random.default_rng(seed)
    piece = odd_piece(rng)
    shape = shapely.affinity.translate(odd_piece(rng), *rng.uniform(-25, 25, 2))
    found = lines_within(straight_path([piece]), shape)
    assert found.length == pytest.approx(shapely.length(piece.boundary & shape), abs=2.0)
    if not piece.boundary.crosses(shape.boundary) and shape.covers(piece):
        assert found.closed == (True,) * len(found.contours)
    for contour in found.contours:
        assert shape.buffer(1e-4).covers(shapely.MultiPoint(contour[::3]))


def test_kinds_are_the_stacks_own_settings():
    settings = LayerSettings(rules=(LayerRule("#274690", kind="engrave"), LayerRule("base", kind="score")))
    assert settings.kind_of("#274690/2") == "engrave" and settings.kind_of("#274690+1") == "engrave"
    assert settings.kind_of("base") == "cut" and settings.kind_of("#d8a02c") == "cut"
