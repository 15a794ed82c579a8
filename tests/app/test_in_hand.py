"""The window does what the hand meant: keys, wheel, focus, tools and figures stay with what they are about."""

import re
import threading
import time

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QFontMetrics, QImage, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFileDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QMessageBox,
    QPushButton,
)

from sketchloom.app.fields import Elided, Field
from sketchloom.app.settings import load_settings
from sketchloom.app.tab_order import stops_of
from sketchloom.app.theme.style import font
from sketchloom.app.thing_menu import thing_menu
from sketchloom.app.window import Window
from sketchloom.core.job import read_job
from sketchloom.core.measures import area_words, in_words
from sketchloom.core.picture import Crop, Sharpen, Stroke, Turn
from sketchloom.core.send import SVG, page_of_layers
from sketchloom.core.stock import Stock
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def two(opened, settled, tmp_path):
    """A window with two jobs; the second is in hand."""
    path = tmp_path / "other_plate.png"
    Image.fromarray(draw(FOUR_INKS, 320, 200).rgba).save(path)
    opened.open(path)
    until(lambda: len(opened.model.held) == 2)
    settled(opened)
    return opened


def until(told):
    """Wait for as long as a busy machine needs."""
    end = time.monotonic() + 600
    while not told():
        assert time.monotonic() < end
        QApplication.processEvents()
        QTest.qSleep(2)


def take(window, settled, place):
    held = window.model.held[place]
    window.model.take(held)
    until(lambda: window.model.current is held)
    settled(window)


def shown(root, *kinds):
    return [one for kind in kinds for one in root.findChildren(kind) if one.isVisible() and one.isEnabled()]


def wheel(widget):
    at = QPointF(widget.rect().center())
    over = QPointF(widget.mapToGlobal(widget.rect().center()))
    none, phase = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
    event = QWheelEvent(at, over, QPoint(), QPoint(0, -120), none, Qt.KeyboardModifier.NoModifier, phase, False)
    QApplication.sendEvent(widget, event)


def unfolded(step):
    for card in step.cards:
        card.fold(False)
    return step


# Another job


def test_saving_and_closing_a_job_beside_leave_what_is_seen(two, settled, tmp_path):
    two.show_step("tidy")
    tidy = two.by_key["tidy"]
    tidy.choose_ink(tidy.inks_now()[0].key)
    tidy.halves.way.setCurrentIndex(1)
    tidy.halves._follow()
    two.ledger.select(two.model.result.stack.layers[0].key)
    two.canvas.zoom_by(6.0)
    before = two.canvas.zoom, len(tidy.choice), tidy.halves.axis, two.canvas.selected, tidy.drawing
    assert before[1] and before[2] and before[3] and before[4] == "choose"
    two.model.save(tmp_path / "job.loom")
    until(lambda: two.model.path is not None)
    two.model.put_away(two.model.held[0])
    settled(two)
    assert (two.canvas.zoom, len(tidy.choice), tidy.halves.axis, two.canvas.selected, tidy.drawing) == before
    assert not two.isWindowModified() and len(two.model.held) == 1


def test_a_tool_does_not_work_on_another_job(two, settled):
    prepare = two.by_key["prepare"]
    two.show_step("prepare")
    prepare.draw_with("rub")
    prepare._tool.done.emit(Stroke(((0.5, 0.5), (0.52, 0.5)), 0.02))
    settled(two)
    crop = Crop(first=(0.05, 0.05), last=(0.75, 0.9))
    take(two, settled, 0)
    two.model.change_rows("Crop", (crop,))
    settled(two)
    take(two, settled, 1)
    prepare.draw_with("rub", 0)
    assert prepare.drawing == "rub"
    take(two, settled, 0)
    assert prepare.drawing is None and two.canvas.tool is None and prepare.chosen is None
    QTest.mousePress(two.canvas, Qt.MouseButton.LeftButton, pos=QPoint(300, 250))
    QTest.mouseMove(two.canvas, QPoint(340, 250))
    QTest.mouseRelease(two.canvas, Qt.MouseButton.LeftButton, pos=QPoint(340, 250))
    settled(two)
    assert two.model.recipe.prepare == (crop,)


def test_nodes_details_and_clicks_do_not_outlive_their_job(two, settled):
    trace, layers = two.by_key["trace"], two.by_key["layers"]
    two.show_step("trace")
    trace.draw_with("nodes")
    trace._tool.choose(trace._tool.nodes()[0][3])
    take(two, settled, 0)
    assert trace.drawing is None and two.canvas.tool is None
    QTest.keyClick(two.canvas, Qt.Key.Key_Delete)
    settled(two)
    assert two.model.recipe.trace.edits == ()
    two.show_step("layers")
    layers.detail.look_at((0.5, 0.3))
    assert two.canvas.ring == (0.5, 0.3)
    take(two, settled, 1)
    assert layers.detail._at is None and two.canvas.ring is None


def test_what_is_opened_shows_at_source_and_what_is_taken_stays_where_one_is(two, settled, art):
    two.show_step("trace")
    take(two, settled, 0)
    assert two.step.key == "trace"
    two.open(art)
    until(lambda: len(two.model.held) == 3)
    settled(two)
    assert two.step.key == "source"


# Keys


def test_held_arrows_move_a_node_by_all_their_steps_and_are_one_step_of_undo(opened, settled):
    trace = opened.by_key["trace"]
    opened.show_step("trace")
    trace.draw_with("nodes")
    tool = trace._tool
    nodes, _ = tool.nodes()
    tool.choose(nodes[len(nodes) // 3])
    before = tool._at(tool.node()).copy()
    for _ in range(10):
        QTest.keyClick(opened.canvas, Qt.Key.Key_Right)
    settled(opened)
    moved = (tool._at(tool.node()) - before) / opened.model.result.finished.px_per_mm
    assert moved == pytest.approx([1.0, 0.0], abs=0.02)
    opened.model.undo()
    settled(opened)
    assert opened.model.recipe.trace.edits == () and opened.model.undo_name is None


def test_what_is_done_before_the_last_result_is_there_is_done_on_it(opened, settled):
    """A node is taken out, and another dragged at once: the one that was dragged moves."""
    trace = opened.by_key["trace"]
    opened.show_step("trace")
    trace.draw_with("nodes")
    tool = trace._tool
    nodes, at = tool.nodes()
    arcs = [node.arc for node in nodes]
    arc = max(set(arcs), key=arcs.count)
    own = sorted((node for node in nodes if node.arc == arc), key=lambda node: node.place)
    victim = tool._at(own[len(own) * 2 // 3]).copy()
    tool.choose(own[1])
    opened.canvas.go_to(tool._source(victim), 3.0)
    QTest.keyClick(opened.canvas, Qt.Key.Key_Delete)
    here = tool.on_screen(victim[None])[0].toPoint()
    QTest.mousePress(opened.canvas, Qt.MouseButton.LeftButton, pos=here)
    settled(opened)
    QTest.mouseMove(opened.canvas, here + QPoint(30, 0))
    QTest.mouseRelease(opened.canvas, Qt.MouseButton.LeftButton, pos=here + QPoint(30, 0))
    settled(opened)
    _, at = tool.nodes()
    assert np.hypot(*(at - victim).T).min() > 5
    assert [edit.what for edit in opened.model.recipe.trace.edits] == ["Node deleted", "Node moved"]


def test_two_nodes_taken_out_at_once_are_both_gone(opened, settled):
    trace = opened.by_key["trace"]
    opened.show_step("trace")
    trace.draw_with("nodes")
    tool = trace._tool
    nodes, _ = tool.nodes()
    arcs = [node.arc for node in nodes]
    arc = max(set(arcs), key=arcs.count)
    own = sorted((node for node in nodes if node.arc == arc), key=lambda node: node.place)
    first, second = (np.array(tool._source(tool._at(node))) for node in own[1:3])
    for place in (first, second):  # neighbours: what the first leaves is what the second works on
        tool.chosen = place
        QTest.keyClick(opened.canvas, Qt.Key.Key_Delete)
    settled(opened)
    assert len(tool.nodes()[0]) == len(nodes) - 2
    assert [edit.what for edit in opened.model.recipe.trace.edits] == ["Node deleted"] * 2


def test_held_arrows_move_pieces_by_all_their_steps(opened, settled):
    tidy = opened.by_key["tidy"]
    opened.show_step("tidy")
    one = min(tidy.pieces.cut, key=lambda piece: tidy.pieces.measure(piece).area)
    tidy.choose(tidy.pieces.anchors([one]))
    tidy.draw_with("handles")
    before = np.array(tidy.pieces.box([one]))
    step = np.array(opened.canvas.source_point(QPointF(8, 0))) - np.array(opened.canvas.source_point(QPointF(0, 0)))
    wanted = 4 * step[0] * max(opened.model.picture.width, opened.model.picture.height)
    for _ in range(4):
        QTest.keyClick(opened.canvas, Qt.Key.Key_Right)
    settled(opened)
    found = tidy.pieces.found(tidy.choice)
    assert len(found) == 1
    assert np.array(tidy.pieces.box(found)) - before == pytest.approx([wanted, 0, wanted, 0], abs=1.5)
    opened.model.undo()
    settled(opened)
    assert opened.model.recipe.tidy.work == ()


def test_s_and_n_are_the_windows_wherever_the_focus_is_and_let_go(opened):
    for key in opened.by_key:
        opened.show_step(key)
        for box in shown(unfolded(opened.by_key[key]), QComboBox):
            box.setFocus()
            before = box.currentIndex(), opened.model.recipe
            for code, name in ((Qt.Key.Key_S, "show_source"), (Qt.Key.Key_N, "show_nodes")):
                QTest.keyPress(box, code)
                assert getattr(opened.canvas, name), (key, box.accessibleName())
                QTest.keyRelease(box, code, Qt.KeyboardModifier.ShiftModifier)
                assert not getattr(opened.canvas, name)
            assert (box.currentIndex(), opened.model.recipe) == before
    opened.canvas.setFocus()
    QTest.keyPress(opened.canvas, Qt.Key.Key_Space)
    assert opened.canvas.pans
    opened.finder.setFocus()
    QTest.keyRelease(opened.finder, Qt.Key.Key_Space)
    assert not opened.canvas.pans


def test_the_wheel_over_a_panel_changes_nothing_until_a_control_is_in_hand(opened):
    looked_at = 0
    for key in opened.by_key:
        opened.show_step(key)
        for control in shown(unfolded(opened.by_key[key]), QAbstractSlider, QComboBox, QAbstractSpinBox):
            opened.canvas.setFocus()
            value = (lambda one: one.currentIndex() if isinstance(one, QComboBox) else one.value())(control)
            recipe = opened.model.recipe
            wheel(control)
            looked_at += 1
            assert not control.hasFocus() and opened.model.recipe == recipe
            assert value == (control.currentIndex() if isinstance(control, QComboBox) else control.value())
    assert looked_at > 12
    opened.show_step("tidy")
    sides = opened.by_key["tidy"].shape.size
    sides.setFocus()
    before = sides.value()
    wheel(sides)
    assert sides.value() != before


def test_a_typed_number_is_one_change(opened, settled, qtbot):
    opened.model.change("Backed", "layers", build="backed")
    settled(opened)
    opened.show_step("layers")
    layers = unfolded(opened.by_key["layers"])
    made = []
    opened.model.recipe_changed.connect(lambda: made.append(opened.model.undo_name))
    copies = layers.base.copies
    copies.setFocus()
    copies.selectAll()
    QTest.keyClicks(copies, "12")
    assert made == []
    qtbot.waitUntil(lambda: copies.value() == 12)
    assert made == ["Stiffeners"] and opened.model.recipe.layers.rule("base").copies == 12


# Focus


def test_a_name_that_is_typed_goes_on_over_a_new_result(opened, settled):
    opened.show_step("separate")
    separate = opened.by_key["separate"]
    separate.inks.set_count(3)
    name = next(one for one in shown(separate, Field) if one.accessibleName().startswith("Name of"))
    name.setFocus()
    name.selectAll()
    QTest.keyClicks(name, "Dark")
    called = name.accessibleName()
    settled(opened)
    assert opened.model.recipe.separate.names == ()  # it is not entered yet
    now = QApplication.focusWidget()
    assert isinstance(now, Field) and now.text() == "Dark" and now.accessibleName() == called
    QTest.keyClicks(now, " theme")
    QTest.keyClick(now, Qt.Key.Key_Return)
    assert [value for _, value in opened.model.recipe.separate.names] == ["Dark theme"]
    assert opened.finder.text() == ""


def test_the_focus_stays_with_a_row_that_moves(opened, settled):
    opened.model.change_rows("Rows", (Turn(quarters=1), Sharpen(), Turn(mirror=True)))
    settled(opened)
    opened.show_step("prepare")
    up = next(one for one in shown(opened.by_key["prepare"], QAbstractButton)
              if one.accessibleName() == "Move Mirror up")  # fmt: skip
    up.setFocus()
    QTest.keyClick(up, Qt.Key.Key_Space)
    settled(opened)
    now = QApplication.focusWidget()
    assert now is not up and now.accessibleName() == "Move Mirror up"
    QTest.keyClick(now, Qt.Key.Key_Space)
    settled(opened)
    assert [type(row).__name__ for row in opened.model.recipe.prepare] == ["Turn", "Turn", "Sharpen"]
    assert opened.model.recipe.prepare[0] == Turn(mirror=True)
    assert opened.by_key["prepare"].isAncestorOf(QApplication.focusWidget())  # "up" can do nothing there


@pytest.mark.parametrize("key", ["source", "prepare", "separate", "tidy", "trace", "layers", "check", "sheets", "send"])
def test_tab_goes_as_things_are_read(opened, settled, key):
    opened.model.change_rows("Rows", (Turn(quarters=1), Sharpen()))
    settled(opened)
    opened.show_step(key)
    step = opened.by_key[key]
    opened._order_tabs()  # as every Tab does first: the strip of quiet work may have come meanwhile
    chain, one = [], opened.canvas.nextInFocusChain()
    while one is not opened.canvas:
        if one.isVisible() and one.isEnabled() and one.focusPolicy() & Qt.FocusPolicy.TabFocus:
            chain.append(one)
        one = one.nextInFocusChain()
    parts = {"step": step, "top": opened.top, "warp": opened.warp, "canvas": opened.canvas}
    where = ["ledger" if one is opened.ledger else next((n for n, p in parts.items() if p.isAncestorOf(one)), "none")
             for one in chain]  # fmt: skip
    assert list(dict.fromkeys(where)) == [w for i, w in enumerate(where) if i == 0 or where[i - 1] != w]
    assert "none" not in where and where.index("step") < where.index("ledger")
    assert [one for one in chain if step.isAncestorOf(one)] == [one for one in stops_of(step) if one.isEnabled()]


# Figures


def test_inches_are_followed_everywhere(window, settled, qtbot):
    window.open_demo("snail")
    until(lambda: window.model.current is not None)
    settled(window)
    check = window.by_key["check"].checks
    qtbot.waitUntil(lambda: check.checked is not None)
    assert any("mm" in one.sentence for one in check.checked.findings)
    window.model.change("Slip", "layers", slip=0.5)
    settled(window)
    qtbot.waitUntil(lambda: check.checked is not None)
    while window.unit != "in":
        window.next_unit()
    measure = re.compile(r"\d\s?(mm|cm)²?(?!\w)")
    wrong = []
    for key, step in window.by_key.items():
        window.show_step(key)
        unfolded(step)
        QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        said = [one.text() for one in (*step.findChildren(QLabel), *step.findChildren(QAbstractButton))]
        said += [one.text() for one in step.findChildren(QLineEdit)]
        for rows in step.findChildren(QListWidget):
            said += [part for row in range(rows.count()) for part in (rows.item(row).text(), rows.item(row).toolTip())]
        wrong += [(key, text) for text in said if measure.search(text)]
    assert wrong == []


def test_sentences_and_areas_in_inches():
    assert in_words("Only 0.57 mm wide.", "mm") == "Only 0.57 mm wide."
    assert in_words("Only 0.57 mm wide.", "in") == "Only 0.022 in wide."  # 0.57 / 25.4
    assert in_words("A window of 645.2 mm², under 25.4 mm.", "in") == "A window of 1.00 in², under 1.00 in."
    assert area_words(50.0, "mm") == "50 mm²" and area_words(250.0, "mm") == "2.50 cm²"
    assert area_words(645.16, "in") == "1.00 in²"


def test_an_effect_is_told_of_its_own_change_alone(opened, settled):
    opened.show_step("trace")
    trace = opened.by_key["trace"]
    trace.set_control("smoothness", 0.3)
    settled(opened)
    told = trace.smoothness.aside.text()
    assert "nodes" in told
    opened.model.change("Number of inks", "separate", inks=2)
    settled(opened)
    assert trace.smoothness.aside.text() == ""
    opened.model.undo()
    opened.model.undo()
    settled(opened)
    assert trace.smoothness.aside.text() == ""


def test_ledger_and_trace_count_the_same_layers(opened, settled):
    key = opened.model.result.stack.layers[1].key
    opened.by_key["layers"].rule("Hide", key, hidden=True)
    settled(opened)
    opened.show_step("trace")
    total = opened.ledger.text_at(opened.ledger._rows.rowCount() - 1, 4)
    assert opened.by_key["trace"].figures.nodes.text() == total


def test_order_and_ledger_say_one_number_with_a_base_and_a_gap(opened, settled):
    """As they are sent: a base counts, a gap that parts pieces too, a hidden layer does not."""
    key = opened.model.result.stack.layers[1].key
    opened.model.change("Backed", "layers", build="backed", rim=4.0, rim_gap=1.0)
    settled(opened)
    opened.by_key["layers"].rule("Hide", key, hidden=True)
    settled(opened)
    opened.show_step("layers")
    total = opened.ledger._rows.rowCount() - 1
    by_hand, cut = opened.ledger.text_at(total, 3), opened.ledger.text_at(total, 5)
    told = opened.by_key["layers"].order.now.text()
    assert f"{by_hand if by_hand != '0' else 'none'} by hand, {cut} of cut" in told, (told, by_hand, cut)


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (900, 600)])
def test_the_ledger_shows_its_figures_whole(opened, settled, size):
    opened.resize(*size)
    opened.model.change("Finished size", "finish", width=1234.5)
    settled(opened)
    ledger = opened.ledger
    ledger.resize(ledger.width(), ledger.height())
    QApplication.processEvents()
    figures = QFontMetrics(font(1, font(1).Weight.DemiBold))
    heads = ledger.horizontalHeader().fontMetrics()
    seen = [column for column in range(ledger._rows.columnCount()) if not ledger.isColumnHidden(column)]
    assert {0, 2, 3, 5, 6} <= set(seen)
    assert sum(map(ledger.columnWidth, seen)) <= ledger.viewport().width()
    for column in seen[1:]:
        head = str(ledger._rows.headerData(column, Qt.Orientation.Horizontal, Qt.ItemDataRole.DisplayRole))
        assert heads.horizontalAdvance(head) + 6 <= ledger.columnWidth(column)
        if column > 1:
            for row in range(ledger._rows.rowCount()):
                assert figures.horizontalAdvance(ledger.text_at(row, column)) + 10 <= ledger.columnWidth(column)
    width, height = opened.model.result.finished.size
    assert ledger.text_at(ledger._rows.rowCount() - 1, 7) == f"{width:.1f} × {height:.1f} mm"


# Nothing in the way, nothing lost


def test_undo_says_what_it_takes_back_and_the_title_knows_of_unsaved_work(opened, settled):
    buttons = {one.property("command"): one for one in opened.top.findChildren(QAbstractButton)}
    assert not buttons["undo"].isEnabled() and not buttons["redo"].isEnabled() and not opened.isWindowModified()
    opened.model.change("Smoothness", "trace", smoothness=0.2)
    assert buttons["undo"].isEnabled() and "Smoothness" in buttons["undo"].toolTip() and opened.isWindowModified()
    opened.model.undo()
    assert "Smoothness" in buttons["redo"].toolTip() and not buttons["undo"].isEnabled()
    settled(opened)


def test_leaving_can_save_first(opened, settled, qtbot, monkeypatch, tmp_path):
    path = tmp_path / "kept.loom"
    opened.model.change("Smoothness", "trace", smoothness=0.21)
    settled(opened)
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Cancel)
    opened.close()
    assert opened.isVisible()
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Save)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    opened.close()
    qtbot.waitUntil(lambda: not opened.isVisible())
    assert read_job(path).recipe.trace.smoothness == 0.21


def test_one_shelf_in_the_whole_window_and_its_changes_are_undone(opened, settled):
    layers, check = opened.by_key["layers"], opened.by_key["check"]
    before = opened.model.shelf.things
    opened.model.shelf.add(Stock("Attic felt"))
    opened.show_step("check")
    offered = check.file.stock
    assert "Attic felt" in [offered.itemText(place) for place in range(offered.count())]
    assert opened.model.undo_name == "Stock added"
    opened.model.undo()
    assert opened.model.shelf.things == before and layers.shelf is check.shelf
    opened.model.redo()
    assert [stock.name for stock in opened.model.shelf.things][-1] == "Attic felt"
    settled(opened)


def test_a_wrong_length_marks_its_field_and_says_why_until_it_is_right(opened):
    for field, right in ((opened.width_field, "150mm"), (opened.by_key["tidy"].small.least, "1mm2")):
        usual = field.toolTip()
        opened.show_step("tidy")
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "abc")
        QTest.keyClick(field, Qt.Key.Key_Return)
        assert field.property("wrong") and "abc" in field.toolTip() and field.hasFocus()
        field.selectAll()
        QTest.keyClicks(field, right)
        QTest.keyClick(field, Qt.Key.Key_Return)
        assert not field.property("wrong") and field.toolTip() == usual


def test_what_was_told_under_the_pointer_goes_with_it(opened):
    opened.show_step("tidy")
    tool = opened.by_key["tidy"]._tool
    QTest.mouseMove(opened.canvas, QPoint(opened.canvas.width() // 2, opened.canvas.height() // 2))
    assert tool.words
    QApplication.sendEvent(opened.canvas, QEvent(QEvent.Type.Leave))
    assert tool.words == "" and opened.canvas.outlines.under.isEmpty()


def test_quiet_work_is_told_and_esc_stops_it(opened, settled, qtbot, monkeypatch):
    go_on, started = threading.Event(), threading.Event()
    checks = opened.by_key["check"].checks
    qtbot.waitUntil(lambda: checks.checked is not None and not opened.quiet.busy)

    def work(progress):
        started.set()
        while not go_on.wait(0.01):
            progress("checked", 0.25)

    checks._begin("trying what mends it", 8)
    checks._runner.submit(work, lambda _: None)
    qtbot.waitUntil(lambda: opened.over.quiet_box.isVisible())
    qtbot.waitUntil(lambda: opened.over.quiet_words.text() == "Trying what mends it, 2 of 8")
    opened.canvas.setFocus()
    opened.stop()
    qtbot.waitUntil(lambda: not opened.over.quiet_box.isVisible())
    assert not go_on.is_set() and started.is_set()
    go_on.set()


def test_send_says_that_check_has_not_ended(opened, settled, qtbot):
    check, send = opened.by_key["check"], opened.by_key["send"]
    qtbot.waitUntil(lambda: check.ended)
    opened.show_step("send")
    assert not send.warning.isVisible()
    opened.model.change("Smoothness", "trace", smoothness=0.2)
    qtbot.waitUntil(lambda: not opened.model.stale)
    if not check.ended:
        assert send.warning.isVisible() and "not ended" in send.not_ready.text() and not send.look.isVisible()
    qtbot.waitUntil(lambda: check.ended)
    assert not send.warning.isVisible()


def test_files_are_dropped_anywhere_on_the_window(opened, settled, art):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(art))])
    copy, left, plain = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    entered = QDragEnterEvent(QPoint(1200, 400), copy, data, left, plain)
    opened.dragEnterEvent(entered)
    assert opened.acceptDrops() and entered.isAccepted()
    opened.dropEvent(QDropEvent(QPointF(1200, 400), copy, data, left, plain))
    until(lambda: len(opened.model.held) == 2)
    assert len(opened.model.held) == 2


def test_a_pasted_picture_is_opened_beside_the_window(opened, settled):
    image = QImage(60, 40, QImage.Format.Format_RGB32)
    image.fill(0xFF8E2A5B)
    QApplication.clipboard().setImage(image)
    opened.paste()
    until(lambda: len(opened.model.held) == 2)
    assert opened.model.picture.width == 60 and opened.model.current.fresh


def test_the_menu_of_a_place_says_what_the_thing_there_can_do(opened, settled):
    tidy = opened.by_key["tidy"]
    piece = max(tidy.pieces.cut, key=lambda one: tidy.pieces.measure(one).area)
    at = tidy.pieces.anchors([piece])[0].at
    menu = thing_menu(opened, at)
    actions = {action.text(): action for action in menu.actions()}
    name = opened.model.result.stack.layer(tidy.pieces.measure(piece).key).name
    assert name in actions and "Hide this layer" in actions and "Zoom to it" in actions
    zoom = opened.canvas.zoom
    actions["Zoom to it"].trigger()
    assert opened.canvas.zoom != zoom
    actions["Send it to the ground"].trigger()
    settled(opened)
    assert opened.step.key == "tidy" and [type(one).__name__ for one in opened.model.recipe.tidy.work] == ["Give"]
    menu.deleteLater()


def test_all_commands_are_listed_by_group_and_one_is_done(opened):
    QTest.keyClick(opened.canvas, Qt.Key.Key_F1)
    listed = opened.all_commands
    assert listed.isVisible()
    heads = [listed.tree.topLevelItem(place).text(0) for place in range(listed.tree.topLevelItemCount())]
    assert heads[:4] == ["Files", "Changes", "View", "Window"] and {"Tidy", "Layers", "Check"} <= set(heads)
    QTest.keyClicks(listed.words, "open layers slip")
    QTest.keyClick(listed.words, Qt.Key.Key_Return)
    assert not listed.isVisible() and opened.step.key == "layers" and not opened.by_key["layers"].slip.folded
    QTest.keyClick(opened.canvas, Qt.Key.Key_F1)
    QTest.keyClick(listed.words, Qt.Key.Key_Escape)
    assert not listed.isVisible() and opened.canvas.hasFocus()


def test_a_finding_is_shown_with_what_is_round_it(window, settled, qtbot):
    window.open_demo("snail")
    until(lambda: window.model.current is not None)
    settled(window)
    check = window.by_key["check"]
    qtbot.waitUntil(lambda: check.ended and bool(check.checks.checked.findings))
    window.show_step("check")
    check.look_at(0)
    finding = check.finding
    result = window.model.result
    per_mm = window.canvas.zoom * result.finished.px_per_mm / result.reduction
    seen = min(window.canvas.width(), window.canvas.height()) / per_mm
    size = max(finding.box[2] - finding.box[0], finding.box[3] - finding.box[1])
    assert seen == pytest.approx(max(6 * size, 12.0), rel=0.05)


# Short panels


@pytest.mark.parametrize("unit", ["mm", "in"])
@pytest.mark.parametrize("size", [(1024, 700), (1280, 800)])
def test_no_text_is_cut_off(opened, settled, size, unit):
    """Every text of every step has the room that its font needs; names that are too long end in dots."""
    opened.resize(*size)
    while opened.unit != unit:
        opened.next_unit()
    opened.job_name.setText("A badge with a beetroot and a watering can, the final version for the cutter, really")
    cut = []
    for key, step in opened.by_key.items():
        opened.show_step(key)
        unfolded(step)
        if key == "tidy":
            step.choose_ink(step.inks_now()[0].key)
        settled(opened)
        room = step.parentWidget().width()
        if step.minimumSizeHint().width() > room:
            cut.append((key, "panel", step.minimumSizeHint().width(), room))
        for label in shown(step, QLabel):
            words = label.text()
            if not words or isinstance(label, Elided):
                continue
            if label.wordWrap():
                if label.heightForWidth(label.width()) > label.height() + 2:
                    cut.append((key, words[:50], "too low"))
            elif max(label.fontMetrics().horizontalAdvance(line) for line in words.split("\n")) > label.width() + 1:
                cut.append((key, words[:50], label.width()))
        for field in shown(step, QLineEdit):
            if field.fontMetrics().horizontalAdvance(field.text()) + 8 > field.width():
                cut += [(key, field.text(), field.width())]
        for button in shown(step, QAbstractButton):
            needs = max((button.fontMetrics().horizontalAdvance(line) for line in button.text().split("\n")), default=0)
            if needs > button.width() - 2:
                cut.append((key, button.text(), needs, button.width()))
    assert cut == []
    assert opened.minimumSizeHint().width() <= 1024


@pytest.mark.parametrize("key", ["prepare", "separate", "trace", "check", "send"])
def test_a_step_shows_what_nearly_every_job_needs_in_one_screen(opened, qtbot, key):
    opened.resize(1280, 800)
    opened.show_step(key)
    step = opened.by_key[key]
    qtbot.waitUntil(lambda: step.sizeHint().height() <= step.parentWidget().height())


def test_the_first_cards_of_long_steps_are_in_one_screen(opened):
    opened.resize(1280, 800)
    for key, many in (("tidy", 3), ("layers", 3), ("sheets", 5)):
        opened.show_step(key)
        step = opened.by_key[key]
        QApplication.processEvents()
        first = [card for card in step.cards if card.isVisible()][:many]
        bottom = max(card.mapTo(step, card.rect().bottomLeft()).y() for card in first)
        assert bottom <= step.parentWidget().height()
        assert all(card.folded for card in step.cards if card.isVisible() and card not in step.cards[:4])


def test_the_work_is_shown_on_what_it_lies_on_and_a_layer_of_that_colour_is_left_out(opened, settled, tmp_path):
    layers = opened.by_key["layers"]
    opened.show_step("layers")
    beet = next(layer for layer in opened.model.result.stack.layers if layer.colour == "#8e2a5b")
    opened.canvas.zoom_by(0.5)
    sent = SVG.write(page_of_layers(opened.model.result.stack.cuts))
    layers.behind.take((142, 42, 91))
    settled(opened)
    assert SVG.write(page_of_layers(opened.model.result.stack.cuts)) == sent  # nothing that is cut hangs on it
    assert opened.canvas.scene.ground == "#8e2a5b" and layers.behind.aside.text() == "#8e2a5b"
    corner = opened.canvas.grab().toImage().pixelColor(opened.canvas.width() - 30, opened.canvas.height() - 30)
    assert abs(corner.red() - 142) < 12 and abs(corner.green() - 42) < 12 and abs(corner.blue() - 91) < 12
    unfolded(layers)
    leave = next(
        one for one in shown(layers.behind, QAbstractButton) if one.accessibleName() == f"Leave {beet.name} out"
    )
    leave.click()
    settled(opened)
    assert opened.model.result.stack.layer(beet.key).hidden
    picture = tmp_path / "assembly.png"
    opened.model.save_assembly(picture)
    until(picture.exists)
    assert Image.open(picture).convert("RGB").getpixel((3, 3)) == (142, 42, 91)
    opened.model.undo()
    opened.model.undo()
    settled(opened)
    assert opened.model.recipe.look.behind is None and opened.canvas.scene.ground != "#8e2a5b"


def test_a_double_click_goes_to_the_card_of_the_layer(opened):
    tidy = opened.by_key["tidy"]
    piece = max(tidy.pieces.cut, key=lambda one: tidy.pieces.measure(one).area)
    at = tidy.pieces.anchors([piece])[0].at
    opened.show_step("separate")
    opened.by_key["layers"].layer.fold(True)
    QTest.mouseDClick(opened.canvas, Qt.MouseButton.LeftButton, pos=opened.canvas.widget_point(at).toPoint())
    assert opened.step.key == "layers" and not opened.step.layer.folded
    assert opened.canvas.selected == opened.step.layer.key == tidy.pieces.measure(piece).key
    opened.canvas.zoom_by(3.0)
    zoom = opened.canvas.zoom
    QTest.mouseDClick(opened.canvas, Qt.MouseButton.LeftButton, pos=opened.canvas.widget_point((0.01, 0.01)).toPoint())
    assert opened.canvas.zoom < zoom  # nothing is cut there: all is shown


def test_what_was_opened_before_stands_at_source(opened, settled, art):
    opened.show_step("source")
    recent = opened.by_key["source"].recent
    assert recent.isVisible() and recent.folded
    recent.fold(False)
    (button,) = shown(recent, QPushButton)
    assert button.text().splitlines()[0] == art.name
    button.click()
    until(lambda: len(opened.model.held) == 2)
    settled(opened)
    assert opened.model.current.source == art


def test_the_size_of_the_window_is_remembered(opened, monkeypatch):
    opened.resize(1111, 777)
    opened.close()
    assert load_settings().size == (1111, 777)
    again = Window()
    assert (again.width(), again.height()) == (1111, 777)
    again.measured.close()
    for step in again.steps:
        step.close_down()
    again.model.close()


def test_glitter_and_wood_look_so(opened, settled):
    """Over what is one colour on plain stock, glitter and wood show several."""
    opened.show_step("layers")
    seen = {}
    for name in ("Card", "Glitter film", "Plywood"):
        stock = next(one for one in opened.model.shelf.things if name.lower() in f"{one.name} {one.kind}".lower())
        opened.model.change("Stock", "layers", stock=stock)
        settled(opened)
        image = opened.canvas.grab().toImage()
        x, y = opened.canvas.widget_point((0.3, 0.16)).toTuple()
        seen[name] = len({image.pixel(int(x) + dx, int(y) + dy) for dx in range(24) for dy in range(12)})
    assert seen["Card"] == 1 and seen["Glitter film"] > 5 and seen["Plywood"] > 3
