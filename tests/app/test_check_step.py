"""The Check step, driven through the real window."""

import json

import ezdxf
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton

from sketchloom.app.theme import theme
from sketchloom.core.inspect import KINDS
from sketchloom.core.job import read_job
from sketchloom.core.layers import LayerRule
from tests.app.conftest import PATIENCE
from tests.conftest import svg_text
from tests.drawn import SHOWN, svg

SQUARE = '<path fill="#c03030" d="M5 5h30v30h-30z"/>'


@pytest.fixture
def checked(qtbot, settled):
    """Wait until the newest result is checked, and every fix that is tried unasked was."""

    def wait(window):
        settled(window)
        checks = window.by_key["check"].checks
        qtbot.waitUntil(lambda: checks.checked is not None and not checks.busy, timeout=PATIENCE)
        QApplication.processEvents()
        return window.by_key["check"]

    return wait


@pytest.fixture
def badge(window, checked):
    """The demo badge with deliberately bad settings: too small, traced too roughly, specks and all."""
    window.open_demo()
    step = checked(window)
    window.model.change("Size", "finish", width=60.0, height=None)
    window.model.change("Rough", "trace", smoothness=0.5)
    window.model.change("Specks", "tidy", least_area=0.0)
    window.show_step("check")
    checked(window)
    return step


def kinds(step) -> set[str]:
    return {finding.kind for finding in step.checks.checked.open}


def press(qtbot, button: QPushButton) -> None:
    assert button.isVisibleTo(button.window()) and button.isEnabled()
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def fix_buttons(step) -> list[QPushButton]:
    return [step.one.fixes.itemAt(i).widget() for i in range(step.one.fixes.count())]


def choose(step, kind: str) -> None:
    """Walk the list until a finding of a kind is in hand that something mends."""
    for _ in range(step.findings.rows.count()):
        if step.finding.kind == kind and step.finding.fixes:
            QApplication.processEvents()
            return
        step.findings.walk(1)
    pytest.fail(f"no {kind} in the list")


def test_the_finished_badge_is_ready(window, checked):
    window.open_demo()
    step = checked(window)
    window.show_step("check")
    assert kinds(step) == set()
    assert step.ready.sentence.text() == "Ready to cut: nothing was found."
    assert not step.findings.isVisibleTo(step) and not step.one.isVisibleTo(step)
    assert not step.ready.all.isVisibleTo(step)
    row = window.warp.steps[window.steps.index(step)]
    assert (row.shown.figure, row.shown.state) == ("in order", "done")


def test_a_bad_trace_has_many_kinds_and_every_one_is_cleared_by_its_fix_in_the_window(window, badge, checked, qtbot):
    step = badge
    assert len(kinds(step)) >= 6, kinds(step)
    row = window.warp.steps[window.steps.index(step)]
    assert row.shown.state == "spoils" and "spoil" in row.shown.figure
    assert "Not ready" in step.ready.sentence.text()
    choose(step, "deviation")
    checked(window)
    press(qtbot, fix_buttons(step)[0])
    checked(window)
    assert "deviation" not in kinds(step)
    assert window.model.recipe.trace.smoothness < 0.5
    before = window.model.recipe
    press(qtbot, step.ready.all)
    qtbot.waitUntil(lambda: window.model.recipe != before, timeout=PATIENCE)
    checked(window)
    assert window.model.undo_name == "Mend all that is safe"
    for _ in range(10):  # what the others stood in the way of
        if not kinds(step):
            break
        press(qtbot, fix_buttons(step)[0])
        checked(window)
    assert kinds(step) == set()
    assert "Ready" in step.ready.sentence.text()
    window.model.undo()
    checked(window)
    assert kinds(step)


def test_a_fix_is_one_step_of_undo_and_reaches_the_file(window, badge, checked, qtbot, tmp_path, monkeypatch):
    step = badge
    choose(step, "neck")
    checked(window)
    before = svg_text(window.model.result.stack)
    finding = step.finding
    press(qtbot, fix_buttons(step)[0])
    checked(window)
    assert window.model.undo_name.startswith("Mend: widen")
    assert not any(finding.is_at(other) for other in step.checks.checked.open)
    assert svg_text(window.model.result.stack) != before
    target = tmp_path / "badge.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    window.commands.run("send")
    qtbot.waitUntil(target.exists, timeout=PATIENCE)
    assert target.read_text() == svg_text(window.model.result.stack)
    window.model.undo()
    checked(window)
    assert svg_text(window.model.result.stack) == before
    assert any(finding.is_at(other) for other in step.checks.checked.open)


def test_all_of_a_kind_are_mended_at_once(window, badge, checked, qtbot):
    step = badge
    choose(step, "small")
    checked(window)
    many = sum(one.kind == "small" for one in step.checks.checked.open)
    assert step.one.kind.text() == f"Mend all {many} of this kind"
    before = window.model.recipe
    press(qtbot, step.one.kind)
    qtbot.waitUntil(lambda: window.model.recipe != before, timeout=PATIENCE)
    checked(window)
    left = sum(one.kind == "small" for one in step.checks.checked.open)
    assert (
        left < many / 2 and window.model.undo_name == "Mend all: small piece"
    )  # what no fix holds for stays, and is told
    window.model.undo()
    assert window.model.recipe == before


def test_the_list_is_walked_by_keys_and_the_canvas_goes_there(window, badge, checked, qtbot):
    step = badge
    rows = step.findings.rows
    rows.setFocus()
    places = []
    for _ in range(3):
        qtbot.keyClick(rows, Qt.Key.Key_Down)
        places.append(window.canvas.ring)
        assert step.one.title.text() == KINDS[step.finding.kind].title
        assert not step.one.picture.pixmap().isNull()
        at = window.canvas.widget_point(window.canvas.ring)
        assert abs(at.x() - window.canvas.width() / 2) < 2 and abs(at.y() - window.canvas.height() / 2) < 2
    assert len(set(places)) == 3
    window.canvas.setFocus()
    here = step.finding
    qtbot.keyClick(window.canvas, Qt.Key.Key_Comma)
    assert step.finding != here
    qtbot.keyClick(window.canvas, Qt.Key.Key_Period)
    assert step.finding == here
    severities = [KINDS[one.kind].severity for one in step.checks.checked.findings]
    assert severities == sorted(severities, reverse=True)  # worst first


def listed(step) -> list[str]:
    """Kinds of the findings in the list."""
    rows = step.findings.rows
    places = [rows.item(row).data(Qt.ItemDataRole.UserRole) for row in range(rows.count())]
    return [step.checks.checked.findings[place].kind for place in places]


def pick(box, kind: str) -> None:
    """Choose in a list box as by hand."""
    box.setCurrentIndex(box.findData(kind))
    box.activated.emit(box.currentIndex())


def test_one_kind_alone_is_listed_until_it_is_gone(window, badge, checked, qtbot):
    step = badge
    box, every = step.findings.kinds, step.checks.checked.open
    small = [one for one in every if one.kind == "small"]
    assert listed(step) == [one.kind for one in every] and box.isVisibleTo(step)
    assert box.itemText(0) == f"All kinds ({len(every)})"
    assert box.itemText(box.findData("small")) == f"Small piece ({len(small)})"
    pick(box, "small")
    assert listed(step) == ["small"] * len(small) and step.finding.kind == "small"
    step.findings.walk(-1)
    assert step.finding.kind == "small"
    checked(window)
    press(qtbot, step.one.leave)
    checked(window)
    assert listed(step) == ["small"] * (len(small) - 1)
    window.model.change("Specks", "tidy", least_area=8.0)  # small pieces join a neighbour before they are traced
    checked(window)
    assert "small" not in kinds(step)
    assert box.currentData() == "" and listed(step) == [one.kind for one in step.checks.checked.open]


def test_the_finding_in_hand_stays_in_hand_when_others_go(window, badge, checked):
    step = badge
    step.findings.walk(3)
    held = step.finding
    first = step.checks.checked.open[0]
    assert held != first
    step.checks.leave(step.checks.checked.findings.index(first), "")
    checked(window)
    assert first not in step.checks.checked.open
    assert step.finding.is_still(held) and step.findings.rows.currentRow() == 2


def test_enter_in_the_list_mends_and_delete_leaves(window, badge, checked, qtbot):
    step, rows = badge, badge.findings.rows
    choose(step, "small")
    checked(window)
    rows.setFocus()
    finding = step.finding
    qtbot.keyClick(rows, Qt.Key.Key_Return)
    checked(window)
    assert not any(finding.is_at(other) for other in step.checks.checked.open)
    assert len(window.model.recipe.checks.mends) == 1
    finding = step.finding
    many = sum(one.kind == finding.kind for one in step.checks.checked.findings)
    qtbot.keyClick(rows, Qt.Key.Key_Delete)
    checked(window)
    choose(step, finding.kind)
    assert many > 2 and step.one.kind.text() == f"Mend all {many - 1} of this kind"
    assert [one.kind for one in window.model.recipe.checks.aside] == [finding.kind]
    assert finding not in step.checks.checked.open


def test_nothing_is_mended_before_it_was_tried(window, badge):
    step, said, before = badge, [], window.model.recipe
    window.model.said.connect(said.append)
    step.checks._sure.clear()
    step.mend_one()
    assert window.model.recipe == before and "tried" in said[0]
    step._show()
    assert step.one.trying.isVisibleTo(step) and not fix_buttons(step)


def test_while_nothing_is_known_no_finding_is_listed(window, badge):
    assert badge.findings.isVisibleTo(badge)
    assert badge.findings.show_checked(None, 0) == -1
    assert not badge.findings.isVisibleTo(badge)


def test_a_row_names_the_layer_and_the_measure(window, badge):
    step = badge
    finding, layers = step.finding, step.checks.checked.subject
    words = step.findings.rows.currentItem().text()
    assert layers.layer(finding.layer).name in words and f"{finding.measure:.2f} mm" in words


def test_send_says_what_spoils_the_cut_and_shows_it(window, badge, checked, qtbot):
    send = window.by_key["send"]
    window.show_step("send")
    assert send.not_ready.isVisibleTo(window) and "spoil the cut" in send.not_ready.text()
    assert "worth a look" not in send.not_ready.text()
    press(qtbot, send.look)
    assert window.step is badge
    here = window.model.current
    window.open_demo("snail")
    qtbot.waitUntil(lambda: window.model.current is not here, timeout=PATIENCE)
    assert badge.checks.checked is not None or "not ended" in send.not_ready.text()  # nothing is known of it yet
    other = window.model.current
    checked(window)
    window.model.take(here)
    qtbot.waitUntil(lambda: window.model.current is here, timeout=PATIENCE)
    checked(window)
    assert send.warning.isVisibleTo(send)
    window.model.put_away(other)
    assert send.warning.isVisibleTo(send)
    window.model.change("Size", "finish", width=180.0, height=None)
    window.model.change("Closer", "trace", smoothness=0.015)
    window.model.change("No specks", "tidy", least_area=1.0)
    checked(window)
    window.show_step("send")
    assert not send.warning.isVisibleTo(window)


def test_leave_it_so_puts_a_finding_aside_with_a_word_until_it_is_taken_back(window, badge, checked, qtbot, tmp_path):
    step = badge
    choose(step, "neck")
    finding, count = step.finding, len(step.checks.checked.open)
    step.one.word.setFocus()
    qtbot.keyClicks(step.one.word, "a hinge")
    press(qtbot, step.one.leave)
    checked(window)
    assert len(step.checks.checked.open) == count - 1
    assert not any(one == finding for one in step.checks.checked.open)
    assert window.model.recipe.checks.aside[0].word == "a hinge" and step.one.word.text() == ""
    assert step.left.isVisibleTo(step) and step.left.aside.text() == "1"
    job = tmp_path / "badge.loom"
    window.model.save(job)
    qtbot.waitUntil(job.exists, timeout=PATIENCE)
    qtbot.waitUntil(lambda: not window.model.dirty, timeout=PATIENCE)
    assert read_job(job).recipe.checks == window.model.recipe.checks
    step.left.take_back(0)
    checked(window)
    assert len(step.checks.checked.open) == count


def test_limits_are_shown_and_changed_for_the_job(window, checked, qtbot):
    window.open_demo()
    step = checked(window)
    window.show_step("check")
    field = step.limits.fields["neck"]
    step.limits.fold(False)
    assert field.text() == "0.80 mm" and not step.limits.resets["neck"].isVisibleTo(step)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "6 mm")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    checked(window)
    assert window.model.recipe.checks.limits == (("neck", 6.0),)
    assert kinds(step) >= {"neck"}
    press(qtbot, step.limits.resets["neck"])
    checked(window)
    assert window.model.recipe.checks.limits == () and kinds(step) == set()
    angle = step.limits.fields["sharp"]
    angle.setFocus()
    angle.selectAll()
    qtbot.keyClicks(angle, "100")
    qtbot.keyClick(angle, Qt.Key.Key_Return)
    checked(window)
    assert window.model.recipe.checks.limits == (("sharp", 100.0),) and kinds(step) == {"sharp"}
    assert not step.findings.kinds.isVisibleTo(step)  # there is only one
    said = []
    window.model.said.connect(said.append)
    step.limits.set_limit("sharp", -3.0)
    assert said and window.model.recipe.checks.limits == (("sharp", 100.0),)


def test_mends_are_listed_and_taken_back_one_by_one(window, badge, checked, qtbot):
    step = badge
    before = window.model.recipe
    press(qtbot, step.ready.all)
    qtbot.waitUntil(lambda: window.model.recipe != before, timeout=PATIENCE)
    checked(window)
    count = len(window.model.recipe.checks.mends)
    assert count > 3 and step.mends.aside.text() == str(count)
    step.mends.take_back(0)
    checked(window)
    assert len(window.model.recipe.checks.mends) == count - 1
    press(qtbot, step.mends.all) if not step.mends.folded else step.mends.all.click()
    checked(window)
    assert window.model.recipe.checks.mends == () and not step.mends.isVisibleTo(step)


def test_a_finding_that_nothing_mends_says_so(window, badge, checked):
    step = badge
    said = []
    window.model.said.connect(said.append)
    finding = step.finding
    step.checks._sure[step._place] = finding._replace(fixes=())
    step.mend_one()
    assert said and "Nothing mends" in said[-1]


@pytest.mark.parametrize("name", ["drawing.svg", "drawing.dxf"])
def test_a_file_from_elsewhere_is_checked_and_saved_mended(opened, checked, qtbot, tmp_path, monkeypatch, name):
    window = opened
    step, recipe = checked(window), window.model.recipe
    window.show_step("check")
    path, mended = tmp_path / name, tmp_path / "mended.svg"
    if name.endswith("svg"):
        path.write_text(svg(SHOWN["neck"]))
    else:
        document = ezdxf.new()
        document.header["$INSUNITS"] = 4
        document.modelspace().add_lwpolyline(
            [(0, 0), (15, 0), (15, 7), (25, 7), (25, 0), (40, 0), (40, 15), (25, 15), (25, 7.5), (15, 7.5), (15, 15),
             (0, 15)], close=True)  # fmt: skip
        document.saveas(path)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(mended), ""))
    card = step.file
    press(qtbot, card.open)
    qtbot.waitUntil(lambda: card.sentence.isVisibleTo(step), timeout=PATIENCE)
    assert "Not ready" in card.sentence.text() and card.rows.count() == 1
    before = path.read_bytes()
    press(qtbot, card.save)
    qtbot.waitUntil(mended.exists, timeout=PATIENCE)
    assert path.read_bytes() == before and window.model.recipe == recipe
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(mended), ""))
    press(qtbot, card.open)
    qtbot.waitUntil(lambda: "mended.svg: Ready" in card.sentence.text(), timeout=PATIENCE)
    card.width.setFocus()
    card.width.selectAll()
    qtbot.keyClicks(card.width, "20 mm")
    qtbot.keyClick(card.width, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "Not ready" in card.sentence.text(), timeout=PATIENCE)  # half as large, half as wide


def test_a_file_that_cannot_be_read_is_one_sentence(opened, checked, qtbot, tmp_path, monkeypatch):
    window = opened
    step = checked(window)
    window.show_step("check")
    path = tmp_path / "bad.svg"
    path.write_text("<svg")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    press(qtbot, step.file.open)
    qtbot.waitUntil(lambda: bool(step.trouble), timeout=PATIENCE)
    assert "bad.svg" in step.trouble and window.model.result is not None


def test_the_step_is_dressed_in_both_themes_and_in_inches(window, badge, checked):
    step = badge
    theme.choose("dark")
    window.next_unit()
    window.next_unit()
    checked(window)
    assert "in" in step.one.measure.text()
    theme.choose("light")
    assert step.findings.rows.count() == len(step.checks.checked.open)


def test_a_stock_with_other_limits_is_checked_by_them(window, checked):
    window.open_demo()
    step = checked(window)
    board = next(stock for stock in step.shelf.things if stock.name == "Grey board")
    window.model.change("Stock", "layers", stock=board)
    window.show_step("check")
    checked(window)
    necks = [one for one in step.checks.checked.open if one.kind == "neck"]
    assert necks and all(one.limit == board.least_piece for one in necks)
    assert json.dumps(sorted(kinds(step)))


def test_what_cannot_be_checked_says_why(window, badge, settled, qtbot):
    step = badge
    rules = tuple(LayerRule(layer.key, hidden=True) for layer in window.model.result.stack.layers)
    window.model.change("All hidden", "layers", rules=rules)
    qtbot.waitUntil(lambda: window.model.result.failure is not None, timeout=PATIENCE)
    window.show_step("check")
    assert "hidden" in step.ready.sentence.text() and step.checks.checked is None
    window.model.undo()
    qtbot.waitUntil(lambda: step.checks.checked is not None, timeout=PATIENCE)
    assert "hidden" not in step.ready.sentence.text()


def test_every_row_gets_a_picture_of_its_place_if_not_at_once(badge, qtbot):
    rows = badge.findings.rows
    qtbot.waitUntil(lambda: not badge.findings._undrawn)
    assert rows.count() > 3
    for number in range(rows.count()):
        image = rows.item(number).icon().pixmap(rows.iconSize()).toImage()
        seen = {image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}
        assert len(seen) > 2, number  # more than the empty ground
