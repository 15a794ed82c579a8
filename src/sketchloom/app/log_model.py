"""The logbook asked beside the window: no question holds it up, and each is answered in its turn."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple, TypeVar

import msgspec
from PySide6.QtCore import QObject, Signal

from sketchloom.app.runner import Runner
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.logbook import Correction, Entry, Logbook, OnHand, Search, csv_of, small_photo
from sketchloom.core.send import write_all

__all__ = ["Known", "Listed", "LogModel"]

T = TypeVar("T")


class Listed(NamedTuple):
    """What a search found."""

    entries: tuple[Entry, ...]
    stocks: tuple[str, ...]
    cutters: tuple[str, ...]
    """That stand anywhere in the logbook."""
    on_hand: tuple[OnHand, ...]


class Known(NamedTuple):
    """What the logbook knows of a job's stocks on a cutter."""

    on_hand: dict[str, OnHand]
    """By the stock's name in small letters."""
    last_good: dict[str, Entry]
    correction: Correction
    cost: float
    cuts: int
    """That the job took so far, and what they cost."""


class LogModel(QObject):
    """Asks the logbook on a thread of its own.

    Parameters
    ----------
    book : Logbook, optional
        Else the user's.
    """

    changed = Signal()
    """Something in it is new."""
    said = Signal(str)

    def __init__(self, book: Logbook | None = None) -> None:
        super().__init__()
        self.book = book or Logbook()
        self._runner = Runner()
        self._runner.failed.connect(lambda _, sentence, __: self.said.emit(sentence))

    @property
    def busy(self) -> bool:
        """Whether a question waits."""
        return self._runner.busy

    def ask(self, work: Callable[[], T], done: Callable[[T], object], must: bool = False) -> None:
        """Do something on the thread; `done` is told in the window."""
        self._runner.enqueue(lambda _: work(), done, "log", must=must)

    def ask_beside(self, work: Callable[[], T], done: Callable[[T], object]) -> None:
        """The same for what no one asked for: a logbook that cannot be read is told when it is opened, not here."""

        def quietly() -> T | None:
            try:
                return work()
            except SketchLoomError:
                return None

        self.ask(quietly, lambda found: done(found) if found is not None else None)

    def find(self, wanted: Search, done: Callable[[Listed], object]) -> None:
        """Search it."""
        book = self.book
        self.ask(lambda: Listed(book.search(wanted), *book.names(), book.on_hand()), done)

    def know(self, job: str, stocks: Sequence[str], cutter: str, done: Callable[[Known], object]) -> None:
        """Find all that concerns a job."""
        book = self.book

        def work() -> Known:
            good = {stock: book.last_good(stock, cutter) for stock in stocks} if cutter else {}
            return Known(
                {one.stock.casefold(): one for one in book.on_hand()},
                {stock: entry for stock, entry in good.items() if entry is not None},
                book.correction(cutter),
                *book.cost_of(job),
            )

        self.ask_beside(work, done)

    def correct(self, cutter: str, done: Callable[[Correction], object]) -> None:
        """Find by what times planned on a cutter are corrected."""
        book = self.book
        self.ask_beside(lambda: book.correction(cutter), done)

    def log(self, entries: Sequence[Entry], photo: Path | None, then: Callable[[], object]) -> None:
        """Log cuts, with a photograph if there is one, and say what of their stock runs low; `then` once it is done."""

        def work() -> tuple[OnHand, ...]:
            picture = small_photo(photo) if photo is not None else b""
            first, *others = entries
            pictured = (msgspec.structs.replace(first, photo=picture), *others)
            return self.book.add(pictured)[1]

        def done(low: tuple[OnHand, ...]) -> None:
            many = f"{len(entries)} cuts" if len(entries) > 1 else "The cut"
            less = "".join(f" {one.stock}: {one.amount:g} left, buy more." for one in low)
            self.said.emit(f"{many} logged.{less}")
            then()
            self.changed.emit()

        self.ask(work, done, must=True)

    def write(self, work: Callable[[Logbook], object], said: str = "") -> None:
        """Change something in it."""

        def done(_: object) -> None:
            if said:
                self.said.emit(said)
            self.changed.emit()

        self.ask(lambda: work(self.book), done, must=True)

    def export(self, wanted: Search, path: Path) -> None:
        """Write what a search finds as CSV."""

        def work() -> int:
            entries = self.book.search(wanted, most=1_000_000)
            write_all({path: csv_of(entries)})
            return len(entries)

        def done(many: int) -> None:
            self.said.emit(f"Saved {many} cut{'s' * (many != 1)} as {path.name} in {path.parent}.")

        self.ask(work, done, must=True)

    def close(self) -> None:
        """End the thread, once what was logged is written."""
        self._runner.close()
