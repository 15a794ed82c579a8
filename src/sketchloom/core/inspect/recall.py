"""What was worked out before, by what it was worked out from."""

import threading
from collections import OrderedDict
from collections.abc import Hashable
from typing import Any

__all__ = ["Recall"]

_MOST = 60_000


class Recall:
    """Keeps the latest results by their content; the same content gives the same result, so it is never stale."""

    def __init__(self, most: int = _MOST) -> None:
        self._most = most
        self._known: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable) -> Any:
        """What is known by a key, or None."""
        with self._lock:
            value = self._known.get(key)
            if value is not None:
                self._known.move_to_end(key)
            return value

    def put(self, key: Hashable, value: Any) -> None:
        """Keep a result; the one that was not asked for longest goes."""
        with self._lock:
            self._known[key] = value
            while len(self._known) > self._most:
                self._known.popitem(last=False)
