"""Preferences in force at once, a workshop carried to another, and the start: what was open before."""

from pathlib import Path

import cv2
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton

from sketchloom.app.settings import Settings, load_settings, save_settings
from sketchloom.app.theme import theme
from sketchloom.app.window import Window
from sketchloom.core.job import Job, job_bytes
from sketchloom.core.stock import Preset, Workshop, encode_workshop
from sketchloom.core.threads import use_threads
from tests.app.conftest import close_down


@pytest.fixture
def page(window):
    before = theme.choice
    window.commands.run("preferences")
    yield window.preferences
    use_threads(0)
    theme.choose(before)


def pick(box, value):
    box.setCurrentIndex(box.findData(value))
    box.activated.emit(box.currentIndex())


def test_each_choice_is_in_force_at_once_and_kept(window, page):
    pick(page.unit, "in")
    assert window.unit == "in"
    pick(page.theme, "dark")
    assert theme.is_dark
    pick(page.theme, "light")
    assert not theme.is_dark
    page.threads.setValue(3)
    assert cv2.getNumThreads() == 3
    pick(page.paper, "letter")
    assert window.by_key["send"].folder.settings.papers.size == "letter"
    kept = load_settings()
    assert (kept.unit, kept.theme, kept.threads, kept.paper) == ("in", "light", 3, "letter")
    window.next_unit()
    assert window.unit == "mm" and load_settings().unit == "mm"
    window.commands.run("stop")
    assert not page.isVisible()


def test_a_new_job_begins_with_the_stock_and_the_cutter_that_are_chosen(window, page, art, qtbot, settled):
    pick(page.stock, "Red card")
    cutter = window.model.machines.things[0].name
    pick(page.cutter, cutter)
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    settled(window)
    recipe = window.model.recipe
    assert recipe.layers.stock.name == "Red card" and recipe.sheets.cutter.name == cutter
    assert window.model.undo_name is None and not window.model.current.dirty
    window.model.shelf.remove("Red card")
    assert "not on the shelf" in page.stock.currentText()
    window.open(art)
    qtbot.waitUntil(lambda: len(window.model.held) == 2 and not window.model.stale)
    assert window.model.recipe.layers.stock is None


def test_dialogs_begin_in_the_folders_that_are_chosen(window, page, art, qtbot, tmp_path, monkeypatch):
    for name in ("in", "out"):
        (tmp_path / name).mkdir()
    asked = []
    choose = lambda folder: lambda *_: str(folder)  # noqa: E731
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", choose(tmp_path / "in"))
    qtbot.mouseClick(page.folder, Qt.MouseButton.LeftButton)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", choose(tmp_path / "out"))
    qtbot.mouseClick(page.send_folder, Qt.MouseButton.LeftButton)
    assert page.folder.text() == "in" and page.send_folder.text() == "out"
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *told: (asked.append(told[2]), ([], ""))[1])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *told: (asked.append(told[2]), ("", ""))[1])
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    window.dialogs.open()
    window.dialogs.save_job_as()
    window.dialogs.send(False)
    assert asked[0] == str(tmp_path / "in")
    assert [Path(name).parent.name for name in asked[1:]] == ["in", "out"]
    (tmp_path / "in").rmdir()
    window.dialogs.open()
    assert asked[3] == str(art.parent)


def test_a_workshop_is_carried_over_and_undone(window, page, art, qtbot, tmp_path, monkeypatch):
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    window.model.presets.add(Preset("Slow", "Card", force=3.0))
    window.choose(unit="cm")
    path = tmp_path / "shop.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "shop"), ""))
    qtbot.mouseClick(page.give, Qt.MouseButton.LeftButton)
    assert path.exists()
    window.model.presets.remove("Slow")
    window.model.shelf.remove("Felt")
    window.choose(unit="mm")
    stocks = len(window.model.shelf.things)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    qtbot.mouseClick(page.bring, Qt.MouseButton.LeftButton)
    assert window.unit == "cm"
    assert [one.name for one in window.model.presets.things] == ["Slow"]
    assert len(window.model.shelf.things) == stocks + 1
    assert "1 stock" in window.notice.text() and "settings" in window.notice.text()
    page.take_in(path)
    assert len(window.model.shelf.things) == stocks + 1  # nothing twice
    window.model.undo()
    window.model.undo()
    assert window.model.presets.things == () and window.model.shelf.thing("Felt") is None


def test_more_than_a_shelf_holds_is_told_and_nothing_of_it_taken(window, page, tmp_path):
    own = window.model.presets.add(Preset("Mine"))
    (tmp_path / "shop.json").write_bytes(
        encode_workshop(Workshop((), (), tuple(Preset(f"P {n}") for n in range(1000)), {}))
    )
    page.take_in(tmp_path / "shop.json")
    assert window.model.presets.things == (own,) and window.model.presets.kind.read() == (own,)


@pytest.mark.parametrize(
    "settings", [{"unit": "ell"}, {"threads": -1}, {"threads": 10**9}, {"paper": 5}, {"theme": "red"}]
)
def test_of_a_workshop_with_a_part_that_cannot_be_used_nothing_is_taken(window, page, tmp_path, settings):
    before = window.settings, window.model.presets.things
    (tmp_path / "shop.json").write_bytes(encode_workshop(Workshop((), (), (Preset("New"),), settings)))
    page.take_in(tmp_path / "shop.json")
    assert (window.settings, window.model.presets.things) == before
    assert "cannot be used" in window.notice.text()
    page.take_in(tmp_path / "none.json")
    assert "none.json" in window.notice.text()


def test_settings_that_cannot_be_read_are_those_of_a_first_start(window):
    from sketchloom.app.settings import _file

    for data in (b'{"unit": "ell"}', b"[" * 100_000, b"\xff", b'{"threads": 1e400}'):
        _file().parent.mkdir(parents=True, exist_ok=True)
        _file().write_bytes(data)
        assert load_settings() == Settings()


@pytest.fixture
def again(window, art, tmp_path, qtbot):
    """A start after two files were open, one of which is gone."""
    job = tmp_path / "plate.loom"
    job.write_bytes(
        job_bytes(Job("Plate", art.name, art.read_bytes(), window.model.begin().with_("finish", width=90.0)))
    )
    many = [str(tmp_path / f"older-{number}.png") for number in range(9)]
    save_settings(Settings(started_before=True, recent=(str(job), str(art), *many), last=(str(job), many[0])))
    made = Window()
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    yield made
    close_down(made)


def button(card, words) -> QPushButton:
    return next(one for one in card.findChildren(QPushButton) if one.accessibleName() == words and one.isVisible())


def test_what_was_opened_before_is_listed_with_picture_size_and_date(again, art, qtbot):
    card = again.by_key["source"].recent
    qtbot.waitUntil(lambda: len(card._seen) == 6)
    job, picture = button(card, "Open plate.loom"), button(card, f"Open {art.name}")
    assert "90 mm wide" in job.text() and "today at" in job.text() and not job.icon().isNull()
    assert "× " in picture.text() and "px" in picture.text()
    gone = button(card, "Open older-0.png")
    assert not gone.isEnabled() and "no longer there" in gone.text()
    assert "5 more" in card.more.text()
    qtbot.mouseClick(button(card, "Forget older-0.png"), Qt.MouseButton.LeftButton)
    assert len(load_settings().recent) == 10
    side = again.panels.currentWidget()
    assert side.horizontalScrollBar().maximum() == 0  # nothing is wider than the panel


def test_a_few_letters_and_enter_open_what_was_open_before(again, qtbot, settled):
    card = again.by_key["source"].recent
    card.words.setFocus()
    qtbot.keyClicks(card.words, "PLATE.l")
    assert card.found and card.rows.count() == 1
    qtbot.keyClick(card.words, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: again.model.job is not None)
    settled(again)
    assert again.model.job.name == "Plate" and card.folded


def test_what_was_open_last_is_opened_on_demand_as_far_as_it_is_there(again, qtbot, settled):
    last = again.by_key["source"].start.last
    assert last.isVisible() and last.toolTip().endswith("plate.loom")
    qtbot.mouseClick(last, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: again.model.job is not None)
    settled(again)
    again.close()
    assert load_settings().last == (str(again.model.path),)
