"""A new ink, by a colour that the maker chooses."""

from collections.abc import Iterable

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QWidget

from sketchloom.core.palette import Ink, keys_of
from sketchloom.core.regions import FILLS

__all__ = ["ask_for_ink"]


def ask_for_ink(parent: QWidget, inks: Iterable[Ink]) -> str:
    """Ask for the colour of a new ink; gives its key, or nothing."""
    chosen = QColorDialog.getColor(QColor(*FILLS[0]), parent, "Colour of the new ink")
    if not chosen.isValid():
        return ""
    return keys_of([(chosen.red(), chosen.green(), chosen.blue())], [ink.key for ink in inks])[0]
