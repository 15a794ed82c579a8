"""The card that saves the prepared picture to print, and the line to cut round it."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton

from sketchloom.app.controls import Choice, dots_box
from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.core.job import PrintSettings

__all__ = ["PrintCard"]

_MARKS = (("none", "None"), ("corners", "Corners"), ("crosses", "Crosses"), ("holes", "Circles"))


class PrintCard(Card):
    """How it is printed and cut.

    Parameters
    ----------
    unit : callable
        Gives the unit of lengths.
    """

    asked = Signal()
    """It is to be saved."""

    def __init__(self, unit: Callable[[], str]) -> None:
        super().__init__("To print, then cut round")
        self.body.addWidget(faded("Saves the prepared picture at its finished size, and the line to cut round it."))
        self.dpi = dots_box("Dots an inch of the print")
        self.row("Dots an inch", self.dpi)
        self.offset = LengthField("Cut line outside the print", unit)
        self.offset.setFixedWidth(90)
        self.offset.setToolTip(
            "How far outside the print the line is cut; below 0 it is cut inside, so that no white shows"
        )
        self.offset.show_mm(0.0)
        self.offset.committed.connect(self.offset.show_mm)
        self.row("Cut line outside by", self.offset)
        self.marks = Choice("Registration marks")
        self.marks.setToolTip("Printed round the picture, and drawn at the same places in the file of the cut line")
        for key, words in _MARKS:
            self.marks.addItem(words, key)
        self.row("Registration marks", self.marks)
        self.save = QPushButton("Save PNG and cut line…")
        self.save.clicked.connect(self.asked)
        self.body.addWidget(self.save)

    @property
    def settings(self) -> PrintSettings:
        """What is chosen."""
        return PrintSettings(float(self.dpi.value()), self.offset.mm or 0.0, self.marks.currentData())
