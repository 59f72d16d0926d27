"""Twice is once: a request with a key of its own is carried out the first time and answered the same way every time after."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from almanac.services.errors import Fault, Refused
from almanac.store.models import RequestKey

KEPT = timedelta(days=7)
LONGEST_KEY = 100


@dataclass(frozen=True)
class Answered:
    """What was answered the first time."""

    status: int
    body: str


def claim(session: Session, user_id: int, key: str, fingerprint: str, *, now: datetime) -> Answered | None:
    """Take a key in this transaction; the answer of the request that had it first, where there was one.

    Two requests with one key at the same moment wait for one another: the second is answered once the first has been committed, and
    carried out itself where the first was refused.

    Raises
    ------
    Refused : the key is no key, or was used for another request
    """
    if not 8 <= len(key) <= LONGEST_KEY or not key.isascii() or not key.isprintable():
        raise Refused(Fault("Idempotency-Key", f"from 8 to {LONGEST_KEY} printable characters were wanted"))
    claimed = insert(RequestKey).values(user_id=user_id, key=key, fingerprint=fingerprint, made_at=now).on_conflict_do_nothing()
    if session.execute(claimed.returning(RequestKey.key)).first() is not None:
        return None
    known = session.get_one(RequestKey, (user_id, key))
    if known.fingerprint != fingerprint or known.status is None or known.body is None:
        raise Refused(Fault("Idempotency-Key", "this key was used for another request: make a new one"))
    return Answered(known.status, known.body)


def answer(session: Session, user_id: int, key: str, answered: Answered, *, now: datetime) -> None:
    """Keep what was answered, in the transaction that carried the request out; keys of last week go."""
    row = (RequestKey.user_id == user_id, RequestKey.key == key)
    session.execute(update(RequestKey).where(*row).values(status=answered.status, body=answered.body))
    session.execute(delete(RequestKey).where(RequestKey.user_id == user_id, RequestKey.made_at < now - KEPT))
