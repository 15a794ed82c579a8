"""Open jobs kept for a crash: what is offered at the next start, and what is not."""

import errno
import os
import subprocess
import sys
import time

import pytest

from sketchloom.core.errors import JobError, WriteError
from sketchloom.core.job import DAYS, Job, Kept, Recipe, clear_old, keeping, left_behind

JOB = Job("Plant stall", "stall.png", b"\x89PNG not read here", Recipe().with_("finish", width=90.0), 2, 150.0)


def folders() -> set[str]:
    return {path.name for path in keeping._folder().iterdir()} if keeping._folder().is_dir() else set()


def test_a_job_whose_program_ended_is_offered_as_it_was(tmp_path):
    kept = Kept()
    kept.write(JOB, tmp_path / "stall.loom", tmp_path / "stall.png", changed=True)
    assert left_behind() == ((), ())  # its program lives
    kept.write(Job(JOB.name, JOB.picture_name, b"", Recipe().with_("finish", width=120.0)), None, None, changed=False)
    kept.let_go()
    ((one,), troubles) = left_behind()
    assert not troubles and one.head.recipe.finish.width == 120.0 and one.head.name == JOB.name
    assert one.read().picture == JOB.picture  # written once
    assert (one.path, one.source, one.changed) == (None, None, False)
    assert abs(one.at - time.time()) < 60
    again = Kept(one.folder)
    again.write(JOB, tmp_path / "stall.loom", None, changed=True)
    with pytest.raises(WriteError):
        Kept(one.folder)  # it belongs to a program that lives
    again.let_go()
    ((two,), _) = left_behind()
    assert two.read() == JOB and two.path == tmp_path / "stall.loom" and two.changed
    Kept(two.folder).drop()
    assert not folders() and left_behind() == ((), ())


def test_what_is_declined_is_offered_no_more_and_goes_after_a_week():
    kept = Kept()
    kept.write(JOB, None, None, changed=True)
    kept.let_go()
    ((one,), _) = left_behind()
    one.decline()
    assert left_behind() == ((), ())
    clear_old(time.time() + (DAYS - 1) * 86400)
    assert folders() == {one.folder.name} and one.read() == JOB
    clear_old(time.time() + (DAYS + 1) * 86400)
    assert not folders()


def test_newest_first_and_each_by_itself():
    for number in range(20):
        kept = Kept()
        kept.write(Job(f"Job {number}", "a.png", b"x"), None, None, changed=True)
        os.utime(kept.folder / "job.json", (number, number))
        kept.let_go()
    left, _ = left_behind()
    assert [one.head.name for one in left] == [f"Job {number}" for number in reversed(range(20))]


def test_what_never_came_to_be_whole_is_removed_and_what_is_damaged_is_told_once():
    half = Kept()
    half.let_go()
    kept = Kept()
    kept.write(JOB, None, None, changed=True)
    (kept.folder / "job.json").write_bytes(b'{"version": 3, "name"')
    kept.let_go()
    left, (told,) = left_behind()
    assert not left and "left behind" in told and half.folder.name not in folders()
    assert left_behind() == ((), ())
    newer = Kept()
    newer.write(JOB, None, None, changed=True)
    text = (newer.folder / "job.json").read_bytes().replace(b'"version":4', b'"version":99')
    (newer.folder / "job.json").write_bytes(text)
    (newer.folder / "state.json").write_bytes(b"[]")
    newer.let_go()
    assert "newer Sketch Loom" in left_behind()[1][0]


def test_a_picture_that_is_gone_is_one_sentence():
    kept = Kept()
    kept.write(JOB, None, None, changed=True)
    (kept.folder / "picture").unlink()
    (kept.folder / "state.json").unlink()
    kept.let_go()
    ((one,), _) = left_behind()
    assert one.changed and one.path is None
    with pytest.raises(JobError, match="is not there"):
        one.read()


@pytest.mark.parametrize("code", [errno.ENOSPC, errno.EROFS, errno.EACCES])
def test_a_disk_that_takes_nothing_is_one_sentence_and_what_was_kept_stays(monkeypatch, code):
    kept = Kept()
    kept.write(JOB, None, None, changed=True)

    def full(*_, **__):
        raise OSError(code, os.strerror(code))

    with monkeypatch.context() as patched:
        patched.setattr(keeping.os, "fsync", full)
        with pytest.raises(WriteError, match=os.strerror(code).lower()):
            kept.write(Job("Other", "a.png", b""), None, None, changed=True)
    kept.let_go()
    ((one,), _) = left_behind()
    assert one.read() == JOB
    with monkeypatch.context() as patched:
        patched.setattr(keeping.tempfile, "mkdtemp", full)
        with pytest.raises(WriteError):
            Kept()


def test_a_lock_of_a_program_that_was_killed_is_free_again():
    code = (
        "import os; from sketchloom.core.job import Job, Kept; "
        "kept = Kept(); kept.write(Job('X', 'a.png', b'x'), None, None, True); os._exit(9)"
    )
    assert subprocess.run([sys.executable, "-c", code]).returncode == 9
    ((one,), _) = left_behind()
    assert one.head.name == "X"


def test_a_job_in_the_making_is_let_be_and_goes_once_it_is_old():
    made = keeping._folder() / "new-abc"
    made.mkdir(parents=True)
    (made / "lock").touch()
    clear_old()
    assert left_behind() == ((), ()) and made.exists()
    clear_old(time.time() + 3600)
    assert not made.exists()
