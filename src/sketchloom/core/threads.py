"""How many threads work on one picture."""

import os

import cv2

__all__ = ["MOST_THREADS", "threads", "use_threads"]

MOST_THREADS = 256
_asked = 0


def use_threads(number: int) -> None:
    """Use so many at most from now on; 0 is one a core that may be used. What comes of it is the same."""
    global _asked
    _asked = min(max(number, 0), MOST_THREADS)
    cv2.setNumThreads(_asked or -1)


def threads() -> int:
    """How many may be used."""
    return _asked or max(1, len(os.sched_getaffinity(0)))
