"""Sign-ins that last: a random token in the browser's cookie, its hash here, so that signing out ends it everywhere at once."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import ColumnElement, DateTime, Float, bindparam, cast, func, literal, select, update
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.company_settings import Decision, decisions
from almanac.services.errors import NotFound
from almanac.store.models import Setting, User, WebSession

LONGEST = timedelta(days=30)
IDLE = timedelta(days=7)
"""A sign-in that nobody used for so long has ended, unless the company decided otherwise."""
LIMITS = {"idle_hours": IDLE / timedelta(hours=1), "sign_in_days": LONGEST / timedelta(days=1)}
WORDS = {
    "idle_hours": "A sign-in that nobody uses ends after so many hours",
    "sign_in_days": "Every sign-in ends after so many days",
}
SEEN_EVERY = timedelta(minutes=10)
"""When a sign-in was used last is written down so often at least."""
SEEN_SHARE = 20
"""And so often within the time after which it ends unused."""
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
    row = session.execute(OF_TOKEN, {"token": hash_of(token), "now": now}).one_or_none()
    return None if row is None else (row[0], row[1] < now - min(SEEN_EVERY, timedelta(hours=row[2]) / SEEN_SHARE))


def _open(now: datetime) -> tuple[ColumnElement[bool], ...]:
    return _open_at(literal(now, DateTime(timezone=True)))


def _open_at(at: ColumnElement[datetime]) -> tuple[ColumnElement[bool], ...]:
    used, idle, longest = func.coalesce(WebSession.seen_at, WebSession.began_at), _decided("idle_hours"), _decided("sign_in_days")
    open_still = WebSession.began_at > at - longest * timedelta(days=1)
    return WebSession.ended_at.is_(None), open_still, used > at - idle * timedelta(hours=1)


def _decided(key: str) -> ColumnElement[float]:
    """What the company decided last, read with the sign-in itself: it holds for those that are open, at once."""
    newest = select(cast(Setting.value, Float)).where(Setting.scope == "company", Setting.key == key)
    return func.coalesce(newest.order_by(Setting.number.desc()).limit(1).scalar_subquery(), LIMITS[key])


OF_TOKEN = (
    select(User, func.coalesce(WebSession.seen_at, WebSession.began_at), _decided("idle_hours"))
    .join(WebSession, WebSession.user_id == User.id)
    .where(WebSession.token_hash == bindparam("token"), *_open_at(bindparam("now", type_=DateTime(timezone=True))), User.active)
)
"""Put together once: every request asks it."""


def read_limits(session: Session, clock: Clock) -> list[Decision]:
    """When sign-ins end by themselves."""
    return decisions(session, clock, WORDS, LIMITS)


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
