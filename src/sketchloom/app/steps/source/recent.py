"""The card with files that were opened before: picture, size and date of each, found by a few letters."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QSize, Signal
from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout

from sketchloom.app.fields import Card, Field, faded
from sketchloom.app.runner import Runner
from sketchloom.app.small import image_of, square_icon
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.core.job import Glance, glance
from sketchloom.core.measures import length_words, shortened, when_words

__all__ = ["RecentCard"]

_MOST = 6
_SIDE = 40


class RecentCard(Card):
    """Opens one of them, beside the job in hand if there is one.

    Parameters
    ----------
    unit : callable
        Gives that of lengths.
    """

    wanted = Signal(object)
    forgotten = Signal(str)

    def __init__(self, unit: Callable[[], str]) -> None:
        super().__init__("Opened before")
        self._unit = unit
        self._names: tuple[str, ...] = ()
        self._shown: object = None
        self._seen: dict[str, Glance] = {}
        self._asked: set[str] = set()
        self._runner = Runner()
        self.words = Field()
        self.words.setPlaceholderText("Find by name")
        self.words.setAccessibleName("Find what was opened before")
        self.words.textEdited.connect(lambda _: self._fill())
        self.words.returnPressed.connect(self._open_first)
        self.body.addWidget(self.words)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.body.addLayout(self.rows)
        self.more = faded()
        self.body.addWidget(self.more)
        self.unfolded.connect(self._fill)

    def show_recent(self, names: Sequence[str]) -> None:
        """List files, newest first; each is looked at beside the window."""
        self._names = tuple(names)
        self.setVisible(bool(names))
        self.aside.setText(str(len(names)))
        self._fill()

    @property
    def found(self) -> list[str]:
        """Files whose names have the letters that were typed."""
        words = self.words.text().lower().split()
        return [name for name in self._names if all(word in name.lower() for word in words)]

    def _fill(self) -> None:
        found = self.found
        shown = [(name, self._seen.get(name)) for name in found[:_MOST]]
        same = [(name, id(seen)) for name, seen in shown]
        if self.folded or same == self._shown:
            return
        self._shown = same
        self.words.setVisible(len(self._names) > 3)
        with refilled(self.rows):
            for name, seen in shown:
                self.rows.addWidget(self._row(name, seen))
        left = len(found) - len(shown)
        self.more.setText(f"{left} more; type to find them" if left else "None is called so" if not found else "")
        self.more.setVisible(bool(self.more.text()))
        for name, _ in shown:
            if name not in self._asked:
                self._asked.add(name)
                self._runner.enqueue(lambda _, name=name: glance(Path(name)), self._looked(name), "open")

    def _looked(self, name: str) -> Callable[[Glance], None]:
        def done(seen: Glance) -> None:
            self._seen[name] = seen
            self._fill()

        return done

    def _row(self, name: str, seen: Glance | None) -> ListRow:
        path = Path(name)
        button = QPushButton(f"{shortened(path.name, 24)}\n{self._told(seen)}")
        button.setProperty("choice", True)
        button.setAccessibleName(f"Open {path.name}")
        button.setToolTip(name)
        button.setIconSize(QSize(_SIDE, _SIDE))
        button.setMinimumHeight(_SIDE + 22)
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        if seen is not None and seen.rgba is not None:
            button.setIcon(square_icon(image_of(seen.rgba), _SIDE))
        button.setEnabled(seen is None or seen.there)
        button.clicked.connect(lambda: self.wanted.emit(path))
        gone = seen is not None and not seen.there
        away = (icon_button("x", f"Forget {path.name}", lambda: self.forgotten.emit(name)),) if gone else ()
        return ListRow(button, behind=away)

    def _told(self, seen: Glance | None) -> str:
        if seen is None:
            return "…"
        if not seen.there:
            return "no longer there"
        size = ""
        if seen.width is not None:
            size = f"{length_words(seen.width, self._unit(), 0)} wide\n"
        elif seen.pixels is not None:
            size = f"{seen.pixels[0]} × {seen.pixels[1]} px\n"
        return f"{size}{when_words(seen.at)}"

    def look_again(self) -> None:
        """Look at the files anew when they are shown next."""
        self._asked.clear()

    def _open_first(self) -> None:
        if self.found:
            self.wanted.emit(Path(self.found[0]))

    def close_down(self) -> None:
        """End the thread."""
        self._runner.close()
