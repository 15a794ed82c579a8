"""The card of the piece in hand: where it lies, and how it is turned."""

from PySide6.QtWidgets import QHBoxLayout

from sketchloom.app.fields import Card, LengthField
from sketchloom.app.steps.list_row import icon_button
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.core.sheets import Laid

__all__ = ["PieceCard"]


class PieceCard(Card):
    """What can be done with the chosen piece."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("Piece in hand")
        self._step = step
        self.x, self.y = LengthField("From the left of the sheet", step.unit), LengthField("From its top", step.unit)
        for words, field in (("From the left", self.x), ("From the top", self.y)):
            field.setFixedWidth(90)
            field.committed.connect(lambda _: self._move())
            self.row(words, field)
        self.left = icon_button(
            "rotate-ccw", "Turn it to the left by a quarter (Shift+R)", lambda: self.turn(-90), side=30
        )
        self.right = icon_button("rotate-cw", "Turn it to the right by a quarter (R)", lambda: self.turn(90), side=30)
        line = QHBoxLayout()
        for button in (self.left, self.right):
            line.addWidget(button)
        line.addStretch()
        self.body.addLayout(line)
        self.show_piece(None)

    def turn(self, by: float) -> None:
        """Turn the piece about the middle of its extent."""
        one = self._step.scene.chosen
        if one is None:
            return
        left, top, right, bottom = one.bounds
        turn = (one.turn + by) % 360
        a, b, c, d = one.item.body.bounds(turn, one.flipped)
        self._step.move_to((left + right - (c - a)) / 2, (top + bottom - (d - b)) / 2, turn)

    def _move(self) -> None:
        one = self._step.scene.chosen
        if one is not None and self.x.mm is not None and self.y.mm is not None:
            self._step.move_to(self.x.mm, self.y.mm, one.turn)

    def show_piece(self, one: Laid | None) -> None:
        """Show where it lies."""
        self.setVisible(one is not None)
        name = one.item.body.parts[0].cut.name if one is not None else ""
        self.aside.setText(name[:24])
        if one is not None:
            self.x.show_mm(one.bounds[0])
            self.y.show_mm(one.bounds[1])
