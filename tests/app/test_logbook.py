"""The logbook through the window: cuts logged at Send, found again, offered, and stock counted down."""

import csv

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton

from sketchloom.app.more_fields import AmountField, TimeField
from sketchloom.core.job import decode_recipe
from sketchloom.core.logbook import RESULTS, Entry, Search
from sketchloom.core.measures import time_words
from sketchloom.core.stock import CUTTERS, Preset


@pytest.fixture
def ready(window, art, settled, qtbot):
    """The window at Send with a picture, red card for its first layer, a cutter, and the card of the logbook open."""
    window.open(art)
    qtbot.waitUntil(lambda: window.model.job is not None)
    window.set_size("width", 80.0)
    settled(window)
    sheets, layers = window.model.recipe.sheets, window.by_key["layers"]
    red = next(stock for stock in window.model.shelf.things if stock.name == "Red card")
    window.model.shelf.change("Red card", price=0.5)
    red = window.model.shelf.thing("Red card")
    for layer in window.model.result.stack.sent:
        layers.rule("Stock", layer.key, stock=red)
    window.model.change("Cutter", "sheets", cutter=CUTTERS[0])
    settled(window)
    assert sheets != window.model.recipe.sheets
    window.show_step("send")
    card = window.by_key["send"].log
    card.fold(False)
    qtbot.waitUntil(lambda: window.by_key["sheets"].layouts.layout is not None)
    card.show_job()
    qtbot.waitUntil(lambda: card._known is not None)
    return window


def at_rest(window, qtbot):
    qtbot.waitUntil(lambda: not window.log.busy)


def press(card, qtbot, button):
    window = card.window()
    window.panels.currentWidget().ensureWidgetVisible(button)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


def log(window, qtbot, result="good", took="", note=""):
    card = window.by_key["send"].log
    card.result.setCurrentIndex(RESULTS.index(result))
    if took:
        card.taken.setText(took)
        card.taken.setModified(True)
        card.taken.editingFinished.emit()
    card.note.setText(note)
    before = len(window.log.book.search())
    press(card, qtbot, card.log)
    qtbot.waitUntil(lambda: len(window.log.book.search()) > before)
    at_rest(window, qtbot)


def test_a_cut_is_logged_as_it_was_laid_and_stock_on_hand_goes_down(ready, qtbot):
    book, layouts = ready.log.book, ready.by_key["sheets"].layouts
    book.set_on_hand("Red card", 100.0, 99.5)
    ready.model.presets.add(Preset("Slow", "Red card", CUTTERS[0].name, force=90.0, speed=30.0))
    ready.by_key["send"].log.show_job()
    log(ready, qtbot, "usable", "2:05", "Corner lifted")
    lines = book.search()
    assert sum(one.used for one in lines) == layouts.figures.sheets
    assert sum(one.planned for one in lines) == pytest.approx(layouts.figures.timing.time)
    assert sum(one.taken for one in lines) == pytest.approx(125.0)
    (one,) = {(e.job, e.stock, e.cutter, e.result, e.note, e.preset.name, e.price) for e in lines}
    assert one == ("Harvest plate", "Red card", CUTTERS[0].name, "usable", "Corner lifted", "Slow", 0.5)
    assert decode_recipe(book.whole(lines[0].number).recipe, "it") == ready.model.recipe
    assert book.on_hand()[0].amount == 100.0 - layouts.figures.sheets
    assert "Red card" in ready.notice.text() and "buy more" in ready.notice.text()
    assert f"takes {lines[0].used:g} of" in ready.by_key["send"].log.hints.text()
    assert ready.by_key["send"].log.note.text() == ""


def test_what_worked_last_is_offered_and_sets_the_preset_and_undo_takes_that_back(ready, qtbot):
    good = Preset("Then", force=111.0, speed=22.0, passes=3)
    ready.log.book.add([Entry("Old", "Red card", CUTTERS[0].name, at=5, preset=good, result="good")])
    card = ready.by_key["send"].log
    card.show_job()
    qtbot.waitUntil(lambda: card.offers.count() > 0)
    assert "111" in card.offers.itemAt(0).widget().text()
    press(card, qtbot, next(b for b in card.findChildren(QPushButton) if b.text() == "Set it so again"))
    (preset,) = ready.model.presets.things
    assert (preset.stock, preset.cutter, preset.force, preset.passes) == ("Red card", CUTTERS[0].name, 111.0, 3)
    qtbot.waitUntil(lambda: card.offers.count() == 0)
    ready.model.undo()
    assert ready.model.presets.things == ()


def test_planned_times_follow_what_was_logged_on_the_cutter(ready, qtbot):
    card = ready.by_key["send"].log
    assert "logged" not in card.hints.text()
    ready.log.book.add(
        [Entry("Old", "Card", CUTTERS[0].name, at=n, planned=60.0, taken=60.0 * (2 + n)) for n in (0, 1, 2)]
    )
    card.show_job()
    qtbot.waitUntil(lambda: "3 logged cuts" in card.hints.text())
    assert "median" in card.hints.toolTip()
    ready.log.changed.emit()
    takes = ready.by_key["sheets"].takes
    qtbot.waitUntil(lambda: "3 logged cuts" in takes.logged.text())
    seconds = ready.by_key["sheets"].layouts.figures.timing.time
    assert time_words(3.0 * seconds) in takes.logged.text()  # of 2, 3 and 4 times


def test_the_page_finds_sorts_changes_removes_and_puts_back(ready, qtbot, tmp_path, monkeypatch):
    book, page = ready.log.book, ready.logbook
    book.add(
        [
            Entry(f"Job {n}", ("Red card", "Felt")[n % 2], "Laser", at=1_000_000 * n, planned=n, used=1.0, price=n)
            for n in range(6)
        ]
    )
    book.set_on_hand("Felt", 5.0)
    ready.commands.run("logbook")
    qtbot.waitUntil(lambda: len(page.lines.rows) == 6)
    assert page.lines.rows[0].job == "Job 5"
    page.words.setText("felt")
    page.words.textEdited.emit("felt")
    qtbot.waitUntil(lambda: len(page.lines.rows) == 3)
    page._sort_by(4)
    page._sort_by(4)
    qtbot.waitUntil(lambda: [e.job for e in page.lines.rows] == ["Job 1", "Job 3", "Job 5"])
    page.table.selectRow(1)
    page.one.result.setCurrentIndex(RESULTS.index("spoiled"))
    page.one.result.activated.emit(0)
    page.one.note.setText("Slipped")
    page.one.note.setModified(True)
    page.one.note.editingFinished.emit()
    qtbot.waitUntil(lambda: book.search(Search(result="spoiled")) != () and book.search(Search(words="slipped")) != ())
    at_rest(ready, qtbot)
    assert page._chosen().job == "Job 3"
    Image.new("RGB", (300, 200), (10, 200, 30)).save(tmp_path / "cut.png")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "cut.png"), ""))
    qtbot.mouseClick(page.one.add_photo, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(page.one.photo.isVisible)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "log.csv"), ""))
    qtbot.mouseClick(page.export, Qt.MouseButton.LeftButton)
    qtbot.waitUntil((tmp_path / "log.csv").exists)
    with (tmp_path / "log.csv").open(newline="") as file:
        rows = list(csv.DictReader(file))
    assert [(row["job"], row["result"], row["note"]) for row in rows][1] == ("Job 3", "spoiled", "Slipped")
    qtbot.mouseClick(page.one.remove, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(page.lines.rows) == 2 and page.put_back.isVisible())
    assert book.on_hand()[0].amount == 6.0
    qtbot.mouseClick(page.put_back, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(page.lines.rows) == 3)
    assert book.on_hand()[0].amount == 5.0
    ready.stop()
    assert not page.isVisible()


def test_stock_is_counted_changed_and_forgotten_on_the_page(ready, qtbot):
    book, page = ready.log.book, ready.logbook
    ready.commands.run("logbook")
    qtbot.waitUntil(lambda: page.store.which.count() > 3)
    page.store.which.setCurrentText("Felt")
    qtbot.mouseClick(page.store.count, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Felt" in page.store.amounts)
    for field, text in zip(page.store.amounts["Felt"], ("4", "6,5"), strict=True):  # one right after the other
        field.setText(text)
        field.setModified(True)
        field.editingFinished.emit()
    qtbot.waitUntil(lambda: book.on_hand() == (("Felt", 4.0, 6.5),))
    assert any("low" in label.text() for label in page.store.findChildren(type(page.store.told)))
    away = next(b for b in page.store.findChildren(QPushButton) if b.accessibleName() == "Count Felt no longer")
    qtbot.mouseClick(away, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: book.on_hand() == ())


def test_the_settings_of_a_cut_come_back_as_one_change(ready, qtbot, settled):
    log(ready, qtbot)
    recipe = ready.model.recipe
    ready.set_size("width", 55.0)
    settled(ready)
    ready.commands.run("logbook")
    qtbot.waitUntil(lambda: ready.logbook.one.settings.isEnabled())
    qtbot.mouseClick(ready.logbook.one.settings, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: ready.model.recipe == recipe)
    assert ready.model.undo_name.startswith("As it was cut")
    ready.model.undo()
    assert ready.model.recipe.finish.width == 55.0


def test_a_logbook_that_cannot_be_read_is_told_and_stops_no_work(ready, qtbot):
    book = ready.log.book
    book.path.parent.mkdir(parents=True, exist_ok=True)
    book.path.write_bytes(b"no logbook" * 500)
    told = []
    ready.log.said.connect(told.append)
    ready.log.changed.emit()
    at_rest(ready, qtbot)
    assert told == []  # what no one asked for says nothing
    ready.commands.run("logbook")
    qtbot.waitUntil(lambda: "no logbook" in ready.notice.text())
    ready.stop()
    card = ready.by_key["send"].log
    press(card, qtbot, card.log)
    at_rest(ready, qtbot)
    assert ready.model.result is not None and book.path.read_bytes() == b"no logbook" * 500


def test_what_was_typed_of_a_cut_stays_until_it_is_in_the_logbook(ready, qtbot, tmp_path):
    card = ready.by_key["send"].log
    (tmp_path / "half.jpg").write_bytes(b"half a photograph")
    card.note.setText("Corner lifted")
    card._take_photo(tmp_path / "half.jpg")
    press(card, qtbot, card.log)
    at_rest(ready, qtbot)
    assert ready.log.book.search() == () and "half.jpg" in ready.notice.text()
    assert card.note.text() == "Corner lifted" and "half.jpg" in card.photo.text()
    card._photo = None
    press(card, qtbot, card.log)
    qtbot.mouseClick(card.log, Qt.MouseButton.LeftButton)  # twice is once
    qtbot.waitUntil(lambda: card.note.text() == "" and card.log.isEnabled())
    assert len(ready.log.book.search()) == len(card.chosen)
    assert ready.log.book.search()[0].note == "Corner lifted"


def test_times_and_amounts_are_read_as_they_are_typed(qtbot):
    time, amount = TimeField("Took"), AmountField("There is", 50)
    for field, typed, value in (
        (time, "1:54", 114.0), (time, "2", 120.0), (time, "90 s", 90.0), (time, "1 h 5 min", 3900.0),
        (time, "1:02:03", 3723.0), (time, "1,5", 90.0), (amount, "2,5", 2.5), (amount, "50", 50.0),
    ):  # fmt: skip
        with qtbot.waitSignal(field.committed) as told:
            field.setText(typed)
            field.setModified(True)
            field.editingFinished.emit()
        assert told.args == [pytest.approx(value)]
    for field, typed in (
        (time, "soon"), (time, "1 2"), (time, "1" * 39 + "x"), (time, ""), (time, "1:7"),
        (amount, "51"), (amount, "-1"), (amount, "nan"),
    ):  # fmt: skip
        field.setText(typed)
        field.setModified(True)
        field.editingFinished.emit()
        assert field.property("wrong"), typed
