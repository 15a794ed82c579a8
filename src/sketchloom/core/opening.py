"""Files read whole, or opened: plain ones only, and no more of them than is asked for."""

import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from sketchloom.core.errors import SketchLoomError

__all__ = ["MOST_BYTES", "open_plain", "read_plain"]

MOST_BYTES = 1_000_000_000
"""Of a file that is read whole, where nothing else is said."""


@contextmanager
def open_plain(path: Path, error: type[SketchLoomError]) -> Iterator[BinaryIO]:
    """Open a plain file to read; a pipe or a device, which may never end, is refused before it is read.

    Raises
    ------
    SketchLoomError
        Of the type asked for, if there is no such file, or it cannot be read.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as file:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                raise error(f"{path.name} cannot be read: it is no plain file.")
            yield file
    except FileNotFoundError:
        raise error(f"{path.name} is not there; check the name and the folder.") from None
    except OSError as failed:
        raise error(f"{path.name[:80]} cannot be read: {(failed.strerror or str(failed)).lower()}.") from None
    except ValueError as failed:
        if "null" not in str(failed):
            raise
        raise error("There is no file of such a name; check it.") from None


def read_plain(path: Path, error: type[SketchLoomError], most: int | None = None) -> bytes:
    """Read a plain file.

    Parameters
    ----------
    path : Path
    error : type
        Of what is raised, one sentence.
    most : int, optional
        Bytes that are read at most; one more tells that there are more. By
        default a file of more than `MOST_BYTES` is refused.

    Raises
    ------
    SketchLoomError
        Of the type asked for, if there is no such file, or it cannot be read.
    """
    with open_plain(path, error) as file:
        if most is None and os.fstat(file.fileno()).st_size > MOST_BYTES:
            raise error(f"{path.name} is larger than {MOST_BYTES // 1_000_000} MB; make it smaller first.")
        return file.read((MOST_BYTES if most is None else most) + 1)
