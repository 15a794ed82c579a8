"""The cards with the buttons that add rows."""

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtWidgets import QGridLayout, QPushButton

from sketchloom.app.fields import Card
from sketchloom.core.picture import Calm, ClearColour, ClearPale, Enlarge, EvenLight, Row, Sharpen, Straighten, Turn

__all__ = ["ADDER_GROUPS", "Adder", "AddersCard"]

_CALM = 0.002
"""Of the longer side: the grain of a scan."""


class Adder(NamedTuple):
    """A button that adds a row, or takes the tool that draws one."""

    words: str
    help: str
    row: Row | None = None
    tool: str | None = None


ADDER_GROUPS = (
    (
        "Lay it right",
        (
            Adder("Straighten", "Lays a page flat that was taken at an angle; its corners are found", Straighten()),
            Adder("Crop", "Drag a rectangle on the picture; what lies outside goes", tool="crop"),
            Adder("Turn right", "Turns by a quarter", Turn(quarters=1)),
            Adder("Mirror", "Swaps left and right", Turn(mirror=True)),
            Adder("Mirror a half", "Puts the mirror image of one half in place of the other", tool="axis"),
            Adder("Enlarge", "Makes a small picture twice as large, with smooth edges", Enlarge()),
        ),
    ),
    (
        "Make it clean",
        (
            Adder("Even the light", "Divides by the light on the bare paper", EvenLight()),
            Adder("Calm noise", "Smooths grain, not edges", Calm(radius=_CALM)),
            Adder("Sharpen", "Undoes a blur, without a halo", Sharpen()),
            Adder("Clear pale", "Clears watermarks, pencil guides and grey fuzz", ClearPale()),
            Adder("Rub out", "Paint over what is to go", tool="rub"),
            Adder("Paint in", "Paint what is missing", tool="paint"),
        ),
    ),
    (
        "Clear the ground",
        (
            Adder("By colour", "Clears what has the border's colour and hangs together with it", ClearColour()),
            Adder("By a box", "Drag a box round the subject; the rest is cleared", tool="box"),
            Adder("Along edges", "Click round the subject; the line follows its edges", tool="edges"),
            Adder("By a line", "Click round the subject; straight from click to click", tool="line"),
        ),
    ),
)


class AddersCard(Card):
    """Buttons that add a row, or take the tool that draws one."""

    def __init__(
        self,
        title: str,
        adders: tuple[Adder, ...],
        append: Callable[[Row], None],
        draw_with: Callable[[str | None], None],
    ) -> None:
        super().__init__(title)
        grid = QGridLayout()
        grid.setSpacing(8)
        self.buttons: dict[str, QPushButton] = {}
        for place, adder in enumerate(adders):
            button = QPushButton(adder.words)
            button.setToolTip(adder.help)
            button.setProperty("small", True)
            if adder.row is not None:
                button.clicked.connect(lambda _=False, row=adder.row: append(row))
            else:
                button.setCheckable(True)
                button.clicked.connect(lambda on, tool=adder.tool: draw_with(tool if on else None))
            self.buttons[adder.words] = button
            grid.addWidget(button, place // 2, place % 2)
        self.body.addLayout(grid)
