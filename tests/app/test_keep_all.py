"""One job from a crash to its logbook, through the real window."""

import os
import signal
import subprocess
import sys

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QPushButton

from sketchloom.app.window import Window
from sketchloom.core.logbook import RESULTS
from tests.app.conftest import close_down
from tests.conftest import FOUR_INKS, draw

LIFE = """
import sys
from pathlib import Path
from sketchloom.app.start import make_application
from sketchloom.app.window import Window
app = make_application()
window = Window()
window.show()
window.keeper.kept.connect(lambda jobs: [print("kept", job.recipe.finish.width, flush=True) for job in jobs])
def edit(opened):
    window.set_size("width", 66.0)
window.model.job_changed.connect(edit)
window.open(Path(sys.argv[1]))
app.exec()
"""


def button(card, words) -> QPushButton:
    return next(b for b in card.findChildren(QPushButton) if words in (b.accessibleName(), b.text()) and b.isVisible())


def click(qtbot, window, widget):
    window.panels.currentWidget().ensureWidgetVisible(widget)
    qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)


@pytest.fixture
def second(qtbot, art, window):
    """A start after the first, on that picture, was killed; `window` has the questions answered."""
    life = subprocess.Popen(
        [sys.executable, "-c", LIFE, str(art)], stdout=subprocess.PIPE, text=True,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert life.stdout is not None
    while life.stdout.readline().strip() != "kept 66.0":
        assert life.poll() is None
    life.send_signal(signal.SIGKILL)
    life.wait()
    made = Window()
    made.resize(1280, 800)
    qtbot.addWidget(made)
    made.show()
    made.keeper.look()
    yield made
    close_down(made)


def test_killed_restored_kept_compared_cut_logged_and_done_eight_times(
    second, art, settled, qtbot, tmp_path, monkeypatch
):
    window, source = second, second.by_key["source"]
    qtbot.waitUntil(lambda: source.left.isVisible())
    click(qtbot, window, button(source.left, "Bring Harvest plate back"))
    qtbot.waitUntil(lambda: window.model.job is not None)
    settled(window)
    assert window.model.recipe.finish.width == 66.0 and window.model.dirty

    source.versions.fold(False)
    click(qtbot, window, source.versions.keep)
    assert [version.name for version in window.model.versions] == ["Version 1"]
    window.set_size("width", 99.0)
    settled(window)
    click(qtbot, window, source.versions.compare)
    page = window.beside
    qtbot.waitUntil(lambda: page.left.half.side is not None and page.right.half.side is not None)
    told = {row[0]: row[1:] for row in page.table.told}
    assert told["Width"] == ("66.0 mm", "99.0 mm", "33.0 mm more") and told["Pieces"][2] == "the same"
    window.stop()

    red = window.model.shelf.thing("Red card")
    window.model.change("Stock", "layers", stock=red)
    settled(window)
    window.log.book.set_on_hand("Red card", 20.0, 1.0)
    window.show_step("send")
    card, sheets = window.by_key["send"].log, window.by_key["sheets"].layouts
    card.fold(False)
    qtbot.waitUntil(lambda: sheets.layout is not None)
    card.show_job()
    card.result.setCurrentIndex(RESULTS.index("good"))
    click(qtbot, window, card.log)
    qtbot.waitUntil(lambda: window.log.book.search() != ())
    lines = window.log.book.search()
    assert sum(one.used for one in lines) == sheets.figures.sheets and {one.stock for one in lines} == {"Red card"}
    assert window.log.book.on_hand()[0].amount == 20.0 - sheets.figures.sheets

    folder, out = tmp_path / "in", tmp_path / "out"
    folder.mkdir()
    for number in range(7):
        Image.fromarray(draw(FOUR_INKS, 60 + 6 * number).rgba).save(folder / f"{number}.png")
    (folder / "7.png").write_bytes((folder / "0.png").read_bytes()[:150])
    click(qtbot, window, window.by_key["send"].many)
    many = window.many
    many.take([folder])
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(out))
    qtbot.mouseClick(many.where, Qt.MouseButton.LeftButton)
    qtbot.mouseClick(many.begin, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not many.busy and len(many.rows.rows) == 8)
    failed = [row.picture for row in many.rows.rows if row.result == "failed"]
    assert failed == ["7.png"] and len(list(out.iterdir())) == 7
    assert art.read_bytes() == window.model.job.picture
