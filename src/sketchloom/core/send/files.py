"""Write files whole or not at all; several of one send belong together, whatever stops them half way."""

import fcntl
import json
import os
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

import msgspec
import platformdirs

from sketchloom.core.errors import WriteError

__all__ = ["make_folder", "settle_all", "write_all", "write_whole"]

_SUFFIX = ".loom-part"


class _Target(msgspec.Struct, frozen=True):
    """A file to write: the new one beside it under a passing name, and the old one under another."""

    path: str
    new: str
    old: str = ""
    """Empty where there was none."""


class _Record(msgspec.Struct, frozen=True):
    """What a send is about to do; kept while it lasts, so that the next start can end it."""

    targets: tuple[_Target, ...]
    ready: bool = False
    """All new files are whole: what is missing can be completed. Before, all is taken back."""


def make_folder(path: Path) -> None:
    """Make a folder, with those above it, unless it is there; raises WriteError."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except (ValueError, OSError) as error:
        words = "there is a file of that name" if isinstance(error, FileExistsError | NotADirectoryError) else ""
        words = words or (error.strerror or "").lower() if isinstance(error, OSError) else "no folder can be called so"
        raise WriteError(f"{path} cannot be made: {words}.") from None


def write_whole(path: Path, data: bytes) -> None:
    """Write one file; see `write_all`."""
    write_all({path: data})


def write_all(files: dict[Path, bytes]) -> None:
    """Write files beside their targets, flush to disk, then rename over them: all, or none.

    A link is written through. What was there is as it was if anything fails.
    A record of the send is kept meanwhile, by which `settle_all` completes it
    or takes it back after the program was killed.

    Raises
    ------
    WriteError
        If that cannot be done, or a target is read-only or no plain file.
    """
    try:
        named = {path: _real(path) for path in files}
        if len(set(named.values())) < len(named):
            raise WriteError("Two files would be one; give each a name of its own.")
    except (ValueError, OSError):  # a null byte, or too long
        raise WriteError("No file can have such a name; choose another.") from None
    done: list[_Target] = []
    targets: list[_Target] = []
    at = next(iter(named.values()), Path())
    with _record() as record:
        try:
            targets += [_target(at := real) for real in named.values()]
            _note(record, _Record(tuple(targets)))
            for target, data in zip(targets, files.values(), strict=True):
                at = Path(target.path)
                _write_new(target, data)
                _keep_old(target)
            _note(record, _Record(tuple(targets), ready=True))
            for target in targets:
                at = Path(target.path)
                os.replace(target.new, target.path)
                done.append(target)
        except OSError as error:
            _take_back(done, targets)
            raise WriteError(f"{at} cannot be written: {(error.strerror or str(error)).lower()}.") from None
        except BaseException:
            _take_back(done, targets)
            raise
        _clear(targets)


def settle_all() -> None:
    """End what sends of killed runs have left: complete those that were ready, take back the others."""
    with suppress(OSError):
        for path in sorted(_folder().glob("*.json")):
            with suppress(OSError, ValueError, msgspec.MsgspecError), path.open("rb+") as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)  # fails while the run that keeps it lives
                data = file.read()
                if data:
                    _settle(msgspec.convert(json.loads(data), _Record))
                path.unlink()


def _settle(record: _Record) -> None:
    if record.ready:
        for target in record.targets:
            if os.path.exists(target.new):
                os.replace(target.new, target.path)
    _clear(record.targets)


def _real(path: Path) -> Path:
    """Where a file lies that can be written; raises WriteError and ValueError."""
    real = Path(os.path.realpath(path))
    if real.is_dir():
        raise WriteError(f"{path} cannot be written: it is a folder.")
    if real.exists():
        mode = real.stat().st_mode
        if not stat.S_ISREG(mode):
            raise WriteError(f"{path} cannot be written: it is no plain file.")
        if not mode & 0o222 or not os.access(real, os.W_OK):
            raise WriteError(f"{path} cannot be written: it is read-only.")
    return real


def _target(real: Path) -> _Target:
    return _Target(str(real), _passing_name(real), _passing_name(real) if real.exists() else "")


def _passing_name(real: Path) -> str:
    """A name beside a file that nothing has."""
    handle, name = tempfile.mkstemp(prefix=".", suffix=_SUFFIX, dir=real.parent)
    os.close(handle)
    os.unlink(name)
    return name


def _write_new(target: _Target, data: bytes) -> None:
    with Path(target.new).open("xb") as file:
        file.write(data)
        file.flush()
        os.fsync(file.fileno())
    if target.old:
        os.chmod(target.new, Path(target.path).stat().st_mode & 0o777)


def _keep_old(target: _Target) -> None:
    if target.old:
        try:
            os.link(target.path, target.old)
        except OSError:  # a file system without links
            Path(target.old).write_bytes(Path(target.path).read_bytes())


def _take_back(done: list[_Target], targets: list[_Target]) -> None:
    """Put back what was there."""
    for target in reversed(done):
        with suppress(OSError):
            if target.old:
                os.replace(target.old, target.path)
            else:
                os.unlink(target.path)
    _clear(targets)


def _clear(targets: list[_Target] | tuple[_Target, ...]) -> None:
    """Remove the passing files that are left."""
    for target in targets:
        for left in (target.new, target.old):
            if left.endswith(_SUFFIX):
                with suppress(OSError):
                    os.unlink(left)


def _folder() -> Path:
    return platformdirs.user_state_path("sketch-loom", appauthor=False) / "sends"


@contextmanager
def _record() -> Iterator[IO[bytes] | None]:
    """A record of a send, locked while the run lives; None where none can be kept."""
    try:
        _folder().mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(suffix=".json", dir=_folder())
    except OSError:
        yield None
        return
    with os.fdopen(handle, "wb") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        try:
            yield file
        finally:
            with suppress(OSError):
                os.unlink(name)


def _note(file: IO[bytes] | None, record: _Record) -> None:
    """Write a record to disk; one that is half written says nothing."""
    if file is None:
        return
    file.seek(0)
    file.truncate()
    file.write(json.dumps(msgspec.to_builtins(record)).encode())  # escaped, as a name need be no UTF-8
    file.flush()
    os.fsync(file.fileno())
