"""Answers kept by their content: each is worked out once, and whoever asks for it meanwhile waits instead of doing the same work."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from hashlib import blake2b
from threading import Lock, RLock
from typing import Any, Generic, TypeVar

from cachetools import LRUCache

Answer = TypeVar("Answer")
T = TypeVar("T")


def digest(content: object) -> bytes:
    """A key of some content, by what it looks like."""
    return blake2b(repr(content).encode(), digest_size=24).digest()


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


class RememberedEach(Generic[Answer]):
    """The latest answers of each of many things, so that one that changes often does not push out the others."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._of: dict[Hashable, Remembered[Answer]] = {}
        self._lock = Lock()

    def of(self, thing: Hashable) -> Remembered[Answer]:
        """The answers of one of them."""
        with self._lock:
            return self._of.setdefault(thing, Remembered(self._most))

    def clear(self) -> None:
        """Forget all of them."""
        with self._lock:
            self._of.clear()


class Kept:
    """What was worked out from one content, by name; each of it once, however many ask."""

    def __init__(self) -> None:
        self._found: dict[Hashable, Any] = {}
        self._lock = RLock()

    def once(self, name: Hashable, work_out: Callable[[], T]) -> T:
        """The value of a name: known already, or worked out now while others that want one wait."""
        if name not in self._found:
            with self._lock:
                if name not in self._found:
                    self._found[name] = work_out()
        found: T = self._found[name]
        return found
