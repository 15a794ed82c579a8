"""Nothing lost: what a window that was killed had open is offered by the next one."""

import random

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from sketchloom.app.window import Window
from sketchloom.core.job import Job, Kept, Recipe, keeping, left_behind
from tests.app.conftest import close_down
from tests.app.kills import kill_and_look
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def killed(window, art, settled, qtbot):
    """What is left of a window that opened a picture and the demo, and was changed."""
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    window.model.change("Width", "finish", width=77.0)
    window.open_demo()
    qtbot.waitUntil(lambda: window.model.job.name == "Fair badge")
    settled(window)
    qtbot.waitUntil(lambda: len(window.keeper._kept) == 2)
    window.keeper.keep()
    qtbot.waitUntil(lambda: not window.keeper._runner.busy)
    for kept in window.keeper._kept.values():
        kept.let_go()  # as its end does
    window.keeper._kept.clear()
    window.keeper._last.clear()
    window.keeper._soon.stop()
    window.keeper._model.recipe_changed.disconnect(window.keeper._later)
    return window


@pytest.fixture
def started(killed, qtbot):
    """The next start."""
    made = Window()
    made.resize(1280, 800)
    qtbot.addWidget(made)
    made.show()
    made.keeper.look()
    qtbot.waitUntil(lambda: made.by_key["source"].left.rows.count() == 2)
    yield made
    close_down(made)


def button(card, words) -> QPushButton:
    return next(one for one in card.findChildren(QPushButton) if one.accessibleName() == words)


def test_open_jobs_are_offered_with_picture_name_and_time_and_brought_back(started, art, settled, qtbot):
    card = started.by_key["source"].left
    assert card.isVisible() and card.aside.text() == "2"
    qtbot.waitUntil(lambda: len(card._images) == 2)
    labels = [card.rows.itemAt(row).widget().words.text() for row in range(2)]
    assert {label.splitlines()[0] for label in labels} == {"Fair badge", "Harvest plate"}
    assert all("today at " in label for label in labels)
    qtbot.mouseClick(button(card, "Bring Harvest plate back"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: started.model.job is not None)
    settled(started)
    assert started.model.recipe.finish.width == 77.0 and started.model.current.source == art
    assert started.model.dirty and started.model.job.picture == art.read_bytes()
    assert card.rows.count() == 1 and card.isVisible()
    started.model.change("Width", "finish", width=88.0)
    started.keeper.keep()
    qtbot.waitUntil(lambda: not started.keeper._runner.busy)
    (kept,) = started.keeper._kept.values()
    kept.let_go()
    assert {one.head.recipe.finish.width for one in left_behind()[0]} >= {88.0}  # in the same place


def test_what_is_left_is_not_offered_again(started, qtbot):
    card = started.by_key["source"].left
    qtbot.mouseClick(card.none, Qt.MouseButton.LeftButton)
    assert not card.isVisible() and left_behind() == ((), ())
    assert len(list(keeping._folder().iterdir())) == 2  # for a week


def test_all_are_brought_back_at_once(started, settled, qtbot):
    card = started.by_key["source"].left
    qtbot.mouseClick(card.all, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(started.model.held) == 2)
    settled(started)
    assert not card.isVisible() and {held.job.name for held in started.model.held} == {"Fair badge", "Harvest plate"}


def test_a_job_is_kept_after_a_change_and_no_more_once_it_is_closed(window, art, settled, qtbot):
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    settled(window)
    window.model.change("Width", "finish", width=66.0)
    qtbot.waitUntil(lambda: bool(window.keeper._kept))
    (kept,) = window.keeper._kept.values()
    head = kept.folder / "job.json"
    qtbot.waitUntil(lambda: head.exists() and b"66.0" in head.read_bytes())
    window.open_demo()
    qtbot.waitUntil(lambda: len(window.keeper._kept) == 2)
    other = next(held for held in window.model.held if held is not window.model.current)
    window.model.put_away(other)
    qtbot.waitUntil(lambda: not kept.folder.exists())
    window.close()
    assert not list(keeping._folder().iterdir())


def test_a_full_disk_is_told_once_and_work_goes_on(window, art, settled, qtbot, monkeypatch):
    told = []
    window.keeper.said.connect(told.append)

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(keeping.os, "fsync", full)
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    for width in (60.0, 61.0, 62.0):
        window.model.change("Width", "finish", width=width)
        window.keeper.keep()
        settled(window)
    qtbot.waitUntil(lambda: not window.keeper._runner.busy)
    assert len(told) == 1 and "no space left" in told[0] and window.model.result.finished.size[0] == 62.0


def test_kills_at_random_moments_lose_nothing(tmp_path):
    """A short run; `python -m tests.app.kills` is the long one."""
    from PIL import Image

    picture, chance = tmp_path / "stall.png", random.Random(5)
    Image.fromarray(draw(FOUR_INKS, 120).rgba).save(picture)
    edits = 0
    for number in range(5):
        folder = tmp_path / str(number)
        folder.mkdir()
        edits += kill_and_look(folder, picture, chance, None)  # how soon is for the long run, on a quiet machine
    assert edits > 5


def test_twenty_jobs_to_restore_are_found_beside_the_window(window, qtbot):
    data = read_picture()
    for number in range(20):
        kept = Kept()
        kept.write(Job(f"Job {number}", "a.png", data, Recipe()), None, None, changed=True)
        kept.let_go()
    window.keeper.look()
    card = window.by_key["source"].left
    assert not card.isVisible()  # nothing was waited for
    qtbot.waitUntil(lambda: card.rows.count() == 20)
    qtbot.waitUntil(lambda: len(card._images) == 20)


def test_a_kept_job_that_is_damaged_is_told(window, qtbot):
    told = []
    window.keeper.said.connect(told.append)
    kept = Kept()
    kept.write(Job("Damaged", "a.png", b"", Recipe()), None, None, changed=True)
    (kept.folder / "job.json").write_bytes(b"{")
    kept.let_go()
    window.keeper.look()
    qtbot.waitUntil(lambda: bool(told))
    assert "left behind" in told[0] and not window.by_key["source"].left.isVisible()


def test_a_job_that_cannot_be_brought_back_is_told_and_offered_again(started, qtbot):
    card, told = started.by_key["source"].left, []
    started.keeper.said.connect(told.append)
    (one,) = (left for left in card._left if left.head.name == "Harvest plate")
    (one.folder / "picture").rename(one.folder / "away")
    qtbot.mouseClick(button(card, "Bring Harvest plate back"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bool(told))
    assert "is not there" in told[0] and started.model.job is None
    (one.folder / "away").rename(one.folder / "picture")
    qtbot.waitUntil(lambda: card.rows.count() == 2)
    qtbot.mouseClick(button(card, "Bring Harvest plate back"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: started.model.job is not None)


def read_picture() -> bytes:
    import io

    from PIL import Image

    store = io.BytesIO()
    Image.fromarray(np.full((40, 60, 3), 200, np.uint8)).save(store, "PNG")
    return store.getvalue()
