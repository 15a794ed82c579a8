"""Start the window."""

import gc
import os
import sys
from pathlib import Path

from PySide6.QtWidgets import QApplication

from sketchloom.app.theme import theme
from sketchloom.app.window import Window
from sketchloom.memory import keep_freed_memory, pass_over_what_stays

__all__ = ["make_application", "open_window"]

_SWITCH = 0.001
"""s; the interpreter's lock changes hands more often than it would, so that the window answers while stages run."""
_KEPT = 256 << 20
"""Bytes of freed memory that the window keeps for its next arrays."""


def make_application() -> QApplication:
    """Make the Qt application, dressed."""
    sys.setswitchinterval(_SWITCH)
    keep_freed_memory(_KEPT)
    pass_over_what_stays()
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("Sketch Loom")
    theme.apply()
    return app


def open_window(picture: str | None, demo: bool) -> int:
    """Open the window, on a picture or job if one is named; return the exit code."""
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        sys.stderr.write("There is no display for the window; use sketch-loom trace, see sketch-loom --help.\n")
        return 2
    with theme.put_off():
        app = make_application()
        window = Window()
    gc.enable()
    pass_over_what_stays()
    window.show()
    window.keeper.look()
    if picture is not None:
        window.open(Path(picture))
    elif demo or not window.settings.started_before:
        window.open_demo()
    window.remember_start()
    return app.exec()
