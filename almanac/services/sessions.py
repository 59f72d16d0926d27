"""Sign-ins that last: a random token in the browser's cookie, its hash here, so that signing out ends it everywhere at once."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from almanac.store.models import User, WebSession

LONGEST = timedelta(days=30)


def open_web_session(session: Session, user: User, *, now: datetime) -> str:
    """Begin a session of a user; returns the token that only the browser will know."""
    token = secrets.token_urlsafe(32)
    session.add(WebSession(token_hash=hash_of(token), user_id=user.id, began_at=now))
    session.flush()
    return token


def user_of_token(session: Session, token: str, *, now: datetime) -> User | None:
    """The active user of a session that has not ended."""
    query = (
        select(User)
        .join(WebSession, WebSession.user_id == User.id)
        .where(WebSession.token_hash == hash_of(token), WebSession.ended_at.is_(None), WebSession.began_at > now - LONGEST, User.active)
    )
    return session.scalar(query)


def end_web_session(session: Session, token: str, *, now: datetime) -> None:
    """End a session; a token that is unknown or ended already changes nothing."""
    ended = update(WebSession).where(WebSession.token_hash == hash_of(token), WebSession.ended_at.is_(None))
    session.execute(ended.values(ended_at=now))


def hash_of(token: str) -> str:
    """A random token needs no slow hash."""
    return hashlib.sha256(token.encode()).hexdigest()
