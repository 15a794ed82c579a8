"""What is told of one cut: how it went, how long it took, a note, a photograph, and how it was set."""

from pathlib import Path

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, Field, faded
from sketchloom.app.log_model import LogModel
from sketchloom.app.more_fields import TimeField
from sketchloom.app.steps.list_row import small_button
from sketchloom.core.logbook import RESULTS, Entry, small_photo
from sketchloom.core.stock import preset_words

__all__ = ["OneCut"]

_PHOTO = QSize(112, 84)


class OneCut(Card):
    """Of the cut that is chosen in the list.

    Parameters
    ----------
    log : LogModel
    """

    back = Signal(object)
    """Its settings are wanted again."""
    removed = Signal(object)
    photo_wanted = Signal(object)

    def __init__(self, log: LogModel) -> None:
        super().__init__("This cut")
        self._log = log
        self._entry: Entry | None = None
        self.what = faded()
        self.result = Choice("How this cut went")
        for one in RESULTS:
            self.result.addItem(one.capitalize() or "Not told", one)
        self.result.activated.connect(lambda _: self._tell(result=self.result.currentData()))
        self.taken = TimeField("Time that this cut took")
        self.taken.setFixedWidth(96)
        self.taken.committed.connect(lambda seconds: self._tell(taken=seconds))
        self.note = Field()
        self.note.setAccessibleName("Note of this cut")
        self.note.setPlaceholderText("Note")
        self.note.editingFinished.connect(self._take_note)
        self.photo = QLabel()
        self.photo.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.photo.setFixedSize(_PHOTO)
        self.photo.hide()
        self.body.addWidget(self.what)
        self.row("Went", self.result, faded("took", wrap=False), self.taken)
        self.row(self.note, self.photo)
        self.add_photo = small_button("Photograph…", lambda: self.photo_wanted.emit(self._take_photo))
        self.settings = small_button("Back to its settings", lambda: self.back.emit(self._entry))
        self.settings.setToolTip("Takes the settings that this was cut with to the picture in hand; undo leads back")
        self.remove = small_button("Remove", lambda: self.removed.emit(self._entry), "Remove this cut")
        line = QHBoxLayout()
        for button in (self.add_photo, self.settings, self.remove):
            line.addWidget(button)
        self.body.addLayout(line)
        self.show_entry(None, False)

    def show_entry(self, entry: Entry | None, have: bool) -> None:
        """Show a cut; `have` says whether there is a picture that its settings can be taken to."""
        other = entry is None or self._entry is None or entry.number != self._entry.number
        self._entry = entry
        for widget in (self.result, self.taken, self.note, self.add_photo, self.remove):
            widget.setEnabled(entry is not None)
        self.settings.setEnabled(entry is not None and have)
        if entry is None:
            self.what.setText("Choose a cut in the list.")
            self.photo.hide()
            return
        preset = "" if entry.preset is None else f"\n“{entry.preset.name}”: {preset_words(entry.preset)}"
        self.what.setText(f"{entry.what or entry.job}{preset}")
        self.result.setCurrentIndex(RESULTS.index(entry.result))
        self.taken.show_value(entry.taken)
        self.note.show_text(entry.note)
        if other:
            self.photo.hide()
        self._log.ask(lambda: self._log.book.whole(entry.number), self._show_photo)

    def _show_photo(self, whole: Entry) -> None:
        if self._entry is None or whole.number != self._entry.number:
            return
        image = QImage.fromData(whole.photo)
        self.photo.setVisible(not image.isNull())
        if image.isNull():
            return
        ratio, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        self.photo.setPixmap(QPixmap.fromImage(image.scaled(_PHOTO, ratio, smooth)))

    def _tell(self, **told: object) -> None:
        entry = self._entry
        if entry is not None:
            self._log.write(lambda book: book.tell(entry.number, **told))

    def _take_note(self) -> None:
        if self.note.isModified():
            self.note.setModified(False)
            self._tell(note=self.note.text())

    def _take_photo(self, path: Path) -> None:
        entry = self._entry
        if entry is not None:
            self._log.write(lambda book: book.tell(entry.number, photo=small_photo(path)))
