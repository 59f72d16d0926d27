"""The first user of an empty company, made in the browser by who holds the code that the server printed when it started."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from almanac.services.accounts import HASHER, checked_try, create_user, password_matches
from almanac.services.audit import Event, note
from almanac.services.clock import Clock
from almanac.services.company_settings import describe_company
from almanac.services.errors import Fault, Refused
from almanac.store import settings
from almanac.store.models import Role, Setting, User
from almanac.store.settings import settings_on

KEY = "setup_code"
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Without those that are mistaken for another."""
GROUPS, OF = 3, 4


@dataclass(frozen=True)
class FirstUser:
    """Who begins, and what the company is called, counts in, and by which clock its days go."""

    code: str
    company: str
    currency: str
    time_zone: str
    login: str
    name: str
    password: str


def waits_for_first_user(session: Session) -> bool:
    """Whether nobody can sign in yet."""
    return not session.scalar(select(func.count()).select_from(User))


def new_code(session: Session, clock: Clock) -> str:
    """A code for the first user; one printed before holds no longer. Only its hash is kept."""
    code = "-".join("".join(secrets.choice(LETTERS) for _ in range(OF)) for _ in range(GROUPS))
    number = settings.last_number(session, "company", "", KEY) + 1
    value = HASHER.hash(_plain(code))
    session.add(Setting(scope="company", key=KEY, number=number, value=value, from_on=clock.today, recorded_at=clock.now))
    session.flush()
    return code


def _plain(code: str) -> str:
    return "".join(sign for sign in code.upper() if sign in LETTERS)


def _refuse_second(session: Session) -> None:
    if not waits_for_first_user(session):
        raise Refused(Fault("code", "somebody works here already: sign in, or ask a lead for a login"))


def make_first_user(session: Session, wanted: FirstUser, *, address: str, now: datetime, clock: Clock) -> User | None:
    """Describe the company and make its first lead; None where the code is wrong, which is counted and to be committed.

    Raises
    ------
    Refused : somebody was first, or what cannot be, each with its place · TooManyAttempts : this try comes too soon after wrong codes
    """
    _refuse_second(session)
    wanted_hash = settings_on(session, clock.today).value(KEY)
    right = isinstance(wanted_hash, str) and checked_try(
        session, "first user", address=address, now=now, matches=lambda: password_matches(wanted_hash, _plain(wanted.code))
    )
    if not right:
        return None
    # Tries queue: who waited here behind the first sees them now.
    _refuse_second(session)
    describe_company(session, clock=clock, name=wanted.company, currency=wanted.currency.upper(), time_zone=wanted.time_zone)
    user = create_user(session, login=wanted.login, name=wanted.name, role=Role.LEAD, password=wanted.password)
    note(session, Event.PERSON_ADDED, by=user.id, subject=user.login, at=now, words=f"{user.name}, the first lead", address=address)
    return user
