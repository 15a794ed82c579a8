"""Nothing asked for is lost: files are written in their turn, gestures end in full results, steps are current."""

import threading
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QFileDialog, QPushButton

from sketchloom.app.runner import Runner
from sketchloom.app.start import make_application
from sketchloom.app.steps.tidy.drawing import FORMS
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import read_job
from sketchloom.core.job.stages import trace
from sketchloom.core.picture import Calm, EvenLight, Turn
from sketchloom.core.regions import Pick
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def held_up(monkeypatch):
    """Tracing waits until it is let go on."""
    go_on, started, real = threading.Event(), threading.Event(), trace.trace_arcs

    def slow(*given):
        started.set()
        go_on.wait(60)
        return real(*given)

    monkeypatch.setattr(trace, "trace_arcs", slow)
    slow_one = type("HeldUp", (), {"go_on": go_on, "started": started})
    yield slow_one
    go_on.set()


@pytest.fixture
def large(window, settled, tmp_path):
    """A window with a picture so large that gestures show previews."""
    path = tmp_path / "large_plate.png"
    Image.fromarray(draw(FOUR_INKS, 1000, 200).rgba).save(path)
    window.open(path)
    settled(window)
    return window


def idle(qtbot, window) -> None:
    qtbot.waitUntil(lambda: not window.model.runner.busy)


def test_a_save_during_a_run_happens_with_what_was_in_force_when_it_was_asked(opened, qtbot, held_up, tmp_path):
    opened.model.change("Smoothness", "trace", smoothness=0.2)
    qtbot.waitUntil(held_up.started.is_set)
    opened.model.save(tmp_path / "job.loom")
    opened.model.send(tmp_path / "out.svg", each=False)
    opened.model.change("Smoothness", "trace", smoothness=0.3)
    opened.model.change("Number of inks", "separate", inks=2)
    held_up.go_on.set()
    idle(qtbot, opened)
    assert read_job(tmp_path / "job.loom").recipe.trace.smoothness == 0.2
    assert (tmp_path / "out.svg").read_text().count("<path") == 4
    qtbot.waitUntil(lambda: len(opened.model.result.stack.layers) == 2)


def test_esc_stops_the_work_but_no_file_that_was_asked_for(opened, qtbot, held_up, tmp_path):
    opened.model.change("Smoothness", "trace", smoothness=0.2)
    qtbot.waitUntil(held_up.started.is_set)
    opened.model.save(tmp_path / "job.loom")
    opened.commands.run("stop")
    held_up.go_on.set()
    idle(qtbot, opened)
    assert (tmp_path / "job.loom").exists()


def test_closing_waits_for_a_file_that_was_asked_for(opened, qtbot, held_up, tmp_path):
    opened.model.change("Smoothness", "trace", smoothness=0.2)
    qtbot.waitUntil(held_up.started.is_set)
    opened.model.save(tmp_path / "job.loom")
    held_up.go_on.set()
    opened.model.close()
    assert (tmp_path / "job.loom").exists()


def test_a_job_is_saved_without_a_run_and_says_so_in_its_file(opened, qtbot, settled, held_up, tmp_path):
    opened.model.save(tmp_path / "whole.loom")
    idle(qtbot, opened)
    assert not held_up.started.is_set()
    opened.model.change("All to the ground", "separate", grounded=opened.model.result.plan.keys)
    qtbot.waitUntil(lambda: bool(opened.by_key["separate"].trouble))
    opened.model.save(tmp_path / "failing.loom")  # a recipe that fails can be saved
    qtbot.waitUntil(lambda: not opened.model.dirty)
    import zipfile

    names = [sorted(zipfile.ZipFile(tmp_path / f"{name}.loom").namelist()) for name in ("whole", "failing")]
    assert names == [
        ["job.json", "layers.svg", "pictures/harvest_plate.png", "preview.png"],
        ["job.json", "pictures/harvest_plate.png"],
    ]
    opened.open(tmp_path / "failing.loom")
    qtbot.waitUntil(lambda: opened.model.path == tmp_path / "failing.loom")
    qtbot.waitUntil(lambda: "Nothing is left to cut" in opened.by_key["separate"].trouble)


def test_a_change_while_a_picture_opens_does_not_call_the_opening_off(opened, qtbot, settled, held_up, tmp_path):
    path = tmp_path / "second.png"
    Image.fromarray(draw('<circle cx="100" cy="100" r="60" fill="#205080"/>').rgba).save(path)
    opened.open(path)
    qtbot.waitUntil(held_up.started.is_set)
    opened.model.change("Smoothness", "trace", smoothness=0.3)
    held_up.go_on.set()
    qtbot.waitUntil(lambda: opened.job_name.text() == "Second")
    settled(opened)
    assert len(opened.model.result.stack.layers) == 1
    first = opened.model.held[0]
    assert first.history.recipe.trace.smoothness == 0.3 and first.dirty


def test_a_pasted_picture_is_unsaved_work(window, qtbot, settled, tmp_path):
    image = QImage(60, 60, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    for x in range(20, 40):
        for y in range(20, 40):
            image.setPixelColor(x, y, Qt.GlobalColor.darkBlue)
    QApplication.clipboard().setImage(image)
    window.commands.run("paste")
    settled(window)
    assert window.model.dirty
    window.model.save(tmp_path / "pasted.loom")
    qtbot.waitUntil(lambda: not window.model.dirty)
    window.open_demo()
    qtbot.waitUntil(lambda: window.job_name.text() == "Fair badge")
    assert not window.model.dirty


@pytest.mark.parametrize("tool", ["axis", "corners"])
def test_a_gesture_of_a_tool_ends_in_a_full_result(large, qtbot, settled, tool):
    large.show_step("prepare")
    step = large.by_key["prepare"]
    step.draw_with(tool)
    drawn = (
        ((0.45, 0.0), (0.45, 1.0), (0.2, 0.5)) if tool == "axis" else ((0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9))
    )
    large.canvas.tool.done.emit(drawn)
    qtbot.waitUntil(lambda: large.model.result.reduction < 1)
    settled(large)  # also while the tool stays in hand
    assert large.canvas.tool is not None
    large.canvas.tool.done.emit(drawn[::-1] if tool == "corners" else (drawn[0], drawn[1], (0.8, 0.5)))
    step.draw_with(None)
    settled(large)
    assert large.model.result.reduction == 1


def test_a_drag_shows_previews_and_then_the_full_result(large, qtbot, settled, monkeypatch):
    seen = []
    large.model.result_ready.connect(lambda: seen.append(large.model.result))
    slider = large.by_key["trace"].smoothness.slider
    large.show_step("trace")
    slider.setSliderDown(True)
    for place in (60, 90, 120):
        slider.setValue(place)
        qtbot.waitUntil(lambda: bool(seen) and seen[-1].recipe == large.model.recipe)
        preview = seen[-1]
        assert preview.reduction == 0.5
        assert [layer.ink for layer in preview.stack.layers] == [layer.ink for layer in large.model.result.stack.layers]
    slider.setSliderDown(False)
    settled(large)
    assert large.model.result.recipe.trace.smoothness == preview.recipe.trace.smoothness
    # with previews broken there is none of them, and the full result comes all the same
    real = large.model.pipeline.results

    def broken(*given, preview=False, **more):
        if preview:
            raise RuntimeError("no preview")
        return real(*given, **more)

    monkeypatch.setattr(large.model.pipeline, "results", broken)
    failures = []
    large.model.failed.connect(lambda *told: failures.append(told))
    large.model.change("Smoothness", "trace", gesture=1, smoothness=0.5)
    qtbot.waitUntil(lambda: bool(failures))  # what previews are made by is really asked for them
    large.model.rest()
    settled(large)


def test_dragging_out_and_back_leaves_no_step_to_undo(opened, settled):
    for smoothness in (0.2, 0.3, 0.015):
        opened.model.change("Smoothness", "trace", gesture=5, smoothness=smoothness)
    settled(opened)
    assert opened.model.undo_name is None and not opened.model.dirty


def test_steps_show_the_recipe_at_once(opened, qtbot, settled, held_up):
    opened.show_step("prepare")
    step = opened.by_key["prepare"]
    held_up.go_on.set()
    for row in (EvenLight(), Turn(quarters=1)):
        step.append(row)
        settled(opened)
    held_up.go_on.clear()
    held_up.started.clear()
    opened.model.change("Smoothness", "trace", smoothness=0.3)
    qtbot.waitUntil(held_up.started.is_set)
    opened.model.undo()
    opened.model.undo()
    assert step.rows.count() == len(opened.model.recipe.prepare) == 1
    held_up.go_on.set()
    settled(opened)


def test_what_a_row_says_does_nothing_once_the_row_has_gone(opened, qtbot, settled):
    opened.show_step("prepare")
    step = opened.by_key["prepare"]
    step.append(EvenLight())
    step.append(Calm(radius=0.003))
    settled(opened)
    card = step.rows.itemAt(1).widget()
    remove = next(b for b in card.findChildren(QPushButton) if b.accessibleName().startswith("Remove"))
    switch = card.findChild(QCheckBox)
    opened.model.undo()
    before = opened.model.recipe
    remove.click()
    switch.click()
    step.set_row(5, on=False)
    step.move_row(0, 1)
    step.draw_with("corners", 3)
    assert opened.model.recipe == before
    settled(opened)


def test_what_a_pick_says_is_done_to_that_pick_or_to_none(opened, qtbot, settled):
    opened.show_step("separate")
    step = opened.by_key["separate"]
    picks = (Pick((0.5, 0.75), key="#4f8a4b-2"), Pick((0.3, 0.2), key="#3a2a33-2"))
    opened.model.change("Picks", "separate", picks=picks)
    settled(opened)
    boxes = step.picks.findChildren(QComboBox)
    opened.model.change("First pick taken back", "separate", picks=picks[1:])
    boxes[0].activated.emit(1)  # the row of the pick that has gone
    assert opened.model.recipe.separate.picks == picks[1:]
    boxes[1].activated.emit(1)
    assert opened.model.recipe.separate.picks[0].ground
    opened.model.undo()
    opened.show_step("layers")
    settled(opened)


def test_the_last_ink_sent_to_the_ground_can_be_brought_back(opened, qtbot, settled):
    opened.show_step("separate")
    step = opened.by_key["separate"]
    opened.model.change("One ink", "separate", inks=1)
    settled(opened)
    step.inks.send_to_ground(step.inks_now()[0])
    qtbot.waitUntil(lambda: bool(step.trouble))
    assert step.inks_now() == () and step.inks.rows.count() == 0
    back = next(b for b in step.findChildren(QPushButton) if b.text() == "Restore" and not b.isHidden())
    qtbot.mouseClick(back, Qt.MouseButton.LeftButton)
    settled(opened)
    assert not step.trouble and len(opened.model.result.stack.layers) == 1


def test_a_rename_and_a_recolour_show_everywhere(opened, qtbot, settled):
    opened.show_step("separate")
    step, beet = opened.by_key["separate"], "#8e2a5b"
    step.inks.rename(step.palette_now()[beet], "Felt")
    step.inks.recolour(step.palette_now()[beet], (0, 80, 160))
    settled(opened)
    opened.show_step("layers")
    order = opened.by_key["layers"].order
    names = [order.layers.item(i).text() for i in range(order.layers.count())]
    assert names == [layer.name for layer in reversed(opened.model.result.stack.layers)]
    assert "Felt" in names and opened.ledger.text_at(names.index("Felt"), 0) == "Felt"
    order.move_layer(opened.model.result.stack.layers[-1].ink.key, 1)
    settled(opened)
    assert [layer.name for layer in reversed(opened.model.result.stack.layers)] == [names[1], names[0], *names[2:]]
    regions = opened.canvas.scene._regions.toImage()
    assert regions.pixelColor(200, 200).getRgb()[:3] == (0, 80, 160)


def test_a_failure_is_shown_at_its_own_stage(qtbot):
    make_application()
    runner, told = Runner(), []
    runner.failed.connect(lambda *values: told.append(values[0]))
    runner.enqueue(lambda progress: progress("send", 1.0), lambda _: None, "send")

    def wrong(progress):
        raise ArgumentError("A smoothness is wrong.")

    runner.enqueue(wrong, print, "open")
    qtbot.waitUntil(lambda: bool(told))
    assert told == ["open"]
    runner.close()


def test_tasks_are_never_replaced_and_results_are(qtbot):
    make_application()
    runner, seen, go_on = Runner(), [], threading.Event()
    runner.submit(lambda progress: go_on.wait(30) and progress("trace", 0.5), lambda _: seen.append("old"))
    for name in ("one", "two"):
        runner.enqueue(lambda progress, name=name: name, seen.append, "send", must=True)
        runner.submit(lambda progress, name=name: f"result {name}", seen.append)
    go_on.set()
    qtbot.waitUntil(lambda: not runner.busy and len(seen) == 3)
    assert seen == ["one", "two", "result two"]
    runner.close()


def test_two_pages_asked_for_one_after_the_other_leave_one_job(window, qtbot, settled, tmp_path):
    pages = [Image.fromarray(draw(FOUR_INKS, 200).rgba[..., :3]) for _ in range(3)]
    pages[0].save(tmp_path / "p.pdf", "PDF", save_all=True, append_images=pages[1:], resolution=150)
    window.open(tmp_path / "p.pdf")
    settled(window)
    window.model.take_page(2, 300.0)
    window.model.take_page(3, 300.0)
    qtbot.waitUntil(lambda: window.model.job.page == 3)
    idle(qtbot, window)
    assert len(window.model.held) == 1


def test_a_tool_that_failed_takes_clicks_again(opened, qtbot, settled, monkeypatch):
    import sketchloom.app.canvas.tools.outline as outline

    opened.show_step("prepare")
    step = opened.by_key["prepare"]
    step.draw_with("edges")
    tool, real = opened.canvas.tool, outline.EdgeFollower

    def broken(*_):
        raise RuntimeError("no edges today")

    monkeypatch.setattr(outline, "EdgeFollower", broken)
    tool.release(QPointF(300, 300))
    qtbot.waitUntil(lambda: "no edges today" in step._details)
    monkeypatch.setattr(outline, "EdgeFollower", real)
    qtbot.waitUntil(lambda: not tool.busy)
    step.draw_with("edges")
    opened.canvas.tool.release(QPointF(350, 300))
    qtbot.waitUntil(lambda: len(opened.canvas.tool.clicks) == 1)


def test_a_file_that_could_not_be_opened_is_not_remembered(window, qtbot, settled, art, tmp_path):
    window.open(tmp_path / "missing.png")
    qtbot.waitUntil(lambda: "not there" in window.notice.text())
    window.open(art)
    settled(window)
    assert [Path(name).name for name in window.settings.recent] == [art.name]


def test_typing_a_width_and_undoing_it_needs_no_mouse(opened, qtbot, settled):
    field = opened.width_field
    for key, text in ((Qt.Key.Key_Return, "70"), (Qt.Key.Key_Escape, "90")):
        field.setFocus()
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, key)
        qtbot.waitUntil(lambda: QApplication.focusWidget() is opened.canvas)
    assert opened.model.recipe.finish.width == 70.0
    qtbot.keyClick(opened.canvas, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert opened.model.recipe.finish.width is None
    settled(opened)


def test_nothing_stands_there_that_can_do_nothing(window, qtbot, settled, art):
    for part in (
        window.width_field,
        window.height_field,
        window.over._tabs,
        window.over._zoom_box,
        window.over.lift_box,
    ):
        assert not part.isVisible()
    window.open(art)
    settled(window)
    assert window.width_field.isVisible() and window.over._tabs.isVisible()
    assert not window.over.lift_box.isVisible()
    window.show_step("layers")
    assert window.over.lift_box.isVisible()
    window.show_view("Paths")
    assert not window.over.lift_box.isVisible()


def test_a_hint_goes_with_its_tool(opened, qtbot):
    opened.show_step("trace")
    step = opened.by_key["trace"]
    step.draw_with("nodes")
    assert step.in_hand.isVisible() and "Tab goes to the next" in step.hint.text()
    opened.show_step("layers")
    assert opened.canvas.tool is None and not step.in_hand.isVisible()
    assert "Tab" not in opened.notice.text()


def test_a_card_is_folded_by_its_heading_and_stays_so(opened, qtbot, window):
    card = opened.by_key["trace"].straight
    opened.show_step("trace")
    assert card.folded and not card.field.isVisible()
    qtbot.mouseClick(card.title.parentWidget(), Qt.MouseButton.LeftButton)
    assert card.field.isVisible()
    from sketchloom.app.settings import load_settings

    assert load_settings().folds == (("trace/Straight lines", False),)


def test_the_totals_stay_in_sight_and_compare_with_their_own_job(window, qtbot, settled, tmp_path):
    rng = np.random.default_rng(2)
    body = "".join(
        f'<rect x="{10 + 45 * (i % 4)}" y="{10 + 45 * (i // 4)}" width="40" height="40" '
        f'fill="rgb({",".join(map(str, rng.integers(0, 220, 3)))})"/>'
        for i in range(12)
    )
    for name, drawing in (("twelve", body), ("one", '<circle cx="100" cy="100" r="60" fill="#205080"/>')):
        Image.fromarray(draw(drawing).rgba).save(tmp_path / f"{name}.png")
    window.open(tmp_path / "twelve.png")
    settled(window)
    totals = window.ledger._totals
    assert totals.isVisible()
    assert totals.geometry().bottom() == window.ledger.viewport().geometry().bottom()
    window.open(tmp_path / "one.png")
    qtbot.waitUntil(lambda: window.job_name.text() == "One")
    settled(window)
    assert not window.ledger._rows.changes and not totals.isVisible()
    window.model.change("Finished width", "finish", width=80.0)
    settled(window)
    assert window.ledger._rows.changes


def test_layers_are_sent_in_a_format_that_the_name_says_or_not_at_all(opened, qtbot, settled, tmp_path, monkeypatch):
    for name, there in (("plate.bmp", False), ("plate", True), ("other.SVG", True)):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, name=name: (str(tmp_path / name), ""))
        opened.dialogs.send(False)
        idle(qtbot, opened)
        written = [path for path in tmp_path.iterdir() if path.stem == Path(name).stem]
        assert bool(written) == there
    assert sorted(path.name for path in tmp_path.iterdir()) == ["harvest_plate.png", "other.SVG", "plate.svg"]


def test_everything_fits_at_1024_by_700(opened, qtbot):
    opened.resize(1024, 700)
    opened.show_step("layers")
    qtbot.wait(20)
    tabs, lift = opened.over._tabs.geometry(), opened.over.lift_box.geometry()
    assert not tabs.intersects(lift) and opened.canvas.rect().contains(lift)
    metrics = opened.ledger.fontMetrics()
    for row in range(5):
        room = opened.ledger.columnWidth(0) - 40
        assert metrics.horizontalAdvance(opened.ledger.text_at(row, 0)) <= room


@pytest.mark.parametrize("key", ["separate", "tidy", "trace", "layers"])
def test_tools_find_nothing_where_nothing_is_left_to_cut(window, qtbot, tmp_path, key):
    """Every tool of every step on a white picture: each says so, or does nothing; none fails."""
    path = tmp_path / "white.png"
    Image.new("RGB", (120, 90), "white").save(path)
    window.open(path)
    qtbot.waitUntil(lambda: window.model.result is not None and window.model.result.failure is not None)
    step, canvas = window.by_key[key], window.canvas
    tools = {
        "separate": ("pick", "fill", "ink-colour"),
        "tidy": ("choose", "lasso", "bridge", "move", "copy", "handles", "axis", *FORMS),
        "trace": ("nodes", "close", "straight"),
        "layers": ("join", "line", "detail", "pieces"),
    }[key]
    middle = canvas.rect().center()
    for tool in tools:
        window.show_step(key)
        step.draw_with(tool)
        qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=middle)
        qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=middle)
        qtbot.mouseMove(canvas, middle * 1.1)
        qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=middle * 1.1)
        qtbot.keyClick(canvas, Qt.Key.Key_Right)
        qtbot.keyClick(canvas, Qt.Key.Key_Return)
        canvas.grab()
        qtbot.keyClick(canvas, Qt.Key.Key_Escape)
    idle(qtbot, window)


def test_a_copy_is_another_file_and_the_job_stays_where_it_was(opened, settled, qtbot, tmp_path, monkeypatch):
    own, copy = tmp_path / "fair.loom", tmp_path / "fair copy.loom"
    opened.model.save(own)
    qtbot.waitUntil(lambda: opened.model.path == own)
    opened.model.change("Width", "finish", width=91.0)
    settled(opened)
    asked = []
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda _, __, suggestion, *___: (asked.append(suggestion) or str(copy), "")
    )
    with qtbot.waitSignal(opened.model.said):
        opened.commands.run("save-copy")
    qtbot.waitUntil(copy.exists)
    assert asked[0].endswith("copy.loom")
    assert opened.model.path == own and opened.model.dirty  # the copy is not the job
    assert read_job(copy).recipe.finish.width == 91.0 != read_job(own).recipe.finish.width
    assert read_job(copy).picture == opened.model.job.picture


def test_a_duplicate_goes_its_own_way_beside_the_job(opened, settled, qtbot):
    first, name = opened.model.current, opened.model.job.name
    opened.model.change("Width", "finish", width=92.0)
    for number in (2, 3):
        opened.model.take(first)
        qtbot.waitUntil(lambda: opened.model.current is first)
        opened.commands.run("duplicate")
        qtbot.waitUntil(lambda number=number: opened.model.job.name == f"{name} {number}")
        settled(opened)
    assert opened.model.recipe.finish.width == 92.0 and opened.model.current.dirty and opened.model.path is None
    opened.model.change("Width", "finish", width=93.0)
    settled(opened)
    assert first.now.recipe.finish.width == 92.0 and len(opened.model.held) == 3
    assert opened.model.undo_name == "Width"
