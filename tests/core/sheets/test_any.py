"""Any recipe on any ugly picture, laid on any sheets: nothing is lost, nothing lies too near, the same bytes again."""

import msgspec
import numpy as np
import shapely
from hypothesis import HealthCheck, Phase, given
from hypothesis import strategies as st

from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job import Pipeline, decode_recipe, encode_recipe, sheet_names, sheet_report, work_of
from sketchloom.core.send import SVG, names_of, page_of_sheet
from sketchloom.core.send import written as read_back
from sketchloom.core.sheets import Ready, SheetSettings
from sketchloom.core.stock import CUTTERS
from tests.conftest import tries
from tests.core.test_any_recipe import pictures, recipes

SETTINGS = st.builds(
    SheetSettings,
    cutter=st.none() | st.sampled_from(CUTTERS),
    size=st.none() | st.tuples(st.floats(5, 600), st.floats(5, 600)),
    border=st.floats(0, 15),
    distance=st.floats(0, 10),
    turn=st.sampled_from(["none", "quarter", "any"]),
    copies=st.integers(1, 3),
    nested=st.booleans(),
    flip=st.sampled_from(["auto", "on", "off"]),
    ready=st.just(Ready())
    | st.builds(
        Ready,
        kerf=st.sampled_from([0.0, 0.15, 1.0]),
        hole=st.none() | st.tuples(st.floats(0.3, 10), st.floats(0, 10)),
        marks=st.sampled_from(["none", "corners", "crosses", "holes"]),
        weeding=st.sampled_from(["none", "pieces", "sheet"]),
        weeding_margin=st.floats(0.5, 10),
        weeding_lines=st.booleans(),
        overcut=st.none() | st.floats(0, 2),
        tabs=st.integers(0, 6),
        tab_width=st.floats(0.2, 5),
    ),
)
QUIET = [HealthCheck.too_slow, HealthCheck.data_too_large, HealthCheck.filter_too_much]


def written(result) -> list[bytes]:
    """All sheets, each read back as it is written."""
    ids = names_of(result.stack.cuts.cuts)
    names = sheet_names(result.layout)
    assert len(set(names)) == len(names)
    assert sheet_report(result.layout, work_of(result), result.recipe.sheets.cutter, {})["unplaced"] == 0
    return [read_back(SVG, page_of_sheet(sheet, ids)) for sheet in result.layout.sheets]


@tries(40, suppress_health_check=QUIET, phases=(Phase.explicit, Phase.generate))
@given(pictures(), recipes(), SETTINGS)
def test_anything_is_laid_whole_apart_and_the_same_again(picture, recipe, sheets):
    recipe = decode_recipe(encode_recipe(msgspec.structs.replace(recipe, sheets=sheets)), "r.json")
    try:
        result = Pipeline(0).run(picture, recipe, names=("palette", "sheets"))
    except SketchLoomError as error:
        assert str(error).endswith(".") and "\n" not in str(error)
        return
    layout = result.layout
    for cut in work_of(result).cuts:
        if cut.kind == "cut":
            every = shapely.area(cut.polygons.shapes).sum() * sheets.copies
            laid = [part for sheet in layout.sheets for one in sheet.laid for part in one.item.body.parts]
            left = [part for item in layout.too_large for part in item.body.parts]
            there = sum(part.shape.area for part in laid if part.cut.key == cut.key)
            there += sheets.copies * sum(part.shape.area for part in left if part.cut.key == cut.key)
            kerf, seams = sheets.ready.kerf, [seam for seam in layout.seams if seam.layer == cut.key]
            along = sheets.copies * kerf * sum(seam.length + 2 * kerf for seam in seams)  # half of it on either side
            assert -1e-3 * sheets.copies <= there - every + 1e-6 * every
            assert there - every <= 1e-6 * every + 1e-3 * sheets.copies + along
    for sheet in layout.sheets:
        x, y, width, height = sheet.group.usable
        shapes = np.array([shapely.multipolygons(shapely.get_parts(one.shapes)) for one in sheet.laid], object)
        assert shapely.box(x, y, x + width, y + height).buffer(0.002).covers(shapely.box(*shapely.total_bounds(shapes)))
        one, other = shapely.STRtree(shapes).query(shapes, "dwithin", max(0.0, sheets.distance - 0.02))
        assert not (one < other).any() or sheets.distance <= 0.02
    assert written(Pipeline().run(picture, recipe, names=("palette", "sheets"))) == written(result)
