"""Inks by hand: joined, locked, picked, recoloured, and laid together from separate drawings."""

import numpy as np
import pytest

from sketchloom.core.job import Pipeline, Recipe, are_layers, heat_levels, job_of_layers
from sketchloom.core.picture import load_picture, source_points
from sketchloom.core.regions import Pick, SeparateSettings, find_tones
from sketchloom.core.regions.picks import colour_mask
from tests.conftest import FOUR_INKS, draw, picture_of

SOOT, CREAM, BEET, LEAF = "#3a2a33", "#f2e6cf", "#8e2a5b", "#4f8a4b"


def run(picture, **settings):
    return Pipeline().run(picture, Recipe().with_("separate", **settings).with_("tidy", least_area=0.0))


def keys(result) -> set:
    return set(result.plan.keys)


@pytest.fixture(scope="module")
def four():
    return draw(FOUR_INKS, 200)


def test_joined_inks_are_one_and_all_of_both(four):
    apart, joined = run(four), run(four, joined=((LEAF, BEET),))
    assert keys(joined) == keys(apart) - {LEAF}
    share, both = apart.plan.shares, joined.plan.shares[BEET]
    assert both == pytest.approx(share[LEAF] + share[BEET], abs=1e-9)
    chain = run(four, joined=((LEAF, BEET), (BEET, CREAM)))
    assert keys(chain) == {SOOT, CREAM}
    assert keys(run(four, joined=((LEAF, "#010203"), ("#040506", BEET)))) == keys(apart)  # of inks that are not there


def test_a_locked_ink_stays_when_fewer_are_wanted(four):
    few = run(four, inks=2)
    goes = next(key for key in (LEAF, BEET) if key not in keys(few))
    kept = run(four, inks=2, locked=(goes,))
    assert goes in keys(kept) and len(kept.plan.palette) == 2
    assert keys(run(four, inks=1, locked=(SOOT, CREAM, BEET, LEAF))) == {SOOT, CREAM, BEET, LEAF}
    assert run(four, inks=4, locked=(SOOT, CREAM, BEET, LEAF)).choices[0] is None


def test_an_ink_is_shown_in_another_colour_and_nothing_else_changes(four):
    plain, dressed = run(four), run(four, shown=((BEET, (0, 80, 160)),), names=((BEET, "Roots"),))
    ink = dressed.palette[BEET]
    assert (ink.name, ink.shown, ink.found) == ("Roots", (0, 80, 160), (142, 42, 91))
    assert (plain.regions.labels == dressed.regions.labels).all()
    assert dressed.stack.layer(BEET).ink.hex == "#0050a0"


def near_shade() -> tuple:
    """A patch that is hardly redder than what it lies on, and that is joined when four inks are wanted."""
    body = FOUR_INKS + '<circle cx="60" cy="160" r="9" fill="#45303c"/><circle cx="160" cy="40" r="7" fill="#45303c"/>'
    return draw(body, 200), "#45303c"


def test_a_missed_detail_becomes_an_ink_by_a_click_and_stays():
    picture, shade = near_shade()
    assert shade not in keys(run(picture, inks=4))
    at = source_points(picture, np.array([[60.0, 160.0]]))[0]
    one = run(picture, inks=4, picks=(Pick(at, 2.0),))
    label = 1 + [key[:7] for key in one.plan.keys].index(shade)
    labels = one.regions.labels
    assert labels[160, 60] == label and labels[40, 160] != label  # one area
    # a disc of radius 9, to a pixel's width
    assert (labels == label).sum() == pytest.approx(np.pi * 81, rel=0.1)
    everywhere = run(picture, inks=4, picks=(Pick(at, 2.0, everywhere=True),))
    assert everywhere.regions.labels[160, 60] == everywhere.regions.labels[40, 160]
    # it is locked: it stays when two inks are wanted
    assert run(picture, inks=2, picks=(Pick(at, 2.0),)).regions.labels[160, 60] > 0


def test_a_pick_joins_an_ink_or_is_cleared(four):
    at = source_points(four, np.array([[100.0, 150.0]]))[0]  # in the leaf
    joined = run(four, picks=(Pick(at, to=BEET),))
    inks = joined.plan.keys
    assert joined.regions.labels[150, 100] == inks.index(BEET) + 1 and LEAF not in inks
    cleared = run(four, picks=(Pick(at, ground=True),))
    assert cleared.regions.labels[150, 100] == 0


def test_a_pick_outside_is_listed_and_changes_nothing(four):
    plain = run(four)
    lost = run(four, picks=(Pick((1.7, 0.2)), Pick(source_points(four, np.array([[100.0, 150.0]]))[0], to=BEET)))
    assert lost.tones.unplaced == (0,)
    assert len(lost.plan.palette) == len(plain.plan.palette) - 1


def test_one_area_of_an_ink_can_be_parted_from_the_rest():
    picture = draw(
        '<circle cx="60" cy="100" r="40" fill="#8e2a5b"/><circle cx="150" cy="100" r="30" fill="#8e2a5b"/>', 200
    )
    at = source_points(picture, np.array([[150.0, 100.0]]))[0]
    parted = run(picture, picks=(Pick(at),))
    assert len(parted.plan.palette) == 2
    assert keys(parted) == {BEET, f"{BEET}-2"}  # known apart, though nobody sees it
    assert parted.regions.labels[100, 60] != parted.regions.labels[100, 150]


def test_colours_within_reach_are_those_within_that_distance():
    # CIE76: the distance in L*a*b*; grey levels of a ramp against scikit-image's conversion
    from skimage.color import rgb2lab

    ramp = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, 2)
    lab = rgb2lab(ramp)[0]
    evidence = np.dstack([ramp, np.full((1, 256), 255, np.uint8)])
    for level in (3, 100, 250):
        near = np.linalg.norm(lab - lab[level], axis=1)
        found = colour_mask(evidence, level, 0, 8.0, True)[0]
        assert found[near < 7.98].all() and not found[near > 8.02].any()


def test_a_preview_has_the_inks_of_the_full_picture_picks_and_all():
    picture, _ = near_shade()
    at = source_points(picture, np.array([[60.0, 160.0]]))[0]
    settings = SeparateSettings(picks=(Pick(at, 2.0),))
    full = find_tones(picture, settings)
    small = picture_of(np.ascontiguousarray(picture.rgba[::2, ::2, :3]))
    reduced = find_tones(small, settings, decided=full)
    assert (reduced.found, reduced.keys) == (full.found, full.keys)
    assert reduced.labels[80, 30] == full.labels[160, 60]


def layer(body: str, colour: str) -> tuple:
    """A drawing of one colour on clear ground."""
    cover = 255 - draw(body, 200).rgba[..., 0]
    rgb = np.broadcast_to(np.frombuffer(bytes.fromhex(colour), np.uint8), (200, 200, 3))
    return picture_of(np.dstack([rgb, cover]))


BOX, DISC = '<rect x="20" y="20" width="160" height="160"/>', '<circle cx="100" cy="100" r="50"/>'


@pytest.mark.parametrize("colours", [("c83020", "2050a0"), ("202020", "202020"), ("f0f0f0", "ffffff")])
def test_drawings_that_came_as_layers_are_not_separated_again(colours):
    pictures = [layer(BOX, colours[0]), layer(DISC, colours[1])]
    assert are_layers(pictures)
    job, note = job_of_layers("Badge", [("box", pictures[0]), ("disc", pictures[1])])
    assert not note
    result = Pipeline().run(load_picture(job.picture, job.picture_name), job.recipe)
    assert [layer.name for layer in result.stack.layers] == ["box", "disc"]  # in order, the first at the bottom
    assert [layer.ink.hex for layer in result.stack.layers] == [f"#{colour}" for colour in colours]
    per_mm = result.finished.px_per_mm
    assert result.stack.layers[1].area == pytest.approx(np.pi * 50**2 / per_mm**2, rel=5e-3)
    assert result.stack.layers[0].area == pytest.approx((160**2 - np.pi * 50**2) / per_mm**2, rel=5e-3)


def test_pictures_that_are_no_layers_are_not_laid_together():
    box, disc = layer(BOX, "202020"), layer(DISC, "202020")
    opaque = draw(BOX, 200)
    small = picture_of(np.ascontiguousarray(box.rgba[:100]))
    for pictures in ([box], [box, opaque], [box, small], [opaque, opaque]):
        assert not are_layers(pictures)
    assert are_layers([box, disc])


def test_layers_of_one_name_are_told_apart():
    named = [("leaf", layer(BOX, colour)) for colour in ("c83020", "2050a0", "20a050", "f0c020")]
    assert [name for _, name in job_of_layers("Badge", named)[0].recipe.separate.layers] == [
        "leaf",
        "leaf 2",
        "leaf 3",
        "leaf 4",
    ]


def test_deviation_is_told_along_all_edges_but_the_frame():
    body = (
        '<rect x="-10" y="60" width="220" height="160" fill="#8e2a5b"/><circle cx="90" cy="110" r="30" fill="#3a2a33"/>'
    )
    result = Pipeline(0).run(draw(body, 200), Recipe().with_("separate", ground="keep"))
    levels = heat_levels(result, 4)
    steps = np.concatenate([level.steps for level in levels])
    # a line across, the circumference of the circle, and nothing of the picture's border
    length = np.hypot(*(steps[:, 2:] - steps[:, :2]).T).sum()
    assert length == pytest.approx(200 + 2 * np.pi * 30, rel=0.03)
    assert [level.share for level in levels] == pytest.approx([0, 1 / 3, 2 / 3, 1])
