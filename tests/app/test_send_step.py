"""Send in the real window: every format that the dialog offers is written and reads back."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from sketchloom.core.send import WRITERS, page_of_layers


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
    qtbot.mouseClick(step.all, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: written.exists() and bool(at_send.model.sent))
    page = page_of_layers(at_send.model.result.stack.cuts)
    assert WRITERS[ending].is_right(written.read_bytes(), page)
    assert [path.name for path in tmp_path.iterdir()] == [written.name]
    assert len(asked[0].split(";;")) == len(WRITERS) and written.name in step.sent.text()


def test_one_file_a_layer(at_send, qtbot, tmp_path, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "fair.dxf"), ""))
    qtbot.mouseClick(at_send.by_key["send"].each, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(list(tmp_path.glob("fair-layer-*.dxf"))) == 5)
    assert not (tmp_path / "fair.dxf").exists()
