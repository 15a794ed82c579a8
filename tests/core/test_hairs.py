"""Hairs go by their width, whichever way they lie."""

import numpy as np
import pytest

from sketchloom.core.job import Pipeline, Recipe
from tests.conftest import draw

SPOKES = 12


def spokes(width: float, turn: float, shift: float) -> np.ndarray:
    """Which of twelve spokes of a wheel stay, where hairs under 10 px of it go."""
    middle = 150 + shift
    body = f'<circle cx="{middle}" cy="{middle}" r="50" fill="#202020"/>' + "".join(
        f'<path d="M{middle + 30} {middle}H{middle + 120}" stroke="#202020" stroke-width="{width}" '
        f'transform="rotate({turn + 360 / SPOKES * number} {middle} {middle})"/>'
        for number in range(SPOKES)
    )
    recipe = Recipe().with_("finish", width=300.0, page="picture").with_("tidy", least_width=10.0, least_area=0.0)
    labels = Pipeline(0).run(draw(body, 300), recipe, names=("tidy",)).regions.labels
    angle = np.deg2rad(turn + 360 / SPOKES * np.arange(SPOKES))
    x, y = (np.floor(middle + 95 * way(angle)).astype(int) for way in (np.cos, np.sin))
    return labels[y, x] > 0


@pytest.mark.parametrize("turn", [0, 4, 11, 15])
@pytest.mark.parametrize("shift", [0.0, 0.3, 0.5])
def test_hairs_of_one_width_go_or_stay_whichever_way_they_lie(turn, shift):
    for width in (4, 5.5, 7.5):
        assert not spokes(width, turn, shift).any()
    for width in (10, 11, 14):
        assert spokes(width, turn, shift).all()
