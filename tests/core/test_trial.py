"""What a test cut does to a preset, by the rule that is stated beside it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.stock import CUTTERS, GENERIC, RULES, TRIALS, Preset, after_trial, check_preset, preset_for
from tests.conftest import tries

STOCK, CUTTER = next(one for one in GENERIC if one.name == "Red card"), CUTTERS[0]
OWN = Preset("Card", STOCK.name, CUTTER.name, "Fine blade", 20.0, 40.0, 2, "mat")


@pytest.mark.parametrize(
    ("trial", "force", "speed", "passes"),
    [("weeds clean", 20, 40, 2), ("tears", 20, 30, 2), ("not through", 22, 40, 2), ("scores the backing", 18, 40, 2)],
)
def test_one_thing_changes_as_the_rule_says(trial, force, speed, passes):
    new = after_trial((OWN,), STOCK, CUTTER, trial)
    assert (new.force, new.speed, new.passes) == (force, speed, passes)
    assert (new.name, new.stock, new.tool, new.note) == (OWN.name, OWN.stock, OWN.tool, OWN.note)
    assert RULES[trial]


def test_without_a_force_passes_change_and_never_below_one():
    bare = Preset("Card", STOCK.name, CUTTER.name)
    assert after_trial((bare,), STOCK, CUTTER, "not through").passes == 2
    assert after_trial((bare,), STOCK, CUTTER, "scores the backing").passes == 1
    assert after_trial((bare,), STOCK, CUTTER, "tears").speed == pytest.approx(CUTTER.speed * 0.75)


def test_without_a_preset_a_new_one_is_of_the_stock_and_the_cutter():
    new = check_preset(after_trial((), STOCK, CUTTER, "tears"))
    assert preset_for((new,), STOCK, CUTTER) is new and new.speed == 37.5
    long = type(STOCK)("a stock whose name is as long as may be.")
    assert len(check_preset(after_trial((), long, CUTTERS[4], "weeds clean")).name) <= 40


@tries(60)
@given(
    st.floats(0, 1e5), st.floats(0, 5000), st.integers(1, 100), st.sampled_from(TRIALS), st.integers(1, 12)
)  # fmt: skip
def test_any_preset_stays_one_that_can_be_used(force, speed, passes, trial, times):
    preset = Preset("P", STOCK.name, CUTTER.name, force=force, speed=speed, passes=passes)
    for _ in range(times):
        new = check_preset(after_trial((preset,), STOCK, CUTTER, trial))
        if force >= 1 and trial == "not through" and preset.force < 9e4:
            assert new.force > preset.force
        if trial == "scores the backing" and preset.force:
            assert new.force < preset.force or preset.force < 0.1
        preset = new
