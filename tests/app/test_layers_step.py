"""The Layers step, driven through the real window."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QColorDialog, QComboBox, QFileDialog, QPushButton
from scipy import ndimage
from svgelements import SVG
from svgelements import Path as SvgPath

import sketchloom
from sketchloom.app.fields import Card
from sketchloom.core.layers import BASE
from sketchloom.core.stock import STOCKS
from tests.conftest import draw

PICTURES = Path(sketchloom.__file__).parent / "demo"


@pytest.fixture
def layers(opened, settled):
    """The Layers step with a picture of four inks."""
    opened.show_step("layers")
    settled(opened)
    return opened.by_key["layers"]


class Hand:
    """Does what a maker does, and counts it."""

    def __init__(self, window, qtbot, settled) -> None:
        self.window, self.qtbot, self._settled, self.gestures = window, qtbot, settled, 0

    def _done(self) -> None:
        self.gestures += 1
        self._settled(self.window)

    def _unfold(self, part) -> None:
        """Click the heading of the card that holds a part, where it is folded."""
        card = part
        while card is not None and not isinstance(card, Card):
            card = card.parentWidget()
        if card is not None and card.folded and card.isVisible():
            self.qtbot.mouseClick(card._fold, Qt.MouseButton.LeftButton)
            self._done()

    def click(self, button) -> None:
        self._unfold(button)
        assert button.isVisible() and button.isEnabled(), button.text()
        self.qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
        self._done()

    def key(self, key) -> None:
        self.window.canvas.setFocus()
        self.qtbot.keyClick(self.window.canvas, key)
        self._done()

    def type(self, field, text: str) -> None:
        self._unfold(field)
        field.setFocus()
        field.selectAll()
        self.qtbot.keyClicks(field, text)
        self.qtbot.keyClick(field, Qt.Key.Key_Return)
        self._done()

    def choose(self, box: QComboBox, text: str) -> None:
        """Open a list and click a line of it."""
        self._unfold(box)
        place = next(at for at in range(box.count()) if box.itemText(at).endswith(text))
        box.setCurrentIndex(place)
        box.activated.emit(place)
        self._done()


def paths_of(file):
    svg = SVG.parse(str(file), ppi=25.4)
    return {element.id: element for element in svg.elements() if isinstance(element, SvgPath)}


def opened_by(window, qtbot, settled, monkeypatch, picture, out):
    """A hand that has opened a picture, in one gesture."""
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([str(picture)], ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    hand = Hand(window, qtbot, settled)
    window.commands.run("open")
    hand._done()
    return hand


def test_a_badge_on_a_backing_with_a_rim_in_seven_gestures(window, qtbot, settled, tmp_path, monkeypatch):
    out = tmp_path / "decal.svg"
    hand = opened_by(window, qtbot, settled, monkeypatch, PICTURES / "fair-badge.png", out)
    step = window.by_key["layers"]
    hand.key(Qt.Key.Key_6)
    hand.click(step.ways.ways["backed"])
    hand.type(step.base.rim, "2mm")
    hand.choose(step.stock.of_stack, "Adhesive vinyl")
    hand.key(Qt.Key.Key_9)
    hand.click(window.by_key["send"].all)
    assert hand.gestures <= 7
    qtbot.waitUntil(out.exists)
    stack = window.model.result.stack
    assert stack.layers[0].key == BASE and len(stack.layers) == 6
    assert all(layer.stock.carrier and not layer.loose for layer in stack.layers)
    # svgelements reads the file: the base reaches 2 mm beyond the pieces on every side
    svg = SVG.parse(str(out), ppi=25.4)
    boxes = np.array([element.bbox() for element in svg.elements() if isinstance(element, SvgPath)])
    reach = np.abs(boxes[0] - [*boxes[1:, :2].min(0), *boxes[1:, 2:].max(0)])
    assert reach == pytest.approx(2.0, abs=0.02)
    assert window.ledger.text_at(6, 3) == "none"


LINES = (
    '<g fill="none" stroke="#101010" stroke-width="5"><circle cx="150" cy="150" r="125"/>'
    '<circle cx="150" cy="150" r="95"/><circle cx="150" cy="150" r="70"/><circle cx="150" cy="150" r="45"/></g>'
)


def test_a_scanned_drawing_to_a_decal_in_six_gestures(window, qtbot, settled, tmp_path, monkeypatch):
    out = tmp_path / "snail.svg"
    hand = opened_by(window, qtbot, settled, monkeypatch, PICTURES / "snail.jpg", out)
    hand.type(window.width_field, "120mm")
    hand.key(Qt.Key.Key_6)
    hand.choose(window.by_key["layers"].stock.of_stack, "Adhesive vinyl")
    hand.key(Qt.Key.Key_9)
    hand.click(window.by_key["send"].all)
    assert hand.gestures <= 6
    qtbot.waitUntil(out.exists)
    assert window.model.result.road.mode == "ink" and paths_of(out)
    assert not any(layer.loose for layer in window.model.result.stack.layers)


WORD = (
    '<g fill="none" stroke="#101010" stroke-width="12">'
    '<circle cx="60" cy="60" r="34"/><circle cx="160" cy="60" r="34"/>'
    '<path d="M230 20 V100 M230 60 H280 M280 20 V100"/></g>'
)


def test_a_stencil_word_with_bridges_in_eight_gestures(window, qtbot, settled, tmp_path, monkeypatch):
    picture, out = tmp_path / "word.png", tmp_path / "word.svg"
    Image.fromarray(draw(WORD, 600, 300).rgba).save(picture)
    hand = opened_by(window, qtbot, settled, monkeypatch, picture, out)
    hand.key(Qt.Key.Key_6)
    hand.click(window.by_key["layers"].ways.ways["stencil"])
    hand.key(Qt.Key.Key_4)
    hand.click(window.by_key["tidy"].islands.all)
    hand.key(Qt.Key.Key_9)
    hand.click(window.by_key["send"].all)
    assert hand.gestures <= 8
    qtbot.waitUntil(out.exists)
    assert not window.model.result.tidied.islands and window.model.result.stack.layers[0].pieces == 1


def test_five_layers_of_paper_from_line_art_in_12_gestures(window, qtbot, settled, tmp_path, monkeypatch):
    picture, out = tmp_path / "rosette.png", tmp_path / "rosette.svg"
    Image.fromarray(draw(LINES, 900, 300).rgba).convert("L").save(picture)
    hand = opened_by(window, qtbot, settled, monkeypatch, picture, out)
    step = window.by_key["layers"]
    hand.click(window.by_key["source"].kind.kinds["lineart"])
    hand.type(window.width_field, "200mm")
    hand.key(Qt.Key.Key_6)
    hand.click(step.ways.ways["carried"])
    if step.order.take.isVisible():
        hand.click(step.order.take)
    hand.choose(step.stock.of_stack, "All layers: Card")
    hand.click(step.stock.nearest)
    hand.key(Qt.Key.Key_9)
    hand.click(window.by_key["send"].all)
    assert hand.gestures <= 12
    qtbot.waitUntil(out.exists)
    stack = window.model.result.stack
    assert len(stack.layers) == 5 and window.model.result.recipe.layers.build == "carried"
    assert {layer.stock.kind for layer in stack.layers} == {"card"}
    orders = window.model.result.orders
    assert sum(layer.loose for layer in stack.layers) == orders.best.loose
    assert len([e for e in SVG.parse(str(out)).elements() if isinstance(e, SvgPath)]) == 5


def names(layers) -> list[str]:
    return [layers.order.layers.item(place).text() for place in range(layers.order.layers.count())]


def test_layers_are_ordered_by_keys_and_by_dragging(layers, opened, qtbot, settled):
    before = names(layers)
    rows = layers.order.layers
    rows.setFocus()
    rows.setCurrentRow(0)
    qtbot.keyClick(rows, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    settled(opened)
    assert names(layers) == [before[1], before[0], *before[2:]]
    assert opened.canvas.selected == opened.model.result.stack.layers[-2].key  # what was moved stays in hand
    item = rows.takeItem(3)  # what a drag within the list does, before it tells so
    rows.insertItem(0, item)
    rows.dropped.emit()
    settled(opened)
    assert names(layers)[0] == before[3]
    assert [layer.name for layer in reversed(opened.model.result.stack.layers)] == names(layers)
    opened.model.undo()
    opened.model.undo()
    settled(opened)
    assert names(layers) == before


def test_a_layer_is_hidden_locked_copied_and_renamed(layers, opened, qtbot, settled, tmp_path, monkeypatch):
    stack = opened.model.result.stack
    key, name = stack.layers[-1].key, stack.layers[-1].name
    layers.order.layers.setCurrentRow(0)
    layers.order.copy.click()
    settled(opened)
    assert names(layers)[:2] == [f"{name} copy 1", name]
    opened.ledger.select(key)
    item = layers.order.layers.item(1)
    item.setText("Felt")
    settled(opened)
    assert opened.model.result.stack.layer(key).name == "Felt"
    layers.order.hide_it.click()
    settled(opened)
    assert "Felt (hidden)" in [opened.ledger.text_at(row, 0) for row in range(5)]
    assert [layer.key for layer in opened.model.result.stack.sent] == [layer.key for layer in stack.layers[:-1]]
    opened.show_step("send")
    assert "2 hidden layers not sent" in opened.by_key["send"].what.text()
    out = tmp_path / "plate.svg"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    opened.by_key["send"].all.click()
    qtbot.waitUntil(out.exists)
    assert len([e for e in SVG.parse(str(out)).elements() if isinstance(e, SvgPath)]) == 3
    opened.show_step("layers")
    opened.ledger.select(key)
    layers.order.lock.click()
    settled(opened)
    order = opened.model.recipe.layers.order
    layers.order.move_layer(key, 1)
    layers.rule("Layer renamed", key, name="Wool")
    settled(opened)
    assert opened.model.recipe.layers.order == order and opened.model.result.stack.layer(key).name == "Felt"
    assert not layers.order.up.isEnabled() and not layers.order.copy.isEnabled()
    layers.order.lock.click()
    layers.order.hide_it.click()
    settled(opened)
    assert len(opened.model.result.stack.sent) == 5


def test_two_layers_are_laid_together_and_taken_apart(layers, opened, settled):
    stack = opened.model.result.stack
    top, other = stack.layers[-1], stack.layers[0]
    opened.ledger.select(top.key)
    box = layers.layer.into
    box.setCurrentIndex(box.findData(other.key))
    box.activated.emit(box.currentIndex())
    settled(opened)
    both = opened.model.result.stack.layer(other.key)
    assert both.area == pytest.approx(top.area + other.area) and len(opened.model.result.stack.layers) == 3
    opened.ledger.select(other.key)
    layers.layer.apart.click()
    settled(opened)
    assert len(opened.model.result.stack.layers) == 4


def test_a_layer_is_split_by_a_line_drawn_on_the_canvas(layers, opened, qtbot, settled):
    canvas, key = opened.canvas, opened.model.result.stack.layers[0].key
    opened.ledger.select(key)
    whole = opened.model.result.stack.layer(key).area
    layers.layer.by_line.click()
    assert canvas.tool is not None and layers.layer.by_line.isChecked()
    at = [canvas.widget_point(place).toPoint() for place in ((0.02, 0.3), (0.98, 0.3))]
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at[0])
    QTest.mouseMove(canvas, at[1])
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at[1])
    settled(opened)
    part = opened.model.result.stack.layer(f"{key}/2")
    rest = opened.model.result.stack.layer(key)
    assert part.area + rest.area == pytest.approx(whole, rel=1e-3) and part.area < rest.area
    assert canvas.tool is None
    opened.ledger.select(part.key)
    layers.layer.apart.click()
    settled(opened)
    assert opened.model.result.stack.layer(key).area == whole


def test_pieces_are_taken_out_one_after_the_other(window, qtbot, settled, tmp_path):
    body = "".join(f'<rect x="{x}" y="60" width="40" height="80" fill="#205080"/>' for x in (20, 80, 140))
    path = tmp_path / "posts.png"
    Image.fromarray(draw(body, 400, 200).rgba).save(path)
    window.open(path)
    settled(window)
    window.show_step("layers")
    settled(window)
    step, canvas = window.by_key["layers"], window.canvas
    window.ledger.selectRow(0)
    step.layer.by_pieces.click()
    for x in (0.2, 0.5):
        QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.widget_point((x, 0.5)).toPoint())
        settled(window)
    assert {layer.key: layer.pieces for layer in window.model.result.stack.layers} == {"#205080": 1, "#205080/2": 2}
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=QPoint(3, canvas.height() - 3))
    assert "No piece" in window.notice.text()
    window.model.undo()
    settled(window)
    assert len(window.model.recipe.layers.parts[0].places) == 1


def test_the_slip_is_drawn_told_and_hidden(layers, opened, qtbot, settled):
    hand = Hand(opened, qtbot, settled)
    plain = opened.canvas.grab().toImage()
    layers.slip.fold(False)
    hand.type(layers.slip.slip, "3mm")
    found = opened.model.result.slip
    assert found.many and f"{found.many} gap" in layers.slip.words.text()
    assert opened.canvas.grab().toImage() != plain
    hand.click(layers.slip.auto)
    assert opened.model.result.slip.many == 0
    assert "no gap of ground would show" in layers.slip.words.text()
    assert layers.slip.overlap.placeholderText() == "automatic"
    hand.type(layers.slip.overlap, "200mm")
    assert "An overlap of 200 mm" in opened.notice.text()
    assert opened.model.recipe.layers.overlap == "auto"


def test_holes_are_filled_one_by_one_and_all(window, qtbot, settled, tmp_path):
    body = '<circle cx="100" cy="100" r="80" fill="#205080"/>' + "".join(
        f'<circle cx="{x}" cy="100" r="{r}" fill="#fff"/>' for x, r in ((60, 12), (100, 18), (145, 9))
    )
    path = tmp_path / "button.png"
    Image.fromarray(draw(body, 400, 200).rgba).save(path)
    window.open(path)
    settled(window)
    window.show_step("layers")
    settled(window)
    ground, hand = window.by_key["layers"].ground, Hand(window, qtbot, settled)
    assert ground.aside.text() == "3 kept, 0 filled"
    buttons = [button for button in ground.findChildren(QPushButton) if button.accessibleName() == "Fill hole 1"]
    buttons[0].click()
    settled(window)
    assert ground.aside.text() == "2 kept, 1 filled"
    assert len(window.model.result.stack.layers[0].path.contours) == 3
    ground.fill.click()
    settled(window)
    assert ground.aside.text() == "0 kept, 3 filled"
    ground.white.click()
    settled(window)
    assert [layer.key for layer in window.model.result.stack.layers] == ["clear", "#205080"]
    assert hand.gestures == 0


def test_a_detail_is_cut_away_or_laid_on_top(layers, opened, qtbot, settled):
    layers.ways.ways["carried"].click()
    settled(opened)
    canvas, stack = opened.canvas, opened.model.result.stack
    green = "#4f8a4b"
    assert stack.layer(green) is not None
    layers.detail.pick.click()
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.widget_point((0.5, 0.76)).toPoint())
    rows = [layers.detail.rows.itemAt(place).widget() for place in range(layers.detail.rows.count())]
    words = [row.words.text() for row in rows]
    assert any(text.startswith("Piece on top") for text in words) and "costs least" in words[0]
    window_row = next(row for row, text in zip(rows, words, strict=True) if text.startswith("Window to Soot"))
    window_row.findChild(QPushButton).click()
    settled(opened)
    assert opened.model.result.stack.layer(green) is None
    assert layers.detail.aside.text() == "1 window"
    regions = opened.model.result.regions
    soot = opened.model.result.stack.layer("#3a2a33")
    assert soot.pieces == ndimage.label(np.isin(regions.labels, [1 + i for i in range(len(regions.keys))]))[1]
    layers.detail.reset.click()
    settled(opened)
    assert opened.model.result.stack.layer(green) is not None


def test_a_stock_is_made_changed_given_out_and_brought_in(layers, opened, qtbot, settled, tmp_path, monkeypatch):
    stocks, hand = layers.stocks, Hand(opened, qtbot, settled)
    stocks.fold(False)
    many = stocks.which.count()
    stocks.new.click()
    assert stocks.which.count() == many + 1 and STOCKS.path.is_file()
    hand.type(stocks.called, "Attic felt")
    hand.type(stocks.lengths["thickness"], "2.5mm")
    hand.type(stocks.lengths["height"], "0")
    hand.type(stocks.numbers["price"], "4.20")
    kind, _ = stocks.choices["kind"]
    kind.setCurrentIndex(kind.findText("Fabric"))
    kind.activated.emit(kind.currentIndex())
    monkeypatch.setattr(QColorDialog, "getColor", lambda *_: __import__("PySide6.QtGui").QtGui.QColor(10, 200, 30))
    stocks.colour.click()
    own = next(stock for stock in STOCKS.read() if stock.name == "Attic felt")
    assert (own.kind, own.thickness, own.height, own.price, own.colour) == ("fabric", 2.5, None, 4.2, "#0ac81e")
    hand.type(stocks.numbers["shrink"], "95")
    assert "shrink of 95" in opened.notice.text() and stocks.numbers["shrink"].text() == "0"
    hand.type(stocks.called, "White card")
    assert "already" in opened.notice.text()
    out = tmp_path / "mine.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    stocks.give.click()
    assert any(stock["name"] == "Attic felt" for stock in json.loads(out.read_text())["stocks"])
    layers.layer.stock.setCurrentIndex(layers.layer.stock.findText("Attic felt"))
    layers.layer.stock.activated.emit(layers.layer.stock.currentIndex())
    settled(opened)
    key = layers.layer.key
    assert opened.model.result.stack.layer(key).colour == "#0ac81e"  # the layers view shows true stock colours
    stocks.remove.click()
    assert stocks.which.count() == many
    assert opened.model.result.stack.layer(key).stock == own  # a job keeps what it was made with
    assert "of this job" in layers.layer.stock.currentText()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(out), ""))
    stocks.bring.click()
    assert "1 stock added" in opened.notice.text() and stocks.which.count() == many + 1


def test_the_nearest_stock_and_its_cautions_are_proposed(layers, opened, settled):
    opened.ledger.select("#3a2a33")
    assert "Nearest in colour: " in layers.layer.propose.text()
    layers.layer.propose.click()
    settled(opened)
    stock = opened.model.result.stack.layer("#3a2a33").stock
    assert stock.name in layers.layer.stock.currentText()
    assert not layers.layer.cautions.isHidden() and "weeding" in layers.layer.cautions.text()
    assert opened.ledger.text_at(3, 1) in (stock.name, "any")


def test_the_base_its_colour_and_its_stiffeners(layers, opened, qtbot, settled, monkeypatch):
    hand = Hand(opened, qtbot, settled)
    assert layers.base.colour.isHidden()
    hand.type(layers.base.rim, "3mm")
    base = opened.model.result.stack.layer(BASE)
    assert base is not None and not layers.base.colour.isHidden()
    hand.type(layers.base.gap, "0.5mm")
    monkeypatch.setattr(QColorDialog, "getColor", lambda *_: __import__("PySide6.QtGui").QtGui.QColor(200, 10, 30))
    layers.base.colour.click()
    layers.base.copies.setValue(2)
    settled(opened)
    stack = opened.model.result.stack
    assert [layer.key for layer in stack.layers[:3]] == [BASE, f"{BASE}+1", f"{BASE}+2"]
    assert stack.layers[0].colour == "#c80a1e"
    layers.ways.ways["stencil"].click()
    settled(opened)
    hand.type(layers.base.margin, "20mm")
    width = opened.model.result.finished.size[0]
    assert opened.model.result.stack.size[0] == pytest.approx(width + 40)
    assert layers.base.title.text() == "Sheet"


def test_the_assembly_picture_is_drawn(layers, opened, qtbot, settled, tmp_path, monkeypatch):
    layers.ways.ways["carried"].click()
    settled(opened)
    for name in ("stack.png", "stack.svg"):
        out = tmp_path / name
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, out=out: (str(out), ""))
        opened.show_step("send")
        opened.by_key["send"].assembly.click()
        qtbot.waitUntil(out.exists)
    picture = np.asarray(Image.open(tmp_path / "stack.png").convert("RGB"))
    for layer in opened.model.result.stack.layers:
        assert (np.abs(picture.astype(int) - layer.ink.shown).max(2) < 4).any()
    # svgelements reads it: the ground, and of each layer three shadows, the layer itself, and its words as outlines
    paths = [e for e in SVG.parse(str(tmp_path / "stack.svg")).elements() if isinstance(e, SvgPath)]
    assert len(paths) == 1 + 5 * len(opened.model.result.stack.layers)


def test_hidden_windows_and_weights(layers, opened, qtbot, settled):
    layers.ways.ways["carried"].click()
    settled(opened)
    opened.ledger.select("#3a2a33")
    layers.layer.way.setCurrentText("Flush, edge to edge")
    layers.layer.way.activated.emit(layers.layer.way.currentIndex())
    settled(opened)
    assert "that upper layers hide" in layers.hidden.words.text()
    before = opened.model.result.stack.layer("#3a2a33").cut_length
    layers.hidden.fill.click()
    settled(opened)
    assert opened.model.result.stack.layer("#3a2a33").cut_length < before
    hand = Hand(opened, qtbot, settled)
    layers.weights.fold(False)
    hand.type(layers.weights.fields["cut"], "0")
    assert opened.model.recipe.layers.weights.cut == 0
    hand.type(layers.weights.fields["area"], "much")
    assert "A weight is a number" in opened.notice.text()
    assert layers.weights.fields["area"].text() == "1"


def test_narrowest_places_come_to_the_ledger(layers, opened, qtbot):
    qtbot.waitUntil(lambda: opened.ledger.text_at(0, 6) != "…")
    assert opened.ledger.text_at(0, 6).endswith(" mm")
    assert opened.measured.narrowest.keys() == {layer.key for layer in opened.model.result.stack.layers}
