"""The people of a company: added, changed, ended and taken back by a lead; each chooses a password by a link that works once.

A lead never learns anybody's password. The last lead cannot be ended or made something else, and nobody ends themselves.
"""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.services.accounts import create_user, hash_password, password_fault
from almanac.services.audit import Event, note
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.sessions import hash_of
from almanac.services.words import count
from almanac.store import people
from almanac.store.models import PasswordLink, Role, User

LINK_HOLDS = timedelta(hours=48)
LONGEST_NAME = 80


@dataclass(frozen=True)
class Person:
    """A person as leads see them. sites : codes, none where they work on all · link_until : an unused link opens until then

    through : "provider" where they sign in through the identity provider, "awaited" where they may from when they first come
    """

    id: int
    login: str
    name: str
    role: Role
    active: bool
    sites: tuple[str, ...]
    seen_at: datetime | None
    link_until: datetime | None
    through: Literal["password", "awaited", "provider"]


@dataclass(frozen=True)
class PersonChange:
    """What a person is from now on. sites : codes, for a technician alone"""

    name: str
    role: Role
    sites: Sequence[str] = ()


@dataclass(frozen=True)
class Ended:
    """What ended with a person: sign-ins and keys, and jobs they had in hand, which others take up. drafts : orders of theirs not sent yet,
    which any lead goes on with"""

    sign_ins: int
    keys: int
    jobs: int
    drafts: int


def read_people(session: Session, *, now: datetime) -> list[Person]:
    """Everybody, those who may sign in first."""
    sites = people.sites_of(session)
    return [
        Person(user.id, user.login, user.name, Role(user.role), user.active, sites.get(user.id, ()), seen, until, _through(user))
        for user, seen, until in people.people(session, now)
    ]


def _through(user: User) -> Literal["password", "awaited", "provider"]:
    if user.provider_subject:
        return "provider"
    return "awaited" if user.provider_awaited else "password"


def add_person(session: Session, login: str, person: PersonChange, *, by: int, now: datetime) -> tuple[User, str]:
    """A new person and the token of the link by which they choose their password.

    Raises
    ------
    Refused : a login in use, a name, role or site that cannot be
    """
    sites = _sites(session, person)
    user = create_user(session, login=login, name=_named(person.name), role=person.role, password=secrets.token_urlsafe(32))
    people.bind(session, user.id, sites)
    note(session, Event.PERSON_ADDED, by=by, subject=user.login, at=now, words=_words(person))
    return user, make_link(session, user.id, by=by, now=now)


def change_person(session: Session, user_id: int, person: PersonChange, *, by: int, now: datetime) -> None:
    """Another name, role or sites.

    Raises
    ------
    NotFound : no such person · Refused : a name, role or site that cannot be, or nobody would be lead
    """
    user = locked_person(session, user_id)
    sites, name = _sites(session, person), _named(person.name)
    bound = people.bound_to(session, user_id)
    if user.provider_subject and (user.role != person.role or frozenset(sites) != bound):
        raise Refused(Fault("role", f"what {user.name} may do follows their groups at the provider: it is changed there"))
    if user.active and user.role == Role.LEAD and person.role != Role.LEAD:
        _another_lead(session, user_id, "role")
    before = _words(PersonChange(user.name, Role(user.role), people.sites_of(session).get(user_id, ())))
    user.name, user.role = name, person.role.value
    people.bind(session, user_id, sites)
    if (after := _words(person)) != before:
        note(session, Event.PERSON_CHANGED, by=by, subject=user.login, at=now, words=f"{before}; now {after}")


def end_person(session: Session, user_id: int, *, by: int, now: datetime) -> Ended:
    """A person signs in no more; whatever they had in hand can be taken up by others.

    Raises
    ------
    NotFound : no such person · Refused : the last lead, or oneself
    """
    user = locked_person(session, user_id)
    if user_id == by:
        raise Refused(Fault("person", "nobody ends themselves: another lead does that"))
    if user.active and user.role == Role.LEAD:
        _another_lead(session, user_id, "person")
    user.active = False
    people.end_links(session, user_id, now)
    keys, jobs = people.let_go(session, user_id, by, now)
    ended = Ended(people.end_sign_ins(session, user_id, now), keys, jobs, people.open_drafts(session, user_id))
    words = f"{count(ended.sign_ins, 'sign-in')}, {count(keys, 'key')}, {count(jobs, 'job')} in hand let go of"
    if ended.drafts:
        words += f", {count(ended.drafts, 'draft')} of orders left to other leads"
    note(session, Event.PERSON_ENDED, by=by, subject=user.login, at=now, words=words)
    return ended


def take_back(session: Session, user_id: int, *, by: int, now: datetime) -> str:
    """A person who was ended signs in again, by a link that is returned: the password of before opens nothing.

    Raises
    ------
    NotFound : no such person · Refused : who was not ended
    """
    user = locked_person(session, user_id)
    if user.active:
        raise Refused(Fault("person", f"{user.name} may sign in: make a link where the password is forgotten"))
    user.active = True
    user.password_hash = hash_password(secrets.token_urlsafe(32))
    note(session, Event.PERSON_BACK, by=by, subject=user.login, at=now)
    return make_link(session, user_id, by=by, now=now)


def make_link(session: Session, user_id: int, *, by: int | None, now: datetime) -> str:
    """The token of a link by which a person chooses a password, once; one made before opens nothing any more.

    Raises
    ------
    NotFound : no such person · Refused : who was ended
    """
    user = locked_person(session, user_id)
    if not user.active:
        raise Refused(Fault("person", f"{user.name} was ended: take them back first"))
    people.end_links(session, user_id, now)
    token = secrets.token_urlsafe(32)
    session.add(PasswordLink(token_hash=hash_of(token), user_id=user_id, made_by_id=by, made_at=now, expires_at=now + LINK_HOLDS))
    note(session, Event.LINK_MADE, by=by, subject=user.login, at=now)
    return token


def end_sign_ins_of(session: Session, user_id: int, *, by: int, now: datetime) -> int:
    """A person is signed out on every browser, and has to sign in again; returns how many that were.

    Raises
    ------
    NotFound : no such person
    """
    user = locked_person(session, user_id)
    ended = people.end_sign_ins(session, user_id, now)
    note(session, Event.SIGNED_OUT, by=by, subject=user.login, at=now, words=f"on {count(ended, 'browser')}, by a lead")
    return ended


def owner_of_link(session: Session, token: str, *, now: datetime) -> User:
    """Whose password a link chooses.

    Raises
    ------
    NotFound : it was used, has ended, or never was
    """
    link = people.open_link(session, hash_of(token), now)
    user = session.get(User, link.user_id) if link else None
    if user is None or not user.active:
        raise NotFound("this link opens nothing: it was used, is older than two days, or another was made since. Ask a lead for a new one")
    return user


def use_link(session: Session, token: str, password: str, *, address: str, now: datetime) -> User:
    """Choose a password by a link, which opens nothing afterwards; every sign-in of before ends.

    Raises
    ------
    NotFound : it was used, has ended, or never was · Refused : a password that is too short or guessed first
    """
    user = owner_of_link(session, token, now=now)
    if fault := password_fault(password, user.login, user.name):
        raise Refused(Fault("password", fault))
    user.password_hash = hash_password(password)
    people.end_links(session, user.id, now)
    people.end_sign_ins(session, user.id, now)
    note(session, Event.LINK_USED, by=user.id, subject=user.login, at=now, address=address)
    return user


def locked_person(session: Session, user_id: int) -> User:
    """A person, locked until the transaction ends.

    Raises
    ------
    NotFound : no such person
    """
    user = session.scalar(select(User).where(User.id == user_id).with_for_update())
    if user is None:
        raise NotFound(f"there is no person with the number {user_id}")
    return user


def _another_lead(session: Session, user_id: int, field: str) -> None:
    if not people.active_leads(session) - {user_id}:
        raise Refused(Fault(field, "nobody else is a lead: make somebody a lead first"))


def _named(name: str) -> str:
    words = " ".join(name.split())
    if not words or len(words) > LONGEST_NAME:
        raise Refused(Fault("name", f"a name of up to {LONGEST_NAME} letters was wanted"))
    return words


def _sites(session: Session, person: PersonChange) -> list[int]:
    wanted = list(dict.fromkeys(person.sites))
    if wanted and person.role != Role.TECHNICIAN:
        raise Refused(Fault("sites", f"only technicians are bound to sites; a {person.role.value} sees all"))
    found = people.site_ids(session, wanted)
    if missing := [code for code in wanted if code not in found]:
        raise Refused(Fault("sites", f"there is no site {', '.join(missing)}"))
    return [found[code] for code in wanted]


def _words(person: PersonChange) -> str:
    at = f" at {', '.join(person.sites)}" if person.sites else ""
    return f"{person.name}, {person.role.value}{at}"
