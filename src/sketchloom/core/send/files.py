"""Write a file whole or not at all."""

import os
import tempfile
from pathlib import Path

from sketchloom.core.errors import WriteError

__all__ = ["write_all", "write_whole"]


def write_whole(path: Path, data: bytes) -> None:
    """Write one file; see `write_all`."""
    write_all({path: data})


def write_all(files: dict[Path, bytes]) -> None:
    """Write files beside their targets, flush to disk, then rename over them.

    Nothing is renamed before every file is written.

    Raises
    ------
    WriteError
        If that cannot be done; what was there is as it was.
    """
    scratch: dict[Path, str] = {}
    path = Path()
    try:
        for path, data in files.items():
            if path.is_dir():
                raise IsADirectoryError(21, "it is a folder")
            handle, scratch[path] = tempfile.mkstemp(prefix=".", suffix=".part", dir=path.parent)
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            os.chmod(scratch[path], path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        for path in files:
            os.replace(scratch[path], path)
    except OSError as error:
        raise WriteError(f"{path} cannot be written: {(error.strerror or str(error)).lower()}.") from None
    finally:
        for left in scratch.values():
            if os.path.exists(left):
                os.unlink(left)


def _umask() -> int:
    mask = os.umask(0o022)
    os.umask(mask)
    return mask
