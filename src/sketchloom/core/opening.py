"""Files read whole: plain ones only, and no more of them than is asked for."""

import os
import stat
from pathlib import Path

from sketchloom.core.errors import SketchLoomError

__all__ = ["read_plain"]


def read_plain(path: Path, error: type[SketchLoomError], most: int | None = None) -> bytes:
    """Read a plain file; a pipe or a device, which may never end, is refused before it is read.

    Parameters
    ----------
    path : Path
    error : type
        Of what is raised, one sentence.
    most : int, optional
        Bytes that are read at most; one more tells that there are more.

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
            return file.read() if most is None else file.read(most + 1)
    except FileNotFoundError:
        raise error(f"{path.name} is not there; check the name and the folder.") from None
    except OSError as failed:
        raise error(f"{path.name[:80]} cannot be read: {(failed.strerror or str(failed)).lower()}.") from None
    except ValueError:  # a null byte in its name
        raise error("There is no file of such a name; check it.") from None
