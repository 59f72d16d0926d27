"""The answers a process gave last, shared by its threads; it may be emptied at any time."""

from __future__ import annotations

from threading import Lock
from typing import Any

from cachetools import LRUCache

MOST_BYTES = 96_000_000
SPREAD = 4
"""An answer takes so many times the bytes it is kept in, about: it is compressed there."""


class ProcessCache:
    """Answers by key with the bytes each takes, the longest unused dropped first."""

    def __init__(self, most_bytes: int) -> None:
        self._kept: LRUCache[str, tuple[Any, int]] = LRUCache(maxsize=most_bytes, getsizeof=lambda entry: entry[1])
        self._lock = Lock()

    def get(self, key: str) -> Any:
        """The answer of a key, None where it is not here."""
        with self._lock:
            found = self._kept.get(key)
        return found[0] if found else None

    def put(self, key: str, value: Any, size: int) -> None:
        """Keep an answer; one larger than the whole cache is not kept."""
        with self._lock:
            if size <= self._kept.maxsize:
                self._kept[key] = value, size

    def drop(self, key: str) -> None:
        """Forget one answer."""
        with self._lock:
            self._kept.pop(key, None)

    def clear(self) -> None:
        """Forget all of them."""
        with self._lock:
            self._kept.clear()


FRONT = ProcessCache(MOST_BYTES)
