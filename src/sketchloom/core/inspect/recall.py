"""What was worked out before, by what it was worked out from."""

import threading
from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np

__all__ = ["Recall"]

_MOST = 60_000
_MOST_BYTES = 64_000_000
_SMALL = 400
"""Bytes that a value counts for besides its arrays."""
_DEEPEST = 3


class Recall:
    """Keeps the latest results by their content; the same content gives the same result, so it is never stale."""

    def __init__(self, most: int = _MOST, most_bytes: int = _MOST_BYTES) -> None:
        self._most, self._most_bytes = most, most_bytes
        self._known: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    @property
    def bytes_kept(self) -> int:
        """About what the results hold."""
        with self._lock:
            return self._bytes

    def get(self, key: Hashable) -> Any:
        """What is known by a key, or None."""
        with self._lock:
            known = self._known.get(key)
            if known is None:
                return None
            self._known.move_to_end(key)
            return known[0]

    def put(self, key: Hashable, value: Any) -> None:
        """Keep a result; those that were not asked for longest go."""
        size = _size(value, 0)
        with self._lock:
            _, before = self._known.pop(key, (None, 0))
            self._known[key] = value, size
            self._bytes += size - before
            while len(self._known) > self._most or (self._bytes > self._most_bytes and len(self._known) > 1):
                _, (_, gone) = self._known.popitem(last=False)
                self._bytes -= gone


def _size(value: Any, depth: int) -> int:
    """About how many bytes a value holds."""
    if isinstance(value, np.ndarray):
        return _SMALL + value.nbytes * (8 if value.dtype == object else 1)  # shapes, of some points each
    if depth < _DEEPEST and isinstance(value, (tuple, list)):
        return _SMALL + sum(_size(part, depth + 1) for part in value)
    if depth < _DEEPEST and isinstance(value, dict):
        return _SMALL + sum(_size(part, depth + 1) for part in value.values())
    if depth < _DEEPEST and is_dataclass(value):
        return _SMALL + sum(_size(getattr(value, field.name), depth + 1) for field in fields(value))
    return _SMALL
