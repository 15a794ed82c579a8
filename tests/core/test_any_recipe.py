"""Any recipe on any ugly picture: a right result or one sentence, the same bytes, and no face turned over."""

from dataclasses import replace
from typing import get_args

import cv2
import msgspec
import numpy as np
from hypothesis import HealthCheck, Phase, given
from hypothesis import strategies as st

from sketchloom.core.curves import face_areas, find_crossings
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.inspect import KINDS, Memory, find_all, with_sure_fixes
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe, report_of, worst_place
from sketchloom.core.layers import (
    BASE,
    SHEET,
    CloseOutline,
    EaseOutline,
    FillWindow,
    GrowPiece,
    Hole,
    Join,
    LayerPart,
    LayerRule,
    OrderWeights,
    PareAlong,
    RoundNotch,
    TakePiece,
    Unite,
    WidenAlong,
    Window,
)
from sketchloom.core.picture import (
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
    Picture,
    Sharpen,
    Straighten,
    Stroke,
    Turn,
)
from sketchloom.core.regions import Closing, Fill, Pick
from sketchloom.core.send import SVG, files_of
from sketchloom.core.stock import GENERIC
from sketchloom.core.tidy import (
    Anchor,
    Bind,
    Bridge,
    Bridging,
    CutOut,
    Direction,
    Draw,
    FillHoles,
    Give,
    Grow,
    InkLimits,
    JoinBeside,
    Keep,
    Place,
    Smooth,
    Split,
    Together,
    Trim,
    ellipse,
    rectangle,
)
from tests.conftest import picture_of, tries

PLACE = st.tuples(st.floats(-0.3, 1.3), st.floats(-0.3, 1.3))
COLOUR = st.tuples(*[st.integers(0, 255)] * 3)
KEY = st.sampled_from(["#ffffff", "#000000", "#205080", "#205080-2"])
STROKES = st.lists(st.builds(Stroke, st.lists(PLACE, min_size=1, max_size=4).map(tuple), st.floats(0, 0.3)), max_size=2)
ON = st.booleans() | st.just(True)
DIRECTION = st.sampled_from(get_args(Direction))

ROWS = st.one_of(
    st.builds(Straighten, on=ON, corners=st.none() | st.tuples(PLACE, PLACE, PLACE, PLACE)),
    st.builds(EvenLight, on=ON),
    st.builds(Calm, on=ON, radius=st.floats(0, 0.2)),
    st.builds(Sharpen, on=ON, radius=st.none() | st.floats(0, 0.2)),
    st.builds(Enlarge, on=ON, times=st.integers(1, 3)),
    st.builds(Crop, on=ON, first=PLACE, last=PLACE),
    st.builds(Turn, on=ON, quarters=st.integers(-5, 5), mirror=st.booleans()),
    st.builds(MirrorHalf, on=ON, first=PLACE, last=PLACE, keep=PLACE),
    st.builds(
        ClearColour,
        on=ON,
        colour=st.none() | COLOUR,
        reach=st.floats(0, 255),
        everywhere=st.booleans(),
        at=st.none() | PLACE,
    ),
    st.builds(ClearPale, on=ON, level=st.floats(0, 1) | st.just(1.0)),
    st.builds(ClearOutline, on=ON, points=st.lists(PLACE, min_size=3, max_size=6).map(tuple)),
    st.builds(Paint, on=ON, strokes=STROKES.map(tuple), colour=st.none() | COLOUR),
)
BOXES = st.builds(ClearBox, first=PLACE, last=PLACE, keep=STROKES.map(tuple), drop=STROKES.map(tuple))

SEPARATE = st.fixed_dictionaries(
    {
        "mode": st.sampled_from(["auto", "flat", "ink", "lineart", "photo"]),
        "inks": st.none() | st.integers(1, 48),
        "ground": st.sampled_from(["auto", "keep"]),
        "grounded": st.lists(KEY, max_size=1).map(tuple),
        "joined": st.lists(st.tuples(KEY, KEY), max_size=1).map(tuple),
        "shades": st.lists(st.tuples(KEY | st.just(""), st.integers(1, 12)), max_size=2).map(tuple),
        "locked": st.lists(KEY, max_size=1).map(tuple),
        "names": st.lists(st.tuples(KEY, st.sampled_from(["Felt", "<&>", "Ä b"])), max_size=1).map(tuple),
        "shown": st.lists(st.tuples(KEY, COLOUR), max_size=1).map(tuple),
        "picks": st.lists(
            st.builds(Pick, PLACE, st.floats(0, 100), st.booleans(), st.none() | KEY, st.booleans(), st.just("") | KEY),
            max_size=2,
        ).map(tuple),
        "threshold": st.none() | st.floats(0.01, 0.99),
        "local": st.none() | st.booleans(),
        "faint": st.none() | st.floats(0.01, 0.99),
        "strength": st.none() | st.floats(0.01, 0.99),
        "silhouette": st.booleans(),
        "ink_colour": st.none() | COLOUR,
        "close_gaps": st.booleans(),
        "gap": st.none() | st.floats(0, 20),
        "closings": st.lists(st.builds(Closing, PLACE, PLACE, st.floats(0, 0.2)), max_size=1).map(tuple),
        "fills": st.lists(st.builds(Fill, PLACE, st.none() | COLOUR), max_size=2).map(tuple),
        "steps_by": st.sampled_from(["light", "colour"]),
        "detail": st.floats(0, 10),
    }
)
PIECES = st.lists(st.builds(Anchor, PLACE, st.sampled_from([0.0, 0.0, 0.1])), min_size=1, max_size=3).map(tuple)
INK = KEY | st.just("")
LEAVES = st.sampled_from(["ground", "neighbours"])
MM = st.floats(0, 4)
AXIS = st.none() | st.tuples(PLACE, PLACE).filter(lambda ends: ends[0] != ends[1])
WORK = st.one_of(
    st.builds(Give, on=ON, pieces=PIECES, ink=INK, axis=AXIS),
    st.builds(JoinBeside, on=ON, pieces=PIECES, axis=AXIS),
    st.builds(Together, pieces=PIECES, axis=AXIS),
    st.builds(CutOut, curve=st.builds(ellipse, PLACE, PLACE), gap=st.just(0.0) | MM, axis=AXIS),
    st.builds(FillHoles, pieces=PIECES),
    st.builds(Keep, on=ON, pieces=PIECES, axis=AXIS),
    st.builds(
        Split, line=st.lists(PLACE, min_size=2, max_size=4).map(tuple), gap=st.just(0.0) | MM, ink=INK, axis=AXIS
    ),
    st.builds(Bridge, first=PLACE, last=PLACE, width=st.floats(0.01, 4), axis=AXIS),
    st.builds(Draw, curve=st.builds(ellipse, PLACE, PLACE), ink=INK, width=st.just(0.0) | MM, axis=AXIS),
    st.builds(Trim, curve=st.builds(rectangle, PLACE, PLACE), side=st.sampled_from(["outside", "inside"]), axis=AXIS),
    st.builds(Grow, pieces=PIECES, by=st.floats(-4, 4), leaves=LEAVES, axis=AXIS),
    st.builds(Smooth, pieces=PIECES, radius=MM, leaves=LEAVES),
    st.builds(Bind, pieces=PIECES, gap=MM),
    st.builds(
        Place,
        pieces=PIECES,
        by=PLACE,
        turn=st.floats(-360, 360),
        scale=st.floats(0.01, 5),
        mirror=st.booleans(),
        copy=st.booleans(),
        leaves=LEAVES,
        axis=AXIS,
    ),
)
LIMITS = st.builds(
    InkLimits, KEY, st.none() | st.floats(0, 9), st.none() | st.floats(0, 9), st.none() | st.floats(0, 99)
)
TIDY = st.fixed_dictionaries(
    {
        "least_area": st.sampled_from([0.0, 0.25, 2.0, 1e6]),
        "least_width": st.sampled_from([0.0, 0.0, 0.5, 20.0]),
        "fill_holes": st.sampled_from([0.0, 0.0, 1.0, 1e6]),
        "limits": st.lists(LIMITS, max_size=2, unique_by=lambda one: one.key).map(tuple),
        "cut_away": st.none() | st.lists(KEY, max_size=2).map(tuple),
        "bridges": st.none() | st.builds(Bridging, st.floats(0.01, 5), st.integers(1, 8), DIRECTION),
        "work": st.lists(WORK, max_size=4).map(tuple),
    }
)
FINISH = st.fixed_dictionaries(
    {
        "page": st.sampled_from(["design", "picture"]),
        "width": st.none() | st.floats(0.1, 400),
        "height": st.none() | st.floats(0.1, 400),
    }
)
TRACE = st.fixed_dictionaries(
    {
        "smoothness": st.sampled_from([0.0, 0.015, 0.2, 5.0]),
        "straightness": st.sampled_from([0.0, 0.3, 3.0]),
        "corner": st.floats(0, 180),
        "square": st.sampled_from([0.0, 3.0, 45.0]),
        "mirror": st.sampled_from([0.0, 0.0, 0.5, 3.0]),
    }
)


@st.composite
def pictures(draw_) -> Picture:
    """Patches of a few colours, one px and up, sharp or soft, some clear, some noisy."""
    height, width, patch = draw_(st.integers(1, 48)), draw_(st.integers(1, 48)), draw_(st.integers(1, 12))
    rng = np.random.default_rng(draw_(st.integers(0, 2**32 - 1)))
    colours = rng.integers(0, 256, (draw_(st.integers(1, 5)), 3)).astype(np.uint8)
    if draw_(st.booleans()):
        colours[0] = 255
    tiles = colours[rng.integers(0, len(colours), (height // patch + 1, width // patch + 1))]
    rgb = np.ascontiguousarray(np.repeat(np.repeat(tiles, patch, 0), patch, 1)[:height, :width])
    worn = draw_(st.sampled_from(["", "", "soft", "noisy", "jpeg"]))
    if worn == "soft":
        rgb = cv2.GaussianBlur(rgb, (0, 0), 1.0).reshape(height, width, 3)
    elif worn == "noisy":
        rgb = np.clip(rgb + rng.normal(0, 6, rgb.shape), 0, 255).astype(np.uint8)
    elif worn == "jpeg":
        rgb = cv2.imdecode(cv2.imencode(".jpg", rgb, [cv2.IMWRITE_JPEG_QUALITY, 60])[1], cv2.IMREAD_COLOR)
    alpha = np.full((height, width, 1), 255, np.uint8)
    if draw_(st.integers(0, 4)) == 0:
        alpha = (rng.integers(0, 2, (height, width, 1)) * 255).astype(np.uint8)
    return picture_of(np.dstack([rgb, alpha]))


MM_OR_NONE = st.just(0.0) | st.floats(0, 3)
LAYERS = st.fixed_dictionaries(
    {"build": st.sampled_from(["flush", "carried", "backed", "single", "stencil"])},
    optional={
        "best": st.booleans(),
        "overlap": st.just("auto") | MM_OR_NONE,
        "slip": MM_OR_NONE,
        "rim": MM_OR_NONE,
        "corners": st.sampled_from(["round", "mitred", "bevelled"]),
        "rim_gap": MM_OR_NONE,
        "margin": MM_OR_NONE,
        "fill_ground": st.booleans(),
        "clear": st.booleans(),
        "fill_windows": st.booleans(),
        "thin_bulk": st.booleans(),
        "base_colour": st.none() | COLOUR,
        "holes": st.lists(st.builds(Hole, PLACE, st.booleans()), max_size=2).map(tuple),
        "stock": st.none() | st.sampled_from(GENERIC),
        "weights": st.builds(OrderWeights, st.floats(0, 9), st.floats(0, 9), st.floats(0, 9)),
    },
)
RULE = st.fixed_dictionaries(
    {},
    optional={
        "build": st.sampled_from([None, "flush", "carried"]),
        "edge": st.sampled_from(["both", "outer", "inner", "centre"]),
        "centre_line": st.booleans(),
        "kind": st.sampled_from(("cut", "cut", "cut", "draw", "score", "engrave")),
        "hidden": st.booleans(),
        "islands": st.booleans(),
        "fill_ground": st.none() | st.booleans(),
        "copies": st.integers(0, 2),
        "pin": st.sampled_from(["", "top", "bottom"]),
        "stock": st.none() | st.sampled_from(GENERIC),
    },
)


@st.composite
def recipes(draw_, rows=ROWS) -> Recipe:
    """All settings, each somewhere in its range."""
    recipe = Recipe(prepare=draw_(st.lists(rows, max_size=3).map(tuple)))
    recipe = recipe.with_("separate", **draw_(SEPARATE)).with_("finish", **draw_(FINISH))
    recipe = recipe.with_("trace", **draw_(TRACE))
    recipe = recipe.with_("tidy", **draw_(TIDY))
    checks = draw_(CHECKS)
    checks["mends"] = tuple(msgspec.structs.replace(mend, layer="#000000") for mend in checks["mends"])
    return recipe.with_("layers", **draw_(LAYERS)).with_("checks", **checks)


MEND = st.one_of(
    st.builds(WidenAlong, layer=st.just(""), lines=st.tuples(st.lists(PLACE, min_size=1, max_size=4).map(tuple)),
              width=st.floats(0.01, 20)),
    st.builds(PareAlong, layer=st.just(""), lines=st.tuples(st.lists(PLACE, min_size=1, max_size=4).map(tuple)),
              width=st.floats(0.01, 20)),
    st.builds(TakePiece, layer=st.just(""), at=PLACE, to=st.sampled_from(["", "#ffffff", BASE])),
    st.builds(GrowPiece, layer=st.just(""), at=PLACE, by=st.floats(0.01, 5)),
    st.builds(FillWindow, layer=st.just(""), at=PLACE),
    st.builds(RoundNotch, layer=st.just(""), at=PLACE, radius=st.floats(0.01, 2)),
    st.builds(EaseOutline, layer=st.just(""), at=PLACE, within=st.floats(0.001, 1)),
    st.builds(CloseOutline, layer=st.just(""), at=PLACE),
    st.builds(Unite, layer=st.just("")),
)  # fmt: skip
CHECKS = st.fixed_dictionaries(
    {"mends": st.lists(MEND, max_size=3).map(tuple)},
    optional={"limits": st.lists(st.tuples(st.sampled_from(sorted(KINDS)), st.floats(0, 20)), max_size=3).map(tuple)},
)


def with_rules(recipe: Recipe, keys: tuple[str, ...], rules, window, line) -> Recipe:
    """Rules of their own, parts, windows and mends for the inks that a picture turned out to have."""
    layers = [*keys, BASE, SHEET, f"{keys[0]}/2"]
    mends = tuple(msgspec.structs.replace(mend, layer=layers[i % len(layers)])
                  for i, mend in enumerate(recipe.checks.mends))  # fmt: skip
    recipe = recipe.with_("checks", mends=mends)
    rules = [LayerRule(key, **rule) for key, rule in zip(keys, rules, strict=False)]
    if len(keys) > 2 and window is not None:
        rules[-1] = LayerRule(rules[-1].ink, into=keys[0])
    parts = (LayerPart(keys[0], "2", line=line),) if line else (LayerPart(keys[0], "2", places=((0.4, 0.3),)),)
    parts += (LayerPart(f"{keys[0]}/2", "1", line=((0.0, 0.2), (0.5, 0.6))),)
    windows = (Window(keys[-1], window, keys[0]),) if window else ()
    join = Join(keys[0], (0.2, 0.2), (0.8, 0.8))
    return recipe.with_(
        "layers", rules=tuple(rules), order=tuple(reversed(keys)), joins=(join,), windows=windows, parts=parts
    )


def written(result) -> tuple[bytes, ...]:
    """All that leaves the program, read back."""
    assert all(layer.path.contours for layer in result.stack.layers)
    return tuple(data for each in (False, True) for data in files_of(SVG, result.stack.cuts, each).values())


def check_faces(result) -> None:
    """Every face lies the right way round, together they are the picture, and no outline crosses another."""
    assert not len(find_crossings(result.finished.curves.segments).place)
    assert not any(len(find_crossings(layer.path.segments).place) for layer in result.stack.layers)
    areas = face_areas(result.planar, result.curves)
    height, width = result.planar.shape
    assert areas[1:].min() > 0
    assert abs(areas[1:].sum() - height * width) <= 1e-6 * height * width


def try_recipe(picture: Picture, recipe: Recipe, rules, window, line) -> None:
    recipe = decode_recipe(encode_recipe(recipe), "r.json")
    warm, cold = Pipeline(), Pipeline(0)
    try:
        first = cold.run(picture, recipe)
    except SketchLoomError as error:
        assert str(error).endswith(".") and "\n" not in str(error)
        failure = warm.results(picture, recipe).failure
        assert failure is not None and str(failure.error) == str(error)
        return
    check_faces(first)
    ruled = with_rules(recipe, tuple(ink.key for ink in first.palette.cut), rules, window, line)
    ruled = decode_recipe(encode_recipe(ruled), "r.json")
    fresh = {id(recipe): written(first)}
    try:
        fresh[id(ruled)] = written(warm.run(picture, ruled))
    except SketchLoomError as error:
        assert str(error).endswith(".") and "\n" not in str(error)
    for one in (recipe, ruled) if id(ruled) in fresh else (recipe,):  # each builds on what the other left in memory
        again = warm.run(picture, one)
        assert written(again) == fresh[id(one)]
        report_of(again)
        worst_place(again)
        checked = warm.run(picture, one, names=("checked",)).checked
        assert find_all(replace(checked.subject, memory=Memory.new())) == checked.findings
        for finding in checked.findings[:2]:
            surely = with_sure_fixes(checked.subject, checked.findings, finding)
            assert surely.sentence.endswith(".") and all(fix in finding.fixes for fix in surely.fixes)


RULES = st.lists(RULE, min_size=4, max_size=4)
LINE = st.none() | st.lists(PLACE, min_size=2, max_size=3).map(tuple)
PHASES = (Phase.explicit, Phase.generate)  # a failing recipe is told as it is: to shrink one takes many minutes
QUIET = [HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much]


@tries(60, suppress_health_check=QUIET, phases=PHASES)
@given(pictures(), recipes(), RULES, st.none() | PLACE, LINE)
def test_any_recipe_gives_a_right_result_or_one_sentence(picture, recipe, rules, window, line):
    try_recipe(picture, recipe, rules, window, line)


@tries(4, suppress_health_check=QUIET, phases=PHASES)
@given(pictures(), recipes(BOXES), RULES)
def test_any_box_gives_a_right_result_or_one_sentence(picture, recipe, rules):
    try_recipe(picture, recipe, rules, None, None)  # fewer: each starts a process
