"""The card for parting and drawing: a line across, shapes of an ink, trimming."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QComboBox, QGridLayout, QPushButton

from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.picture import Point
from sketchloom.core.tidy import Draw, Split, Trim, ellipse, rectangle, straight

if TYPE_CHECKING:
    from sketchloom.app.steps.tidy.step import TidyStep

__all__ = ["TOOLS", "DrawingCard"]

TOOLS = {
    "split": ("Part by a line", "Drag a line right across the pieces to part."),
    "rectangle": ("Rectangle", "Drag a rectangle."),
    "ellipse": ("Ellipse", "Drag a box; the ellipse fills it."),
    "outline": ("Outline", "Click round the shape."),
    "stroke": ("Stroke", "Drag a line; it becomes a stroke of the set width."),
    "trim": ("Trim to a box", "Drag a box; all outside it goes to the ground."),
}


class DrawingCard(Card):
    """Tools that part pieces and draw new ones."""

    def __init__(self, step: "TidyStep") -> None:
        super().__init__("Part and draw")
        self._step = step
        self._inks: object = None
        self.gap = LengthField("Gap between parted pieces", step.unit, decimals=2)
        self.gap.setFixedWidth(90)
        self.gap.show_mm(0.0)
        self.gap.committed.connect(lambda mm: self.gap.show_mm(min(max(mm, 0.0), 1000.0)))
        self.row("Gap where parted", self.gap)
        self.width = LengthField("Width of a stroke", step.unit, decimals=2)
        self.width.setFixedWidth(90)
        self.width.show_mm(2.0)
        self.width.committed.connect(lambda mm: self.width.show_mm(min(max(mm, 0.05), 1000.0)))
        self.row("Width of a stroke", self.width)
        self.ink = QComboBox()
        self.ink.setAccessibleName("Ink that is drawn with")
        self.ink.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.ink.setMinimumContentsLength(9)
        self.row("Draw with", self.ink)
        grid = QGridLayout()
        grid.setSpacing(6)
        self.tools: dict[str, QPushButton] = {}
        for place, (tool, (words, help_text)) in enumerate(TOOLS.items()):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setToolTip(help_text)
            button.clicked.connect(lambda on, tool=tool: step.draw_with(tool if on else "choose"))
            grid.addWidget(button, place // 2, place % 2)
            self.tools[tool] = button
        self.body.addLayout(grid)
        self.fine = faded()
        self.body.addWidget(self.fine)

    @property
    def key(self) -> str:
        """The ink that is drawn with; empty cuts away."""
        return self.ink.currentData() or ""

    def show_result(self, result: Result) -> None:
        """Offer the inks there are, and say what the picture cannot hold."""
        inks = tuple((ink.key, ink.name, ink.hex) for ink in self._step.inks_now()), theme.is_dark
        if inks != self._inks:
            chosen = self.ink.currentData()  # None before the first time
            self._inks = inks
            self.ink.clear()
            for key, name, colour in inks[0]:
                self.ink.addItem(swatch(colour), name, key)
            self.ink.addItem("Nothing, cut away", "")
            self.ink.setCurrentIndex(max(0, self.ink.findData(chosen)))
        gap, px = self.gap.mm or 0.0, result.scale.px_per_mm
        too_fine = bool(gap) and gap * px < 1.5
        self.fine.setVisible(too_fine)
        self.fine.setText(
            f"A gap of {gap:g} mm is finer than the picture's pixels ({1 / px:.2g} mm); enlarge it in Prepare first."
        )

    def take(self, tool: str, given: tuple[Point, ...]) -> None:
        """Do what a tool has drawn."""
        words = TOOLS[tool][0]
        add = self._step.add_work
        if tool == "split":
            add(words, Split(line=given, gap=self.gap.mm or 0.0))
        elif tool == "stroke":
            (x, y), (u, v) = given
            line = ((x, y), (x + (u - x) / 3, y + (v - y) / 3), (x + 2 * (u - x) / 3, y + 2 * (v - y) / 3), (u, v))
            add(f"Draw a {words.lower()}", Draw(curve=line, ink=self.key, width=self.width.mm or 2.0))
        elif tool == "trim":
            add("Trim", Trim(curve=rectangle(*given)))
        else:
            curve = (
                straight(list(given)) if tool == "outline" else (rectangle if tool == "rectangle" else ellipse)(*given)
            )
            add(
                f"Draw an {words.lower()}" if words[0] in "EO" else f"Draw a {words.lower()}",
                Draw(curve=curve, ink=self.key),
            )
