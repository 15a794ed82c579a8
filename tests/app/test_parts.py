"""Parts of the window by themselves."""

import threading
import time

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QTransform

from sketchloom.app.canvas.shapes import painter_paths
from sketchloom.app.fields import LogSlider, gesture_id
from sketchloom.app.job_model import JobModel
from sketchloom.app.ledger import Ledger
from sketchloom.app.runner import Runner
from sketchloom.app.settings import Settings, load_settings, save_settings
from sketchloom.app.start import make_application
from sketchloom.app.theme.tokens import CANVAS_GROUNDS, contrast, legible_on
from sketchloom.app.warp import LEFT, ROOM, StepState, Warp
from sketchloom.core.curves import Path
from sketchloom.core.errors import ArgumentError, Cancelled
from sketchloom.core.job import STEP_OF_STAGE, Pipeline, Recipe
from sketchloom.core.measures import in_unit
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def runner(qtbot):
    make_application()
    made = Runner()
    yield made
    made.close()


def test_work_runs_off_the_windows_thread_and_its_value_comes_back(runner, qtbot):
    seen = []
    runner.submit(
        lambda progress: threading.current_thread(), lambda value: seen.append((value, threading.current_thread()))
    )
    qtbot.waitUntil(lambda: bool(seen))
    worker, shown_on = seen[0]
    assert worker is not shown_on is threading.main_thread()


def test_a_newer_request_cancels_an_older_one(runner, qtbot):
    started, go_on, seen = threading.Event(), threading.Event(), []

    def old(progress):
        started.set()
        go_on.wait(5)
        progress("trace", 0.5)
        return "old"

    runner.submit(old, seen.append)
    qtbot.waitUntil(started.is_set)
    runner.submit(lambda progress: "new", seen.append)
    go_on.set()
    qtbot.waitUntil(lambda: bool(seen))
    qtbot.wait(50)
    assert seen == ["new"]


def test_a_preview_is_finished_although_a_newer_one_waits(runner, qtbot):
    started, go_on, seen = threading.Event(), threading.Event(), []

    def preview(progress):
        started.set()
        go_on.wait(5)
        progress("trace", 0.5)
        return "first"

    runner.submit(preview, seen.append, keep=True)
    qtbot.waitUntil(started.is_set)
    for name in ("second", "third"):  # of those that wait only the newest is kept
        runner.submit(lambda progress, name=name: name, seen.append, keep=True)
    go_on.set()
    qtbot.waitUntil(lambda: len(seen) == 2)
    assert seen == ["first", "third"]


def test_a_foreseen_error_has_a_sentence_and_another_its_details(runner, qtbot):
    told = []
    runner.failed.connect(lambda *values: told.append(values))

    def typed_wrong(progress):
        progress("trace", 0.0)
        raise ArgumentError("No such size.")

    runner.submit(typed_wrong, print)
    qtbot.waitUntil(lambda: len(told) == 1)
    assert told[0] == ("trace", "No such size.", "")
    runner.submit(lambda progress: 1 / 0, print)
    qtbot.waitUntil(lambda: len(told) == 2)
    assert "ZeroDivisionError" in told[1][2]
    assert "ZeroDivisionError" not in told[1][1]


@pytest.mark.parametrize("ends", ["done", "failed", "called off"])
def test_it_is_busy_until_what_came_of_the_work_is_told(runner, qtbot, ends):
    told, changes, over = [], [], threading.Event()
    runner.busy_changed.connect(changes.append)

    def tell(*_):
        told.append(runner.busy)

    def work(progress):
        try:
            if ends == "failed":
                raise ArgumentError("No such size.")
            if ends == "called off":
                raise Cancelled
        finally:
            over.set()

    runner.enqueue(work, tell, "send", failed=tell)
    assert over.wait(30)
    while runner._running is not None:  # the worker has let go of it, and the window has not yet been told
        time.sleep(0.001)
    assert runner.busy and not told
    qtbot.waitUntil(lambda: bool(told))
    assert told == [False] and not runner.busy and changes == [True, False]


def test_between_two_tasks_it_does_not_rest(runner, qtbot):
    changes, told = [], []
    runner.busy_changed.connect(changes.append)
    for value in (1, 2):
        runner.enqueue(lambda _, value=value: value, told.append, "send")
    qtbot.waitUntil(lambda: not runner.busy)
    assert told == [1, 2] and changes == [True, True, False]


def test_it_rests_though_what_was_told_went_wrong(runner, qtbot):
    changes = []
    runner.busy_changed.connect(changes.append)
    with qtbot.capture_exceptions() as caught:
        runner.enqueue(lambda _: 0, lambda value: 1 / value, "send")
        qtbot.waitUntil(lambda: bool(changes) and not changes[-1])
    assert [kind for kind, *_ in caught] == [ZeroDivisionError] and not runner.busy


def test_every_stage_of_the_pipeline_belongs_to_a_step():
    stages = set()
    Pipeline(0).run(draw(FOUR_INKS), Recipe(), lambda stage, done: stages.add(stage))
    Pipeline().run(draw(FOUR_INKS, 800, 200), Recipe(), lambda stage, done: stages.add(stage), preview=True)
    assert stages <= set(STEP_OF_STAGE)


def test_the_model_does_nothing_without_a_job(qtbot):
    make_application()
    model = JobModel()
    model.change("Smoothness", "trace", smoothness=1.0)
    model.undo()
    model.rest()
    assert model.recipe == Recipe()
    assert not model.dirty
    model.close()


def test_settings_survive_and_broken_ones_are_defaults(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))
    assert load_settings() == Settings()
    save_settings(Settings(True, "dark", "in", ("/a.png",)))
    assert load_settings() == Settings(True, "dark", "in", ("/a.png",))
    (tmp_path / "sketch-loom" / "settings.json").write_text("{")
    assert load_settings() == Settings()


@pytest.mark.parametrize(
    ("mm", "unit", "text"), [(25.4, "in", "1.00"), (25.4, "mm", "25.4"), (25.4, "cm", "2.54"), (152.4, "in", "6.00")]
)
def test_lengths_are_written_in_each_unit(mm, unit, text):
    assert in_unit(mm, unit) == text


def test_a_log_slider_runs_in_equal_ratios_and_one_drag_is_one_gesture(qtbot):
    make_application()
    slider = LogSlider("Smoothness", 0.01, 1.0)
    qtbot.addWidget(slider)
    told = []
    slider.moved.connect(lambda value, gesture: told.append((value, gesture)))
    slider.setSliderDown(True)
    for place in (0, 100, 200, 100):
        slider.setValue(place)
    slider.setSliderDown(False)
    slider.sliderReleased.emit()
    assert [value for value, _ in told] == pytest.approx([0.1, 1.0, 0.1])
    assert len({gesture for _, gesture in told}) == 1
    slider.setValue(50)
    assert told[-1][1] != told[0][1]
    slider.show_value(0.1)
    assert slider.value() == 100
    assert gesture_id() != gesture_id()


def test_the_warp_walks_by_keys_and_tells_its_state(qtbot):
    make_application()
    warp = Warp(["Source", "Separate", "Trace"], 1)
    qtbot.addWidget(warp)
    warp.resize(204, 400)
    warp.show()
    warp.show_inks(["#112233", "#ffeedd"])
    warp.show_current(0)
    warp.show_state(1, StepState("2 inks", "stale"))
    assert warp.steps[1].accessibleName() == "Step 2: Separate, 2 inks, out of date"
    chosen = []
    warp.chosen.connect(chosen.append)
    warp.steps[0].setFocus()
    qtbot.keyClick(warp.steps[0], Qt.Key.Key_Down)
    qtbot.keyClick(warp.steps[1], Qt.Key.Key_Space)
    assert chosen == [1]
    before = warp.grab().toImage()
    warp.show_current(2)
    assert warp.grab().toImage() != before


def test_threads_never_run_into_a_steps_words(qtbot):
    make_application()
    warp = Warp(["Source", "Separate", "Trace"], 1)
    qtbot.addWidget(warp)
    warp.resize(204, 400)
    warp.show()
    warp.show_inks([f"#{i:02x}{i:02x}{i:02x}" for i in range(0, 240, 12)])
    assert warp._threads.x() >= LEFT + ROOM
    assert warp._threads.geometry().right() <= warp.width()


def test_the_ledger_counts_from_the_top(qtbot):
    make_application()
    ledger = Ledger(lambda: "mm")
    qtbot.addWidget(ledger)
    stack = Pipeline(0).run(draw(FOUR_INKS), Recipe()).stack
    ledger.show_stack(stack, "")
    assert ledger.text_at(0, 0) == stack.layers[-1].name
    picked = []
    ledger.selected.connect(picked.append)
    ledger.selectRow(0)
    ledger.let_go()
    assert picked[0] == stack.layers[-1].ink.key
    assert picked[-1] == ""
    ledger.show_stack(None, "")
    assert ledger._rows.rowCount() == 0


def test_words_on_any_canvas_ground_can_be_read():
    for ground in CANVAS_GROUNDS:
        assert contrast(legible_on(ground), ground) >= 4.5


def test_a_hole_is_drawn_with_its_piece_though_its_controls_reach_beyond_it():
    square = np.array([[0, 0], [0, 3], [0, 7], [0, 10], [3, 10], [7, 10], [10, 10], [10, 7], [10, 3], [10, 0], [7, 0],
                       [3, 0], [0, 0]], float)  # fmt: skip
    hole = np.array([[5, 1], [11, 4], [11, 6], [5, 9], [4, 7], [4, 3], [5, 1]], float)
    flat = np.ones(4, bool), np.zeros(2, bool)
    for one in (square, square[::-1]):
        other = hole if Path((one,), flat[:1]).areas[0] * Path((hole,), flat[1:]).areas[0] < 0 else hole[::-1]
        both = Path((one, other), flat)
        if both.areas[0] > 0:
            assert len(painter_paths(both, QTransform()).paths) == 1
            return
    raise AssertionError("no way round holds the other")
