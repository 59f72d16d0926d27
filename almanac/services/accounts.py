"""Who may sign in: Argon2 hashes, tries slowed down for all web processes together, and making users.

Nobody is locked out by somebody else's guesses: a browser that has signed in before is counted by itself (the device cookies of the
OWASP guide "Slow Down Online Guessing Attacks"), every other try by account and by address. Waits are of the real clock.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import ColumnElement, delete, func, or_, select
from sqlalchemy.orm import Session

from almanac.services.audit import Event, note
from almanac.services.errors import Fault, Refused
from almanac.store.models import Role, SignInAttempt, User

HASHER = PasswordHasher()
WINDOW = timedelta(minutes=15)
SHORTEST_PASSWORD = 12
LEAST_LEFT, LEAST_DIFFERENT = 6, 5
GUESSED_FIRST = (
    *("password", "passwort", "qwertz", "qwerty", "asdfgh", "letmein", "welcome", "admin", "almanac", "parts"),
    *("123456", "234567", "345678", "456789", "567890", "654321", "abcdef", "abc123", "secret", "changeme"),
)
"""Of a password that is made of these, the login and the name, little is left to guess."""


@dataclass(frozen=True)
class Slowing:
    """After `free` failures each next try has to wait, twice as long every time, up to `longest_seconds`."""

    free: int
    longest_seconds: int

    def wait(self, failures: int) -> timedelta:
        """From the last failure to the next try."""
        if failures < self.free:
            return timedelta(0)
        return timedelta(seconds=min(2 ** min(failures - self.free, 20), self.longest_seconds))


BY_COUNTER = Slowing(free=5, longest_seconds=60)
BY_ADDRESS = Slowing(free=30, longest_seconds=10)
"""Weak, for a whole company may come through one address."""


class TooManyAttempts(Exception):
    """Failed sign-ins have to wait; the message says how long, `seconds` too."""

    def __init__(self, wait: timedelta) -> None:
        self.seconds = max(int(wait.total_seconds() + 0.999), 1)
        super().__init__(f"too many failed sign-ins: wait {self.seconds} second{'s' if self.seconds > 1 else ''}, then try again")


def sign_in(session: Session, login: str, password: str, *, address: str, now: datetime, device: str | None = None) -> User | None:
    """The user with this login and password, None when they do not match; a failure is counted and to be committed.

    device : names a browser on which this login signed in before. Tries on one counter wait for one another, so that forty at once
    count as forty in a row

    Raises
    ------
    TooManyAttempts : this try comes too soon after the last failures
    """
    name = login.strip().lower()[:200]
    counter = f"device {device}" if device else f"login {name}"
    _one_at_a_time(session, counter)
    _check_wait(session, SignInAttempt.counter == counter, BY_COUNTER, now)
    if not device:
        _check_address(session, address, now)
    user = session.scalar(select(User).where(User.login == name))
    if not password_matches(user.password_hash if user else _nobody(), password) or user is None or not user.active:
        session.add(SignInAttempt(counter=counter, address=address, attempted_at=now))
        # Whatever was typed in place of a login may be a password: only logins there are stay on record.
        note(session, Event.SIGN_IN_FAILED, by=None, subject=user.login if user else "no such login", at=now, address=address)
        return None
    note(session, Event.SIGNED_IN, by=user.id, subject=user.login, at=now, address=address)
    session.execute(delete(SignInAttempt).where(or_(SignInAttempt.counter == counter, SignInAttempt.attempted_at < now - WINDOW)))
    if HASHER.check_needs_rehash(user.password_hash):
        user.password_hash = HASHER.hash(password)
    return user


def checked_try(session: Session, counter: str, *, address: str, now: datetime, matches: Callable[[], bool]) -> bool:
    """Whether a guess at something else than a password is right; wrong ones are counted and slowed down as sign-ins are.

    Raises
    ------
    TooManyAttempts : this try comes too soon after the last failures
    """
    _one_at_a_time(session, counter)
    _check_wait(session, SignInAttempt.counter == counter, BY_COUNTER, now)
    _check_address(session, address, now)
    if matches():
        return True
    session.add(SignInAttempt(counter=counter, address=address, attempted_at=now))
    return False


def _one_at_a_time(session: Session, what: str) -> None:
    """Tries on the same thing queue until the transaction of the one before has ended."""
    session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(f"sign-in {what}", 0))))


def _check_address(session: Session, address: str, now: datetime) -> None:
    """Tries from an address queue only once it has failed often: until then a company's morning is not held up."""
    if _failures(session, SignInAttempt.address == address, now)[0] >= BY_ADDRESS.free // 2:
        _one_at_a_time(session, f"address {address}")
        _check_wait(session, SignInAttempt.address == address, BY_ADDRESS, now)


def _check_wait(session: Session, of: ColumnElement[bool], slowing: Slowing, now: datetime) -> None:
    failures, last = _failures(session, of, now)
    if last is not None and (left := last + slowing.wait(failures) - now) > timedelta(0):
        raise TooManyAttempts(left)


def _failures(session: Session, of: ColumnElement[bool], now: datetime) -> tuple[int, datetime | None]:
    query = select(func.count(), func.max(SignInAttempt.attempted_at)).where(of, SignInAttempt.attempted_at > now - WINDOW)
    count, last = session.execute(query).one()
    return count, last


@cache
def _nobody() -> str:
    """A hash verified when no user has the login, so that the answer takes as long either way."""
    return HASHER.hash("nobody has this password")


def password_fault(password: str, login: str, name: str) -> str | None:
    """Why a password is not taken, None where it is: too short, or made of what is guessed first (NIST SP 800-63B, 5.1.1.2)."""
    if len(password) < SHORTEST_PASSWORD:
        return f"a password of at least {SHORTEST_PASSWORD} characters was wanted"
    left = password.lower()
    for word in (*GUESSED_FIRST, login, *name.lower().split()):
        left = left.replace(word, "") if len(word) > 2 else left
    if len(left) < LEAST_LEFT or len(set(password.lower())) < LEAST_DIFFERENT:
        return "that is among the first to be guessed: a few words that belong together for you alone are better"
    return None


def password_matches(password_hash: str, password: str) -> bool:
    """Whether a password belongs to a hash."""
    try:
        return HASHER.verify(password_hash, password)
    except (VerificationError, InvalidHashError):
        return False


def hash_password(password: str) -> str:
    """A password as it is kept."""
    return HASHER.hash(password)


def change_password(session: Session, user: User, current: str, new: str, *, address: str, now: datetime) -> bool:
    """Give a user another password; False where the present one is wrong, which is counted and to be committed.

    Raises
    ------
    Refused : a new password that is too short, guessed first, or the same
    TooManyAttempts : this try comes too soon after the last failures
    """
    if fault := password_fault(new, user.login, user.name):
        raise Refused(Fault("new", fault))
    if current == new:
        raise Refused(Fault("new", "that is the present one: choose another"))
    counter = f"password {user.login}"
    if not checked_try(session, counter, address=address, now=now, matches=lambda: password_matches(user.password_hash, current)):
        return False
    session.execute(delete(SignInAttempt).where(SignInAttempt.counter == counter))
    user.password_hash = HASHER.hash(new)
    note(session, Event.PASSWORD_CHANGED, by=user.id, subject=user.login, at=now, address=address)
    return True


def create_user(session: Session, *, login: str, name: str, role: Role, password: str) -> User:
    """Add a user.

    Raises
    ------
    Refused : a login in use, or a password that is too short or guessed first
    """
    key = login.strip().lower()
    faults = []
    if not key or not name.strip():
        faults.append(Fault("login", "a login and a name were wanted"))
    if session.scalar(select(User.id).where(User.login == key)):
        faults.append(Fault("login", f"the login {key} is in use: choose another"))
    if fault := password_fault(password, key, name):
        faults.append(Fault("password", fault))
    if faults:
        raise Refused(*faults)
    user = User(login=key, name=name.strip(), role=role.value, password_hash=HASHER.hash(password))
    session.add(user)
    session.flush()
    return user
