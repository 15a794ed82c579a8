"""The lines of the logbook as a table."""

import time

from sketchloom.app.tables import Rows
from sketchloom.core.logbook import Entry
from sketchloom.core.measures import time_words

__all__ = ["COLUMNS", "Lines"]

COLUMNS: tuple[tuple[str, str], ...] = (
    ("Date", "at"), ("Job", "job"), ("Stock", "stock"), ("Cutter", "cutter"), ("Planned", "planned"),
    ("Taken", "taken"), ("Went", "result"), ("Used", ""), ("Cost", "cost"),
)  # fmt: skip
"""What a column is called, and by what it sorts; nothing if it does not."""
_NUMBERS = ("Planned", "Taken", "Used", "Cost")


class Lines(Rows):
    """Shows lines that were found."""

    def __init__(self) -> None:
        super().__init__([name for name, _ in COLUMNS], _NUMBERS)

    def words(self, row: Entry, column: str) -> str:
        """What a line tells in a column."""
        return words_of(row, column)

    def tip(self, row: Entry, column: str) -> str:
        """Its note, where it has one."""
        return row.note or words_of(row, column)


def _date(at: int) -> str:
    """Short, with the year where it is another."""
    there, year = time.localtime(at), time.localtime().tm_year
    return time.strftime("%d %b %H:%M" if there.tm_year == year else "%d %b %Y", there)


def words_of(entry: Entry, column: str) -> str:
    """What a line tells in a column."""
    return {
        "Date": lambda: _date(entry.at),
        "Job": lambda: entry.job,
        "Stock": lambda: entry.stock or "–",
        "Cutter": lambda: entry.cutter or "–",
        "Planned": lambda: time_words(entry.planned).removesuffix(" min"),
        "Taken": lambda: "–" if entry.taken is None else time_words(entry.taken).removesuffix(" min"),
        "Went": lambda: entry.result or "–",
        "Used": lambda: f"{entry.used:g} {'m' if entry.roll else 'sheet' if entry.used == 1 else 'sheets'}",
        "Cost": lambda: f"{entry.cost:.2f}" if entry.price else "–",
    }[column]()
