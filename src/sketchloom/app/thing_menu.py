"""The menu of the canvas: what the thing under the pointer can do."""

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu, QWidgetAction

from sketchloom.app.fields import faded
from sketchloom.app.frame import Frame
from sketchloom.core.job import layer_key_at
from sketchloom.core.picture import Point

__all__ = ["show_menu", "thing_menu"]


def thing_menu(window: Frame, at: Point | None) -> QMenu:
    """Make the menu for a place of the source: its layer, its piece, and the view; without a place the view alone."""
    menu, result = QMenu(window), window.model.result  # type: ignore[arg-type]
    if at is not None and result is not None and result.has("tidy", "palette", "mended"):
        layer = result.stack.layer(layer_key_at(result, at))
        if layer is not None:
            _head(menu, layer.name)
            menu.addAction("Choose this layer", lambda: window.ledger.select(layer.key))
            menu.addAction("Settings of this layer", lambda: _settings(window, layer.key))
            words = "Show this layer again" if layer.hidden else "Hide this layer"
            layers = window.by_key["layers"]
            menu.addAction(words, lambda: layers.rule(words, layer.key, unlocks=True, hidden=not layer.hidden))
        tidy = window.by_key["tidy"]
        piece = tidy.pieces.at(at) if tidy.pieces is not None else 0
        if piece and tidy.pieces is not None and tidy.pieces.is_cut(piece):
            anchors = tidy.pieces.anchors([piece])
            _head(menu, "This piece")
            for words, act in (
                ("Choose this piece", lambda: None),
                ("Choose all like it", lambda: tidy.chosen.widen("alike")),
                ("Send it to the ground", lambda: tidy.chosen.give_to("")),
                ("Join it to its neighbour", tidy.chosen.join.click),
                ("Fill its holes", tidy.chosen.holes.click),
            ):
                menu.addAction(words, lambda act=act: _on_piece(window, anchors, act))
            menu.addAction("Zoom to it", lambda: _zoom_to(window, [piece]))
        if not menu.isEmpty():
            menu.addSeparator()
    for identifier in ("fit", "zoom-real", "zoom-chosen", "compare"):
        command = window.commands[identifier]
        if command.can():
            menu.addAction(command.name, lambda identifier=identifier: window.commands.run(identifier))
    return menu


def _head(menu: QMenu, words: str) -> None:
    """Begin a group, under the name of what its entries are done to."""
    if not menu.isEmpty():
        menu.addSeparator()
    label, entry = faded(words, wrap=False), QWidgetAction(menu)
    label.setContentsMargins(12, 6, 12, 2)
    entry.setText(words)
    entry.setDefaultWidget(label)
    entry.setEnabled(False)
    menu.addAction(entry)


def _settings(window: Frame, key: str) -> None:
    window.show_step("layers")
    window.ledger.select(key)


def _on_piece(window: Frame, anchors, act) -> None:
    """Choose a piece at Tidy, then do something with it."""
    window.show_step("tidy")
    window.by_key["tidy"].choose(anchors)
    act()


def _zoom_to(window: Frame, pieces: list[int]) -> None:
    low, high = window.by_key["tidy"].area_of(pieces)
    window.canvas.show_area(low, high)


def show_menu(window: Frame, at: Point | None, where: QPoint) -> None:
    """Open the menu at a place of the screen."""
    thing_menu(window, at).exec(where)
