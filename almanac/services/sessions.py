"""Sign-ins that last: a random token in the browser's cookie, its hash here, so that signing out ends it everywhere at once."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import ColumnElement, func, select, update
from sqlalchemy.orm import Session

from almanac.services.errors import NotFound
from almanac.store.models import User, WebSession

LONGEST = timedelta(days=30)
IDLE = timedelta(days=7)
"""A sign-in that nobody used for so long has ended."""
SEEN_EVERY = timedelta(minutes=10)
"""When a sign-in was used last is written down so often."""
LONGEST_DEVICE = 300


@dataclass(frozen=True)
class SignInRow:
    """A sign-in that has not ended. device : what its browser calls itself · own : the one that asks"""

    id: int
    device: str
    began_at: datetime
    seen_at: datetime
    own: bool


def open_web_session(session: Session, user: User, *, now: datetime, device: str = "") -> str:
    """Begin a session of a user; returns the token that only the browser will know."""
    token = secrets.token_urlsafe(32)
    session.add(WebSession(token_hash=hash_of(token), user_id=user.id, began_at=now, device=device[:LONGEST_DEVICE]))
    session.flush()
    return token


def user_of_token(session: Session, token: str, *, now: datetime) -> User | None:
    """The active user of a session that has not ended."""
    found = user_and_seen(session, token, now=now)
    return found[0] if found else None


def user_and_seen(session: Session, token: str, *, now: datetime) -> tuple[User, bool] | None:
    """The same, and whether it is time to write down that the session is in use."""
    query = select(User, func.coalesce(WebSession.seen_at, WebSession.began_at)).join(WebSession, WebSession.user_id == User.id)
    row = session.execute(query.where(WebSession.token_hash == hash_of(token), *_open(now), User.active)).one_or_none()
    return None if row is None else (row[0], row[1] < now - SEEN_EVERY)


def _open(now: datetime) -> tuple[ColumnElement[bool], ...]:
    used = func.coalesce(WebSession.seen_at, WebSession.began_at)
    return WebSession.ended_at.is_(None), WebSession.began_at > now - LONGEST, used > now - IDLE


def note_seen(session: Session, token: str, *, now: datetime) -> None:
    """Write down that a session is in use."""
    session.execute(update(WebSession).where(WebSession.token_hash == hash_of(token)).values(seen_at=now))


def read_sign_ins(session: Session, user_id: int, token: str, *, now: datetime) -> list[SignInRow]:
    """A user's sign-ins that have not ended, the one in use last first."""
    rows = session.scalars(select(WebSession).where(WebSession.user_id == user_id, *_open(now)))
    own = hash_of(token)
    found = [SignInRow(row.id, row.device, row.began_at, row.seen_at or row.began_at, row.token_hash == own) for row in rows]
    return sorted(found, key=lambda row: (row.seen_at, row.id), reverse=True)


def end_sign_in(session: Session, user_id: int, sign_in_id: int, *, now: datetime) -> None:
    """End one of a user's own sign-ins, on whatever browser it is.

    Raises
    ------
    NotFound : it is none of theirs, or has ended
    """
    wanted = (WebSession.id == sign_in_id, WebSession.user_id == user_id, *_open(now))
    if session.execute(update(WebSession).where(*wanted).values(ended_at=now).returning(WebSession.id)).first() is None:
        raise NotFound("no sign-in of yours with that number is open: it has ended already")


def end_other_sign_ins(session: Session, user_id: int, token: str, *, now: datetime) -> int:
    """End all sign-ins of a user but the one that asks; returns how many those were."""
    others = (WebSession.user_id == user_id, WebSession.token_hash != hash_of(token), *_open(now))
    return len(session.execute(update(WebSession).where(*others).values(ended_at=now).returning(WebSession.id)).all())


def end_web_session(session: Session, token: str, *, now: datetime) -> None:
    """End a session; a token that is unknown or ended already changes nothing."""
    ended = update(WebSession).where(WebSession.token_hash == hash_of(token), WebSession.ended_at.is_(None))
    session.execute(ended.values(ended_at=now))


def hash_of(token: str) -> str:
    """A random token needs no slow hash."""
    return hashlib.sha256(token.encode()).hexdigest()
