"""The Trace step, driven: controls with their effect, deviation, work by hand, centre lines and double edges."""

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel

from sketchloom.core.curves import PRESETS
from sketchloom.core.job import worst_place
from tests.conftest import draw

ART = (
    '<rect x="40.4" y="39.7" width="320" height="320" fill="#3a2a33"/>'
    '<path d="M100 200 C100 80 180 120 200 150 C220 180 300 60 310 200 C320 320 120 330 100 200Z" fill="#f2e6cf"/>'
)
RING = '<circle cx="200" cy="200" r="120" fill="none" stroke="#205080" stroke-width="10"/>'


@pytest.fixture
def show(window, settled, tmp_path):
    def opened(body: str):
        path = tmp_path / "fair_sign.png"
        Image.fromarray(draw(body, 400).rgba).save(path)
        window.open(path)
        settled(window)
        window.show_step("trace")
        return window.by_key["trace"]

    return opened


@pytest.fixture
def step(show):
    return show(ART)


def on_canvas(window, x: float, y: float) -> QPointF:
    """The widget point over px of the picture."""
    return window.canvas.widget_point((x / 400, y / 400))


def drag(qtbot, window, start: QPointF, *ends: QPointF) -> None:
    canvas = window.canvas
    qtbot.mousePress(canvas, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for end in ends:
        qtbot.mouseMove(canvas, end.toPoint())
        canvas.tool.move(end)  # offscreen, moves with a button down are not always sent
    qtbot.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=ends[-1].toPoint())


def test_a_control_says_what_it_does_to_the_nodes(window, settled, step):
    nodes = int(step.figures.nodes.text())
    step.set_control("smoothness", 0.3)
    settled(window)
    fewer = nodes - int(step.figures.nodes.text())
    assert fewer > 0
    assert step.effects["smoothness"].text() == f"saves {fewer} nodes"
    window.model.undo()
    settled(window)
    step.set_control("corner", 150.0)
    settled(window)
    assert step.effects["corner"].text() != ""
    assert step.effects["smoothness"].text() == ""


def test_presets_set_all_and_show_which_is_in_force(window, settled, qtbot, step):
    by_name = {button.text(): button for button in step.purpose.presets.buttons()}
    assert by_name["Cut"].isChecked()
    by_name["Route"].click()
    settled(window)
    assert window.model.recipe.trace.smoothness == PRESETS["Route"]["smoothness"]
    assert [name for name, button in by_name.items() if button.isChecked()] == ["Route"]
    assert window.model.undo_name == "Trace for route"


def test_squaring_up_is_a_switch(window, settled, step):
    step.straight.square.click()
    settled(window)
    assert window.model.recipe.trace.square == 1.5
    step.straight.square.click()
    settled(window)
    assert window.model.recipe.trace.square == 0


def test_deviation_is_shown_and_the_worst_place_is_looked_at(window, qtbot, step):
    canvas = window.canvas
    before = canvas.grab().toImage()
    step.figures.heat.click()
    assert canvas.scene.heat
    assert canvas.before is None
    hot = canvas.grab().toImage()
    assert hot != before
    canvas.setFocus()
    qtbot.keyClick(canvas, Qt.Key.Key_W)
    worst = worst_place(window.model.result)
    middle = QPointF(canvas.width() / 2, canvas.height() / 2)
    assert (canvas.widget_point(worst) - middle).manhattanLength() < 1
    assert canvas.ring == worst
    step.figures.heat.click()
    assert not canvas.scene.heat
    assert canvas.ring is None


def test_a_node_is_moved_by_dragging_and_by_keys(window, settled, qtbot, step):
    step.hand.tools["nodes"].click()
    tool, canvas = window.canvas.tool, window.canvas
    corner = on_canvas(window, 360.4, 359.7)
    drag(qtbot, window, corner, corner + QPointF(20, 10), corner + QPointF(40, 20))
    settled(window)
    assert window.model.undo_name == "Node moved"
    _, places = tool.nodes()
    wanted = tool.px(corner + QPointF(40, 20))
    away = np.linalg.norm(places - wanted, axis=1)
    assert away.min() < 1.5
    before = places[int(np.argmin(away))]
    per_mm = window.model.result.finished.px_per_mm
    qtbot.keyClick(canvas, Qt.Key.Key_Left)
    settled(window)
    qtbot.keyClick(canvas, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    settled(window)
    _, places = tool.nodes()
    assert np.linalg.norm(places - (before + per_mm * np.array([-0.1, -1.0])), axis=1).min() < 0.02
    assert step.hand.edits.text() == "3 changes by hand."
    step.hand.back.click()
    settled(window)
    assert len(window.model.recipe.trace.edits) == 2
    step.hand.none.click()
    settled(window)
    assert window.model.recipe.trace.edits == ()
    assert not step.hand.edits.isVisibleTo(step)


def test_nodes_are_added_deleted_and_turned_by_keys(window, settled, qtbot, step):
    step.hand.tools["nodes"].click()
    tool, canvas = window.canvas.tool, window.canvas
    count = len(tool.nodes()[0])
    edge = on_canvas(window, 200, 39.7)
    qtbot.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=edge.toPoint())
    qtbot.mouseDClick(canvas, Qt.MouseButton.LeftButton, pos=edge.toPoint())
    settled(window)
    assert len(tool.nodes()[0]) == count + 1
    qtbot.keyClick(canvas, Qt.Key.Key_R)
    settled(window)
    assert window.model.undo_name == "Node rounded"
    qtbot.keyClick(canvas, Qt.Key.Key_C)
    settled(window)
    assert window.model.undo_name == "Corner made"
    qtbot.keyClick(canvas, Qt.Key.Key_Delete)
    settled(window)
    assert len(tool.nodes()[0]) == count
    chosen = tool.node()
    qtbot.keyClick(canvas, Qt.Key.Key_Tab)
    assert tool.node() != chosen
    qtbot.keyClick(canvas, Qt.Key.Key_Escape)
    assert canvas.tool is None
    assert not step.hand.tools["nodes"].isChecked()


def along_the_dip(window) -> list[QPointF]:
    """Widget points along the heart's dip, from its own drawing."""
    left, right = (
        np.array([[100, 200], [100, 80], [180, 120], [200, 150]]),
        np.array([[200, 150], [220, 180], [300, 60], [310, 200]]),
    )
    shares = [(left, t) for t in np.linspace(0.6, 1, 9)] + [(right, t) for t in np.linspace(0, 0.4, 9)]
    at = [
        (1 - t) ** 3 * p[0] + 3 * t * (1 - t) ** 2 * p[1] + 3 * t * t * (1 - t) * p[2] + t**3 * p[3] for p, t in shares
    ]
    return [on_canvas(window, x, y) for x, y in at]


@pytest.mark.parametrize(
    ("kind", "name"),
    [("straighten", "Straightened"), ("smooth", "Smoothed"), ("close", "Closed by a curve")],
)
def test_a_stretch_is_drawn_anew(window, settled, qtbot, step, kind, name):
    step.hand.tools[kind].click()
    before = abs(window.model.result.curves.areas()).copy()
    drag(qtbot, window, *along_the_dip(window))
    settled(window)
    assert window.model.undo_name == name
    after = abs(window.model.result.curves.areas())
    assert np.abs(after - before).max() > (2 if kind == "smooth" else 50)
    assert window.model.result.unplaced == ()


@pytest.mark.parametrize(
    ("kind", "words"), [("smooth", "ran along no edge"), ("straighten", "ran along no edge"), ("close", "No edge lies")]
)
def test_where_no_edge_is_the_tool_says_so(window, qtbot, step, kind, words):
    step.hand.tools[kind].click()
    at = on_canvas(window, 200, 240)
    drag(qtbot, window, at, at + QPointF(30, 0))
    assert words in window.notice.text()
    assert window.model.recipe.trace.edits == ()


def test_a_brush_that_crosses_an_edge_changes_nothing(window, qtbot, step):
    step.hand.tools["straighten"].click()
    drag(qtbot, window, on_canvas(window, 200, 60), on_canvas(window, 200, 120), on_canvas(window, 200, 250))
    assert "crossing one changes nothing" in window.notice.text()
    assert window.model.recipe.trace.edits == ()


def test_an_edit_that_lost_its_place_is_listed(window, settled, qtbot, step):
    step.hand.tools["straighten"].click()
    drag(qtbot, window, on_canvas(window, 150, 117), on_canvas(window, 250, 131))
    settled(window)
    window.model.change("Number of inks", "separate", inks=1)
    settled(window)
    assert "found no place on the new curves: straightened" in step.hand.edits.text()


def test_centre_lines_and_double_edges(window, settled, qtbot, show):
    show(RING)
    window.show_step("layers")
    step = window.by_key["layers"]
    assert step.double.isVisibleTo(step)
    assert "2.6 mm wide" in step.double.findChildren(QComboBox)[0].parent().words.text()
    whole = window.model.result.stack.layers[0].cut_length
    step.double.findChildren(QComboBox)[0].activated.emit(3)
    settled(window)
    assert window.model.result.stack.layers[0].cut_length == pytest.approx(whole / 2, rel=0.01)
    window.model.undo()
    settled(window)
    ink_box(qtbot, step).click()
    settled(window)
    assert len(window.model.result.stack.strokes) == 1
    qtbot.waitUntil(lambda: any(label.startswith("1 line, ") for label in texts(step.centre)))
    assert not window.canvas.scene._strokes[0][1].isEmpty()


def ink_box(qtbot, step) -> QCheckBox:
    """The first ink of the card, once it is laid out."""

    def shown() -> list[QCheckBox]:
        return [box for box in step.centre.findChildren(QCheckBox) if not box.isHidden()]

    qtbot.waitUntil(lambda: bool(shown()))
    return shown()[0]


def texts(card) -> list[str]:
    return [label.text() for label in card.findChildren(QLabel)]


def test_two_ends_of_centre_lines_are_joined_by_dragging(window, settled, qtbot, show):
    pen = 'stroke="#205080" stroke-width="14" stroke-linecap="round" fill="none"'
    show(f'<path d="M60 120 L180 120 M230 120 L340 120" {pen}/>')
    window.show_step("layers")
    step = window.by_key["layers"]
    ink_box(qtbot, step).click()
    settled(window)
    assert len(window.model.result.stack.strokes[0].path.contours) == 2
    step.centre.join.click()
    drag(qtbot, window, on_canvas(window, 180, 120), on_canvas(window, 229, 120))
    settled(window)
    assert window.model.undo_name == "Ends joined"
    assert len(window.model.result.stack.strokes[0].path.contours) == 1
    assert step.centre.joins.text() == "1 join."
    step.centre.apart.click()
    settled(window)
    assert len(window.model.result.stack.strokes[0].path.contours) == 2
