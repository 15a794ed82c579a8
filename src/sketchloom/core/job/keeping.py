"""Open jobs kept in the user's data folder as they change, so that a crash or a kill loses nothing.

Each open job has a folder: its picture, written once, and its settings, which
every change replaces whole. A lock tells the jobs of a program that lives
from those that one left behind.
"""

import fcntl
import os
import shutil
import tempfile
import time
from contextlib import suppress
from pathlib import Path
from typing import IO

import msgspec
import platformdirs

from sketchloom.core.errors import JobError, SketchLoomError, WriteError
from sketchloom.core.job.jobfile import Job, decode_head, encode_head
from sketchloom.core.opening import read_plain

__all__ = ["DAYS", "Kept", "LeftBehind", "clear_old", "left_behind"]

DAYS = 7
"""For which a job that was offered and declined is kept."""
_PICTURE, _HEAD, _STATE, _LOCK, _DECLINED = "picture", "job.json", "state.json", "lock", "declined"
_MOST_HEAD, _MOST_PICTURE = 64_000_000, 1_000_000_000
_NEW = ".new"
_MADE, _JOB = "new-", "job-"
_JUST_NOW = 60.0
"""s in which a folder may be in the making."""


class _State(msgspec.Struct):
    path: str = ""
    """Of the maker's own file."""
    source: str = ""
    """Of what was opened."""
    changed: bool = True
    """Whether there is work in it that no file holds."""


def _folder() -> Path:
    return platformdirs.user_data_path("sketch-loom", appauthor=False) / "open"


class Kept:
    """One open job as it is kept.

    Parameters
    ----------
    folder : Path, optional
        Of one that was left behind and is taken up again; else it is new.

    Raises
    ------
    WriteError
        If there is no room for it, or it belongs to a program that lives.
    """

    def __init__(self, folder: Path | None = None) -> None:
        try:
            _folder().mkdir(parents=True, exist_ok=True)
            self.folder = folder or Path(tempfile.mkdtemp(prefix=_MADE, dir=_folder()))
            self._lock: IO[bytes] | None = (self.folder / _LOCK).open("ab")
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            if folder is None:  # another start, which looks for what has no lock, never sees it without
                self.folder = self.folder.rename(_folder() / f"{_JOB}{self.folder.name.removeprefix(_MADE)}")
            with suppress(FileNotFoundError):
                (self.folder / _DECLINED).unlink()
        except OSError as error:
            raise _failed(error) from None
        self._has_picture = (self.folder / _PICTURE).exists()

    def write(self, job: Job, path: Path | None, source: Path | None, changed: bool) -> None:
        """Keep a job as it is now; raises WriteError, and what was kept before stays."""
        try:
            if not self._has_picture:
                _replace(self.folder / _PICTURE, job.picture)
                self._has_picture = True
            state = _State(str(path or ""), str(source or ""), changed)
            _replace(self.folder / _STATE, msgspec.json.encode(state))
            _replace(self.folder / _HEAD, encode_head(job))
        except OSError as error:
            raise _failed(error) from None

    def drop(self) -> None:
        """Keep it no longer."""
        (self.folder / _HEAD).unlink(missing_ok=True)  # from here on there is nothing to offer
        shutil.rmtree(self.folder, ignore_errors=True)
        self.let_go()

    def let_go(self) -> None:
        """Leave it to the next start."""
        if self._lock is not None:
            self._lock.close()
            self._lock = None


def _failed(error: OSError) -> WriteError:
    why = (error.strerror or str(error)).lower()
    return WriteError(f"Open jobs cannot be kept for a crash ({why}): save them yourself.")


def _replace(path: Path, data: bytes) -> None:
    new = path.with_suffix(_NEW)
    with new.open("wb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
    new.replace(path)


class LeftBehind(msgspec.Struct, frozen=True):
    """A job that a program left behind when it ended without closing it."""

    folder: Path
    head: Job
    """Without its picture."""
    at: float
    """When it was kept last, s since 1970."""
    path: Path | None
    source: Path | None
    changed: bool

    def read(self) -> Job:
        """Read it whole; raises JobError."""
        picture = read_plain(self.folder / _PICTURE, JobError, _MOST_PICTURE)
        return msgspec.structs.replace(self.head, picture=picture)

    def decline(self) -> None:
        """Offer it no more; it stays for `DAYS` days."""
        with suppress(OSError):
            (self.folder / _DECLINED).touch()


def left_behind() -> tuple[tuple[LeftBehind, ...], tuple[str, ...]]:
    """Find jobs that were left behind, newest first, and a sentence for each that cannot be read.

    What never came to be whole, as its program ended while it was made, is removed.
    """
    found: list[LeftBehind] = []
    troubles: list[str] = []
    for folder in _folders(_JOB):
        if not _is_free(folder):
            continue
        if not (folder / _HEAD).exists():
            shutil.rmtree(folder, ignore_errors=True)
        elif not (folder / _DECLINED).exists():
            try:
                found.append(_read(folder))
            except SketchLoomError as error:
                troubles.append(str(error))
                with suppress(OSError):
                    (folder / _DECLINED).touch()  # told once
    return tuple(sorted(found, key=lambda one: -one.at)), tuple(troubles)


def _folders(kind: str) -> list[Path]:
    return sorted(_folder().glob(f"{kind}*")) if _folder().is_dir() else []


def _is_free(folder: Path) -> bool:
    """Whether no program that lives has it."""
    try:
        with (folder / _LOCK).open("ab") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def _read(folder: Path) -> LeftBehind:
    head = read_plain(folder / _HEAD, JobError, _MOST_HEAD)
    job = decode_head(head, b"", "A job that was left behind")
    state = _State()
    with suppress(JobError, msgspec.MsgspecError):
        state = msgspec.json.decode(read_plain(folder / _STATE, JobError, _MOST_HEAD), type=_State)
    at = (folder / _HEAD).stat().st_mtime
    return LeftBehind(folder, job, at, _path(state.path), _path(state.source), state.changed)


def _path(text: str) -> Path | None:
    return Path(text) if text else None


def clear_old(now: float | None = None) -> None:
    """Remove what was declined more than `DAYS` days ago, and what never came to be a job."""
    now = time.time() if now is None else now
    for folder in _folders(_MADE):
        with suppress(OSError):
            if now - folder.stat().st_mtime > _JUST_NOW and _is_free(folder):
                shutil.rmtree(folder, ignore_errors=True)
    for folder in _folders(_JOB):
        with suppress(OSError):
            declined = (folder / _DECLINED).stat().st_mtime
            if now - declined > DAYS * 86400 and _is_free(folder):
                shutil.rmtree(folder, ignore_errors=True)
