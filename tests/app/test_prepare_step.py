"""The Prepare step, through the real window."""

from xml.etree import ElementTree

import numpy as np
import pytest
from fontTools.pens.boundsPen import BoundsPen
from fontTools.svgLib.path import parse_path
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QFileDialog

from sketchloom.app.fields import LengthField
from sketchloom.core.picture import (
    Calm,
    ClearBox,
    ClearColour,
    ClearOutline,
    Crop,
    EvenLight,
    Paint,
    Straighten,
    Turn,
)
from tests.subjects import clicks_round, composite, overlap


@pytest.fixture
def preparing(opened):
    opened.show_step("prepare")
    opened.compare = False
    opened.show_view("Picture")
    return opened


def press(qtbot, window, words):
    qtbot.mouseClick(window.by_key["prepare"].adders[words], Qt.MouseButton.LeftButton)


def at(canvas, x: float, y: float) -> QPoint:
    """Where a px of the picture that is shown lies on the canvas."""
    u, v, w = canvas.scene.picture.source_of @ [x, y, 1.0]
    return canvas.widget_point((u / w, v / w)).toPoint()


def drag(qtbot, canvas, *places: tuple[float, float]):
    points = [at(canvas, *place) for place in places]
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=points[0])
    for point in points[1:]:
        qtbot.mouseMove(canvas, point)
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=points[-1])


def keys(qtbot, widget, *which, modifier=Qt.KeyboardModifier.NoModifier):
    for key in which:
        qtbot.keyClick(widget, key, modifier)


def rows_of(window):
    return window.model.recipe.prepare


def test_rows_are_added_switched_off_moved_removed_and_undone(preparing, qtbot, settled):
    step = preparing.by_key["prepare"]
    press(qtbot, preparing, "Turn right")
    settled(preparing)
    press(qtbot, preparing, "Even the light")
    settled(preparing)
    assert [type(row) for row in rows_of(preparing)] == [Turn, EvenLight]
    step.move_row(1, -1)
    settled(preparing)
    assert [type(row) for row in rows_of(preparing)] == [EvenLight, Turn]
    assert step.chosen == 0
    step.set_row(0, on=False)
    settled(preparing)
    assert not rows_of(preparing)[0].on
    assert preparing.warp.steps[1].shown.figure == "1 change"
    step.remove(0)
    settled(preparing)
    for _ in range(5):
        preparing.commands.run("undo")
    settled(preparing)
    assert rows_of(preparing) == ()
    assert preparing.warp.steps[1].shown.figure == "as opened"


def test_every_adder_adds_its_row_or_takes_its_tool(preparing, qtbot, settled):
    step = preparing.by_key["prepare"]
    for words, button in step.adders.items():
        before = len(rows_of(preparing))
        press(qtbot, preparing, words)
        settled(preparing)
        if button.isCheckable():
            assert preparing.canvas.tool is not None
            assert button.isChecked()
            assert step.hint.isVisible()
        else:
            assert len(rows_of(preparing)) == before + 1
            assert step.chosen == before
            preparing.commands.run("undo")
    keys(qtbot, preparing.canvas, Qt.Key.Key_Escape)
    assert preparing.canvas.tool is None


def test_a_dragged_rectangle_crops_at_its_place_in_the_source(preparing, qtbot, settled):
    press(qtbot, preparing, "Crop")
    drag(qtbot, preparing.canvas, (100, 80), (200, 160), (300, 240))
    settled(preparing)
    (row,) = preparing.model.recipe.prepare
    assert isinstance(row, Crop)
    assert (*row.first, *row.last) == pytest.approx((0.25, 0.2, 0.75, 0.6), abs=0.005)
    assert preparing.model.result.picture.width == pytest.approx(200, abs=3)
    assert not preparing.by_key["prepare"].adders["Crop"].isChecked()


def test_esc_puts_the_tool_away(preparing, qtbot):
    press(qtbot, preparing, "By a box")
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
    press(qtbot, preparing, "By colour")
    settled(preparing)
    step = preparing.by_key["prepare"]
    for reach in (30.0, 40.0, 50.0):
        step.set_row(0, 77, reach=reach)
    preparing.model.rest()
    settled(preparing)
    assert preparing.model.recipe.prepare == (ClearColour(reach=50.0),)
    preparing.commands.run("undo")
    assert preparing.model.recipe.prepare == (ClearColour(),)


def test_a_row_without_a_place_says_so(preparing, qtbot, settled):
    press(qtbot, preparing, "Straighten")
    settled(preparing)
    assert preparing.model.result.prepared.unplaced == (0,)


def test_the_source_step_gives_the_verdict(opened):
    opened.show_step("source")
    assert (
        "cleanly" in opened.by_key["source"].report.verdict.text()
        or "coarse" in opened.by_key["source"].report.verdict.text()
    )


def test_a_line_along_edges_cuts_out_a_subject_with_ten_clicks(window, qtbot, settled, tmp_path):
    rgb, truth = composite("astronaut")
    Image.fromarray(rgb).save(tmp_path / "visitor.png")
    window.open(tmp_path / "visitor.png")
    settled(window)
    window.show_step("prepare")
    press(qtbot, window, "Along edges")
    canvas = window.canvas
    for x, y in clicks_round(truth, 10):
        qtbot.mouseMove(canvas, at(canvas, x, y))
        qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at(canvas, x, y))
        qtbot.waitUntil(lambda: not canvas.tool.busy)
    assert len(canvas.tool.clicks) == 10
    qtbot.keyClick(canvas, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(rows_of(window)) == 1)
    settled(window)
    (row,) = rows_of(window)
    assert isinstance(row, ClearOutline)
    assert overlap(window.model.result.prepared.picture.rgba[..., 3] > 127, truth) >= 0.98
    assert canvas.tool is None


def test_clicks_made_while_a_line_is_worked_out_wait_their_turn(preparing, qtbot):
    press(qtbot, preparing, "Along edges")
    canvas = preparing.canvas
    for place in ((60, 60), (340, 60), (340, 340), (60, 340)):
        qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at(canvas, *place))
    keys(qtbot, canvas, Qt.Key.Key_Backspace)
    qtbot.waitUntil(lambda: not canvas.tool.busy and len(canvas.tool.clicks) == 3)
    assert len(canvas.tool._lines) == 2


def test_a_straight_line_is_drawn_by_keyboard_and_closed(preparing, qtbot, settled):
    press(qtbot, preparing, "By a line")
    canvas = preparing.canvas
    right, down, left, enter = Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Return
    keys(qtbot, canvas, enter, *[right] * 9, enter, *[down] * 9, enter, *[left] * 9, enter)
    assert len(canvas.tool.clicks) == 4
    zoom = canvas.zoom
    qtbot.keyClick(canvas, enter, Qt.KeyboardModifier.ShiftModifier)
    settled(preparing)
    (row,) = rows_of(preparing)
    across = np.ptp([x for x, _ in row.points]) * 400 * zoom
    assert across == pytest.approx(72, abs=0.5)
    alpha = preparing.model.result.prepared.picture.rgba[..., 3]
    assert (alpha > 127).sum() == pytest.approx((72 / zoom) ** 2, rel=0.03)


def test_the_corners_of_a_page_are_dragged_and_nudged(preparing, qtbot, settled):
    press(qtbot, preparing, "Straighten")
    settled(preparing)
    step, canvas = preparing.by_key["prepare"], preparing.canvas
    step.draw_with("corners", 0)
    drag(qtbot, canvas, (40, 40), (30, 30), (20, 20))
    settled(preparing)
    assert rows_of(preparing)[0].corners[0] == pytest.approx((0.05, 0.05), abs=0.005)
    keys(qtbot, canvas, Qt.Key.Key_Tab)
    start, zoom = rows_of(preparing)[0].corners[1], canvas.zoom  # the straightened picture may then be shown larger
    keys(qtbot, canvas, Qt.Key.Key_Left, modifier=Qt.KeyboardModifier.ShiftModifier)
    settled(preparing)
    moved = rows_of(preparing)[0].corners[1]
    assert (start[0] - moved[0]) * 400 * zoom == pytest.approx(1, abs=0.02)
    assert preparing.model.result.prepared.unplaced == ()
    keys(qtbot, canvas, Qt.Key.Key_Return)
    assert canvas.tool is None
    preparing.commands.run("undo")
    assert rows_of(preparing) == (Straighten(),)


def test_a_half_is_mirrored_by_keyboard_and_by_dragging(preparing, qtbot, settled):
    press(qtbot, preparing, "Mirror a half")
    canvas = preparing.canvas
    keys(qtbot, canvas, Qt.Key.Key_Return)
    settled(preparing)
    shown = preparing.model.result.prepared.picture.rgba
    assert np.array_equal(shown, shown[:, ::-1])
    preparing.by_key["prepare"].draw_with("axis", 0)
    drag(qtbot, canvas, (200, 60), (160, 60), (120, 60))
    settled(preparing)
    assert preparing.model.result.prepared.picture.width == pytest.approx(240, abs=3)
    keys(qtbot, canvas, Qt.Key.Key_X)
    settled(preparing)
    shown = preparing.model.result.prepared.picture.rgba
    assert np.array_equal(shown, shown[::-1])
    keys(qtbot, canvas, Qt.Key.Key_Tab, Qt.Key.Key_Up)
    settled(preparing)
    assert rows_of(preparing)[0].keep[1] > rows_of(preparing)[0].first[1]


def test_strokes_of_the_brush_are_one_row_and_each_is_undone(preparing, qtbot, settled):
    press(qtbot, preparing, "Paint in")
    canvas = preparing.canvas
    for y in (60, 120, 180):
        drag(qtbot, canvas, (60, y), (120, y), (200, y))
        settled(preparing)
    (row,) = rows_of(preparing)
    assert isinstance(row, Paint)
    assert len(row.strokes) == 3
    assert canvas.tool is not None
    pixel = preparing.model.result.prepared.picture.rgba[120, 130]
    assert tuple(pixel[:3]) == row.colour
    preparing.commands.run("undo")
    assert len(rows_of(preparing)[0].strokes) == 2
    keys(qtbot, canvas, Qt.Key.Key_Escape)
    press(qtbot, preparing, "Rub out")
    keys(qtbot, canvas, Qt.Key.Key_Return, *[Qt.Key.Key_Right] * 5, Qt.Key.Key_Return)
    settled(preparing)
    assert rows_of(preparing)[1].colour is None
    assert (preparing.model.result.prepared.picture.rgba[..., 3] == 0).any()


def test_a_cut_is_put_right_by_strokes_on_the_row(preparing, qtbot, settled):
    step, canvas = preparing.by_key["prepare"], preparing.canvas
    step.append(ClearBox(first=(0.05, 0.05), last=(0.95, 0.95)))
    settled(preparing)
    step.draw_with("drop", 0)
    drag(qtbot, canvas, (150, 150), (200, 150), (250, 150))
    settled(preparing)
    (row,) = rows_of(preparing)
    assert len(row.drop) == 1
    assert preparing.model.result.prepared.picture.rgba[150, 200, 3] == 0


def test_the_colour_of_a_clicked_place_is_cleared(preparing, qtbot, settled):
    press(qtbot, preparing, "By colour")
    settled(preparing)
    preparing.by_key["prepare"].draw_with("pick", 0)
    qtbot.mouseClick(preparing.canvas, Qt.MouseButton.LeftButton, pos=at(preparing.canvas, 200, 130))
    settled(preparing)
    assert preparing.model.result.prepared.picture.rgba[130, 200, 3] == 0
    assert preparing.model.result.prepared.picture.rgba[5, 5, 3] == 255


def test_a_chosen_row_shows_its_own_before_and_after(preparing, qtbot, settled):
    step, scene = preparing.by_key["prepare"], preparing.canvas.scene
    for row in (Crop(first=(0.1, 0.1), last=(0.9, 0.9)), Turn(quarters=1), Crop(first=(0.2, 0.2), last=(0.5, 0.5))):
        step.append(row)
        settled(preparing)
    done = preparing.model.result.prepared.done
    step.choose(1)
    assert scene.picture is done[1].picture
    assert scene._before is done[0].picture
    step.choose(None)
    assert scene.picture is done[2].picture
    assert scene._before is preparing.model.picture
    step.choose(0)
    preparing.show_step("separate")
    assert scene.picture is done[2].picture


def test_grain_is_typed_in_mm_at_the_finished_size(preparing, qtbot, settled):
    step = preparing.by_key["prepare"]
    step.append(Calm(radius=0.002))
    settled(preparing)
    field = step.rows.itemAt(0).widget().findChild(LengthField)
    assert field.mm == pytest.approx(0.002 * step.longer_mm)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "0.5mm")
    keys(qtbot, field, Qt.Key.Key_Return)
    settled(preparing)
    assert rows_of(preparing)[0].radius * step.longer_mm == pytest.approx(0.5, rel=0.01)


def test_a_box_cut_is_called_off_with_esc(window, qtbot, settled, tmp_path):
    rgb, _ = composite("chelsea", size=500)
    Image.fromarray(rgb).save(tmp_path / "cat.png")
    window.open(tmp_path / "cat.png")
    settled(window)
    window.show_step("prepare")
    window.by_key["prepare"].append(ClearBox(first=(0.05, 0.05), last=(0.95, 0.95)))
    qtbot.waitUntil(lambda: window.model.runner.busy)
    window.canvas.setFocus()
    with qtbot.waitSignal(window.model.runner.cancelled):
        keys(qtbot, window.canvas, Qt.Key.Key_Escape)
    assert window.model.stale
    assert window.model.result.prepared.done == ()


def test_the_picture_to_print_and_its_cut_line_lie_on_each_other(preparing, qtbot, settled, tmp_path, monkeypatch):
    target = tmp_path / "plate.png"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    preparing.model.change("Size", "finish", width=100.0)
    preparing.by_key["prepare"].append(ClearColour())
    settled(preparing)
    card = preparing.by_key["prepare"].print
    card.fold(False)
    card.dpi.setValue(200)
    with qtbot.waitSignal(preparing.model.said):
        card.save.click()
    image = Image.open(target)
    svg = ElementTree.parse(tmp_path / "plate-cut.svg").getroot()
    width_mm = float(svg.get("width").removesuffix("mm"))
    assert image.info["dpi"][0] == pytest.approx(200, abs=0.5)
    assert image.width == pytest.approx(width_mm / 25.4 * 200, abs=1)
    (path,) = svg.iter("{http://www.w3.org/2000/svg}path")
    pen = BoundsPen(None)
    parse_path(path.get("d"), pen)
    rows, columns = np.nonzero(np.asarray(image)[..., 3] > 127)
    printed = np.array([columns.min(), rows.min(), columns.max() + 1, rows.max() + 1]) / 200 * 25.4
    assert np.allclose(pen.bounds, printed, atol=0.2)
    assert path.get("d").count("M") == 1
