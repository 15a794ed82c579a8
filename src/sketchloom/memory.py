"""How the process keeps memory: what large arrays leave is kept, and what stays is not looked through again."""

import ctypes
import gc
import sys

__all__ = ["keep_freed_memory", "pass_over_what_stays"]

_TRIM, _MMAP = -1, -3
"""M_TRIM_THRESHOLD and M_MMAP_THRESHOLD of malloc.h."""


def keep_freed_memory(most: int) -> bool:
    """Let freed memory stay with the process, to be used again, up to `most` bytes at its end.

    Left to itself the C library gives every large array back to the system,
    which clears each page anew for the next one: a fifth of the time of a
    large picture. Says whether that could be asked for; it does nothing where
    the C library is not GNU's.
    """
    if not sys.platform.startswith("linux"):
        return False
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return False
    return bool(mallopt(_MMAP, most) and mallopt(_TRIM, most))


def pass_over_what_stays() -> None:
    """Let the collector of lost objects leave out all that is there now.

    A hundred thousand objects of code and libraries stay for good; to look
    through them takes it 50 ms each time, in which a window does not answer.
    """
    gc.freeze()
