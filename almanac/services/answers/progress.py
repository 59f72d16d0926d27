"""How far a computation is, told to whoever listens; a listener may end it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Listener = Callable[[str, int, int], None]
_LISTENER: ContextVar[Listener | None] = ContextVar("listener", default=None)


def tell(words: str, done: int, of: int) -> None:
    """Say what is being computed, and how much of it is done. Raises what the listener raises to end it."""
    listener = _LISTENER.get()
    if listener is not None:
        listener(words, done, of)


@contextmanager
def listening(listener: Listener) -> Iterator[None]:
    """Have a listener told of what is computed meanwhile in this thread."""
    token = _LISTENER.set(listener)
    try:
        yield
    finally:
        _LISTENER.reset(token)
