"""Send in the real window: every format that the dialog offers is written and reads back."""

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QScrollArea

from sketchloom.core.job import sheet_names
from sketchloom.core.send import WRITERS, names_of, page_of_layers, page_of_sheet
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
