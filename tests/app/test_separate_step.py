"""The Separate step, driven: inks by hand, ink drawings, line art and photos."""

import io

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QAbstractButton, QColorDialog, QComboBox, QMenu
from skimage import data as photos

from sketchloom.app.steps.separate.ink_row import InkRow
from sketchloom.core.regions import FILLS
from tests.conftest import FOUR_INKS, draw, save_layers

LEAF, BEET = "#4f8a4b", "#8e2a5b"
STROKE = 'stroke="#111" stroke-width="8" stroke-linecap="round" fill="none"'


@pytest.fixture
def show(window, settled, tmp_path):
    """Open a picture at the Separate step."""

    def opened(rgba: np.ndarray, mode: str = "auto"):
        path = tmp_path / "fair_sketch.png"
        Image.fromarray(rgba).save(path)
        window.open(path)
        settled(window)
        if mode != "auto":
            window.model.change("Kind of picture", "separate", mode=mode)
            settled(window)
        window.show_step("separate")
        return window.by_key["separate"]

    return opened


@pytest.fixture
def step(show):
    return show(draw(FOUR_INKS, 400, 200).rgba)


def place(canvas, x: float, y: float) -> QPoint:
    """Where a px of the picture lies on the canvas."""
    u, v, w = canvas.scene.picture.source_of @ [x, y, 1.0]
    return canvas.widget_point((u / w, v / w)).toPoint()


def keys(step) -> list:
    return [ink.key for ink in step.inks_now()]


def row_of(step, key) -> InkRow:
    rows = [step.inks.rows.itemAt(i).widget() for i in range(step.inks.rows.count())]
    return next(row for row in rows if row.ink.key == key)


def do(row: InkRow, words: str, below: str | None = None) -> None:
    """Choose from the menu of an ink."""
    top = menu = row.menu()
    if below:
        menu = next(each for each in top.findChildren(QMenu) if each.title() == below)
    next(action for action in menu.actions() if action.text() == words).trigger()
    top.close()


def test_an_ink_joins_another_by_the_menu_and_is_parted_again(window, qtbot, settled, step):
    beet = next(ink.name for ink in step.inks_now() if ink.key == BEET)
    do(row_of(step, LEAF), beet, below="Join with")
    settled(window)
    assert LEAF not in keys(step) and len(window.model.result.stack.layers) == 3
    assert window.model.undo_name.startswith("Join ")
    button = next(b for b in step.findChildren(QAbstractButton) if b.text() == "Part again")
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    settled(window)
    assert LEAF in keys(step)


def test_an_ink_dropped_on_another_joins_it(window, settled, step):
    data = QMimeData()
    data.setData("application/x-sketchloom-ink", LEAF.encode())
    row = row_of(step, BEET)
    event = QDropEvent(
        QPointF(5, 5), Qt.DropAction.MoveAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    row.dropEvent(event)
    settled(window)
    assert window.model.recipe.separate.joined == ((LEAF, BEET),)
    assert LEAF not in keys(step)
    window.model.undo()
    settled(window)
    assert LEAF in keys(step)


def test_a_locked_ink_stays_when_fewer_are_wanted(window, qtbot, settled, step):
    step.inks.set_count(2)
    settled(window)
    goes = next(key for key in (LEAF, BEET) if key not in keys(step))
    step.inks.set_count(None)
    settled(window)
    qtbot.waitUntil(lambda: step.inks.rows.count() == 4)
    do(row_of(step, goes), "Lock")
    settled(window)
    step.inks.set_count(2)
    settled(window)
    assert goes in keys(step)
    qtbot.waitUntil(lambda: step.inks.rows.count() == 2)
    assert [action.text() for action in row_of(step, goes).menu().actions()].count("Unlock") == 1


def test_an_ink_is_shown_in_another_colour_and_back(window, qtbot, settled, step, monkeypatch):
    from PySide6.QtGui import QColor

    monkeypatch.setattr(QColorDialog, "getColor", lambda *_: QColor(10, 60, 200))
    before = window.model.result.regions.labels
    do(row_of(step, LEAF), "Show in another colour…")
    settled(window)
    qtbot.waitUntil(lambda: row_of(step, LEAF).ink.hex == "#0a3cc8")
    assert window.model.result.regions.labels is before
    assert "#0a3cc8" in [layer.ink.hex for layer in window.model.result.stack.layers]
    do(row_of(step, LEAF), "Show in its own colour")
    settled(window)
    assert "#4f8a4b" in [layer.ink.hex for layer in window.model.result.stack.layers]


def test_an_ink_is_sent_to_the_ground_by_its_menu(window, qtbot, settled, step):
    do(row_of(step, LEAF), "Send to the ground")
    settled(window)
    assert LEAF not in keys(step)
    button = next(b for b in step.findChildren(QAbstractButton) if b.text() == "Restore")
    button.setFocus()
    qtbot.keyClick(button, Qt.Key.Key_Space)
    settled(window)
    assert LEAF in keys(step)


def test_a_click_on_the_picture_selects_the_layer_of_its_ink(window, qtbot, step):
    canvas = window.canvas
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=place(canvas, 200, 300))
    layers = window.model.result.stack.layers
    assert canvas.selected == LEAF in [layer.ink.key for layer in layers]
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=place(canvas, 5, 5))
    assert canvas.selected == ""


def test_a_missed_detail_is_picked_and_then_sent_elsewhere(window, qtbot, settled, show):
    body = FOUR_INKS + '<circle cx="60" cy="160" r="10" fill="#46313d"/>'
    step = show(draw(body, 400, 200).rgba)
    step.inks.set_count(4)
    settled(window)
    canvas = window.canvas
    qtbot.mouseClick(step.picks.pick, Qt.MouseButton.LeftButton)
    assert (
        canvas.tool is not None and canvas.view == "Picture" and step.in_hand.isVisible() and "Esc" in step.hint.text()
    )
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=place(canvas, 120, 320))
    settled(window)
    assert canvas.tool is None and canvas.view == "Regions" and not step.in_hand.isVisible()
    labels = window.model.result.regions.labels
    assert labels[320, 120] != labels[60, 60]
    boxes = step.picks.findChildren(QComboBox)
    assert len(boxes) == 1
    boxes[0].setCurrentIndex(1)
    boxes[0].activated.emit(1)
    settled(window)
    assert window.model.result.regions.labels[320, 120] == 0
    away = next(b for b in step.picks.findChildren(QAbstractButton) if b.accessibleName().startswith("Remove picked"))
    qtbot.mouseClick(away, Qt.MouseButton.LeftButton)
    settled(window)
    assert window.model.recipe.separate.picks == ()


def test_escape_puts_the_tool_away(window, qtbot, step):
    step.draw_with("pick")
    window.canvas.setFocus()
    qtbot.keyClick(window.canvas, Qt.Key.Key_Escape)
    assert window.canvas.tool is None and not step.picks.pick.isChecked()
    step.draw_with("pick")
    window.show_step("trace")
    assert window.canvas.tool is None


@pytest.fixture
def sketch(show):
    pale = '<path d="M20 360H380" stroke="#9a9a9a" stroke-width="8"/>'
    return show(draw(f'<circle cx="200" cy="180" r="110" {STROKE}/>{pale}', 400).rgba, "ink")


def ink_share(window) -> float:
    return float((window.model.result.regions.labels > 0).mean())


def test_the_threshold_is_dragged_on_its_histogram(window, qtbot, settled, sketch):
    histogram = sketch.split.histogram
    low = ink_share(window)
    at = QPoint(round(0.9 * histogram.width()), 40)
    qtbot.mousePress(histogram, Qt.MouseButton.LeftButton, pos=QPoint(histogram.width() // 2, 40))
    qtbot.mouseMove(histogram, at)
    qtbot.mouseRelease(histogram, Qt.MouseButton.LeftButton, pos=at)
    settled(window)
    assert window.model.recipe.separate.threshold == pytest.approx(0.9, abs=0.01)
    assert ink_share(window) > 1.3 * low  # the pale stroke too
    histogram.setFocus()
    qtbot.keyClick(histogram, Qt.Key.Key_Left)
    settled(window)
    assert window.model.recipe.separate.threshold == pytest.approx(0.89, abs=0.01)
    qtbot.mouseClick(sketch.split.find, Qt.MouseButton.LeftButton)
    settled(window)
    assert window.model.recipe.separate.threshold is None and ink_share(window) == low


def test_marks_of_an_ink_drawing_are_chosen(window, qtbot, settled, sketch):
    marks, low = sketch.marks, ink_share(window)
    window.model.change("Threshold", "separate", threshold=0.9)
    settled(window)
    assert ink_share(window) > 1.3 * low
    marks.pale.click()
    settled(window)
    assert marks.pale_slider.isVisible() and ink_share(window) < 1.1 * low
    marks.silhouette.click()
    settled(window)
    assert window.model.result.regions.labels[180, 200] == 1
    marks.silhouette.click()
    settled(window)
    assert window.model.result.regions.labels[180, 200] == 0


def test_ink_of_one_colour_is_picked_from_the_picture(window, qtbot, settled, show):
    body = f'<path d="M40 120H360" {STROKE}/><path d="M40 280H360" {STROKE.replace("#111", "#2850b0")}/>'
    step = show(draw(body, 400).rgba, "ink")
    qtbot.mouseClick(step.marks.pick, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(window.canvas, Qt.MouseButton.LeftButton, pos=place(window.canvas, 200, 281))
    settled(window)
    labels = window.model.result.regions.labels
    assert labels[280, 200] and not labels[120, 200]
    qtbot.mouseClick(step.marks.any, Qt.MouseButton.LeftButton)
    settled(window)
    assert window.model.result.regions.labels[120, 200]


@pytest.fixture
def outlines(show):
    gap = "M320 96A110 110 0 1 0 338 128"
    return show(
        draw(f'<path d="{gap}" {STROKE}/><rect x="40" y="330" width="320" height="50" {STROKE}/>', 400).rgba, "lineart"
    )


def test_leaks_are_listed_shown_and_closed(window, qtbot, settled, outlines):
    window.show_step("tidy")
    leaks = window.by_key["tidy"].leaks
    assert len(window.canvas.gaps) == 1
    before = len(window.model.result.stack.layers)
    close = next(b for b in leaks.findChildren(QAbstractButton) if b.accessibleName() == "Close leak 1")
    qtbot.mouseClick(close, Qt.MouseButton.LeftButton)
    settled(window)
    assert window.canvas.gaps == () and leaks.words.text() == "Every outline closes."
    assert len(window.model.result.stack.layers) == before + 1
    assert window.model.undo_name == "Close a leak"
    window.model.undo()
    settled(window)
    assert len(window.canvas.gaps) == 1
    window.show_step("layers")
    assert window.canvas.gaps == ()


def test_areas_take_the_colour_in_hand_by_clicking(window, qtbot, settled, outlines):
    chip = outlines.colours.chips[5]
    qtbot.mouseClick(chip, Qt.MouseButton.LeftButton)
    assert window.canvas.tool is not None and window.canvas.view == "Regions"
    qtbot.mouseClick(window.canvas, Qt.MouseButton.LeftButton, pos=place(window.canvas, 200, 355))
    settled(window)
    assert FILLS[5] in [layer.ink.shown for layer in window.model.result.stack.layers]
    assert window.canvas.tool is not None  # it stays in hand for the next area
    none = next(c for c in outlines.colours.chips if c.accessibleName() == "No colour")
    qtbot.mouseClick(none, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(window.canvas, Qt.MouseButton.LeftButton, pos=place(window.canvas, 200, 355))
    settled(window)
    assert window.model.result.regions.labels[355, 200] == 0
    qtbot.mouseClick(outlines.colours.again, Qt.MouseButton.LeftButton)
    settled(window)
    assert window.model.recipe.separate.fills == ()


def test_a_photo_is_told_in_flat_colours_with_less_detail(window, qtbot, settled, show):
    step = show(photos.coffee())
    assert window.model.result.road.mode == "photo" and step.photo.isVisible()
    qtbot.mouseClick(step.photo.ways["colour"], Qt.MouseButton.LeftButton)
    settled(window)
    assert not window.model.result.tones.cuts and step.picks.isVisible()
    fine = sum(layer.pieces for layer in window.model.result.stack.layers)
    step.photo.detail.setFocus()
    step.photo.detail.selectAll()
    qtbot.keyClicks(step.photo.detail, "5mm")
    qtbot.keyClick(step.photo.detail, Qt.Key.Key_Return)
    settled(window)
    assert sum(layer.pieces for layer in window.model.result.stack.layers) < fine


def test_drawings_on_clear_ground_opened_together_are_layers_of_one_job(window, settled, tmp_path):
    paths = save_layers(tmp_path)
    window.open(*paths)
    settled(window)
    assert [layer.name for layer in window.model.result.stack.layers] == ["Pot", "Snail"]
    assert len(window.model.held) == 1 and "2 layers" in window.notice.text()
    window.show_step("separate")
    assert not window.by_key["separate"].inks.slider.isVisible()


def test_shades_are_one_group_with_a_slider(show, settled, window):
    oranges = (
        '<circle cx="100" cy="100" r="84" fill="#b35400"/><circle cx="98" cy="98" r="70" fill="#d06a10"/>'
        '<circle cx="94" cy="94" r="50" fill="#e88a28"/><circle cx="80" cy="80" r="6" fill="#222222"/>'
    )
    step = show(draw(oranges, 400, 200).rgba)
    (key,) = step.shades.groups
    group = step.shades.groups[key]
    assert not step.shades.isHidden() and "3 of 3" in group.words.text() and group.slider.maximum() == 3
    group.slider.setValue(1)
    settled(window)
    assert len(step.inks_now()) == 2 and step.shades.groups[key] is group and "1 of 3" in group.words.text()
    group.slider.setValue(2)
    settled(window)
    assert len(step.inks_now()) == 3
    step.shades.back.click()
    settled(window)
    assert len(step.inks_now()) == 4 and step.shades.back.isHidden()
    window.model.undo()
    settled(window)
    assert len(step.inks_now()) == 3


def test_no_shades_no_card(step):
    assert step.shades.isHidden()


def test_a_gradient_has_as_many_bands_as_the_slider_says(show, settled, window):
    sky = (
        '<defs><linearGradient id="g" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#2050a0"/>'
        '<stop offset="1" stop-color="#bfe0ff"/></linearGradient></defs><rect x="20" y="20" width="160" height="160"'
        ' fill="url(#g)"/>'
    )
    step = show(draw(sky, 400, 200).rgba)
    (group,) = step.shades.groups.values()
    assert "gradient" in group.words.text() and group.slider.maximum() == 12
    group.slider.setValue(6)
    settled(window)
    assert len(step.inks_now()) == 6 and len(group.strip.colours) == 6


@pytest.mark.parametrize("quality", [None, 40])
def test_a_worn_picture_is_said_to_be_drawn_anew(show, quality):
    drawn = draw(FOUR_INKS, 400, 200).rgba
    if quality:
        file = io.BytesIO()
        Image.fromarray(drawn[..., :3]).save(file, "JPEG", quality=quality)
        drawn = np.asarray(Image.open(file).convert("RGBA"))
    assert show(drawn).inks.anew.isHidden() == (quality is None)
