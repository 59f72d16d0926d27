"""Answers are derived values: looked up by what they are computed from, computed where they are missing, kept in PostgreSQL.

Any process finds what another one computed. A small cache of the process stands in front; both may be emptied at any time.
"""

from __future__ import annotations

import logging
import time
import zlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache, partial
from threading import Lock
from typing import Any, TypeVar, get_type_hints

from cachetools import LRUCache
from pydantic import TypeAdapter, ValidationError
from sqlalchemy.orm import Session

from almanac.core.answers.question import Question
from almanac.store import answers as store

Answer = TypeVar("Answer")
LOG = logging.getLogger(__name__)
MOST_BYTES = 2_000_000_000
"""Ceiling of the table, unless the company sets another (`answers_megabytes`)."""
PENDING = "answers computed in this session"


class ProcessCache:
    """The answers this process gave last, shared by its threads."""

    def __init__(self, most: int) -> None:
        self._kept: LRUCache[str, Any] = LRUCache(maxsize=most)
        self._lock = Lock()

    def get(self, key: str) -> Any:
        with self._lock:
            return self._kept.get(key)

    def put(self, key: str, value: Any) -> None:
        with self._lock:
            self._kept[key] = value

    def clear(self) -> None:
        with self._lock:
            self._kept.clear()


FRONT = ProcessCache(20_000)


@dataclass(frozen=True)
class Computed:
    """An answer that was computed now and is still to be kept."""

    key: str
    name: str
    version: int
    value: bytes
    made_at: datetime
    took_seconds: float


def ask(session: Session, question: Question[Answer]) -> Answer:
    """The answer of one question."""
    return ask_all(session, [question])[0]


def ask_all(session: Session, questions: Sequence[Question[Answer]]) -> list[Answer]:
    """The answers of several questions in their order, looked up together."""
    by_key = {question.key: question for question in questions}
    found = known(session, {key: type(question) for key, question in by_key.items()})
    for key, question in by_key.items():
        if key not in found:
            found[key] = computed(session, key, question)
    return [found[key] for key in (question.key for question in questions)]


def known(session: Session, wanted: Mapping[str, type[Question[Any]]]) -> dict[str, Any]:
    """Answers that are kept, by key, of questions of some types; what is missing or cannot be read is left out."""
    found = {key: value for key in wanted if (value := FRONT.get(key)) is not None}
    now = datetime.now(UTC)
    broken, used = [], []
    for key, (value, _, used_at) in store.find(session, [key for key in wanted if key not in found]).items():
        try:
            found[key] = decoded(wanted[key], value)
        except (ValidationError, zlib.error) as error:
            LOG.warning("an answer of %s could not be read and is computed again: %s", wanted[key].NAME, type(error).__name__)
            broken.append(key)
            continue
        FRONT.put(key, found[key])
        if now - used_at > store.USED_AGAIN:
            used.append(key)
    if broken or used:
        _later(session, partial(_tidy, broken=broken, used=used, now=now))
    return found


def _tidy(own: Session, *, broken: list[str], used: list[str], now: datetime) -> None:
    store.forget(own, broken)
    store.mark_used(own, used, now=now)


def computed(session: Session, key: str, question: Question[Answer]) -> Answer:
    """Compute an answer; it is kept once the session's work is done."""
    begun = time.perf_counter()
    value = question.compute()
    took = time.perf_counter() - begun
    FRONT.put(key, value)
    row = Computed(key, question.NAME, question.VERSION, encoded(type(question), value), datetime.now(UTC), took)
    _later(session, lambda own: store.keep(own, [_row(row)]))
    return value


def _row(made: Computed) -> dict[str, Any]:
    return {
        "key": made.key,
        "name": made.name,
        "version": made.version,
        "value": made.value,
        "made_at": made.made_at,
        "took_seconds": made.took_seconds,
        "size_bytes": len(made.value),
        "used_at": made.made_at,
    }


def _later(session: Session, work: Callable[[Session], object]) -> None:
    session.info.setdefault(PENDING, []).append(work)


def has_pending(session: Session) -> bool:
    """Whether answers were computed while a session was used that are still to be kept."""
    return bool(session.info.get(PENDING))


def keep_pending(session: Session, own: Session) -> None:
    """Keep what was computed while a session was used, through another one, which its edge commits: a page that only reads keeps its
    answers too, and one that is rolled back."""
    for work in session.info.pop(PENDING, []):
        work(own)
    own.flush()


@cache
def _adapter(kind: type[Question[Any]]) -> TypeAdapter[Any]:
    """How answers of a question are written: by the type its `compute` says it returns."""
    return TypeAdapter(get_type_hints(kind.compute)["return"])


def encoded(kind: type[Question[Any]], value: Any) -> bytes:
    """An answer as it is kept."""
    return zlib.compress(_adapter(kind).dump_json(value), 6)


def decoded(kind: type[Question[Any]], value: bytes) -> Any:
    """An answer as it was computed.

    Raises
    ------
    ValidationError, zlib.error : the bytes are no such answer
    """
    return _adapter(kind).validate_json(zlib.decompress(value))
