"""The real window, driven."""

import os
from functools import partial

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from PIL import Image
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox

from sketchloom.app.start import make_application
from sketchloom.app.window import Window
from sketchloom.core.job import Pipeline
from tests.conftest import FOUR_INKS, draw

PATIENCE = 60_000
"""Milliseconds a wait may last: a busy machine is no failure."""


@pytest.fixture
def qtbot(qtbot):
    qtbot.waitUntil = partial(qtbot.waitUntil, timeout=PATIENCE)
    qtbot.waitSignal = partial(qtbot.waitSignal, timeout=PATIENCE)
    return qtbot


@pytest.fixture(scope="session")
def remembered():
    """What all windows of this process have worked out: what one opened, the next need not work out again."""
    return Pipeline(400_000_000)


@pytest.fixture
def window(qtbot, monkeypatch, remembered, request):
    make_application()
    if "held_up" not in request.fixturenames:  # what is held up must have work to do
        monkeypatch.setattr("sketchloom.app.job_model.Pipeline", lambda: remembered)
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    for dialog, asks in (
        (QFileDialog, ("getOpenFileName", "getOpenFileNames", "getSaveFileName")),
        (QInputDialog, ("getInt",)),
    ):
        for ask in asks:  # a dialog that no test answers would wait for ever
            monkeypatch.setattr(dialog, ask, lambda *_, ask=ask: pytest.fail(f"{ask} was not answered"))
    made = Window()
    made.resize(1280, 800)
    qtbot.addWidget(made)
    made.show()
    if not made.isActiveWindow():  # no window manager under Xvfb
        QApplication.setActiveWindow(made)
    yield made
    close_down(made)


def close_down(window: Window) -> None:
    """End all that a window works with."""
    window.measured.close()
    window.close_pages()
    window.log.close()
    for step in window.steps:
        step.close_down()
    window.model.close()
    window.keeper.close()


@pytest.fixture
def settled(qtbot):
    """Wait until the window shows the full result of the recipe in force, and rows it took out are gone."""

    def wait(window: Window) -> None:
        for _ in range(2):  # what was worked out beside may ask for a new result
            qtbot.waitUntil(lambda: not window.model.stale and not window.model.side.busy)
            QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    return wait


@pytest.fixture
def art(tmp_path):
    path = tmp_path / "harvest_plate.png"
    Image.fromarray(draw(FOUR_INKS, 400, 200).rgba).save(path)
    return path


@pytest.fixture
def opened(window, settled, art):
    """A window with a picture of four inks."""
    window.open(art)
    settled(window)
    return window
