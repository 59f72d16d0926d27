"""Keys that programs show in place of a sign-in: shown once, kept as a hash, ended by their owner or a lead."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from almanac.services.audit import Event, note
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.sessions import hash_of
from almanac.store.models import AccessToken, Role, Scope, User

LONGEST_DAYS = 400
MOST = 50
"""Keys that one person has at a time."""
LONGEST_NAME = 60
USED_EVERY = timedelta(hours=1)
"""When a key was used last is written down so often."""
PREFIX = "almanac_"


@dataclass(frozen=True)
class TokenRow:
    """A key, without what opens."""

    id: int
    name: str
    scope: str
    owner: str
    mine: bool
    made_at: datetime
    expires_at: datetime
    last_used_at: datetime | None
    ended_at: datetime | None


def make_token(session: Session, user_id: int, *, name: str, scope: str, days: int, now: datetime) -> str:
    """A new key of a user; what it returns is shown once and known nowhere else.

    Raises
    ------
    Refused : a name, scope or span that cannot be, or too many keys
    """
    faults = []
    words = " ".join(name.split())
    if not words or len(words) > LONGEST_NAME:
        faults.append(Fault("name", f"what the key is for was wanted, in up to {LONGEST_NAME} letters"))
    if scope not in set(Scope):
        faults.append(Fault("scope", f"one of {', '.join(Scope)} was wanted"))
    if not 1 <= days <= LONGEST_DAYS:
        faults.append(Fault("days", f"from 1 to {LONGEST_DAYS} days were wanted"))
    user = session.get_one(User, user_id)
    if scope == Scope.REPORT and user.role == Role.READER:
        faults.append(Fault("scope", "reports write into the record: a technician or a lead makes a key for them"))
    if len(_valid(session, user_id, now)) >= MOST:
        faults.append(Fault("name", f"you have {MOST} keys that open: end one that nobody uses"))
    if faults:
        raise Refused(*faults)
    token = PREFIX + secrets.token_urlsafe(32)
    session.add(
        AccessToken(token_hash=hash_of(token), user_id=user_id, name=words, scope=scope, made_at=now, expires_at=now + timedelta(days=days))
    )
    note(session, Event.KEY_MADE, by=user_id, subject=words, at=now, words=f"opens {scope} for {days} days")
    return token


def user_of_key(session: Session, token: str, *, now: datetime) -> tuple[User, AccessToken] | None:
    """The active user whose key this is, while it opens."""
    query = (
        select(User, AccessToken)
        .join(AccessToken, AccessToken.user_id == User.id)
        .where(AccessToken.token_hash == hash_of(token), AccessToken.ended_at.is_(None), AccessToken.expires_at > now, User.active)
    )
    found = session.execute(query).one_or_none()
    return None if found is None else (found[0], found[1])


def note_use(session: Session, key: AccessToken, *, now: datetime) -> bool:
    """Write down that a key was used, now and then; returns whether something was written."""
    if key.last_used_at is not None and now - key.last_used_at < USED_EVERY:
        return False
    session.execute(update(AccessToken).where(AccessToken.id == key.id).values(last_used_at=now))
    return True


def read_tokens(session: Session, user_id: int, *, everybody: bool) -> list[TokenRow]:
    """Keys of a user, or of everybody, those that open first."""
    query = select(AccessToken, User.name).join(User, User.id == AccessToken.user_id)
    if not everybody:
        query = query.where(AccessToken.user_id == user_id)
    rows = session.execute(query.order_by(AccessToken.ended_at.is_not(None), AccessToken.id.desc()).limit(200))
    return [
        TokenRow(key.id, key.name, key.scope, owner, key.user_id == user_id, key.made_at, key.expires_at, key.last_used_at, key.ended_at)
        for key, owner in rows
    ]


def end_token(session: Session, token_id: int, *, user_id: int, is_lead: bool, now: datetime) -> None:
    """A key opens nothing any more; one that was ended already stays as it is.

    Raises
    ------
    NotFound : no such key, or it is somebody else's and a lead did not ask
    """
    key = session.get(AccessToken, token_id)
    if key is None or not (is_lead or key.user_id == user_id):
        raise NotFound(f"you have no key with the number {token_id}")
    if key.ended_at is None:
        key.ended_at, key.ended_by_id = now, user_id
        note(session, Event.KEY_ENDED, by=user_id, subject=key.name, at=now)


def _valid(session: Session, user_id: int, now: datetime) -> list[int]:
    query = select(AccessToken.id).where(AccessToken.user_id == user_id, AccessToken.ended_at.is_(None), AccessToken.expires_at > now)
    return list(session.scalars(query))
