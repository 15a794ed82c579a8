from dataclasses import replace

import numpy as np
import pytest
from skimage.color import rgb2lab
from skimage.filters import threshold_otsu

from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.job.jobfile import decode_recipe, encode_recipe
from sketchloom.core.picture import Picture
from sketchloom.core.picture.paper import otsu, paper_light
from sketchloom.core.regions import (
    LabelMap,
    SeparateSettings,
    clear_ground,
    find_faces,
    find_tones,
    ink_steps,
    lab_of,
    label_map,
    name_of,
    plan_inks,
)
from sketchloom.core.tidy import clear_specks
from tests.conftest import FOUR_INKS, draw, picture_of

KEEP = SeparateSettings(ground="keep")


def separate(picture: Picture, settings: SeparateSettings):
    tones = find_tones(picture, settings)
    ground = clear_ground(tones, settings.ground)
    plan = plan_inks(tones, ground, settings)
    return plan, label_map(tones, ground, plan)


def test_lab_agrees_with_scikit_image():
    colours = np.random.default_rng(1).integers(0, 256, (500, 3)).astype(np.uint8)
    assert np.abs(lab_of(colours) - rgb2lab(colours[None] / 255)[0]).max() < 0.02


def test_otsu_agrees_with_scikit_image():
    rng = np.random.default_rng(2)
    for _ in range(20):
        grey = np.clip(np.concatenate([rng.normal(60, 15, 800), rng.normal(190, 20, 3000)]), 0, 255).astype(np.uint8)
        assert otsu(np.bincount(grey, minlength=256)) == threshold_otsu(grey)


def test_anti_aliased_edges_make_no_inks():
    plan, regions = separate(draw(FOUR_INKS), KEEP)
    assert sorted(ink.hex for ink in plan.palette) == ["#3a2a33", "#4f8a4b", "#8e2a5b", "#f2e6cf", "#ffffff"]
    assert regions.labels.min() == 1


def test_shares_are_those_of_the_drawing():
    plan, _ = separate(draw('<rect x="50" y="40" width="100" height="80" fill="#205080"/>'), KEEP)
    by_hex = dict(zip((ink.hex for ink in plan.palette), plan.shares.values(), strict=True))
    assert by_hex["#205080"] == pytest.approx(100 * 80 / 200**2, rel=1e-6)


def test_near_shades_stay_apart_when_clean():
    one, other = (120, 90, 60), (126, 93, 62)
    assert 1.5 < np.linalg.norm(lab_of(one) - lab_of(other)) < 2.5
    rgb = np.full((60, 120, 3), one, np.uint8)
    rgb[:, 60:] = other
    plan, _ = separate(picture_of(rgb), KEEP)
    assert len(plan.palette) == 2


def test_a_border_of_one_colour_is_cleared_and_can_be_kept():
    picture = draw(FOUR_INKS)
    shown = clear_ground(find_tones(picture, SeparateSettings()), "auto").shown
    assert shown is not None
    assert shown.hex == "#ffffff"
    plan, regions = separate(picture, SeparateSettings())
    assert regions.labels[0, 0] == 0
    assert len(plan.palette) == 4
    assert len(separate(picture, KEEP)[0].palette) == 5


def test_enclosed_ground_colour_stays_an_ink_among_several():
    body = '<circle cx="100" cy="100" r="80" fill="#205080"/><circle cx="100" cy="100" r="40" fill="#ffffff"/>'
    plan, regions = separate(draw(body + '<circle cx="100" cy="100" r="20" fill="#c03030"/>'), SeparateSettings())
    assert "#ffffff" in [ink.hex for ink in plan.palette]
    assert regions.labels[0, 0] == 0


def test_a_given_number_of_inks_is_what_remains():
    picture = draw(FOUR_INKS)
    for count in (1, 2, 3, 4):
        plan, regions = separate(picture, SeparateSettings(inks=count))
        assert len(plan.palette) == count
        assert set(np.unique(regions.labels)) == set(range(count + 1))


def test_clear_pixels_are_ground_and_kept_ones_lie_on_white():
    rgba = np.zeros((60, 60, 4), np.uint8)
    rgba[20:40, 20:40] = 200, 30, 40, 255
    picture = Picture(rgba)
    plan, regions = separate(picture, SeparateSettings())
    assert [ink.hex for ink in plan.palette] == ["#c81e28"]
    assert (regions.labels > 0).sum() == 400
    assert sorted(ink.hex for ink in separate(picture, KEEP)[0].palette) == ["#c81e28", "#ffffff"]


def test_a_thin_line_in_an_ink_found_elsewhere_survives():
    body = '<rect x="20" y="20" width="60" height="60" fill="#a02040"/>'
    body += '<path d="M20 120.3H180" stroke="#a02040" stroke-width="1"/>'
    _, regions = separate(draw(body), SeparateSettings())
    assert (regions.labels[118:123, 30:170] > 0).any(0).all()


def test_ink_on_uneven_paper_is_found():
    drawing = draw('<g fill="none" stroke="#000" stroke-width="8"><circle cx="100" cy="100" r="60"/></g>')
    truth = drawing.rgba[..., 0] < 128
    light = np.linspace(1, 0.35, 200)[None, :, None]
    rng = np.random.default_rng(3)
    shot = (40 + drawing.rgba[..., :3] / 255 * 190) * light + rng.normal(0, 4, (200, 200, 1))
    plan, regions = separate(picture_of(np.clip(shot, 0, 255).astype(np.uint8)), SeparateSettings(mode="ink"))
    found = regions.labels > 0
    assert (found & truth).sum() / (found | truth).sum() > 0.95
    assert len(plan.palette) == 1


def test_the_paper_light_follows_the_light():
    y, x = np.mgrid[0:150, 0:220] / 220
    light = 230 - 120 * x - 30 * y
    grey = light.copy()
    grey[40:60, 30:180] = 30
    assert np.abs(paper_light(grey.astype(np.uint8)) - light).max() < 6


def test_a_typed_threshold_moves_the_edge():
    y, x = np.mgrid[0:200, 0:200]
    grey = 240 - 220 * np.exp(-(((x - 100) / 30) ** 2 + ((y - 100) / 30) ** 2))  # a soft blot
    picture = picture_of(np.repeat(grey.astype(np.uint8)[..., None], 3, 2))
    areas = [
        (separate(picture, SeparateSettings(mode="ink", threshold=t))[1].labels > 0).sum() for t in (0.3, 0.5, 0.7)
    ]
    assert areas[0] < areas[1] < areas[2]


def test_small_faces_join_the_neighbour_with_the_longest_boundary():
    labels = np.ones((20, 20), np.uint8)
    labels[:, 10:] = 2
    labels[5:7, 9:11] = 3
    labels[15, 3] = 2
    plan, regions = separate(picture_of(np.zeros((20, 20, 3), np.uint8)), KEEP)
    assert len(plan.palette) == 1
    keys = ("#000001", "#000002", "#000003")
    tidied = clear_specks(replace(regions, labels=labels, keys=keys), 5)
    assert tidied.gone == 2
    assert len(tidied.faces.label) == 3
    assert tidied.regions.labels[15, 3] == 1


def test_an_ink_of_which_nothing_is_left_keeps_its_key_and_the_others_theirs():
    labels = np.full((20, 20), 2, np.uint8)
    labels[:, 10:] = 3
    labels[5:7, 4:6] = 1
    regions = LabelMap(
        labels, ("#aa0000", "#00aa00", "#0000aa"), np.zeros((20, 20, 4), np.uint8), labels, np.zeros((4, 3))
    )
    tidied = clear_specks(regions, 5)
    assert tidied.gone == 1
    assert tidied.regions.keys == regions.keys
    assert (tidied.regions.labels[:, :10] == 2).all() and (tidied.regions.labels[:, 10:] == 3).all()
    assert sorted(tidied.faces.label[1:].tolist()) == [2, 3]


def test_face_boxes_hold_their_pixels():
    labels = np.zeros((30, 40), np.uint8)
    labels[5:12, 7:21] = 1
    faces, _ = find_faces(labels)
    face = int(np.flatnonzero(faces.label == 1)[0])
    assert faces.box[face].tolist() == [7, 5, 21, 12]


def test_names_of_one_picture_differ():
    assert name_of((255, 255, 255)) == "White"
    assert name_of((255, 255, 255), {"White"}) == "White 2"


@pytest.mark.parametrize("count", [3, 4, 5])
def test_the_next_step_is_what_one_ink_fewer_and_more_do(count):
    picture = draw(FOUR_INKS)
    tones = find_tones(picture, KEEP)
    ground = clear_ground(tones, "keep")
    plan, less = (plan_inks(tones, ground, SeparateSettings(inks=n)) for n in (count, count - 1))
    fewer, more = ink_steps(tones, ground, plan, plan.palette, SeparateSettings(inks=count))
    assert {ink.shown for ink in plan.palette} - {ink.shown for ink in less.palette} == {fewer.ink.shown}
    before, after = (
        np.array([ink.shown for ink in some.palette.cut])[label_map(tones, ground, some).labels - 1]
        for some in (plan, less)
    )
    gone = (before != after).any(2)
    assert fewer.share == pytest.approx(gone.mean())
    rows, columns = np.nonzero(gone)
    assert fewer.box == (columns.min(), rows.min(), np.ptp(columns) + 1, np.ptp(rows) + 1)
    assert (more is None) == (count == 5)
    if more:
        finer = {ink.shown for ink in plan_inks(tones, ground, SeparateSettings(inks=count + 1)).palette}
        assert finer - {ink.shown for ink in plan.palette} == {more.ink.shown}


def test_an_ink_keeps_the_name_it_was_given():
    picture = draw(FOUR_INKS)
    recipe = Recipe().with_("separate", names=(("#8e2a5b", "Felt"),))
    assert "Felt" in [layer.name for layer in Pipeline(0).run(picture, recipe).stack.layers]
    fewer = recipe.with_("separate", inks=3)
    assert "Felt" in [layer.name for layer in Pipeline(0).run(picture, fewer).stack.layers]
    assert decode_recipe(encode_recipe(recipe), "a") == recipe
    with pytest.raises(ArgumentError, match="no name for an ink"):
        recipe.with_("separate", names=(("#010203", " "),)).check()


def test_an_ink_sent_to_the_ground_is_in_no_layer_and_comes_back():
    picture = draw(FOUR_INKS)
    recipe = Recipe().with_("separate", ground="keep")
    pipeline = Pipeline()
    whole = pipeline.run(picture, recipe)
    less = pipeline.run(picture, recipe.with_("separate", grounded=("#8e2a5b",)))
    assert [ink.shown for ink in less.palette.grounded] == [(142, 42, 91)]
    assert less.plan.taken == whole.plan.taken == 5
    whole_shares, shares = whole.plan.shares, less.plan.shares
    assert sum(whole_shares.values()) == pytest.approx(1)
    assert shares == {key: share for key, share in whole_shares.items() if key != "#8e2a5b"}
    areas = {layer.ink.shown: layer.area for layer in whole.stack.layers}
    gone = areas.pop((142, 42, 91))
    assert {layer.ink.shown: pytest.approx(layer.area, rel=1e-3) for layer in less.stack.layers} == areas
    assert whole_shares["#8e2a5b"] == pytest.approx(gone / sum((gone, *areas.values())), rel=0.02)
    assert pipeline.run(picture, recipe).stack.layers == whole.stack.layers


def test_sending_every_ink_to_the_ground_leaves_nothing_to_cut():
    picture = draw('<circle cx="100" cy="100" r="60" fill="#205080"/>')
    with pytest.raises(NothingToCutError):
        Pipeline(0).run(picture, Recipe().with_("separate", grounded=("#205080",)))
