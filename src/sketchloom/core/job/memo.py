"""Results of stages, remembered by key while they fit in memory."""

from collections import Counter, OrderedDict
from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass
from threading import Lock
from typing import Any

import numpy as np

__all__ = ["Memo"]

_MOST = 600
"""Results that are kept at most, of a hundred edits or so: what undo finds beyond them is worked out anew."""
_SMALL = 64
"""Bytes that a value without arrays counts for."""


class Memo:
    """Keeps what is asked for most lately; an array that several results share counts once."""

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._kept: OrderedDict[str, tuple[Any, dict[int, int]]] = OrderedDict()
        self._holders: Counter[int] = Counter()
        self._bytes = 0
        self._lock = Lock()

    @property
    def bytes_kept(self) -> int:
        """What the remembered results hold."""
        with self._lock:
            return self._bytes

    def get(self, key: str, work: Callable[[], Any]) -> tuple[Any, bool]:
        """Give what is remembered by a key, or work it out; and whether it is fresh."""
        if not self._limit:
            return work(), True
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0], False
        value = work()
        parts = dict(_parts(value, set()))
        with self._lock:
            if key not in self._kept and sum(parts.values()) <= self._limit:
                self._keep(key, value, parts)
        return value, True

    def _keep(self, key: str, value: Any, parts: dict[int, int]) -> None:
        self._kept[key] = value, parts
        for part, size in parts.items():
            self._bytes += 0 if self._holders[part] else size
            self._holders[part] += 1
        while self._bytes > self._limit or len(self._kept) > _MOST:
            _, (_, gone) = self._kept.popitem(last=False)
            for part, size in gone.items():
                self._holders[part] -= 1
                self._bytes -= 0 if self._holders[part] else size
            self._holders += Counter()  # drops those that nobody holds


def _parts(value: Any, seen: set[int]) -> Iterator[tuple[int, int]]:
    """Arrays that a value holds, each by its memory and with its bytes; a view counts as what it looks at."""
    if id(value) in seen:
        return
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        while isinstance(value.base, np.ndarray):
            value = value.base
        yield id(value), value.nbytes
    elif is_dataclass(value):
        for field in fields(value):
            yield from _parts(getattr(value, field.name), seen)
    elif isinstance(value, (tuple, list)):
        for part in value:
            yield from _parts(part, seen)
    elif isinstance(value, dict):
        for part in value.values():
            yield from _parts(part, seen)
    else:
        yield id(value), _SMALL
