"""The Prepare step, through the real window."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor

from sketchloom.core.picture import ClearBox, ClearColour, Crop, EvenLight, Turn


@pytest.fixture
def preparing(opened):
    opened.show_step(1)
    opened.compare = False
    opened.show_view("Picture")
    return opened


def press(qtbot, window, words):
    qtbot.mouseClick(window.by_key["prepare"].adders[words], Qt.MouseButton.LeftButton)


def test_rows_are_added_switched_off_moved_removed_and_undone(preparing, qtbot, settled):
    step = preparing.by_key["prepare"]
    press(qtbot, preparing, "Turn right")
    settled(preparing)
    press(qtbot, preparing, "Even the light")
    settled(preparing)
    assert [type(row) for row in preparing.model.recipe.prepare] == [Turn, EvenLight]
    step.move_row(1, -1)
    settled(preparing)
    assert [type(row) for row in preparing.model.recipe.prepare] == [EvenLight, Turn]
    step._switch(0, False)
    settled(preparing)
    assert not preparing.model.recipe.prepare[0].on
    assert preparing.warp.steps[1].shown.figure == "1 change"
    step.remove(0)
    settled(preparing)
    for _ in range(5):
        preparing.commands.run("undo")
    settled(preparing)
    assert preparing.model.recipe.prepare == ()
    assert preparing.warp.steps[1].shown.figure == "as opened"


def test_a_dragged_rectangle_crops_at_its_place_in_the_source(preparing, qtbot, settled):
    press(qtbot, preparing, "Crop")
    canvas = preparing.canvas

    def at(x: float, y: float) -> QPoint:
        spot = QPointF(x, y) * canvas.zoom + canvas._offset
        return QPoint(round(spot.x()), round(spot.y()))

    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at(100, 80))
    qtbot.mouseMove(canvas, at(200, 160))
    qtbot.mouseMove(canvas, at(300, 240))
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at(300, 240))
    settled(preparing)
    (row,) = preparing.model.recipe.prepare
    assert isinstance(row, Crop)
    assert (*row.first, *row.last) == pytest.approx((0.25, 0.2, 0.75, 0.6), abs=0.005)
    assert preparing.model.result.picture.width == pytest.approx(200, abs=3)
    assert not preparing.by_key["prepare"].adders["Crop"].isChecked()


def test_esc_puts_the_tool_away(preparing, qtbot):
    press(qtbot, preparing, "Cut out")
    assert preparing.by_key["prepare"].drawing == "box"
    preparing.canvas.setFocus()
    qtbot.keyClick(preparing.canvas, Qt.Key.Key_Escape)
    assert preparing.by_key["prepare"].drawing is None
    assert preparing.canvas.tool is None


def test_a_box_row_keeps_the_subject(preparing, settled):
    preparing.model.change_rows("Box", (ClearBox(first=(0.05, 0.05), last=(0.95, 0.95)),))
    settled(preparing)
    assert preparing.model.result.picture.rgba[2, 2, 3] == 0
    assert preparing.model.result.picture.rgba[60, 60, 3] == 255


def test_the_source_lies_under_the_turned_work_when_s_is_held(preparing, qtbot, settled):
    preparing.model.change_rows("Crop", (Crop(first=(0.0, 0.0), last=(1.0, 0.5)), Turn(quarters=1)))
    settled(preparing)
    preparing.canvas.fit()
    shown = preparing.canvas.grab().toImage()
    qtbot.keyPress(preparing.canvas, Qt.Key.Key_S)
    held = preparing.canvas.grab().toImage()
    qtbot.keyRelease(preparing.canvas, Qt.Key.Key_S)
    x0, y0 = preparing.canvas._offset.x(), preparing.canvas._offset.y()
    zoom = preparing.canvas.zoom
    for x, y in ((30, 60), (100, 200), (170, 330), (60, 120)):
        spot = int(x0 + x * zoom), int(y0 + y * zoom)
        here, there = (QColor(image.pixelColor(*spot)).getRgb()[:3] for image in (shown, held))
        assert np.abs(np.array(here) - there).max() < 30


def test_the_reach_of_the_ground_is_one_step_of_undo(preparing, qtbot, settled):
    press(qtbot, preparing, "Clear ground")
    settled(preparing)
    step = preparing.by_key["prepare"]
    for reach in (30.0, 40.0, 50.0):
        step._set(0, 77, reach=reach)
    preparing.model.rest()
    settled(preparing)
    assert preparing.model.recipe.prepare == (ClearColour(reach=50.0),)
    preparing.commands.run("undo")
    assert preparing.model.recipe.prepare == (ClearColour(),)


def test_a_row_without_a_place_says_so(preparing, qtbot, settled):
    press(qtbot, preparing, "Straighten")
    settled(preparing)
    assert preparing.model.result.unplaced == (0,)


def test_the_source_step_gives_the_verdict(opened):
    opened.show_step(0)
    assert "cleanly" in opened.by_key["source"].verdict.text() or "coarse" in opened.by_key["source"].verdict.text()
