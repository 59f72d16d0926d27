"""Questions asked: looked up by what they are computed from, computed where they are missing, kept in PostgreSQL.

Any process finds what another one computed. A small cache of the process stands in front; both may be emptied at any time.
"""

from __future__ import annotations

import logging
import time
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import partial
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named, Question
from almanac.services.answers.cache import FRONT, SPREAD
from almanac.services.answers.progress import tell
from almanac.services.answers.values import Undecodable, answer_type, decoded, encoded
from almanac.store import answers as store

Answer = TypeVar("Answer")
LOG = logging.getLogger(__name__)
PENDING = "answers computed in this session"


@dataclass(frozen=True)
class Computed:
    """An answer that was computed now and is still to be kept."""

    key: str
    name: str
    version: int
    value: bytes
    made_at: datetime
    took_seconds: float


class AnswerNamed(Named):
    """The answer of a question that was not asked yet."""

    __slots__ = ("question",)

    def __init__(self, session: Session, question: Question[Any]) -> None:
        super().__init__(question.key, fetch=lambda: ask(session, question))
        self.question = question


def ask(session: Session, question: Question[Answer]) -> Answer:
    """The answer of one question."""
    return ask_all(session, [question])[0]


def ask_all(session: Session, questions: Sequence[Question[Answer]]) -> list[Answer]:
    """The answers of several questions in their order, looked up together; those that are missing are computed together."""
    by_key = {question.key: question for question in questions}
    found = known(session, {key: type(question) for key, question in by_key.items()})
    missing: dict[type[Question[Any]], list[str]] = defaultdict(list)
    for key, question in by_key.items():
        if key not in found:
            missing[type(question)].append(key)
    for kind, keys in missing.items():
        tell(kind.NAME, len(questions) - len(keys), len(questions))
        begun = time.perf_counter()
        values = kind.compute_many([by_key[key] for key in keys])
        took = (time.perf_counter() - begun) / len(keys)
        for key, value in zip(keys, values, strict=True):
            found[key] = value
            keep(session, key, kind.NAME, kind.VERSION, value, took)
    return [found[question.key] for question in questions]


def computed(session: Session, key: str, question: Question[Answer]) -> Answer:
    """Compute an answer that is known to be missing; it is kept once the session's work is done."""
    begun = time.perf_counter()
    value = question.compute()
    keep(session, key, question.NAME, question.VERSION, value, time.perf_counter() - begun)
    return value


def answer_of(session: Session, question: Question[Any]) -> AnswerNamed:
    """A question's answer by its key, looked up or computed only where somebody wants to read it."""
    return AnswerNamed(session, question)


def known(session: Session, wanted: Mapping[str, type[Question[Any]]]) -> dict[str, Any]:
    """Answers that are kept, by key, of questions of some types; what is missing or cannot be read is left out."""
    return look_up(session, {key: (kind.NAME, answer_type(kind)) for key, kind in wanted.items()})


def look_up(session: Session, wanted: Mapping[str, tuple[str, Any]]) -> dict[str, Any]:
    """Values that are kept, by key, of some names and types; what is missing or cannot be read is left out."""
    found = {key: value for key in wanted if (value := FRONT.get(key)) is not None}
    now = datetime.now(UTC)
    broken, used = [], []
    for key, (value, _, used_at) in store.find(session, [key for key in wanted if key not in found]).items():
        name, of_type = wanted[key]
        try:
            found[key] = decoded(of_type, value)
        except Undecodable as error:
            LOG.warning("an answer of %s could not be read and is computed again: %s", name, type(error).__name__)
            broken.append(key)
            continue
        FRONT.put(key, found[key], SPREAD * len(value))
        if now - used_at > store.USED_AGAIN:
            used.append(key)
    if broken or used:
        later(session, partial(_tidy, broken=broken, used=used, now=now))
    return found


def _tidy(own: Session, *, broken: list[str], used: list[str], now: datetime) -> None:
    store.forget(own, broken)
    store.mark_used(own, used, now=now)


def content(session: Session, key: str, kind: tuple[str, int, type[Answer]], again: Callable[[], Answer]) -> Answer:
    """Content that is named by its own key; read again where it was dropped meanwhile.

    kind : name, version and type it is kept under · again : reads it

    Raises
    ------
    LookupError : it was dropped, and something else was written since
    """
    name, version, of_type = kind
    found: dict[str, Answer] = look_up(session, {key: (name, of_type)})
    if key in found:
        return found[key]
    value = again()
    if key_of((name, version, value)) != key:
        raise LookupError(f"the {name} was dropped and has changed since")
    keep(session, key, name, version, value, 0.0)
    return value


def keep(session: Session, key: str, name: str, version: int, value: Any, took_seconds: float) -> None:
    """Keep a value that was computed, once the session's work is done."""
    row = Computed(key, name, version, encoded(value), datetime.now(UTC), took_seconds)
    FRONT.put(key, value, SPREAD * len(row.value))
    later(session, partial(_keep_first, row=row))


def _keep_first(own: Session, *, row: Computed) -> None:
    """Answers that are worked out beside others may differ in their last digits: who came first is right, in every process."""
    first = store.keep(own, _row(row))
    if first is not None and first != row.value:
        FRONT.drop(row.key)


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


def later(session: Session, work: Callable[[Session], object]) -> None:
    """Have something written when the session's work is done, in a transaction of its own."""
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
