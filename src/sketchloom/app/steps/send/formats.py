"""What some formats ask besides; each is shown while its format is chosen."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from sketchloom.app.controls import dots_box
from sketchloom.app.fields import Field, faded
from sketchloom.core.send import WRITERS

__all__ = ["FormatOptions"]

_LONGEST_SPOT = 40


class FormatOptions(QWidget):
    """Dots an inch of a PNG, the turn of HP-GL, the spot colour of a PDF."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.dpi = dots_box("Dots an inch of a PNG")
        self.dpi.valueChanged.connect(lambda _: self.changed.emit())
        self.spot = Field()
        self.spot.setMaxLength(_LONGEST_SPOT)
        self.spot.setPlaceholderText("none")
        self.spot.setAccessibleName("Spot colour of cut lines in a PDF")
        self.spot.setToolTip("The name that your printing program gives to lines that are cut; they are drawn in it")
        self.spot.editingFinished.connect(self.changed)
        self.turned = QCheckBox("Turn the page of HP-GL a quarter")
        self.turned.clicked.connect(lambda _: self.changed.emit())
        self.lost = faded()
        self._rows = {
            "png": _row("Dots an inch of a PNG", self.dpi),
            "pdf": _row("Spot colour in a PDF", self.spot),
            "hpgl": self.turned,
        }
        column.addWidget(self.lost)
        for row in self._rows.values():
            column.addWidget(row)

    @property
    def settings(self) -> dict[str, Any]:
        """What is chosen, by the names of `SendSettings`."""
        return {"dpi": float(self.dpi.value()), "turned": self.turned.isChecked(), "spot": self.spot.text().strip()}

    def show_for(self, formats: Sequence[str]) -> None:
        """Show what is asked for some formats, and what they cannot carry."""
        for form, row in self._rows.items():
            row.setVisible(form in formats)
        lost = [f"{writer.name}: {writer.lost}." for form in formats if (writer := WRITERS[f".{form}"]).lost]
        self.lost.setText("\n".join(lost))
        self.setVisible(bool(lost))


def _row(words: str, field: QWidget) -> QWidget:
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(8)
    label = QLabel(words)
    label.setWordWrap(True)
    line.addWidget(label, 1)
    line.addWidget(field)
    return row
