"""How long a drag of Smoothness on the demo badge takes, from the slider's value to the repainted window."""

import os
import statistics
import tempfile
import time

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

from PySide6.QtCore import QEventLoop

from sketchloom.app.start import make_application
from sketchloom.app.window import Window

VALUES = (0.02, 0.03, 0.05, 0.08, 0.12, 0.2, 0.3, 0.2, 0.1, 0.04, 0.015)


def main() -> None:
    """Print the time of each value, and the median."""
    app = make_application()
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.open_demo()
    while window.model.stale:
        app.processEvents()
        time.sleep(0.005)
    window.show_step("trace")
    took = []
    for value in (VALUES[-1] * 1.1, *VALUES):  # the first reduces the picture and is not counted
        arrived = QEventLoop()
        window.model.result_ready.connect(arrived.quit)
        begun = time.perf_counter()
        window.by_key["trace"].smoothness.slider.moved.emit(value, 1)
        arrived.exec()
        window.model.result_ready.disconnect(arrived.quit)
        window.canvas.repaint()
        took.append(1000 * (time.perf_counter() - begun))
    took = took[1:]
    print("drag of Smoothness, ms: " + " ".join(f"{ms:.0f}" for ms in took) + f"; median {statistics.median(took):.0f}")
    window.model.close()


main()
