"""The Source step, through the real window: what opens, the report, and jobs laid aside."""

import io

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox
from skimage import data as photos

from sketchloom.core.job import read_job
from sketchloom.core.picture import Crop, Turn
from sketchloom.core.survey import LIMITS
from tests.conftest import FOUR_INKS, draw
from tests.core.test_pages import SHEET


@pytest.fixture
def three(tmp_path):
    paths = []
    for name, turn in (("beet", 0), ("can", 1), ("snail", 2)):
        paths.append(tmp_path / f"{name}.png")
        Image.fromarray(np.rot90(draw(FOUR_INKS, 300, 200).rgba, turn).copy()).save(paths[-1])
    return paths


def names(window):
    return [held.job.name for held in window.model.held]


def test_several_files_are_dropped_at_once_and_each_is_a_job(window, qtbot, settled, three):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in three])
    move, left, plain = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(50, 50), move, data, left, plain))
    settled(window)
    assert names(window) == ["Beet", "Can", "Snail"]
    assert window.job_name.text() == "Beet"
    assert window.by_key["source"].open_jobs.isVisible()


def test_a_job_laid_aside_keeps_its_changes_and_their_undo(window, qtbot, settled, three):
    window.open(*three)
    settled(window)
    window.model.change_rows("Turn", (Turn(quarters=1),))
    settled(window)
    window.model.take(window.model.held[1])
    qtbot.waitUntil(lambda: window.job_name.text() == "Can")
    assert window.model.recipe.prepare == ()
    window.show_step("source")
    step = window.by_key["source"]
    button = step.open_jobs.jobs.itemAt(0).widget().words
    assert button.text() == "Beet *"
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.job_name.text() == "Beet")
    assert window.model.recipe.prepare == (Turn(quarters=1),)
    window.commands.run("undo")
    assert window.model.recipe.prepare == ()


def test_a_job_with_changes_is_closed_only_when_that_is_meant(window, qtbot, settled, three, monkeypatch):
    window.open(*three)
    settled(window)
    window.model.change_rows("Turn", (Turn(quarters=1),))
    window.model.take(window.model.held[1])
    qtbot.waitUntil(lambda: window.job_name.text() == "Can")
    asked = []
    with monkeypatch.context() as patch:
        patch.setattr(QMessageBox, "question", lambda *a: asked.append(a[2]) or QMessageBox.StandardButton.Cancel)
        window.dialogs.put_away(window.model.held[0])
        assert names(window) == ["Beet", "Can", "Snail"]
        window.dialogs.put_away(window.model.held[2])
    assert len(asked) == 1
    assert "“Beet” has changes" in asked[0]
    assert names(window) == ["Beet", "Can"]
    window.model.put_away(window.model.held[1])
    assert names(window) == ["Beet", "Can"]  # the one in hand stays


def test_files_that_cannot_be_read_do_not_keep_the_others_back(window, qtbot, settled, three, tmp_path):
    bad = tmp_path / "half.png"
    bad.write_bytes(three[0].read_bytes()[:200])
    with qtbot.waitSignal(window.model.said) as said:
        window.open(three[0], bad, three[2])
    assert names(window) == ["Beet", "Snail"]
    assert said.args == ["half.png is damaged or only half there; save or copy it again."]


def test_a_picture_is_pasted(window, qtbot, settled):
    rgba = draw(FOUR_INKS, 300, 200).rgba.copy()
    QApplication.clipboard().setImage(QImage(rgba.data, 300, 300, QImage.Format.Format_RGBA8888).copy())
    window.canvas.setFocus()
    qtbot.keyClick(window.canvas, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.job_name.text() == "Pasted picture")
    assert np.array_equal(window.model.picture.rgba, rgba)


def test_files_are_pasted_and_an_empty_clipboard_says_so(window, qtbot, settled, three):
    QApplication.clipboard().clear()
    window.commands.run("paste")
    assert "no picture on the clipboard" in window.notice.text()
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in three[:2]])
    QApplication.clipboard().setMimeData(data)
    window.commands.run("paste")
    qtbot.waitUntil(lambda: names(window) == ["Beet", "Can"])


def test_the_dialog_opens_several(window, qtbot, settled, three, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(path) for path in three], ""))
    window.commands.run("open")
    qtbot.waitUntil(lambda: len(names(window)) == 3)


@pytest.fixture
def leaflet(tmp_path):
    pages = [Image.fromarray(np.rot90(draw(FOUR_INKS, 300, 200).rgba[..., :3], turn)) for turn in range(3)]
    path = tmp_path / "leaflet.pdf"
    pages[0].save(path, "PDF", save_all=True, append_images=pages[1:], resolution=72)
    return path


def test_a_page_of_a_pdf_is_chosen_at_any_dots_an_inch(window, qtbot, settled, leaflet, tmp_path):
    window.open(leaflet)
    settled(window)
    step = window.by_key["source"]
    assert step.picture.page_box.isVisible()
    assert step.picture.page.maximum() == 3
    assert window.model.picture.width == 1250  # 300 px at 72 dpi, drawn at 300
    window.model.change_rows("Crop", (Crop(first=(0.1, 0.1), last=(0.9, 0.9)),))
    settled(window)
    step.picture.page.setValue(2)
    qtbot.waitUntil(lambda: window.model.job.page == 2)
    step.picture.dpi.setValue(150)
    qtbot.waitUntil(lambda: window.model.job.dpi == 150)
    settled(window)
    assert window.model.picture.width == 625
    assert window.model.result.prepared.picture.width == pytest.approx(500, abs=1)
    assert len(names(window)) == 1
    assert window.model.dirty
    window.model.save(tmp_path / "leaflet.loom")
    qtbot.waitUntil(lambda: not window.model.dirty)
    job = read_job(tmp_path / "leaflet.loom")
    assert (job.page, job.dpi) == (2, 150)
    window.commands.run("undo")
    assert window.model.recipe.prepare == ()


@pytest.fixture
def sheet(window, settled, tmp_path):
    Image.fromarray(draw(SHEET, 800, 200).rgba).save(tmp_path / "labels.png")
    window.open(tmp_path / "labels.png")
    settled(window)
    window.show_step("source")
    return window


def test_one_drawing_of_a_page_is_taken(sheet, qtbot, settled):
    step = sheet.by_key["source"]
    assert step.drawings.isVisible()
    assert len(sheet.canvas.marks) == 8
    assert sheet.model.result.stack.layers[0].pieces == 8
    qtbot.mouseClick(step.drawings.takers.itemAt(2).widget(), Qt.MouseButton.LeftButton)
    settled(sheet)
    assert sheet.model.result.stack.layers[0].pieces == 1
    assert not step.drawings.isVisible()
    assert sheet.canvas.marks == ()
    sheet.commands.run("undo")
    settled(sheet)
    assert step.drawings.isVisible()


def test_every_drawing_of_a_page_becomes_a_job(sheet, qtbot, settled):
    qtbot.mouseClick(sheet.by_key["source"].drawings.apart, Qt.MouseButton.LeftButton)
    assert names(sheet) == ["Labels", *(f"Labels {number}" for number in range(1, 9))]
    sheet.model.take(sheet.model.held[4])
    qtbot.waitUntil(lambda: sheet.job_name.text() == "Labels 4")
    assert sheet.model.result.stack.layers[0].pieces == 1


def test_the_report_follows_the_finished_size_and_explains_itself(opened, settled):
    opened.show_step("source")
    step = opened.by_key["source"]

    def shown():
        return {name.text(): value.text() for name, value in step.report._figures if name.text()}

    opened.model.change("Size", "finish", width=50.0)
    settled(opened)
    small, good = shown(), step.report.verdict.text()
    opened.model.change("Size", "finish", width=500.0)
    settled(opened)
    large = shown()
    assert float(small["Pixels a mm"]) == pytest.approx(10 * float(large["Pixels a mm"]), rel=0.1)
    assert float(large["Pixels a mm"]) < LIMITS.least_px_per_mm
    assert "cleanly" in good
    assert "coarse" in step.report.verdict.text()
    assert all(name.toolTip() == value.toolTip() != "" for name, value in step.report._figures if name.text())


def test_a_larger_drawing_is_no_better_for_having_been_enlarged(opened, settled):
    opened.show_step("source")
    step = opened.by_key["source"]
    opened.model.change("Size", "finish", width=100.0)
    settled(opened)
    plain = step.report._figures[0][1].text()
    opened.by_key["prepare"].adders["Enlarge"].click()
    settled(opened)
    assert opened.model.result.prepared.picture.width == 800
    assert float(step.report._figures[0][1].text()) == pytest.approx(float(plain), abs=0.1)


def test_a_picture_of_a_phone_opens(window, settled, tmp_path):
    import pillow_heif

    buffer = io.BytesIO()
    pillow_heif.from_pillow(Image.fromarray(draw(FOUR_INKS, 300, 200).rgba[..., :3])).save(buffer, quality=90)
    (tmp_path / "phone.HEIC").write_bytes(buffer.getvalue())
    window.open(tmp_path / "phone.HEIC")
    settled(window)
    assert window.model.picture.width == 300


def test_a_photo_is_cut_into_as_many_steps_as_asked(window, qtbot, settled, tmp_path):
    Image.fromarray(photos.coffee()).save(tmp_path / "cup.png")
    window.open(tmp_path / "cup.png")
    settled(window)
    qtbot.mouseClick(window.by_key["source"].kind.kinds["photo"], Qt.MouseButton.LeftButton)
    settled(window)
    assert window.model.result.road.mode == "photo"
    assert "a photo" in window.by_key["source"].kind.why.text()
    window.show_step("separate")
    separate = window.by_key["separate"]
    count = len(window.model.result.palette.cut)
    qtbot.mouseClick(separate.inks.fewer, Qt.MouseButton.LeftButton)
    settled(window)
    qtbot.waitUntil(lambda: separate.inks.number.text() == str(count - 1))
    light = [sum(layer.ink.shown) for layer in window.model.result.stack.layers]
    assert light == sorted(light, reverse=True)
    separate.inks.set_count(12)
    settled(window)
    qtbot.waitUntil(lambda: separate.inks.number.text() == "6")
    assert separate.inks.short.text() == "Only 6 can be told apart."


def test_the_history_is_listed_and_any_place_of_it_is_gone_to(opened, settled, qtbot):
    opened.show_step("source")
    card, model = opened.by_key["source"].history, opened.model
    assert not card.isVisible()
    for width in (60.0, 70.0, 80.0):
        model.change(f"Width {width:g}", "finish", width=width)
    model.change("Way of building", "layers", build="carried")
    settled(opened)
    assert card.isVisible() and card.aside.text() == "4" and not card.rows.count()
    card._by_hand()
    names = [card.rows.itemAt(row).widget().text() for row in range(card.rows.count())]
    assert names == ["Way of building, layers", "Width 80, size", "Width 70, size", "Width 60, size",
                     "As it was opened"]  # fmt: skip
    assert card.rows.itemAt(0).widget().isChecked() and not card.told.isVisible()
    qtbot.mouseClick(card.rows.itemAt(2).widget(), Qt.MouseButton.LeftButton)
    settled(opened)
    assert model.recipe.finish.width == 70.0 and card.aside.text() == "2 of 4"
    assert "2 changes come after this one" in card.told.text() and card.told.isVisible()
    assert [row for row in range(5) if card.rows.itemAt(row).widget().isChecked()] == [2]
    qtbot.mouseClick(card.rows.itemAt(4).widget(), Qt.MouseButton.LeftButton)
    settled(opened)
    assert model.undo_name is None and model.recipe.finish.width != 60.0
    qtbot.mouseClick(card.rows.itemAt(0).widget(), Qt.MouseButton.LeftButton)
    settled(opened)
    assert model.recipe.layers.build == "carried" and model.redo_name is None
    for width in range(100, 140):
        model.change("Width", "finish", width=float(width))
    settled(opened)
    texts = [card.rows.itemAt(row).widget().text() for row in range(card.rows.count())]
    assert len(texts) < 30 and texts[-1].endswith("earlier")
