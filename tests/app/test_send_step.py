"""Send in the real window: every format that the dialog offers is written and reads back."""

import threading
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QDesktopServices, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QScrollArea

from sketchloom.app.runner import Runner
from sketchloom.core.job import sheet_names
from sketchloom.core.layers import LayerRule
from sketchloom.core.send import (
    SVG,
    WRITERS,
    HpglWriter,
    names_of,
    page_of_layers,
    page_of_sheet,
    page_of_test_cut,
)
from sketchloom.core.send.dxf import DxfWriter
from sketchloom.core.stock import CUTTERS, GENERIC
from tests.conftest import FOUR_INKS, draw


def names_in(folder) -> set[str]:
    """Files of a folder; what is being written has a name of its own until it is whole."""
    return {path.name for path in folder.iterdir()}


def press(qtbot, button) -> None:
    """Bring a button in sight, as a maker does, and click on it."""
    area = button.parentWidget()
    while not isinstance(area, QScrollArea):
        area = area.parentWidget()
    QApplication.processEvents()
    area.ensureWidgetVisible(button)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)


@pytest.fixture
def at_send(window, settled):
    window.open_demo()
    settled(window)
    window.show_step("send")
    return window


@pytest.mark.parametrize("ending", list(WRITERS))
def test_the_kind_that_is_chosen_is_what_is_written(at_send, qtbot, tmp_path, monkeypatch, ending):
    """The dialog proposes an SVG; its kind is changed, its name is not."""
    asked = []

    def answer(_, title, suggestion, kinds):
        asked.append(kinds)
        return str(tmp_path / "Fair badge.svg"), next(kind for kind in kinds.split(";;") if f"*{ending})" in kind)

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    step, written = at_send.by_key["send"], tmp_path / f"Fair badge{ending}"
    press(qtbot, step.all)
    qtbot.waitUntil(lambda: written.exists() and bool(at_send.model.sent))
    page = page_of_layers(at_send.model.result.stack.cuts)
    assert WRITERS[ending].is_right(written.read_bytes(), page)
    assert [path.name for path in tmp_path.iterdir()] == [written.name]
    assert len(asked[0].split(";;")) == len(WRITERS) and written.name in step.sent.text()


def test_one_file_a_layer(at_send, qtbot, tmp_path, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "fair.dxf"), ""))
    press(qtbot, at_send.by_key["send"].each)
    qtbot.waitUntil(lambda: len(names_in(tmp_path)) == 5 and all(name.endswith(".dxf") for name in names_in(tmp_path)))
    assert not (tmp_path / "fair.dxf").exists()


def test_layers_and_sheets_go_to_a_folder_in_several_formats_and_there_again(at_send, qtbot, tmp_path, monkeypatch):
    window, card = at_send, at_send.by_key["send"].folder
    card.fold(False)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path))
    assert card.names.text() == "fair-badge.svg" and not card.repeat.isVisible()
    for box in (card.formats["dxf"], card.formats["hpgl"], card.each, card.zip):
        press(qtbot, box)
    assert card.aside.text() == "19 files" and "and 11 more" in card.names.text()
    press(qtbot, card.send)
    qtbot.waitUntil(lambda: "19 files" in window.model.sent)
    first = {path.name: path.read_bytes() for path in tmp_path.iterdir()}
    assert len(first) == 19 and set(card.names.text().splitlines()[:-1]) < set(first)
    for path in tmp_path.iterdir():
        path.unlink()
    press(qtbot, card.repeat)
    qtbot.waitUntil(lambda: names_in(tmp_path) == set(first))
    assert all((tmp_path / name).read_bytes() == data for name, data in first.items())
    card.what.setCurrentIndex(1)
    card.what.activated.emit(1)
    qtbot.waitUntil(lambda: window.by_key["sheets"].layouts.layout is not None)
    qtbot.waitUntil(lambda: "sheet-1-" in card.names.text())
    assert not card.each.isEnabled()
    names = card.names.text().splitlines()
    press(qtbot, card.repeat)
    qtbot.waitUntil(lambda: all((tmp_path / name).exists() for name in names if "more" not in name))
    for box in card.formats.values():
        box.setChecked(False)
    card.what.activated.emit(1)
    assert not card.send.isEnabled() and card.names.text() == "Choose a format."


def test_a_makers_road_from_a_picture_to_files_of_every_format(window, settled, qtbot, tmp_path, monkeypatch):
    """Open, tidy, layers, check, sheets, send; each file reads back as the layers and sheets that are shown."""
    picture = tmp_path / "plant pot.png"
    Image.fromarray(draw(FOUR_INKS, 300).rgba).save(picture)
    window.open(picture)
    qtbot.waitUntil(lambda: window.model.job is not None and window.model.job.name == "Plant pot")
    settled(window)
    window.model.change("Finished size", "finish", width=90.0, height=None)
    window.model.change("Least piece", "tidy", least_area=1.0)
    window.model.change("Way of building", "layers", build="carried")
    window.by_key["sheets"].change("Sheet", size=(150.0, 120.0), nested=True)
    settled(window)
    for key in ("tidy", "layers", "check", "sheets", "send"):
        window.show_step(key)
        settled(window)
    layouts = window.by_key["sheets"].layouts
    qtbot.waitUntil(lambda: layouts.layout is not None)
    out = tmp_path / "out"
    out.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(out))
    card = window.by_key["send"].folder
    card.fold(False)
    for form, box in card.formats.items():
        if not box.isChecked():
            press(qtbot, box)
        assert card.formats[form].isChecked()
    press(qtbot, card.send)
    qtbot.waitUntil(lambda: names_in(out) == {f"plant-pot{ending}" for ending in WRITERS})
    page = page_of_layers(window.model.result.stack.cuts, None, "Plant pot")
    for ending, writer in WRITERS.items():
        assert writer.is_right((out / f"plant-pot{ending}").read_bytes(), page)
    card.what.setCurrentIndex(1)
    card.what.activated.emit(1)
    press(qtbot, card.repeat)
    sheets = layouts.layout.sheets
    stems = ("plant-pot", *sheet_names(layouts.layout))
    qtbot.waitUntil(lambda: names_in(out) == {f"{stem}{ending}" for stem in stems for ending in WRITERS})
    ids = names_of(layouts.work.every)
    for stem, sheet in zip(sheet_names(layouts.layout), sheets, strict=True):
        for ending, writer in WRITERS.items():
            assert writer.is_right((out / f"{stem}{ending}").read_bytes(), page_of_sheet(sheet, ids))


def test_papers_and_test_cuts_go_to_the_folder_in_the_unit_of_the_window(
    at_send, settled, qtbot, tmp_path, monkeypatch
):
    window, card = at_send, at_send.by_key["send"].folder
    while window.unit != "in":
        window.commands.run("unit")
    layer = window.model.result.stack.layers[1]
    window.by_key["layers"].rule("Hide", layer.key, unlocks=True, hidden=True)
    settled(window)
    card.fold(False)
    assert card.hidden.text() == f"Hidden, so not sent: {layer.name}." and card.hidden.isVisible()
    assert not card.size.isEnabled()
    for box in (card.formats["svg"], card.formats["hpgl"], card.job_sheet, card.strip, card.test_cut):
        press(qtbot, box)
    card.size.setCurrentIndex(1)
    card.size.activated.emit(1)
    press(qtbot, card.options.turned)
    assert card.options.lost.text().startswith("HP-GL: pens for colours")
    assert not card.options.dpi.isVisible() and card.options.turned.isVisible() and card.size.isEnabled()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path))
    names = set(card.names.text().splitlines())
    assert names == {
        "fair-badge.hpgl", "fair-badge-job-sheet.pdf", "fair-badge-strip.png", "fair-badge-strip.pdf",
        "test-cut-any-stock.hpgl",
    }  # fmt: skip
    press(qtbot, card.send)
    qtbot.waitUntil(lambda: names_in(tmp_path) == names)
    document = pdfium.PdfDocument(tmp_path / "fair-badge-job-sheet.pdf")
    assert document[0].get_size() == pytest.approx((612, 792), abs=0.1)  # Letter
    text = document[0].get_textpage().get_text_bounded()
    assert "Size, in" in text and layer.name not in text
    page = page_of_layers(window.model.result.stack.cuts, None, "Fair badge")
    assert HpglWriter(turned=True).is_right((tmp_path / "fair-badge.hpgl").read_bytes(), page)
    opened = []
    monkeypatch.setattr(QDesktopServices, "openUrl", opened.append)
    press(qtbot, card.show_folder)
    assert opened[0].toLocalFile() == str(tmp_path)


def test_a_send_that_is_called_off_leaves_nothing(at_send, qtbot, tmp_path, monkeypatch):
    window, card = at_send, at_send.by_key["send"].folder
    card.fold(False)
    begun, let_go = threading.Event(), threading.Event()
    real = DxfWriter.write

    def slow(self, page):
        begun.set()
        let_go.wait(30)
        return real(self, page)

    monkeypatch.setattr(DxfWriter, "write", slow)
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path))
    for form in ("dxf", "pdf"):
        press(qtbot, card.formats[form])
    press(qtbot, card.send)
    qtbot.waitUntil(begun.is_set)
    window.model.change("Width", "finish", width=120.0)  # a change calls no send off
    with qtbot.waitSignal(window.model.runner.cancelled):
        window.commands.run("stop")
        let_go.set()
    qtbot.waitUntil(lambda: not window.model.runner.busy)
    assert not names_in(tmp_path) and not window.model.sent
    press(qtbot, card.repeat)
    qtbot.waitUntil(lambda: len(names_in(tmp_path)) == 3 and "3 files" in window.model.sent)


def test_closing_waits_for_a_send():
    runner, done, let_go = Runner(), [], threading.Event()

    def work(progress):
        let_go.wait(30)
        progress("send", 0.5)
        done.append(True)

    runner.enqueue(work, lambda _: None, "send", stays=True)
    threading.Timer(0.1, let_go.set).start()
    runner.close()
    assert done


def test_the_result_of_a_test_cut_changes_the_preset_and_is_undone(at_send, settled, qtbot, tmp_path, monkeypatch):
    window, card = at_send, at_send.by_key["send"].trial
    card.fold(False)
    assert not card.change.isEnabled() and "Choose a stock" in card.rule.text()
    stock, presets = next(one for one in GENERIC if one.name == "Red card"), window.model.presets
    rules = tuple(LayerRule(layer.key, stock=stock) for layer in window.model.result.stack.layers)
    window.model.change("Stock", "layers", rules=rules)
    window.by_key["sheets"].change("Cutter", cutter=CUTTERS[0])
    settled(window)
    assert card.stock.count() == 1 and card.stock.currentText() == stock.name
    take(card.result, "not through")
    assert "One pass more".lower() in card.rule.text().lower() and "2 passes" in card.rule.text()
    press(qtbot, card.change)
    (kept,) = presets.things
    assert (kept.stock, kept.cutter, kept.passes) == (stock.name, CUTTERS[0].name, 2)
    take(card.result, "tears")
    press(qtbot, card.change)
    assert presets.things[0].speed == 37.5 and presets.things[0].passes == 2
    take(card.result, "weeds clean")
    assert not card.change.isEnabled() and "stays" in card.rule.text()
    window.model.undo()
    assert presets.things == (kept,)
    window.model.undo()
    assert presets.things == ()
    assert all(layer.stock == stock for layer in window.model.result.stack.layers)  # never the stock
    target = tmp_path / "try.dxf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    press(qtbot, card.save)
    qtbot.waitUntil(target.exists)
    page = page_of_test_cut(stock, window.model.recipe.sheets)
    assert WRITERS[".dxf"].is_right(target.read_bytes(), page)


def take(choice, key) -> None:
    place = choice.findData(key)
    choice.setCurrentIndex(place)
    choice.activated.emit(place)


def test_a_layer_or_all_are_copied_as_svg(at_send, qtbot):
    window, clipboard = at_send, QApplication.clipboard()
    stack = window.model.result.stack
    for key, cuts in (("", None), (stack.layers[2].key, [stack.layers[2]])):
        clipboard.clear()
        window.ledger.select(key)
        window.commands.run("copy")
        qtbot.waitUntil(lambda: clipboard.mimeData() is not None and clipboard.mimeData().hasFormat("image/svg+xml"))
        data = bytes(clipboard.mimeData().data("image/svg+xml"))
        assert SVG.is_right(data, page_of_layers(stack.cuts, cuts)) and clipboard.text().encode() == data


def test_a_row_of_the_ledger_is_dragged_as_a_file(at_send):
    rows, stack = at_send.ledger.model(), at_send.model.result.stack
    assert at_send.ledger.dragEnabled()
    last = rows.rowCount() - 1
    for row, cuts in ((0, [stack.layers[-1]]), (last, None)):
        index = rows.index(row, 0)
        assert rows.flags(index) & Qt.ItemFlag.ItemIsDragEnabled
        data = rows.mimeData([index])
        assert data.formats() == ["text/uri-list", "image/svg+xml"]
        (url,) = data.urls()
        written = Path(url.toLocalFile())
        assert written.suffix == ".svg" and SVG.is_right(written.read_bytes(), page_of_layers(stack.cuts, cuts))
        assert bytes(data.data("image/svg+xml")) == written.read_bytes()


def test_a_hidden_layer_is_not_dragged(at_send, settled):
    key = at_send.model.result.stack.layers[0].key
    at_send.by_key["layers"].rule("Hide", key, unlocks=True, hidden=True)
    settled(at_send)
    rows = at_send.ledger.model()
    assert not rows.flags(rows.index(rows.rowCount() - 2, 0)) & Qt.ItemFlag.ItemIsDragEnabled


def test_a_sheet_is_dragged_from_its_list(at_send, qtbot, monkeypatch):
    taken = []
    monkeypatch.setattr("sketchloom.app.steps.sheets.listed.drag_page", lambda *told: taken.append(told))
    at_send.show_step("sheets")
    step = at_send.by_key["sheets"]
    qtbot.waitUntil(lambda: step.layouts.layout is not None and step.sheets.rows.count() > 1)
    row = step.sheets.rows.itemAt(1).widget()
    QTest.mousePress(row, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(3, 3))
    for x in (5, 9, 20, 40):
        where = QPointF(x, 4)
        move = QMouseEvent(QMouseEvent.Type.MouseMove, where, row.mapToGlobal(where), Qt.MouseButton.NoButton,
                           Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)  # fmt: skip
        QApplication.sendEvent(row, move)
    ((widget, page, name),) = taken
    layouts = step.layouts
    assert widget is row and name == sheet_names(layouts.layout)[1]
    meant = page_of_sheet(layouts.layout.sheets[1], names_of(layouts.work.every))
    assert SVG.write(page()) == SVG.write(meant)
