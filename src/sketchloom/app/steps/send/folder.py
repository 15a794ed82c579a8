"""The card that sends layers or sheets in several formats to a folder, with the papers that go with them."""

from pathlib import Path

from PySide6.QtCore import QUrl, Signal
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QCheckBox, QGridLayout, QPushButton

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.send.formats import FormatOptions
from sketchloom.core.job import FORMATS, Papers, Result, SendSettings, sent_names
from sketchloom.core.send import WRITERS, file_stem
from sketchloom.core.sheets import Layout

__all__ = ["FolderCard"]

_MOST_NAMES = 8
_OF = (("layers", "The layers"), ("sheets", "The sheets"))
_SIZES = (("a4", "A4"), ("letter", "Letter"))


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
        self.what = self._choice("What is sent", _OF)
        self.row("What", self.what)
        self.hidden = faded()
        self.body.addWidget(self.hidden)
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
        self.options = FormatOptions()
        self.options.changed.connect(self._show_names)
        self.body.addWidget(self.options)
        self.each = self._box("One file a layer too", "Besides the one that holds them all, on the same page")
        self.by_piece = self._box("One path a piece", "Else a layer is one compound path")
        self.outlines = self._box("Outlines instead of areas", "Lines of 0.1 mm in the layer's colour")
        self.job_sheet = self._box(
            "Job sheet, to print", "Approval picture, layers, sheets to scale, stock, times, cautions and open findings"
        )
        self.strip = self._box("Instruction strip", "The stack as it grows, a picture a layer: a PNG, and a page")
        self.size = self._choice("Paper size", _SIZES)
        self.row("Paper", self.size)
        self.test_cut = self._box("Test cut of each stock", "Half an inch to try before all the rest is cut")
        self.zip = self._box("All in one ZIP too", "Beside the files")
        self.names = faded()
        self.body.addWidget(self.names)
        self.send = self._button("Choose a folder and send…", self.asked.emit)
        self.repeat = self._button("Send again", self.again.emit)
        self.show_folder = self._button("Open the folder", self._open)
        for button in (self.repeat, self.show_folder):
            button.hide()

    def _choice(self, name: str, entries: tuple[tuple[str, str], ...]) -> Choice:
        choice = Choice(name)
        for key, words in entries:
            choice.addItem(words, key)
        choice.activated.connect(lambda _: self._show_names())
        return choice

    def _box(self, words: str, help_text: str) -> QCheckBox:
        box = QCheckBox(words)
        box.setToolTip(help_text)
        box.clicked.connect(lambda _: self._show_names())
        self.body.addWidget(box)
        return box

    def _button(self, words: str, act) -> QPushButton:
        button = QPushButton(words)
        button.clicked.connect(lambda: act())
        self.body.addWidget(button)
        return button

    def take_paper(self, paper: str) -> None:
        """Print on another paper."""
        self.size.setCurrentIndex(max(0, self.size.findData(paper)))
        self._show_names()

    @property
    def settings(self) -> SendSettings:
        """What is chosen."""
        return SendSettings(
            tuple(form for form, box in self.formats.items() if box.isChecked()),
            self.what.currentData(),
            self.each.isChecked(),
            self.outlines.isChecked(),
            self.by_piece.isChecked(),
            **self.options.settings,
            papers=Papers(
                self.job_sheet.isChecked(), self.strip.isChecked(), self.test_cut.isChecked(), self.size.currentData()
            ),
        )

    def show_job(self, name: str, result: Result, layout: Layout | None) -> None:
        """Show what would be written of a job; its sheets may not be known yet."""
        self._known = name, result, layout
        self._show_names()

    def sent_to(self, folder: Path) -> None:
        """Remember where the last send went."""
        self.folder = folder
        self.repeat.setText(f"Send again to “{folder.name or folder}”")
        for button in (self.repeat, self.show_folder):
            button.setToolTip(str(folder))
            button.show()

    def _open(self) -> None:
        if self.folder is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.folder)))

    def _show_names(self) -> None:
        settings = self.settings
        layers, papers = settings.of == "layers", settings.papers
        self.each.setEnabled(layers)
        self.by_piece.setEnabled(layers)
        self.test_cut.setEnabled(bool(settings.formats))
        self.size.setEnabled(papers.job_sheet or papers.strip)
        self.options.show_for(settings.formats)
        for button in (self.send, self.repeat):
            button.setEnabled(bool(settings.formats or papers.any))
        if self._known is None:
            return
        name, result, layout = self._known
        left = [layer.name for layer in result.stack.layers if layer.hidden]
        self.hidden.setText(f"Hidden, so not sent: {', '.join(left)}." if left else "")
        self.hidden.setVisible(bool(left))
        names = sent_names(name, result.stack, layout, settings)
        names += (f"{file_stem(name)}.zip",) if names and self.zip.isChecked() else ()
        more = len(names) - _MOST_NAMES
        shown = "\n".join([*names[:_MOST_NAMES], *([f"and {more} more"] if more > 0 else [])])
        empty = "The sheets are still laid out." if settings.formats else "Choose a format."
        self.names.setText(shown or empty)
        self.aside.setText(f"{len(names)} file{'s' * (len(names) != 1)}" if names else "")
