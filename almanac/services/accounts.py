"""Signing in: Argon2 hashes, a rate limit that all web processes share, and making users."""

from __future__ import annotations

from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, or_, select
from sqlalchemy.orm import Session

from almanac.services.errors import Fault, Refused
from almanac.store.models import Role, SignInAttempt, User

HASHER = PasswordHasher()
WINDOW = timedelta(minutes=10)
MOST_FAILURES, MOST_FAILURES_FROM_ONE_ADDRESS = 8, 60
SHORTEST_PASSWORD = 12
NOBODY = HASHER.hash("nobody has this password")
"""Verified when no user has the login, so that the answer takes as long either way."""


class TooManyAttempts(Exception):
    """Too many failed sign-ins for this login or address; the message says when to try again."""


def sign_in(session: Session, login: str, password: str, *, address: str, now: datetime) -> User | None:
    """The user with this login and password, None when they do not match; a failure is counted.

    Raises
    ------
    TooManyAttempts : the limit of failures within ten minutes is reached
    """
    name = login.strip().lower()
    recent = select(func.count().filter(SignInAttempt.login == name), func.count().filter(SignInAttempt.address == address))
    by_login, by_address = session.execute(recent.where(SignInAttempt.attempted_at > now - WINDOW)).one()
    if by_login >= MOST_FAILURES or by_address >= MOST_FAILURES_FROM_ONE_ADDRESS:
        raise TooManyAttempts("too many failed sign-ins: wait ten minutes, then try again")
    user = session.scalar(select(User).where(User.login == name, User.active))
    if not password_matches(user.password_hash if user else NOBODY, password) or user is None:
        session.add(SignInAttempt(login=name[:200], address=address, attempted_at=now))
        return None
    session.execute(delete(SignInAttempt).where(or_(SignInAttempt.login == name, SignInAttempt.attempted_at < now - WINDOW)))
    if HASHER.check_needs_rehash(user.password_hash):
        user.password_hash = HASHER.hash(password)
    return user


def password_matches(password_hash: str, password: str) -> bool:
    """Whether a password belongs to a hash."""
    try:
        return HASHER.verify(password_hash, password)
    except (VerificationError, InvalidHashError):
        return False


def create_user(session: Session, *, login: str, name: str, role: Role, password: str) -> User:
    """Add a user.

    Raises
    ------
    Refused : a login in use, or a password shorter than twelve characters
    """
    key = login.strip().lower()
    faults = []
    if not key or not name.strip():
        faults.append(Fault("login", "a login and a name were wanted"))
    if session.scalar(select(User.id).where(User.login == key)):
        faults.append(Fault("login", f"the login {key} is in use: choose another"))
    if len(password) < SHORTEST_PASSWORD:
        faults.append(Fault("password", f"a password of at least {SHORTEST_PASSWORD} characters was wanted"))
    if faults:
        raise Refused(*faults)
    user = User(login=key, name=name.strip(), role=role.value, password_hash=HASHER.hash(password))
    session.add(user)
    session.flush()
    return user


def user_by_id(session: Session, user_id: int) -> User | None:
    """An active user."""
    return session.scalar(select(User).where(User.id == user_id, User.active))
