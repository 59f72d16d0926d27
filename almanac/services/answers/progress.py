"""How far a computation is, told to whoever listens; a listener may end it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar

T = TypeVar("T")
STEP = 500
Listener = Callable[[str, int, int], None]
_LISTENER: ContextVar[Listener | None] = ContextVar("listener", default=None)


def tell(words: str, done: int, of: int) -> None:
    """Say what is being computed, and how much of it is done. Raises what the listener raises to end it."""
    listener = _LISTENER.get()
    if listener is not None:
        listener(words, done, of)


def each(items: Sequence[T], words: str) -> Iterator[T]:
    """Things one by one, telling now and then how many were taken. Raises what the listener raises to end it."""
    for place, item in enumerate(items):
        if place % STEP == 0:
            tell(words, place, len(items))
        yield item


@contextmanager
def listening(listener: Listener) -> Iterator[None]:
    """Have a listener told of what is computed meanwhile in this thread."""
    token = _LISTENER.set(listener)
    try:
        yield
    finally:
        _LISTENER.reset(token)
