"""The window's questions: what to open, where files go, and whether unsaved work may be left."""

import re
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox

from sketchloom.app.frame import Frame
from sketchloom.app.held import Held
from sketchloom.app.steps.check.file import FileCard
from sketchloom.core.job import PrintSettings, names_of_test_cuts
from sketchloom.core.send import SVG, WRITERS
from sketchloom.core.sheets import Guest
from sketchloom.core.stock import Stock

__all__ = ["Dialogs"]

_SAVE, _DISCARD = QMessageBox.StandardButton.Save, QMessageBox.StandardButton.Discard

_ENDING = re.compile(r"\(\*(\.[a-z]+)\)")
"""Of a kind that has one."""
_JOBS = "Sketch Loom job (*.loom)"
_PICTURES = (
    "Pictures and jobs (*.png *.jpg *.jpeg *.webp *.heic *.heif *.tif *.tiff *.bmp *.gif *.pdf *.loom);;All files (*)"
)


def _formats() -> str:
    return ";;".join(f"{writer.name} (*{ending})" for ending, writer in WRITERS.items())


class Dialogs:
    """Asks, and passes the answer to the model."""

    def __init__(self, window: Frame) -> None:
        self._window = window

    def _folder(self, sends: bool = False) -> str:
        """Where a dialog begins: in the folder that is chosen, as long as it is there, or beside the last file."""
        settings = self._window.settings
        chosen = settings.send_folder if sends else settings.folder
        if chosen and Path(chosen).is_dir():
            return chosen
        recent = self._window.settings.recent
        return str(Path(recent[0]).parent) if recent else ""

    def _target(self, title: str, ending: str, kinds: str, stem: str = "") -> Path | None:
        """Ask where a file goes; with no ending, or still the one proposed, its name gets that of the chosen kind."""
        suggestion = Path(self._folder(ending != ".loom")) / f"{stem or self._window.job_name.text()}{ending}"
        name, kind = QFileDialog.getSaveFileName(self._window, title, str(suggestion), kinds)
        if not name:
            return None
        path = Path(name)
        chosen = _ENDING.search(kind or "")
        if chosen is not None and path.suffix in ("", ending):
            return path.with_suffix(chosen[1])
        return path if path.suffix else path.with_suffix(ending)

    def open(self) -> None:
        """Choose files to open."""
        names, _ = QFileDialog.getOpenFileNames(self._window, "Open pictures or jobs", self._folder(), _PICTURES)
        self._window.open(*map(Path, names))

    def choose_job(self, take: Callable[[Path], object]) -> None:
        """Choose a job file, to compare with."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Compare with a job", self._folder(), _JOBS)
        if name:
            take(Path(name))

    def choose_photo(self, take: Callable[[Path], object]) -> None:
        """Choose a photograph of a cut."""
        kinds = "Pictures (*.png *.jpg *.jpeg *.webp *.heic *.heif *.tif *.tiff)"
        name, _ = QFileDialog.getOpenFileName(self._window, "A photograph of the cut", self._folder(), kinds)
        if name:
            take(Path(name))

    def save_csv(self, take: Callable[[Path], object]) -> None:
        """Choose where lines of the logbook go."""
        path = self._target("Save as CSV", ".csv", "CSV (*.csv)", "logbook")
        if path is not None:
            take(path)

    def save_print(self, settings: PrintSettings) -> None:
        """Choose where the PNG goes, and save it with its cut line, as its card is set."""
        path = self._target("Save the prepared picture", ".png", "PNG (*.png)")
        if path is not None:
            self._window.model.save_print(path, settings)

    def send(self, each: bool) -> None:
        """Choose where the layers go, and save them; the name's ending says the format."""
        self._window.show_step("send")
        path = self._target("Save the layers", SVG.ending, _formats())
        if path is not None and path.suffix.lower() not in WRITERS:
            self._window.say(f"{path.name}: layers are written as {', '.join(WRITERS)}; let its name end so.")
        elif path is not None:
            self._window.model.send(path, each)

    def save_test_cut(self, stock: Stock | None) -> None:
        """Choose where the test cut of a stock goes, and save it; the name's ending says the format."""
        path = self._target("Save the test cut", SVG.ending, _formats(), names_of_test_cuts([stock])[stock])
        if path is not None and path.suffix.lower() not in WRITERS:
            self._window.say(f"{path.name}: a test cut is written as {', '.join(WRITERS)}; let its name end so.")
        elif path is not None:
            self._window.model.save_test_cut(path, stock)

    def send_all(self, send: Callable[[Path], object]) -> None:
        """Choose the folder that all formats go to, and send them."""
        name = QFileDialog.getExistingDirectory(self._window, "Send to a folder", self._folder(True))
        if name:
            send(Path(name))

    def save_assembly(self) -> None:
        """Choose where the assembly picture goes, and save it."""
        path = self._target("Save the assembly picture", ".png", "PNG (*.png);;SVG (*.svg)")
        if path is not None and path.suffix.lower() not in (".png", ".svg"):
            self._window.say(f"{path.name}: the assembly picture is written as .png or .svg; let its name end so.")
        elif path is not None:
            self._window.model.save_assembly(path)

    def save_sheets(self, guests: tuple[Guest, ...]) -> None:
        """Choose the folder that the sheets go to, and save them, one file a sheet, with the work of guests on them."""
        name = QFileDialog.getExistingDirectory(self._window, "Save the sheets in a folder", self._folder(True))
        if name:
            self._window.model.save_sheets(Path(name), guests)

    def check_file(self, card: FileCard) -> None:
        """Choose a file of another program to check."""
        kinds = "Drawings (*.svg *.dxf)"
        name, _ = QFileDialog.getOpenFileName(self._window, "Check a file", self._folder(), kinds)
        if name:
            card.read(Path(name))

    def save_mended(self, card: FileCard) -> None:
        """Choose where the mended file goes, and save it."""
        path = self._target("Save the mended file", ".svg", "SVG (*.svg)")
        if path is not None and path.suffix.lower() != ".svg":
            self._window.say(f"{path.name}: a mended file is written as .svg; let its name end so.")
        elif path is not None:
            card.save_mended(path)

    def save_job(self) -> None:
        """Save the job where it was, or ask."""
        if self._window.model.path is not None:
            self._window.model.save(self._window.model.path)
        else:
            self.save_job_as()

    def save_job_as(self) -> None:
        """Choose where the job goes, and save it."""
        path = self._job_target(self._window.job_name.text())
        if path is not None:
            self._window.model.save(path)

    def save_copy(self) -> None:
        """Choose where a copy of the job goes, and save it; the job goes on in its own file."""
        path = self._job_target(f"{self._window.job_name.text()} copy")
        if path is not None:
            self._window.model.save_copy(path)

    def _job_target(self, name: str) -> Path | None:
        return self._target("Save the job", ".loom", _JOBS, name)

    def put_away(self, held: Held) -> None:
        """Close an open job, once it is sure that its changes may go."""
        if self._may_go([held], lambda: self._window.model.put_away(held)):
            self._window.model.put_away(held)

    def may_leave(self, later: Callable[[], object]) -> bool:
        """Ask what becomes of unsaved work: whether the window may go now; `later` is done when all is saved."""
        return self._may_go(self._window.model.held, later)

    def _may_go(self, jobs: Sequence[Held], later: Callable[[], object]) -> bool:
        """Ask of each job that no file holds: save it, let its changes go, or stay."""
        saves: list[tuple[Held, Path]] = []
        for held in jobs:
            answer = self._asked(held) if held.dirty else _DISCARD
            if answer == _SAVE:
                path = held.path or self._job_target(held.job.name)
                if path is None:
                    return False
                saves.append((held, path))
            elif answer != _DISCARD:
                return False
        for held, path in saves:
            self._window.model.save(path, held, later if held is saves[-1][0] else lambda: None)
        return not saves

    def _asked(self, held: Held) -> QMessageBox.StandardButton:
        return QMessageBox.question(
            self._window,
            "Sketch Loom",
            f"“{held.job.name}” has changes that are not saved as a job. Save them?",
            _SAVE | _DISCARD | QMessageBox.StandardButton.Cancel,
            _SAVE,
        )
