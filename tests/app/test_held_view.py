"""Views that are held while they move: what shows at rest is what a fresh drawing shows."""

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QTransform

from sketchloom.app.canvas import View
from sketchloom.app.canvas.shapes import painter_path, painter_paths
from tests.conftest import draw

SPOTS = "".join(
    f'<circle cx="{12 + 16 * i}" cy="{12 + 16 * j}" r="6" fill="{ink}"/><circle cx="{12 + 16 * i}" cy="{12 + 16 * j}" '
    'r="2.5" fill="#ffffff"/>'
    for i in range(12)
    for j, ink in enumerate(("#b3275f", "#4f8a4b", "#2a6fdb") * 4)
)


@pytest.fixture
def shown(window, settled, tmp_path):
    path = tmp_path / "spots.png"
    Image.fromarray(draw(SPOTS, 600, 200).rgba).save(path)
    window.open(path)
    settled(window)
    return window


def pixels(image: QImage) -> np.ndarray:
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    return np.array(image.constBits()).reshape(image.height(), -1, 4)[:, : image.width()].astype(int)


def test_a_path_in_parts_fills_what_it_fills_as_one(shown):
    """Rings, and what lies in their holes: Qt's own filling of the whole path by the even-odd rule is the reference."""
    for layer in shown.model.result.stack.layers:
        images = []
        for paths in ([painter_path(layer.path)], painter_paths(layer.path, QTransform()).paths):
            image = QImage(500, 500, QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(0)
            painter = QPainter(image)
            painter.scale(9, 9)
            for path in paths:
                painter.fillPath(path, QColor("#123456"))
            painter.end()
            images.append(pixels(image))
        assert len(painter_paths(layer.path, QTransform()).paths) > 10
        assert (images[0] != images[1]).any(2).mean() < 1e-3


@pytest.mark.parametrize("view", ["Paths", "Layers"])
def test_a_view_that_was_moved_and_zoomed_shows_at_rest_what_a_fresh_one_shows(shown, qtbot, view):
    shown.show_step("trace")
    shown.show_view(view)
    canvas = shown.canvas
    canvas.before = None
    canvas.repaint()
    held = canvas._held[view]
    held._took = 1.0  # as a view that is slow to draw
    canvas.repaint()
    for _ in range(6):
        held._took = 1.0
        canvas.pan_by(QPointF(7.3, -4.6))
        canvas.repaint()
    moving = pixels(canvas.grab().toImage())
    for _ in range(3):
        held._took = 1.0
        canvas.zoom_by(1.1)
        canvas.repaint()
    with qtbot.waitSignal(held.rested, timeout=3000):
        pass
    canvas.repaint()
    at_rest = pixels(canvas.grab().toImage())
    held._key = None
    fresh = pixels(canvas.grab().toImage())
    assert np.array_equal(at_rest, fresh)
    canvas.zoom_by(1 / 1.1**3)
    held._key = None
    exact = pixels(canvas.grab().toImage())
    assert np.abs(moving - exact).max(2).mean() < 12  # whole pixels only, and nothing is missing at the edges
    ground = np.abs(exact[:, :20] - moving[:, :20]).max(2)
    assert (ground > 80).mean() < 0.05


def test_a_view_of_a_steps_own_lies_in_a_room_of_its_own(shown, qtbot):
    """Zoom and pan are one for each room; tools of the picture rest, clicks ask the view what lies there."""
    canvas = shown.canvas
    boards, drawn = [QSizeF(300, 200)], []

    def paint(painter, room, nodes):
        drawn.append(room)
        painter.setTransform(room)
        painter.fillRect(QRectF(0, 0, 300, 200), "#ff00ff")

    hit = lambda at: "left" if at.x() < 150 else "right"  # noqa: E731
    canvas.add_view(View("Boards", "Boards", lambda: boards[0], lambda: 1.0, paint, hit, room="boards"))
    shown.show_step("tidy")
    canvas.zoom_by(3)
    place = canvas.zoom, canvas.offset
    canvas.show_view("Boards")
    assert (canvas.width() - 300 * canvas.zoom) / 2 == pytest.approx(canvas.offset.x())  # all of it in view
    assert canvas.tool is not None and canvas.working is None
    picked = []
    canvas.clicked.connect(picked.append)
    at = (canvas.offset + QPointF(40, 40) * canvas.zoom).toPoint()
    chosen = shown.by_key["tidy"].choice
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=at)
    assert picked == ["left"] and shown.by_key["tidy"].choice == chosen
    assert pixels(canvas.grab().toImage())[at.y(), at.x(), :3].tolist() == [255, 0, 255]
    canvas.show_real_size()
    assert canvas.zoom == pytest.approx(96 / 25.4)
    boards[0] = QSizeF(600, 200)
    canvas.show_view("Regions")
    assert (canvas.zoom, canvas.offset) == place and canvas.working is canvas.tool
    canvas.show_view("Boards")
    assert canvas.zoom == pytest.approx(96 / 25.4)
    canvas.fit()
    assert 600 * canvas.zoom <= canvas.width()
