"""The panel at the side: a step's cards in a column that scrolls, folded as they were left."""

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QScrollArea, QStackedWidget

from sketchloom.app.fields import Card
from sketchloom.app.steps import Step

__all__ = ["Panels"]

_ROOM = 14
"""px round a card that is brought into sight."""


class Panels(QStackedWidget):
    """The steps' cards, one step at a time.

    Parameters
    ----------
    steps : sequence of Step
    folds : mapping
        Whether a card was folded, by step and card.
    remember : callable
        Is told when one is folded or unfolded.
    """

    def __init__(self, steps: Sequence[Step], folds: Mapping[str, bool], remember: Callable[[str, bool], None]) -> None:
        super().__init__()
        for step in steps:
            scroll = QScrollArea()
            scroll.setWidgetResizable(True)
            scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
            scroll.setWidget(step)
            self.addWidget(scroll)
            step.card_wanted.connect(lambda card, own=scroll: QTimer.singleShot(0, lambda: _show_in(own, card)))
            for card in step.cards:
                name = f"{step.key}/{card.name}"
                card.fold(folds.get(name, card.folded))
                card.folding.connect(lambda folded, name=name: remember(name, folded))


def _show_in(scroll: QScrollArea, card: Card) -> None:
    """Scroll up or down until a card is in sight."""
    bar, room = scroll.verticalScrollBar(), scroll.viewport().height()
    top = card.mapTo(scroll.widget(), card.rect().topLeft()).y() - _ROOM
    if not bar.value() <= top <= bar.value() + room - min(room, card.height() + 2 * _ROOM):
        bar.setValue(top if card.height() + 2 * _ROOM > room else max(0, top + card.height() + 2 * _ROOM - room))
