"""The Send step: files for the cutter."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.frame import Frame
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.send.folder import FolderCard
from sketchloom.app.steps.send.log import LogCard
from sketchloom.app.steps.send.trial import TrialCard
from sketchloom.core.job import Result
from sketchloom.core.measures import in_unit
from sketchloom.core.send import WRITERS
from sketchloom.core.sheets import Guest, Layout

__all__ = ["SendStep"]


class SendStep(Step):
    """Save the layers as files for cutters."""

    key, name, view, needs = "send", "Send", "Layers", ("mended",)
    save_all = Signal()
    save_each = Signal()
    save_job = Signal()
    save_assembly = Signal()
    look_at_check = Signal()

    def build(self) -> None:
        """Make the cards."""
        self._layout: Callable[[], Layout | None] = lambda: None
        self.warning = self.add(Card("Look before you cut"))
        self.not_ready = QLabel()
        self.not_ready.setWordWrap(True)
        self.not_ready.setProperty("role", "madder")
        self.look = QPushButton("Look at these places")
        self.look.clicked.connect(self.look_at_check)
        self.warning.body.addWidget(self.not_ready)
        self.warning.body.addWidget(self.look)
        self.warning.hide()
        card = self.add(Card("Files for the cutter"))
        self.what = QLabel()
        self.what.setWordWrap(True)
        card.body.addWidget(self.what)
        self.all = QPushButton("Save all layers in one file…")
        self.all.setProperty("primary", True)
        self.all.clicked.connect(self.save_all)
        self.each = QPushButton("Save one file a layer…")
        self.each.clicked.connect(self.save_each)
        card.body.addWidget(self.all)
        card.body.addWidget(self.each)
        card.body.addWidget(
            faded(
                f"As {', '.join(writer.name for writer in list(WRITERS.values())[:-1])} or "
                f"{list(WRITERS.values())[-1].name}: the file's ending says which. Each layer is one compound path in "
                "its colour, in mm; every file is read back before it is saved."
            )
        )
        self.sent = faded()
        card.body.addWidget(self.sent)
        self.folder = FolderCard()
        self.add(self.folder, folded=True)
        self.trial = TrialCard(self.model)
        self.add(self.trial, folded=True)
        self.log = LogCard(self.model)
        self.add(self.log, folded=True)
        picture = self.add(Card("Assembly picture"), folded=True)
        picture.body.addWidget(faded("The layers lifted apart, numbered in the order in which they are laid."))
        self.assembly = QPushButton("Save the assembly picture…")
        self.assembly.clicked.connect(self.save_assembly)
        picture.body.addWidget(self.assembly)
        job = self.add(Card("Job"))
        job.body.addWidget(faded("The job file holds the untouched picture and all settings."))
        self.job = QPushButton("Save the job…")
        self.job.clicked.connect(self.save_job)
        job.body.addWidget(self.job)
        self.many = QPushButton("Do this with more pictures…")
        job.body.addWidget(self.many)
        care = self.add(Card("Before you cut"))
        care.body.addWidget(
            faded(
                "Make a test cut first, about half an inch across, on every new material. "
                "Heat-transfer film is cut mirrored, on its back; adhesive vinyl is not.\n"
                "Keep hands clear while the cutter moves, cut away from the body when weeding, cap the blade. "
                "Never laser vinyl (PVC) or an unknown plastic: it gives off chlorine. Heat presses burn. "
                "The maker's manual and local rules come first."
            )
        )

    def attach(self, frame: Frame) -> None:
        """Ask where files go."""
        self.save_all.connect(lambda: frame.dialogs.send(False))
        self.save_each.connect(lambda: frame.dialogs.send(True))
        self.save_job.connect(frame.dialogs.save_job_as)
        self.save_assembly.connect(frame.dialogs.save_assembly)
        sheets = frame.by_key["sheets"].layouts
        self._layout = lambda: sheets.layout
        sheets.changed.connect(self._show_folder)
        guests = lambda: sheets.work.guests if sheets.work is not None else ()  # noqa: E731
        self.folder.asked.connect(lambda: frame.dialogs.send_all(lambda folder: self._send_to(folder, guests())))
        self.folder.again.connect(lambda: self._send_to(self.folder.folder, guests()))
        self.log.follow(frame.log, lambda: sheets.laid)
        self.log.photo_wanted.connect(frame.dialogs.choose_photo)
        self.many.clicked.connect(frame.show_many)
        self.log.open.clicked.connect(frame.show_logbook)
        self.trial.asked.connect(frame.dialogs.save_test_cut)
        self.look_at_check.connect(lambda: frame.show_step("check"))

    def _send_to(self, folder: Path | None, guests: tuple[Guest, ...]) -> None:
        """Send to a folder, and remember it."""
        if folder is not None:
            card = self.folder
            self.model.send_all(folder, card.settings, card.zip.isChecked(), guests, self.unit())
            card.sent_to(folder)

    def _show_folder(self) -> None:
        job, result = self.model.job, self.model.result
        if job is not None and result is not None and result.has("mended"):
            self.folder.show_job(job.name, result, self._layout())
            self.log.show_job()

    def show_warning(self, sentence: str, known: bool = True) -> None:
        """Say what spoils the cut, or that it is not `known` yet; nothing where the sentence is empty."""
        role = "madder" if known else "faded"
        if self.not_ready.property("role") != role:
            self.not_ready.setProperty("role", role)
            self.not_ready.style().unpolish(self.not_ready)
            self.not_ready.style().polish(self.not_ready)
        self.not_ready.setText(sentence)
        self.look.setVisible(known)
        self.warning.setVisible(bool(sentence))

    def show_result(self, result: Result) -> None:
        """Show what would be saved."""
        unit = self.unit()
        count, hidden = len(result.stack.sent), len(result.stack.layers) - len(result.stack.sent)
        left = f"; {hidden} hidden layer{'s' * (hidden != 1)} not sent" if hidden else ""
        design, page = (" × ".join(in_unit(side, unit) for side in size) for size in
                        (result.finished.size, result.stack.size))  # fmt: skip
        size = f"{design} {unit}" if design == page else f"design {design} {unit} on a page of {page} {unit}"
        self.what.setText(f"{count} layer{'s' * (count != 1)}, {size}{left}")
        self._show_folder()
        self.trial.show_job(result)
        self.sent.setText(f"Saved: {self.model.sent}" if self.model.sent else "")
        self.sent.setVisible(bool(self.model.sent))

    def figure(self, result: Result) -> str:
        """Whether files were saved."""
        return "saved" if self.model.sent else "not saved yet"
