import threading

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QSlider

from sketchloom.app.fields import LengthField
from sketchloom.app.theme import DARK, LIGHT, theme
from sketchloom.app.theme.tokens import contrast
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job.stages import trace


@pytest.mark.parametrize("tokens", [LIGHT, DARK])
def test_text_tokens_stand_out_enough(tokens):
    # WCAG 2.1, success criterion 1.4.3: at least 4.5 : 1
    for text in (tokens.ink, tokens.faded, tokens.indigo, tokens.madder, tokens.ochre, tokens.moss):
        for ground in (tokens.linen, tokens.paper):
            assert contrast(text, ground) >= 4.5
    assert contrast(tokens.on_indigo, tokens.indigo) >= 4.5
    assert contrast("#000000", "#FFFFFF") == pytest.approx(21)  # the definition's own extreme


def test_no_colour_literal_outside_the_tokens():
    from pathlib import Path

    import sketchloom.app

    root = Path(sketchloom.app.__file__).parent
    for file in root.rglob("*.py"):
        if file.name != "tokens.py":
            assert "#" not in "".join(part for part in file.read_text().split('"')[1::2] if len(part) in (4, 7))


def test_a_drag_of_a_slider_is_one_step_of_undo(opened, qtbot, settled):
    opened.show_step("trace")
    slider = opened.by_key["trace"].smoothness.slider
    slider.setSliderDown(True)
    for place in (60, 90, 120):
        slider.setValue(place)
        qtbot.wait(30)
    slider.setSliderDown(False)
    settled(opened)
    assert opened.model.recipe.trace.smoothness != 0.015
    opened.commands.run("undo")
    settled(opened)
    assert opened.model.recipe.trace.smoothness == 0.015
    assert opened.model.undo_name is None
    opened.commands.run("redo")
    settled(opened)
    assert opened.model.redo_name is None


def test_the_ink_slider_changes_the_result_while_it_is_dragged(opened, qtbot, settled):
    opened.show_step("separate")
    slider = opened.by_key["separate"].inks.slider
    slider.setSliderDown(True)
    slider.setValue(2)
    qtbot.waitUntil(lambda: len(opened.model.result.stack.layers) == 2)
    slider.setValue(3)
    qtbot.waitUntil(lambda: len(opened.model.result.stack.layers) == 3)
    slider.setSliderDown(False)
    slider.sliderReleased.emit()
    settled(opened)
    assert opened.model.recipe.separate.inks == 3


def test_hold_s_shows_the_source_and_n_the_nodes_but_not_in_a_field(opened, qtbot):
    opened.show_step("layers")
    for key, flag in ((Qt.Key.Key_S, "show_source"), (Qt.Key.Key_N, "show_nodes")):
        qtbot.keyPress(opened.canvas, key)
        assert getattr(opened.canvas, flag)
        qtbot.keyRelease(opened.canvas, key)
        assert not getattr(opened.canvas, flag)
    opened.finder.setFocus()
    qtbot.keyClicks(opened.finder, "sn")
    assert not opened.canvas.show_source
    assert opened.finder.text() == "sn"


def test_holding_s_paints_the_picture_itself(opened, qtbot):
    opened.show_step("layers")
    opened.compare = False
    opened.canvas.fit()
    middle = opened.canvas.rect().center()
    corner = QPointF(5, 5) * opened.canvas.zoom + opened.canvas._offset
    spot = QPoint(int(corner.x()), int(corner.y()))
    ground = opened.canvas.grab().toImage().pixelColor(spot)
    qtbot.keyPress(opened.canvas, Qt.Key.Key_S)
    held = opened.canvas.grab().toImage()
    assert held.pixelColor(spot) == QColor("white")
    assert held.pixelColor(middle).isValid()
    qtbot.keyRelease(opened.canvas, Qt.Key.Key_S)
    assert opened.canvas.grab().toImage().pixelColor(spot) == ground != QColor("white")


def test_no_hairline_shows_between_flush_neighbours(opened, settled):
    """Every painted pixel inside the design is a blend of its inks, never of the canvas ground."""
    opened.show_step("layers")
    opened.canvas.fit()
    image = opened.canvas.grab().toImage()
    x0, y0 = opened.canvas._offset.x(), opened.canvas._offset.y()
    side = 400 * opened.canvas.zoom
    inks = np.array([QColor(layer.ink.hex).getRgb()[:3] for layer in opened.model.result.stack.layers], float)
    worst = 0.0
    for row in range(int(y0 + 0.15 * side), int(y0 + 0.85 * side), 5):
        for column in range(int(x0 + 0.15 * side), int(x0 + 0.85 * side), 1):
            pixel = np.array(image.pixelColor(column, row).getRgb()[:3], float)
            best = 1e9
            for i in range(len(inks)):
                for j in range(i + 1, len(inks)):
                    along = inks[j] - inks[i]
                    t = np.clip((pixel - inks[i]) @ along / (along @ along), 0, 1)
                    best = min(best, float(np.linalg.norm(pixel - inks[i] - t * along)))
            worst = max(worst, best)
    assert worst < 40


def test_the_lift_parts_the_layers_and_puts_them_back(opened):
    opened.show_step("layers")
    flat = opened.canvas.grab().toImage()
    opened.lift.setValue(70)
    assert opened.canvas.grab().toImage() != flat
    opened.lift.setValue(0)
    assert opened.canvas.grab().toImage() == flat


def test_each_view_shows_something_of_its_own(opened):
    opened.compare = False
    seen = []
    for view in opened.over.views:
        opened.show_view(view)
        seen.append(opened.canvas.grab().toImage())
    assert all(one != other for i, one in enumerate(seen) for other in seen[i + 1 :])


def test_the_finder_finds_every_command_by_name_and_runs_it(opened, qtbot):
    qtbot.keyClick(opened.canvas, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    names = [command.name for _, command in opened.commands]
    assert len(set(names)) == len(names)
    for word, name in (("trace", "Go to Trace"), ("unit", "Change the unit: mm, cm, in")):
        opened.finder.setText("")
        qtbot.keyClicks(opened.finder, word)
        assert name in [opened.finder.matches.item(i).text() for i in range(opened.finder.matches.count())]
    opened.finder.setText("")
    qtbot.keyClicks(opened.finder, "go to trace")
    qtbot.keyClick(opened.finder, Qt.Key.Key_Return)
    assert opened.steps[opened.warp.current].key == "trace"


def test_units_change_everywhere(opened):
    opened.next_unit()
    opened.next_unit()
    assert opened.unit == "in"
    assert " in wide" in opened.width_field.text()
    assert opened.ledger.text_at(0, 5).endswith(" in")


def test_a_length_field_takes_sums_and_marks_nonsense(qtbot):
    field = LengthField("Width", lambda: "in")
    qtbot.addWidget(field)
    field.show()
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "19.5in - 1/2in")
    with qtbot.waitSignal(field.committed) as told:
        qtbot.keyClick(field, Qt.Key.Key_Return)
    assert told.args[0] == pytest.approx(482.6)
    field.selectAll()
    qtbot.keyClicks(field, "wide")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.property("wrong") is True
    assert field.mm == pytest.approx(482.6)
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "19.000 in" or field.text().startswith("19.0")


def test_the_ledger_selects_and_flashes_what_changed(opened, settled):
    opened.ledger.selectRow(0)
    top = opened.model.result.stack.layers[3].ink.key
    assert opened.canvas.selected == top
    opened.model.change("Way of building", "layers", build="carried")
    settled(opened)
    rows = opened.ledger._rows
    assert any(rows.change(row, 5) for row in range(4))
    assert opened.canvas.selected == top


def test_an_ink_is_renamed_by_typing_and_undone(opened, qtbot, settled):
    opened.show_step("separate")
    settled(opened)

    def fields():
        return [
            f for f in opened.by_key["separate"].findChildren(QLineEdit) if f.accessibleName().startswith("Name of")
        ]

    first, second = fields()[:2]
    old, other = first.text(), second.text()
    first.setFocus()
    first.selectAll()
    qtbot.keyClicks(first, "  Felt  red ")
    qtbot.keyClick(first, Qt.Key.Key_Return)
    settled(opened)
    qtbot.waitUntil(lambda: [field.text() for field in fields()[:2]] == ["Felt red", other])
    assert "Felt red" in [layer.name for layer in opened.model.result.stack.layers]
    assert opened.model.undo_name == "Name of an ink"
    opened.by_key["separate"].inks.rename(opened.model.result.palette.cut[1], "Felt red")
    settled(opened)
    qtbot.waitUntil(lambda: fields()[1].text() == "Felt red 2")
    opened.model.undo()
    opened.model.undo()
    settled(opened)
    qtbot.waitUntil(lambda: fields()[0].text() == old)


def test_the_next_ink_to_go_and_to_come_is_told(opened, qtbot, settled):
    opened.show_step("separate")
    settled(opened)
    step = opened.by_key["separate"]

    def told():
        return [label.text() for label in step.findChildren(QLabel) if label.text().startswith("One ")]

    palette = opened.model.result.palette.cut
    fewer, more = opened.model.result.choices
    assert more is None
    assert told() == [f"One fewer: {fewer.ink.name} ({100 * fewer.share:.1f} %) joins {fewer.other.name}."]
    step.inks.set_count(len(palette) - 1)
    settled(opened)
    assert fewer.ink.key not in opened.model.result.plan.keys
    qtbot.waitUntil(lambda: any(words.startswith(f"One more: {fewer.ink.name} (") for words in told()))


def test_a_kept_ground_is_an_ink(opened, qtbot, settled):
    opened.show_step("separate")
    qtbot.mouseClick(opened.by_key["separate"].ground.keep, Qt.MouseButton.LeftButton)
    settled(opened)
    assert len(opened.model.result.stack.layers) == 5
    assert opened.by_key["separate"].ground.keep.text() == "Clear it"


def test_the_order_of_layers_can_be_changed(opened, settled):
    names = [opened.ledger.text_at(row, 0) for row in range(4)]
    opened.by_key["layers"].order.move_layer(opened.model.result.stack.layers[-1].ink.key, 1)
    settled(opened)
    assert [opened.ledger.text_at(row, 0) for row in range(4)] == [names[1], names[0], *names[2:]]


def test_an_unforeseen_failure_is_shown_at_its_step_with_details(opened, qtbot, monkeypatch, settled):
    before = opened.model.result

    def broken(*_):
        raise RuntimeError("a spool fell off")

    with monkeypatch.context() as patch:
        patch.setattr(trace, "trace_arcs", broken)
        opened.model.change("Smoothness", "trace", smoothness=0.5)
        qtbot.waitUntil(lambda: bool(opened.by_key["trace"].trouble))
    assert opened.steps[opened.warp.current].key == "trace"
    assert "a spool fell off" in opened.by_key["trace"]._details
    assert opened.model.result.stack is before.stack
    assert opened.model.result.failure.stage == "trace"
    opened.model.change("Smoothness", "trace", smoothness=0.4)
    settled(opened)
    assert not opened.by_key["trace"].trouble


def test_work_can_be_stopped_and_the_last_result_stays(opened, qtbot, monkeypatch):
    before = opened.model.result
    started, go_on = threading.Event(), threading.Event()
    real = trace.trace_arcs

    def slow(*given):
        started.set()
        go_on.wait(10)
        return real(*given)

    monkeypatch.setattr(trace, "trace_arcs", slow)
    opened.model.change("Smoothness", "trace", smoothness=0.5)
    qtbot.waitUntil(started.is_set)
    qtbot.waitUntil(lambda: opened.warp.steps[opened.steps.index(opened.by_key["trace"])].shown.state == "working")
    opened.canvas.setFocus()
    qtbot.keyClick(opened.canvas, Qt.Key.Key_Escape)
    go_on.set()
    qtbot.waitUntil(lambda: not opened.model.runner.busy)
    qtbot.waitUntil(lambda: "Stopped" in opened.notice.text())
    assert opened.model.result is before


def test_the_window_answers_while_it_works(opened, qtbot, monkeypatch):
    """The event loop turns while a stage waits on the worker."""
    real = trace.trace_arcs
    go_on = threading.Event()

    def held_up(*given):
        go_on.wait(60)
        return real(*given)

    monkeypatch.setattr(trace, "trace_arcs", held_up)
    before = opened.model.result
    opened.model.change("Smoothness", "trace", smoothness=0.33)
    for _ in range(20):
        qtbot.wait(5)
        assert opened.model.runner.busy
    go_on.set()
    qtbot.waitUntil(lambda: opened.model.result is not before)
    assert opened.model.result.recipe.trace.smoothness == 0.33


def test_only_the_newest_request_is_shown(opened, qtbot, settled):
    for smoothness in (0.05, 0.06, 0.07, 0.5):
        opened.model.change("Smoothness", "trace", smoothness=smoothness)
    settled(opened)
    opened.show_step("trace")
    assert opened.by_key["trace"].smoothness.field.mm == 0.5
    assert opened.model.result.recipe.trace.smoothness == 0.5


def test_zoom_keeps_the_point_under_the_pointer(opened):
    canvas = opened.canvas
    at = QPointF(300, 200)
    before = (at - canvas._offset) / canvas.zoom
    canvas.zoom_by(2.5, at)
    after = (at - canvas._offset) / canvas.zoom
    assert (before - after).manhattanLength() < 1e-6
    canvas.fit()
    assert canvas.zoom < 2.5


def test_the_canvas_ground_is_never_an_inks_colour(opened):
    from sketchloom.core.regions import lab_of

    ground = QColor(opened.canvas.scene.ground).getRgb()[:3]
    for ink in opened.model.result.palette.cut:
        assert np.linalg.norm(lab_of(ground) - lab_of(ink.shown)) > 15


def test_everything_that_takes_the_focus_has_a_name(opened):
    for kind in (QLineEdit, QSlider, QAbstractButton):
        for widget in opened.findChildren(kind):
            if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.isVisibleTo(opened):
                text = widget.text() if isinstance(widget, QAbstractButton) else ""
                assert widget.accessibleName() or len(text.strip()) > 1, widget


def test_both_themes_dress_the_window(opened):
    for choice, tokens in (("dark", DARK), ("light", LIGHT)):
        theme.choose(choice)
        image = opened.grab().toImage()
        assert image.pixelColor(100, 700) == QColor(tokens.linen)


def test_a_size_that_cannot_be_is_refused_in_the_field(opened, qtbot):
    before = opened.model.recipe
    opened.set_size("width", 1e7)
    assert opened.model.recipe == before
    assert "cannot be cut" in opened.notice.text()
    with pytest.raises(ArgumentError):
        opened.model.recipe.with_("finish", width=1e7).check()
