"""What is handed to other programs: copied, or dragged there as a file; it is made when they ask for it."""

import atexit
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QByteArray, QMetaType, QMimeData, QPoint, Qt, QUrl
from PySide6.QtGui import QDrag
from PySide6.QtWidgets import QApplication, QWidget

from sketchloom.core.errors import SketchLoomError
from sketchloom.core.send import SVG, Page, file_stem, written

__all__ = ["HandedPage", "drag_page", "far_enough", "svg_data"]

_SVG, _FILES, _TEXT = "image/svg+xml", "text/uri-list", "text/plain"


def svg_data(svg: bytes) -> QMimeData:
    """An SVG for the clipboard: as such, and as text."""
    data = QMimeData()
    data.setData(_SVG, QByteArray(svg))
    data.setText(svg.decode())
    return data


class HandedPage(QMimeData):
    """A page as an SVG, made and read back once another program asks for it: as a file, or as such.

    Parameters
    ----------
    page : callable
        Gives the page.
    name : str
        Of the file, without an ending.
    """

    def __init__(self, page: Callable[[], Page], name: str) -> None:
        super().__init__()
        self._page, self._name = page, f"{file_stem(name)}.svg"
        self._made: bytes | None = None

    def formats(self) -> list[str]:
        """A file first, as most programs take one."""
        return [_FILES, _SVG]

    def hasFormat(self, kind: str) -> bool:
        """Whether it can be had so."""
        return kind in self.formats()

    def retrieveData(self, kind: str, preferred) -> object:
        """Make it, the first time it is asked for; nothing where it did not read back."""
        if self._made is None:
            try:
                self._made = written(SVG, self._page())
            except SketchLoomError:
                self._made = b""
        if not self._made or kind not in self.formats():
            return None
        if kind == _SVG:
            return QByteArray(self._made)
        path = _folder() / self._name
        path.write_bytes(self._made)
        url = QUrl.fromLocalFile(str(path))
        if preferred.id() == QMetaType.Type.QByteArray.value:
            return url.toEncoded() + b"\r\n"
        return [url]


_folders: list[Path] = []


def _folder() -> Path:
    """A passing folder for what is dragged, one a run; it goes with the program."""
    if not _folders:
        _folders.append(Path(tempfile.mkdtemp(prefix="sketch-loom-")))
        atexit.register(shutil.rmtree, _folders[0], ignore_errors=True)
    return _folders[0]


def drag_page(widget: QWidget, page: Callable[[], Page], name: str) -> None:
    """Let a page be dragged from a widget to another program."""
    drag = QDrag(widget)
    drag.setMimeData(HandedPage(page, name))
    drag.exec(Qt.DropAction.CopyAction)


def far_enough(start: QPoint | None, here: QPoint) -> bool:
    """Whether the pointer was moved so far that it drags."""
    return start is not None and (here - start).manhattanLength() >= QApplication.startDragDistance()
