"""A maker's first job, through the real window; runs offscreen and under Xvfb."""

import io

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton
from svgelements import SVG
from svgelements import Path as SvgPath


def test_open_change_inks_undo_size_save_and_read_back(window, qtbot, settled, art, tmp_path, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(art)], ""))
    window.commands.run("open")
    settled(window)
    assert window.job_name.text() == "Harvest plate"
    qtbot.keyClick(window.canvas, Qt.Key.Key_3)
    separate = window.by_key["separate"]
    assert separate.inks.number.text() == "4"

    qtbot.mouseClick(separate.inks.fewer, Qt.MouseButton.LeftButton)
    settled(window)
    assert separate.inks.number.text() == "3"
    assert len(window.model.result.stack.layers) == 3
    qtbot.keyClick(window.canvas, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    settled(window)
    assert separate.inks.number.text() == "4"

    field = window.width_field
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "6 in")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    settled(window)
    assert field.text() == "152.4 mm wide"

    out = tmp_path / "plate.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    window.show_step("send")
    qtbot.mouseClick(window.by_key["send"].all, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(out.exists)
    # svgelements reads the file: one path an ink, and 6 in = 152.4 mm
    svg = SVG.parse(str(out), ppi=25.4)
    paths = [element for element in svg.elements() if isinstance(element, SvgPath)]
    assert len(paths) == 4
    boxes = np.array([path.bbox() for path in paths])
    assert boxes[:, 2].max() - boxes[:, 0].min() == pytest.approx(152.4, abs=0.01)
    assert 'width="152.4mm"' in out.read_text()
    qtbot.waitUntil(lambda: "Saved plate.svg" in window.notice.text())


def test_one_file_a_layer(opened, qtbot, tmp_path, monkeypatch):
    out = tmp_path / "plate.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    qtbot.keyClick(opened.canvas, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(list(tmp_path.glob("plate-layer-*.svg"))) == 4)


def test_a_job_is_saved_and_opened_again(opened, qtbot, settled, tmp_path, monkeypatch):
    opened.model.change("Smoothness", "trace", smoothness=0.2)
    settled(opened)
    assert opened.model.dirty
    path = tmp_path / "plate.loom"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    opened.commands.run("save")
    qtbot.waitUntil(lambda: not opened.model.dirty and path.exists())
    nodes = opened.ledger.text_at(4, 4)
    opened.open_demo()
    qtbot.waitUntil(lambda: opened.job_name.text() == "Fair badge")
    opened.open(path)
    qtbot.waitUntil(lambda: opened.job_name.text() == "Harvest plate")
    settled(opened)
    assert opened.model.recipe.trace.smoothness == 0.2
    assert opened.ledger.text_at(4, 4) == nodes


def bad_files(tmp_path):
    picture = Image.fromarray(np.random.default_rng(1).integers(0, 255, (64, 64, 3)).astype(np.uint8))
    buffer = io.BytesIO()
    picture.save(buffer, "PNG")
    head = bytearray(buffer.getvalue())
    head[16:24] = (30000).to_bytes(4, "big") * 2
    import zlib

    head[29:33] = zlib.crc32(bytes(head[12:29])).to_bytes(4, "big")
    return {
        "text.png": (b"shopping list", "not a picture"),
        "empty.png": (b"", "is empty"),
        "half.png": (buffer.getvalue()[:4000], "damaged"),
        "huge.png": (bytes(head), "30000 x 30000"),
        "broken.loom": (b"PK", "not a Sketch Loom job"),
    }


def test_bad_pictures_say_one_sentence_and_the_job_in_hand_stays(opened, qtbot, tmp_path):
    before = opened.model.result
    for name, (data, words) in bad_files(tmp_path).items():
        (tmp_path / name).write_bytes(data)
        opened.notice.setText("")
        opened.open(tmp_path / name)
        qtbot.waitUntil(lambda words=words: words in opened.notice.text())
        assert "\n" not in opened.notice.text()
        assert opened.model.result is before
        assert opened.job_name.text() == "Harvest plate"
    # and it goes on working
    opened.by_key["separate"].inks.set_count(2)
    qtbot.waitUntil(lambda: len(opened.model.result.stack.layers) == 2)


@pytest.mark.parametrize(("side", "colour"), [(1, (90, 20, 30)), (40, (255, 255, 255))])
def test_a_picture_that_is_all_ground_opens_says_why_and_can_be_mended(opened, qtbot, settled, tmp_path, side, colour):
    Image.new("RGB", (side, side), colour).save(tmp_path / "one.png")
    opened.open(tmp_path / "one.png")
    separate = opened.by_key["separate"]
    qtbot.waitUntil(lambda: "Nothing is left to cut" in separate.trouble)
    assert opened.job_name.text() == "One" and opened.step is separate
    assert opened.ledger.model().rowCount() == 0
    qtbot.mouseClick(separate.ground.keep, Qt.MouseButton.LeftButton)
    settled(opened)
    assert not separate.trouble
    assert len(opened.model.result.stack.layers) == 1


def test_the_demo_opens_at_first_start_and_fills_the_ledger(window, settled):
    window.open_demo()
    settled(window)
    assert window.job_name.text() == "Fair badge"
    assert window.width_field.text() == "180.0 mm wide"
    rows = {window.ledger.text_at(row, 0): row for row in range(6)}
    assert set(rows) == {"Cream", "Soot", "Can blue", "Beet", "Leaf green", "Total"}
    total = sum(int(window.ledger.text_at(row, 4)) for name, row in rows.items() if name != "Total")
    assert window.ledger.text_at(rows["Total"], 4) == str(total)


def test_every_step_and_control_is_reachable_by_keyboard(opened, qtbot):
    for place, key in enumerate((Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_3, Qt.Key.Key_4, Qt.Key.Key_5, Qt.Key.Key_6)):
        opened.canvas.setFocus()
        qtbot.keyClick(opened.canvas, key)
        assert opened.warp.current == place
        assert opened.panels.currentIndex() == place
    for button in opened.findChildren(QPushButton):
        assert button.focusPolicy() & Qt.FocusPolicy.TabFocus
