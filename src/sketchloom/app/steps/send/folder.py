"""The card that sends layers or sheets in several formats to a folder."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QPushButton

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, faded
from sketchloom.core.job import FORMATS, Result, SendSettings, sent_names
from sketchloom.core.send import WRITERS, plain_name
from sketchloom.core.sheets import Layout

__all__ = ["FolderCard"]

_MOST_NAMES = 8
_OF = (("layers", "The layers"), ("sheets", "The sheets"))


class FolderCard(Card):
    """What is sent, in which formats, under which names."""

    asked = Signal()
    """A folder is to be chosen, and all sent to it."""
    again = Signal()
    """All is to be sent where it went last."""

    def __init__(self) -> None:
        super().__init__("Several formats, in a folder")
        self.folder: Path | None = None
        """Where the last send went."""
        self._known: tuple[str, Result, Layout | None] | None = None
        self.what = Choice("What is sent")
        for key, words in _OF:
            self.what.addItem(words, key)
        self.what.activated.connect(lambda _: self._show_names())
        self.row("What", self.what)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        self.formats: dict[str, QCheckBox] = {}
        for place, form in enumerate(FORMATS):
            box = QCheckBox(WRITERS[f".{form}"].name)
            box.setChecked(form == "svg")
            box.clicked.connect(lambda _: self._show_names())
            self.formats[form] = box
            grid.addWidget(box, place // 3, place % 3)
        self.body.addLayout(grid)
        self.each = self._box("One file a layer too", "Besides the one that holds them all, on the same page")
        self.by_piece = self._box("One path a piece", "Else a layer is one compound path")
        self.outlines = self._box("Outlines instead of areas", "Lines of 0.1 mm in the layer's colour")
        self.zip = self._box("All in one ZIP too", "Beside the files")
        self.names = faded()
        self.body.addWidget(self.names)
        self.send = QPushButton("Choose a folder and send…")
        self.send.clicked.connect(self.asked)
        self.body.addWidget(self.send)
        self.repeat = QPushButton("Send again")
        self.repeat.clicked.connect(self.again)
        self.repeat.hide()
        self.body.addWidget(self.repeat)

    def _box(self, words: str, help_text: str) -> QCheckBox:
        box = QCheckBox(words)
        box.setToolTip(help_text)
        box.clicked.connect(lambda _: self._show_names())
        self.body.addWidget(box)
        return box

    @property
    def settings(self) -> SendSettings:
        """What is chosen."""
        return SendSettings(
            tuple(form for form, box in self.formats.items() if box.isChecked()),
            self.what.currentData(),
            self.each.isChecked(),
            self.outlines.isChecked(),
            self.by_piece.isChecked(),
        )

    def show_job(self, name: str, result: Result, layout: Layout | None) -> None:
        """Show what would be written of a job; its sheets may not be known yet."""
        self._known = name, result, layout
        self._show_names()

    def sent_to(self, folder: Path) -> None:
        """Remember where the last send went."""
        self.folder = folder
        self.repeat.setText(f"Send again to “{folder.name or folder}”")
        self.repeat.setToolTip(str(folder))
        self.repeat.show()

    def _show_names(self) -> None:
        settings = self.settings
        layers = settings.of == "layers"
        self.each.setEnabled(layers)
        self.by_piece.setEnabled(layers)
        for button in (self.send, self.repeat):
            button.setEnabled(bool(settings.formats))
        if self._known is None:
            return
        name, result, layout = self._known
        names = sent_names(name, result.stack, layout, settings)
        names += (f"{plain_name(name) or 'layers'}.zip",) if names and self.zip.isChecked() else ()
        more = len(names) - _MOST_NAMES
        shown = "\n".join([*names[:_MOST_NAMES], *([f"and {more} more"] if more > 0 else [])])
        empty = "Choose a format." if not settings.formats else "The sheets are still laid out."
        self.names.setText(shown or empty)
        self.aside.setText(f"{len(names)} file{'s' * (len(names) != 1)}" if names else "")
