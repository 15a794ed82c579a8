"""The card of jobs that were open when the program ended without closing them."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QSize, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.small import square_icon
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.core.job import DAYS, LeftBehind
from sketchloom.core.measures import shortened, when_words

__all__ = ["LeftCard"]

_SIDE = 40


class LeftCard(Card):
    """Brings them back, or leaves them."""

    wanted = Signal(object)
    """A job to bring back."""

    def __init__(self) -> None:
        super().__init__("Still open when it ended")
        self._left: list[LeftBehind] = []
        self._images: dict[Path, QImage] = {}
        self.body.addWidget(
            faded(f"The program ended without closing these. What you leave stays for {DAYS} days, then it goes.")
        )
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        self.body.addLayout(self.rows)
        self.all = QPushButton("Bring all back")
        self.all.clicked.connect(lambda: [self._bring(one) for one in tuple(self._left)])
        self.body.addWidget(self.all)
        self.none = QPushButton("Leave them all")
        self.none.clicked.connect(lambda: [self._leave(one) for one in tuple(self._left)])
        self.body.addWidget(self.none)
        self.hide()

    def show_left(self, left: Sequence[LeftBehind]) -> None:
        """Offer jobs."""
        self._left = list(left)
        self._fill()

    def show_image(self, folder: Path, image: QImage) -> None:
        """Show the picture of one of them."""
        self._images[folder] = image
        self._fill()

    def _fill(self) -> None:
        self.setVisible(bool(self._left))
        self.aside.setText(str(len(self._left)) if self._left else "")
        for button in (self.all, self.none):
            button.setVisible(len(self._left) > 1)
        with refilled(self.rows):
            for one in self._left:
                self.rows.addWidget(self._row(one))

    def _row(self, one: LeftBehind) -> ListRow:
        words = f"{shortened(one.head.name, 24)}\n{when_words(one.at)}{'' if one.changed else ', saved'}"
        back = QPushButton(words)
        back.setProperty("choice", True)
        back.setAccessibleName(f"Bring {one.head.name} back")
        back.setToolTip(f"Bring it back: {one.path or one.source or 'it is on no disk but here'}")
        back.clicked.connect(lambda: self._bring(one))
        back.setIconSize(QSize(_SIDE, _SIDE))
        back.setMinimumHeight(_SIDE + 12)
        back.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        image = self._images.get(one.folder)
        if image is not None:
            back.setIcon(square_icon(image, _SIDE))
        return ListRow(back, behind=(icon_button("x", f"Leave {one.head.name}", lambda: self._leave(one)),))

    def _bring(self, one: LeftBehind) -> None:
        self._left.remove(one)
        self._fill()
        self.wanted.emit(one)

    def _leave(self, one: LeftBehind) -> None:
        one.decline()
        self._left.remove(one)
        self._fill()
