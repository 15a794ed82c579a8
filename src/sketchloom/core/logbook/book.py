"""The logbook as a file: SQLite in the user's data folder."""

import sqlite3
import time
import zlib
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any, NamedTuple

import msgspec
import platformdirs

from sketchloom.core.errors import ArgumentError, JobError, WriteError
from sketchloom.core.logbook.entry import RESULTS, SORTS, Entry, Search, check_entry
from sketchloom.core.logbook.estimates import CUTS, Correction, correction_of
from sketchloom.core.logbook.schema import APPLICATION, VERSION, brought_up, is_ours
from sketchloom.core.stock import Preset

__all__ = ["MOST_LISTED", "Logbook", "OnHand"]

MOST_LISTED = 2000
_WAIT, _LONGEST = 2.0, 5.0
"""s that another program is waited for, and that any question may take."""
_STEPS = 100_000
"""Of SQLite's machine between looks at the clock."""
_MOST_VALUE = 80_000_000
"""Bytes of a value in the file."""
_MOST_AMOUNT = 1e6
_LINES_A_CUT = 12
"""That are looked at, as a cut has a line a stock."""
_PLAIN = "number, at, job, what, stock, cutter, preset, planned, taken, result, note, used, roll, price"


class OnHand(NamedTuple):
    """How much of a stock there is."""

    stock: str
    amount: float
    """Sheets, or metres of a roll."""
    least: float
    """Below which more is to be bought."""

    @property
    def low(self) -> bool:
        """Whether more is to be bought."""
        return self.amount < self.least or self.amount < 0


class Logbook:
    """Opens the file anew for each question, so that any thread may ask.

    Every method raises JobError if the file is no logbook, is damaged, was
    written by a later program or is held by another one; those that write
    raise WriteError if it cannot be written to.

    Parameters
    ----------
    path : Path, optional
        Else it lies in the user's data folder.
    """

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or platformdirs.user_data_path("sketch-loom", appauthor=False) / "logbook.db"

    def add(self, entries: Sequence[Entry]) -> tuple[tuple[int, ...], tuple[OnHand, ...]]:
        """Log cuts, all or none, and count down what they used of stock on hand.

        Returns
        -------
        numbers : tuple of int
        low : tuple of OnHand
            What of the stocks used is to be bought.
        """
        for entry in entries:
            check_entry(entry)
        with self._open(write=True) as connection:
            numbers = []
            for one in entries:
                preset = msgspec.json.encode(one.preset).decode() if one.preset is not None else ""
                values = (one.at, one.job, one.what, one.stock, one.cutter, preset, one.planned, one.taken, one.result,
                          one.note, one.used, one.roll, one.price, zlib.compress(one.recipe), one.photo)  # fmt: skip
                marks = ", ".join("?" * len(values))
                columns = f"{_PLAIN.removeprefix('number, ')}, recipe, photo"
                done = connection.execute(f"INSERT INTO cuts ({columns}) VALUES ({marks})", values)
                numbers.append(int(done.lastrowid or 0))
                self._count(connection, one.stock, -one.used)
            used = {one.stock.casefold() for one in entries}
            low = [one for one in self._on_hand(connection) if one.low and one.stock.casefold() in used]
        return tuple(numbers), tuple(low)

    def search(self, wanted: Search = Search(), most: int = MOST_LISTED) -> tuple[Entry, ...]:  # noqa: B008 (frozen)
        """Find lines, without snapshots and photographs."""
        where, values = ["removed = 0"], list[Any]()
        for word in wanted.words.split()[:20]:
            where.append("instr(folded(job || ' ' || what || ' ' || stock || ' ' || cutter || ' ' || note || ' '"
                         " || result || ' ' || preset), ?)")  # fmt: skip
            values.append(word.casefold())
        for column, value in (("job", wanted.job), ("stock", wanted.stock), ("cutter", wanted.cutter)):
            if value:
                where.append(f"folded({column}) = ?")
                values.append(value.casefold())
        if wanted.result is not None:
            where.append("result = ?")
            values.append(wanted.result)
        if wanted.sort not in SORTS:
            raise ArgumentError(f"The logbook cannot be sorted by {wanted.sort}.")
        column = "used * price" if wanted.sort == "cost" else wanted.sort
        way = "DESC" if wanted.falling else "ASC"
        order = f"{column} IS NULL, {f'folded({column})' if column in ('job', 'stock', 'cutter') else column} {way}"
        sql = f"SELECT {_PLAIN} FROM cuts WHERE {' AND '.join(where)} ORDER BY {order}, number {way} LIMIT {int(most)}"
        with self._open() as connection:
            return tuple(_entry(row) for row in connection.execute(sql, values))

    def whole(self, number: int) -> Entry:
        """Give a line with its snapshot and photograph; raises JobError if there is none."""
        sql = f"SELECT {_PLAIN}, recipe, photo FROM cuts WHERE number = ? AND removed = 0"
        with self._open() as connection:
            row = connection.execute(sql, (number,)).fetchone()
            if row is None:
                raise JobError("This cut is no longer in the logbook.")
            unpacked = zlib.decompressobj()
            recipe = unpacked.decompress(row[-2], _MOST_VALUE)
            return msgspec.structs.replace(_entry(row), recipe=recipe, photo=row[-1])

    def tell(self, number: int, **told: Any) -> None:
        """Change what is told of a cut afterwards: `taken`, `result`, `note`, `photo`."""
        assert told.keys() <= {"taken", "result", "note", "photo"}
        check_entry(msgspec.structs.replace(Entry("", at=0), **told))
        sets = ", ".join(f"{name} = ?" for name in told)
        with self._open(write=True) as connection:
            connection.execute(f"UPDATE cuts SET {sets} WHERE number = ?", (*told.values(), number))

    def remove(self, numbers: Sequence[int], back: bool = False) -> None:
        """Take lines out, and what they used is on hand again; `back` puts them in again."""
        with self._open(write=True) as connection:
            for number in numbers:
                row = connection.execute(
                    "SELECT stock, used FROM cuts WHERE number = ? AND removed = ?", (number, int(back))
                ).fetchone()
                if row is not None:
                    connection.execute("UPDATE cuts SET removed = ? WHERE number = ?", (int(not back), number))
                    self._count(connection, row[0], -row[1] if back else row[1])

    def last_good(self, stock: str, cutter: str) -> Entry | None:
        """The newest good cut of a stock on a cutter that tells how it was set; None where there is none."""
        sql = (
            f"SELECT {_PLAIN} FROM cuts WHERE removed = 0 AND result = 'good' AND preset <> '' "
            "AND folded(stock) = ? AND folded(cutter) = ? ORDER BY at DESC, number DESC LIMIT 1"
        )
        with self._open() as connection:
            row = connection.execute(sql, (stock.casefold(), cutter.casefold())).fetchone()
            return None if row is None else _entry(row)

    def correction(self, cutter: str) -> Correction:
        """By what times planned on a cutter are corrected; see `RULE`."""
        return correction_of(self.search(Search(cutter=cutter), most=_LINES_A_CUT * CUTS) if cutter else ())

    def cost_of(self, job: str) -> tuple[float, int]:
        """What the stock of a job has cost so far, and how often it was cut; what was logged at once is one time."""
        sql = "SELECT total(used * price), count(DISTINCT at) FROM cuts WHERE removed = 0 AND job = ?"
        with self._open() as connection:
            cost, cuts = connection.execute(sql, (job,)).fetchone()
            return float(cost), int(cuts)

    def names(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """Stocks and cutters that stand in it, by name."""
        with self._open() as connection:
            found = [
                connection.execute(
                    f"SELECT DISTINCT {column} FROM cuts WHERE removed = 0 AND {column} <> '' ORDER BY {column}"
                ).fetchmany(MOST_LISTED)
                for column in ("stock", "cutter")
            ]
            return tuple(_text(row[0]) for row in found[0]), tuple(_text(row[0]) for row in found[1])

    def on_hand(self) -> tuple[OnHand, ...]:
        """All stock that is counted, by name."""
        with self._open() as connection:
            return self._on_hand(connection)

    def set_on_hand(self, stock: str, amount: float | None, least: float = 0.0) -> None:
        """Say how much of a stock there is; None counts it no longer."""
        for value in (amount or 0.0, least):
            if not -_MOST_AMOUNT <= value <= _MOST_AMOUNT:
                raise ArgumentError(f"{value:g} cannot be on hand; type 0 to {_MOST_AMOUNT:g}.")
        if not stock.strip() or len(stock) > 200:
            raise ArgumentError("Stock on hand is known by its name; give it one.")
        with self._open(write=True) as connection:
            connection.execute("DELETE FROM on_hand WHERE folded(stock) = ?", (stock.casefold(),))
            if amount is not None:
                connection.execute("INSERT INTO on_hand VALUES (?, ?, ?)", (stock, amount, least))

    @staticmethod
    def _on_hand(connection: sqlite3.Connection) -> tuple[OnHand, ...]:
        rows = connection.execute("SELECT stock, amount, least FROM on_hand ORDER BY stock").fetchmany(MOST_LISTED)
        return tuple(OnHand(str(stock), float(amount), float(least)) for stock, amount, least in rows)

    @staticmethod
    def _count(connection: sqlite3.Connection, stock: str, by: float) -> None:
        sql = "UPDATE on_hand SET amount = round(amount + ?, 6) WHERE folded(stock) = ?"
        connection.execute(sql, (by, stock.casefold()))

    @contextmanager
    def _open(self, write: bool = False) -> Iterator[sqlite3.Connection]:
        """Open the file for one question, in one transaction; what is not there yet is empty."""
        with self._told(write):
            if not write and not self.path.exists():
                connection = sqlite3.connect(":memory:", isolation_level=None)
                brought_up(connection)
            else:
                connection = self._connected(write)
            # SQLite's own LIKE and NOCASE know no case but that of ASCII's letters
            connection.create_function("folded", 1, str.casefold, deterministic=True)
            try:
                if write:
                    connection.execute("BEGIN IMMEDIATE")
                yield connection
                if write:
                    connection.execute("COMMIT")
            finally:
                connection.close()  # what was not committed is rolled back

    def _connected(self, write: bool) -> sqlite3.Connection:
        if write:
            self.path.parent.mkdir(parents=True, exist_ok=True)
        elif not self.path.is_file():
            raise JobError(f"{self.path.name} is no logbook; move it out of the way.")
        try:
            return self._checked(f"{self.path.absolute().as_uri()}?mode=rwc")
        except sqlite3.OperationalError as error:
            if write or "locked" in str(error):
                raise
            return self._checked(f"{self.path.absolute().as_uri()}?mode=ro&immutable=1")  # as on a read-only disk

    def _checked(self, address: str) -> sqlite3.Connection:
        connection = sqlite3.connect(address, timeout=_WAIT, isolation_level=None, uri=True)
        try:
            end = time.monotonic() + _LONGEST
            connection.set_progress_handler(lambda: time.monotonic() > end, _STEPS)
            connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _MOST_VALUE)
            for pragma in ("trusted_schema = OFF", "cell_size_check = ON", "mmap_size = 0"):
                connection.execute(f"PRAGMA {pragma}")
            version = connection.execute("PRAGMA user_version").fetchone()[0]
            own = connection.execute("PRAGMA application_id").fetchone()[0]
            tables = connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()[0]
            if own not in (0, APPLICATION) or (own == 0 and tables):
                raise JobError(f"{self.path.name} is no logbook of Sketch Loom; move it out of the way.")
            if version > VERSION:
                raise JobError(f"{self.path.name} was written by a newer Sketch Loom; open it with that.")
            if version < VERSION:
                with suppress(sqlite3.OperationalError):  # it can be read and written to without
                    connection.execute("PRAGMA journal_mode = WAL")
                brought_up(connection)
            if not is_ours(connection):
                raise JobError(f"{self.path.name} is damaged, or no logbook; move it out of the way.")
            return connection
        except BaseException:
            connection.close()
            raise

    @contextmanager
    def _told(self, write: bool) -> Iterator[None]:
        """Tell what SQLite found in a sentence."""
        name = self.path.name
        try:
            yield
        except sqlite3.OperationalError as error:
            why = str(error)
            if "locked" in why or "busy" in why:
                raise JobError(f"{name} is held by another program; try again when that has ended.") from None
            if "interrupted" in why:
                raise JobError(f"{name} takes too long to read; it may be damaged.") from None
            if write and any(word in why for word in ("readonly", "unable to open", "full", "I/O")):
                raise WriteError(f"{name} cannot be written to ({why}).") from None
            if "open" in why or "I/O" in why:
                raise JobError(f"{name} cannot be read ({why}).") from None
            raise JobError(f"{name} is damaged, or no logbook; move it out of the way.") from None
        except (sqlite3.Error, zlib.error, msgspec.MsgspecError, ValueError, TypeError, OverflowError):
            raise JobError(f"{name} is damaged, or no logbook; move it out of the way.") from None
        except OSError as error:
            raise (WriteError if write else JobError)(
                f"{name} cannot be opened ({(error.strerror or str(error)).lower()})."
            ) from None


def _entry(row: Sequence[Any]) -> Entry:
    """Make a line of a row; raises ValueError or a kin of it if one of its values is none of a logbook."""
    number, at, job, what, stock, cutter, preset, planned, taken, result, note, used, roll, price = row[:14]
    if result not in RESULTS:
        raise ValueError
    return Entry(
        job=_text(job), stock=_text(stock), cutter=_text(cutter), what=_text(what), at=int(at),
        preset=msgspec.json.decode(preset, type=Preset) if preset else None,
        planned=float(planned), taken=None if taken is None else float(taken), result=result, note=_text(note),
        used=float(used), roll=bool(roll), price=float(price), number=int(number),
    )  # fmt: skip


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise TypeError
    return value
