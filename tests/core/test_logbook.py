"""The logbook: cuts, stock on hand, estimates; files that are none, damaged, newer, held or on a read-only disk."""

import csv
import io
import multiprocessing
import os
import random
import sqlite3
import statistics
import tempfile
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from sketchloom.core.errors import ArgumentError, JobError, PictureError, SketchLoomError, WriteError
from sketchloom.core.logbook import Entry, Logbook, OnHand, Search, correction_of, csv_of, schema, small_photo
from sketchloom.core.stock import Preset
from tests.conftest import tries

GOOD = Preset("Card slow", "Red card", "Plotter", force=120.0, speed=40.0, passes=2)


@pytest.fixture
def book(tmp_path):
    return Logbook(tmp_path / "log" / "logbook.db")


def entry(number=0, **more):
    base = {"job": f"Job {number}", "stock": "Red card", "cutter": "Plotter", "at": 1_700_000_000 + number, "used": 2.0}
    return Entry(**{**base, **more})


def test_a_cut_comes_back_whole(book):
    whole = entry(
        what="sheet-1-red-card", preset=GOOD, planned=61.5, taken=80.0, result="usable", note="Corner lifted ½ mm",
        price=0.35, recipe=b'{"version": 4}' * 1000, photo=b"\xff\xd8photo",
    )  # fmt: skip
    (number,), low = book.add([whole])
    assert low == () and book.whole(number) == Entry(
        **{f: getattr(whole, f) for f in whole.__struct_fields__ if f != "number"}, number=number
    )
    (listed,) = book.search()
    assert (listed.recipe, listed.photo, listed.cost) == (b"", b"", pytest.approx(0.7))
    with pytest.raises(JobError, match="no longer"):
        book.whole(number + 1)


def test_sqlite_itself_finds_the_file_sound_and_in_wal(book):
    book.add([entry(n) for n in range(30)])
    other = sqlite3.connect(book.path)
    assert other.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    assert other.execute("PRAGMA journal_mode").fetchone() == ("wal",)
    assert other.execute("SELECT count(*), sum(used) FROM cuts").fetchone() == (30, 60.0)
    other.close()


def test_lines_are_searched_filtered_and_sorted(book):
    book.add(
        [
            entry(1, stock="Blue vinyl", taken=10.0, note="100% clean", result="good", price=2.0),
            entry(2, stock="red card", taken=None, note="under_lay"),
            entry(3, stock="Red card", taken=5.0, cutter="Laser", result="spoiled", price=1.0),
        ]
    )
    found = lambda **wanted: [one.job for one in book.search(Search(**wanted))]  # noqa: E731
    assert found() == ["Job 3", "Job 2", "Job 1"]
    assert found(words="RED") == ["Job 3", "Job 2"]
    assert found(words="100%") == ["Job 1"] and found(words="r_l") == ["Job 2"] and found(words="%") == ["Job 1"]
    assert found(words="red laser") == ["Job 3"]
    book.add([entry(4, stock="Ölpapier", cutter="Große Schneidemaschine"), entry(5, stock="ÖLPAPIER")])
    assert found(words="ölp GROSSE") == ["Job 4"] and found(cutter="GROßE schneidemaschine") == ["Job 4"]
    assert found(stock="ölpapier", sort="stock") == ["Job 5", "Job 4"]
    book.remove([4, 5])
    assert found(stock="RED CARD", falling=False) == ["Job 2", "Job 3"]
    assert found(result="") == ["Job 2"] and found(result="good") == ["Job 1"]
    assert found(sort="taken", falling=False) == ["Job 3", "Job 1", "Job 2"]  # what nobody timed comes last
    assert found(sort="taken") == ["Job 1", "Job 3", "Job 2"]
    assert found(sort="cost") == ["Job 1", "Job 3", "Job 2"]
    assert found(words="' OR 1=1 --") == []
    with pytest.raises(ArgumentError):
        book.search(Search(sort="1; DROP TABLE cuts"))


def test_stock_on_hand_is_counted_down_and_told_when_it_runs_low(book):
    book.set_on_hand("Red card", 10.0, 7.0)
    (number,), low = book.add([entry(used=2.0)])
    assert low == () and book.on_hand() == (OnHand("Red card", 8.0, 7.0),)
    _, low = book.add([entry(1, stock="red card", used=1.5), entry(2, stock="Vinyl", used=9.0)])
    assert low == (OnHand("Red card", 6.5, 7.0),)
    book.remove([number])
    assert book.on_hand()[0].amount == 8.5 and len(book.search()) == 2
    book.remove([number])  # twice counts once
    book.remove([number], back=True)
    assert book.on_hand()[0].amount == 6.5 and len(book.search()) == 3
    book.set_on_hand("Red card", None)
    assert book.on_hand() == ()
    for name in ("Ölkarte", "ÖLKARTE"):  # the same, whatever the case of its letters
        book.set_on_hand(name, 5.0)
    book.add([entry(3, stock="ölkarte", used=1.0)])
    assert book.on_hand() == (OnHand("ÖLKARTE", 4.0, 0.0),)


@tries(25)
@given(st.lists(st.tuples(st.integers(0, 2), st.integers(1, 40)), max_size=12), st.data())
def test_what_is_on_hand_is_what_there_was_less_what_the_lines_used(cuts, data):
    with tempfile.TemporaryDirectory() as folder:
        book = Logbook(Path(folder) / "logbook.db")
        for name in "abc":
            book.set_on_hand(name, 100.0)
        numbers = [book.add([entry(stock="abc"[which], used=tenths / 10)])[0][0] for which, tenths in cuts]
        for _ in range(4):
            some = data.draw(st.lists(st.sampled_from(numbers), max_size=3)) if numbers else []
            book.remove(some, back=data.draw(st.booleans()))
            for name, amount, _ in book.on_hand():
                used = sum(one.used for one in book.search(Search(stock=name)))
                assert amount == pytest.approx(100.0 - used)


def test_a_cut_that_cannot_be_logged_logs_none_of_those_with_it(book):
    book.set_on_hand("Red card", 10.0)
    for bad in (
        {"used": float("nan")},
        {"planned": -1.0},
        {"note": "x" * 5000},
        {"taken": float("inf")},
        {"price": -2.0},
    ):
        with pytest.raises(ArgumentError):
            book.add([entry(), entry(1, **bad)])
    assert book.search() == () and book.on_hand()[0].amount == 10.0


def test_what_worked_last_is_the_newest_good_cut_that_tells_its_settings(book):
    fast = Preset("Card fast", speed=90.0)
    book.add(
        [
            entry(1, result="good", preset=fast),
            entry(2, result="good", preset=GOOD),
            entry(3, result="spoiled", preset=fast),
            entry(4, result="good"),
            entry(5, result="good", preset=fast, cutter="Laser"),
        ]
    )
    assert book.last_good("RED card", "plotter").preset == GOOD
    assert book.last_good("Red card", "Knife") is None


def test_estimates_follow_the_rule_that_is_told(book):
    assert correction_of([entry(n, planned=10.0, taken=30.0) for n in (1, 1, 2, 2)]).times == 1.0
    timed = [entry(n, planned=100.0, taken=100.0 + 10 * n) for n in range(15)]
    newest = list(reversed(timed))
    expected = statistics.median([one.taken / one.planned for one in newest[:9]])
    assert correction_of(newest) == (pytest.approx(expected), 9)
    parted = [entry(14, planned=30.0, taken=72.0), entry(14, planned=70.0, taken=168.0), *newest[1:]]
    assert correction_of(parted) == correction_of(newest)  # logged at once, a stock each, it is one cut
    odd = [entry(planned=100.0, taken=9000.0), entry(planned=0.0, taken=5.0), entry(taken=5.0), entry(planned=3.0)]
    assert correction_of([*odd, *newest]) == correction_of(newest)  # a night's break is no pace of a cutter
    book.add(timed)
    assert book.correction("plotter") == correction_of(newest)
    assert book.correction("Laser") == (1.0, 0) and book.correction("") == (1.0, 0)


def test_costs_of_a_job_follow_from_prices(book):
    book.add([entry(1, job="Plate", used=2.0, price=0.5), entry(2, job="Plate", used=0.25, price=4.0), entry(3)])
    assert book.cost_of("Plate") == (pytest.approx(2.0), 2)


def test_a_spreadsheet_reads_what_is_exported():
    lines = [entry(1, preset=GOOD, note='said "no",\ntwice', taken=4.04, price=0.5), entry(2, roll=True, used=0.125)]
    first, second = csv.DictReader(io.StringIO(csv_of(lines).decode(), newline=""))
    assert first["note"] == 'said "no",\ntwice' and first["cost"] == "1.0" and first["taken_s"] == "4.0"
    assert (first["preset"], first["force"], first["passes"]) == ("Card slow", "120.0", "2")
    assert datetime.fromisoformat(first["date"]).timestamp() == 1_700_000_001
    assert (second["used"], second["unit"], second["preset"], second["taken_s"]) == ("0.125", "m", "", "")


def test_a_photograph_is_kept_small_and_upright(tmp_path):
    wide = Image.fromarray(np.full((2000, 3000, 3), 200, np.uint8))
    exif = Image.Exif()
    exif[0x0112] = 6  # Exif 2.32, 4.6.4: row 0 is the right side
    wide.save(tmp_path / "a.jpg", exif=exif)
    small = Image.open(io.BytesIO(small_photo(tmp_path / "a.jpg")))
    assert small.format == "JPEG" and small.height > small.width and small.width * small.height <= 1_500_000
    (tmp_path / "b.jpg").write_bytes(b"no picture")
    with pytest.raises(PictureError):
        small_photo(tmp_path / "b.jpg")


def test_a_file_of_the_first_version_is_brought_up_with_what_it_holds(book):
    book.path.parent.mkdir()
    old = sqlite3.connect(book.path)
    for statement in schema.STEPS[0]:
        old.execute(statement)
    old.execute(
        "INSERT INTO cuts VALUES (7, 5, 'Old', '', 'Red card', '', '', 1, NULL, 'good', '', 1, 0, 0, ?, x'')",
        (b"x\x9c\x03\x00\x00\x00\x00\x01",),
    )
    old.execute(f"PRAGMA application_id = {schema.APPLICATION}")
    old.execute("PRAGMA user_version = 1")
    old.commit()
    old.close()
    assert [one.job for one in book.search()] == ["Old"]
    assert book.add([entry()])[0] == (8,)


def test_a_file_of_a_later_version_is_left_alone(book):
    book.add([entry()])
    later = sqlite3.connect(book.path)
    later.execute(f"PRAGMA user_version = {schema.VERSION + 1}")
    later.commit()
    later.close()
    before = book.path.read_bytes()
    for ask in (book.search, lambda: book.add([entry()])):
        with pytest.raises(JobError, match="newer"):
            ask()
    assert book.path.read_bytes() == before


def _hold(path, held, go):
    with sqlite3.connect(path, isolation_level=None) as other:
        other.execute("BEGIN EXCLUSIVE")
        held.set()
        go.wait(30)


def test_while_another_program_writes_it_can_be_read_and_writing_is_refused_in_a_sentence(book, monkeypatch):
    monkeypatch.setattr("sketchloom.core.logbook.book._WAIT", 0.2)
    book.add([entry()])
    context = multiprocessing.get_context("spawn")
    held, go = context.Event(), context.Event()
    other = context.Process(target=_hold, args=(book.path, held, go))
    other.start()
    assert held.wait(30)
    try:
        assert len(book.search()) == 1  # as WAL promises
        with pytest.raises(JobError, match="another program"):
            book.add([entry(1)])
    finally:
        go.set()
        other.join()
    book.add([entry(1)])
    assert len(book.search()) == 2


def _log(path, number):
    for one in range(10):
        Logbook(path).add([entry(100 * number + one, stock="Shared", used=1.0)])


def test_programs_that_start_and_log_at_once_lose_nothing(book):
    context = multiprocessing.get_context("spawn")
    others = [context.Process(target=_log, args=(book.path, number)) for number in range(4)]
    for other in others:
        other.start()
    for other in others:
        other.join()
        assert other.exitcode == 0
    assert len(book.search()) == 40


def as_nobody(work) -> int:
    """Do something in a process that may write nowhere, as root may anywhere; its exit code."""
    child = os.fork()
    if child == 0:
        try:
            if os.geteuid() == 0:
                os.setgid(65534)
                os.setuid(65534)
            work()
        except BaseException:  # no test goes on in the child
            os._exit(1)
        os._exit(0)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])


def test_on_a_read_only_disk_it_is_read_and_writing_is_refused():
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        book = Logbook(folder / "logbook.db")
        book.add([entry()])
        book.path.chmod(0o444)
        folder.chmod(0o555)

        def look():
            assert len(book.search()) == 1 and book.correction("Plotter") == (1.0, 0)
            for write in (lambda: book.add([entry(1)]), lambda: book.set_on_hand("a", 1.0), lambda: book.remove([1])):
                with pytest.raises(WriteError, match=r"cannot be written to .*\.$"):
                    write()

        assert as_nobody(look) == 0
        assert as_nobody(lambda: (folder / "new").write_bytes(b"")) == 1  # it may not, indeed
        folder.chmod(0o755)


def test_where_no_folder_can_be_made_writing_is_refused_and_reading_finds_nothing(tmp_path):
    (tmp_path / "file").write_bytes(b"")
    book = Logbook(tmp_path / "file" / "logbook.db")
    assert book.search() == ()
    with pytest.raises(WriteError):
        book.add([entry()])


def test_a_question_that_takes_too_long_is_given_up(book, monkeypatch):
    book.add([entry(n) for n in range(50)])
    monkeypatch.setattr("sketchloom.core.logbook.book._LONGEST", -1.0)
    monkeypatch.setattr("sketchloom.core.logbook.book._STEPS", 10)
    with pytest.raises(JobError, match="too long"):
        book.search(Search(words="job"))


def ask_all(book):
    """Ask it everything; it answers, or refuses in a sentence."""
    refused = 0
    for ask in (
        book.search, book.on_hand, lambda: book.whole(1), lambda: book.last_good("Red card", "Plotter"),
        lambda: book.add([entry()]), lambda: book.correction("Plotter"), lambda: book.set_on_hand("x", 1.0),
    ):  # fmt: skip
        try:
            ask()
        except SketchLoomError as error:
            refused += 1
            assert str(error).endswith(".") and "\n" not in str(error)
    return refused


@pytest.fixture
def sound(book):
    """The bytes of a logbook with something in it, all in one file."""
    book.set_on_hand("Red card", 10.0)
    book.add([entry(n, preset=GOOD, result="good", recipe=random.Random(n).randbytes(900)) for n in range(40)])
    with sqlite3.connect(book.path) as other:
        other.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    other.close()
    return book.path.read_bytes()


def test_a_file_that_was_cut_is_read_or_refused(sound, tmp_path):
    assert len(sound) > 40_000
    for at in range(0, len(sound), 1024):
        book = Logbook(tmp_path / f"cut-{at}.db")
        book.path.write_bytes(sound[:at])
        refused = ask_all(book)
        assert refused or at == 0, at


def test_a_file_with_flipped_bytes_is_read_or_refused(sound, tmp_path):
    chance = random.Random(29)
    for turn in range(150):
        data = bytearray(sound)
        for _ in range(chance.choice((1, 4, 60))):
            data[chance.randrange(len(data) if turn % 2 else 4096)] = chance.randrange(256)
        book = Logbook(tmp_path / f"flipped-{turn}.db")
        book.path.write_bytes(data)
        ask_all(book)


@pytest.mark.parametrize(
    "script",
    [
        "CREATE TABLE other (a)",
        "CREATE TRIGGER t AFTER INSERT ON cuts BEGIN DELETE FROM on_hand; END",
        "DROP TABLE on_hand; CREATE VIEW on_hand AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n)"
        " SELECT i AS stock, i AS amount, 0 AS least FROM n",
        "ALTER TABLE cuts ADD COLUMN more",
        "PRAGMA application_id = 1",
    ],
)
def test_a_database_that_is_not_laid_out_as_ours_is_refused(book, script):
    book.add([entry()])
    with sqlite3.connect(book.path) as other:
        other.executescript(script)
    other.close()
    assert ask_all(book) == 7


@pytest.mark.parametrize("set_to", ["result = 'great'", "preset = '{'", "recipe = 'no'", "planned = 'x'", "job = 5"])
def test_a_value_that_no_logbook_has_is_told(book, set_to):
    book.add([entry(preset=GOOD, result="good")])
    with sqlite3.connect(book.path) as other:
        other.execute(f"UPDATE cuts SET {set_to}")
    other.close()
    assert ask_all(book) >= (1 if "job" not in set_to else 0)
    book.set_on_hand("y", 2.0)


def test_what_is_no_file_of_a_database_is_refused(tmp_path):
    (tmp_path / "folder.db").mkdir()
    (tmp_path / "text.db").write_text("at,job\n" * 1000)
    other = sqlite3.connect(tmp_path / "other.db")
    other.execute("CREATE TABLE cuts (a)")
    other.commit()
    other.close()
    for name in ("folder.db", "text.db", "other.db"):
        assert ask_all(Logbook(tmp_path / name)) == 7
    assert (tmp_path / "text.db").read_text() == "at,job\n" * 1000
