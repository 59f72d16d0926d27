"""Answers kept by their content: each is worked out once, and whoever asks for it meanwhile waits instead of doing the same work."""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from typing import Generic, TypeVar

from cachetools import LRUCache

Answer = TypeVar("Answer")


class Remembered(Generic[Answer]):
    """The latest answers by key."""

    def __init__(self, most: int) -> None:
        self._answers: LRUCache[bytes, Answer] = LRUCache(maxsize=most)
        self._working: dict[bytes, Lock] = {}
        self._lock = Lock()

    def get(self, key: bytes, work_out: Callable[[], Answer]) -> Answer:
        """The answer of that key, worked out if it is not kept."""
        with self._lock:
            if key in self._answers:
                return self._answers[key]
            own = self._working.setdefault(key, Lock())
        with own:
            with self._lock:
                if key in self._answers:
                    return self._answers[key]
            answer = work_out()
            with self._lock:
                self._answers[key] = answer
                self._working.pop(key, None)
            return answer

    def peek(self, key: bytes) -> Answer | None:
        """The answer of that key if it is kept."""
        with self._lock:
            return self._answers.get(key)

    def clear(self) -> None:
        """Forget all of them."""
        with self._lock:
            self._answers.clear()
