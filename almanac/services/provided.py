"""Signing in through the company's identity provider: a way there that comes back once, and what a person's groups let them do here.

Who comes for the first time is a new person. Nobody becomes somebody who has a login here already, unless a lead said so: names at the
provider change hands, `sub` does not (OpenID Connect Core, 5.7). What a person may do follows their groups each time they come.
"""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from almanac.exchange.provider import NotTold, Provider, Secrets, Told, Why
from almanac.services.accounts import hash_password
from almanac.services.audit import Event, note
from almanac.services.errors import Fault, Refused
from almanac.services.people import locked_person
from almanac.services.sessions import hash_of
from almanac.store import people
from almanac.store.models import ProviderAttempt, Role, User

COMES_BACK_WITHIN = timedelta(minutes=10)
LONGEST_WAY = 500
RANK = (Role.READER, Role.TECHNICIAN, Role.LEAD)
REFUSED = {
    Why.AWAY: "{name} does not answer. Try again in a moment, or sign in with a password of this almanac.",
    Why.DENIED: "{name} did not sign you in. Try again there, or ask whoever looks after it.",
    Why.EXPIRED: "What {name} said of you had expired when it came: try again; if it stays so, one of the two clocks is wrong.",
    Why.OTHER_AUDIENCE: "What {name} said was meant for another application. Tell whoever looks after this almanac.",
    Why.FORGED: "What {name} said cannot be believed. Tell whoever looks after this almanac.",
    Why.LATE: "That took longer than ten minutes, or never began here: sign in again.",
    Why.REPLAYED: "That sign-in was used already: sign in again.",
    Why.OTHER_BROWSER: "That sign-in began in another browser: sign in again in this one.",
    Why.NO_GROUP: "{name} knows you, and none of your groups there may work here. Ask a lead which group it takes.",
    Why.TAKEN: "Somebody has your login here already. If that is you, a lead lets you in on the page People.",
    Why.ENDED: "You sign in here no more. A lead can take you back.",
    Why.LAST_LEAD: "You are the only lead here, and your groups make you something else: another lead is wanted first.",
}
"""What a person is told, with the provider's name."""


@dataclass(frozen=True)
class Allowed:
    """What a group may do. sites : codes a technician of it works at, none where everywhere"""

    role: Role
    sites: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """A technician at GUL, TOR."""
        return f"{self.role.value} at {', '.join(self.sites)}" if self.sites else self.role.value


def groups_of(text: str) -> dict[str, Allowed]:
    """What groups may do, from "it-leads=lead; bench-gul=technician@GUL,TOR; office=reader".

    Raises
    ------
    ValueError : what is not written like that, a role there is none of, or no group at all
    """
    found = {}
    for entry in filter(None, (part.strip() for part in text.split(";"))):
        group, _, may = entry.rpartition("=")
        role, _, at = may.partition("@")
        sites = tuple(filter(None, (code.strip() for code in at.split(","))))
        if not group.strip() or role.strip() not in set(Role) or (sites and role.strip() != Role.TECHNICIAN):
            raise ValueError(f"ALMANAC_PROVIDER_GROUPS: group=lead, group=technician@SITE,SITE or group=reader was wanted, got {entry!r}")
        found[group.strip()] = Allowed(Role(role.strip()), sites)
    if not found:
        raise ValueError("ALMANAC_PROVIDER_GROUPS: no group may sign in; write such as it-leads=lead; office=reader")
    return found


def allowed_by(groups: tuple[str, ...], may: Mapping[str, Allowed]) -> Allowed | None:
    """The most that groups allow together: the highest role, and the sites of all who have it; None where they allow nothing."""
    found = [may[group] for group in groups if group in may]
    if not found:
        return None
    role = max((one.role for one in found), key=RANK.index)
    of_role = [one for one in found if one.role == role]
    everywhere = role != Role.TECHNICIAN or any(not one.sites for one in of_role)
    return Allowed(role, () if everywhere else tuple(sorted({site for one in of_role for site in one.sites})))


def begin(session: Session, to: str, *, now: datetime) -> tuple[Secrets, str]:
    """A way there that comes back: its secrets, and what the browser keeps so that only it can end it."""
    session.execute(delete(ProviderAttempt).where(ProviderAttempt.began_at < now - 2 * COMES_BACK_WITHIN))
    made, browser = Secrets(*(secrets.token_urlsafe(48) for _ in range(3))), secrets.token_urlsafe(32)
    session.add(
        ProviderAttempt(
            state_hash=hash_of(made.state),
            browser_hash=hash_of(browser),
            nonce=made.nonce,
            verifier=made.verifier,
            goes_to=page_here(to),
            began_at=now,
        )
    )
    session.flush()
    return made, browser


def page_here(to: str) -> str:
    """A page of this application; what leads anywhere else is its first page."""
    here = to.startswith("/") and not to.startswith(("//", "/\\", "/api/")) and len(to) <= LONGEST_WAY and to.isprintable()
    return to if here else "/"


def take(session: Session, state: str, browser: str, *, now: datetime) -> tuple[Secrets, str]:
    """What a way that came back was known by, and the page wanted; it has come back now, whatever follows: commit it before that.

    Raises
    ------
    NotTold : it never began, began too long ago or in another browser, or came back before
    """
    wanted = ProviderAttempt.state_hash == hash_of(state)
    found = session.scalar(select(ProviderAttempt).where(wanted))
    if found is None or found.began_at < now - COMES_BACK_WITHIN:
        raise NotTold(Why.LATE, "it never began, or too long ago")
    if found.browser_hash != hash_of(browser):
        raise NotTold(Why.OTHER_BROWSER, "it came back to another browser")
    taken = update(ProviderAttempt).where(wanted, ProviderAttempt.used_at.is_(None)).values(used_at=now)
    if session.execute(taken.returning(ProviderAttempt.id)).first() is None:
        raise NotTold(Why.REPLAYED, "it came back a second time")
    return Secrets(state, found.nonce, found.verifier), found.goes_to


def sign_in_told(session: Session, provider: Provider, told: Told, may: Mapping[str, Allowed], *, address: str, now: datetime) -> User:
    """The user whom the provider told of, as what their groups make them now. A refusal is to be committed: sign-ins may have ended.

    Raises
    ------
    NotTold : no group of theirs may work here, their login belongs to somebody, or they were ended
    """
    subject = f"{provider.issuer} {told.subject}"
    user = session.scalar(select(User).where(User.provider_subject == subject).with_for_update())
    allowed = allowed_by(told.groups, may)
    if allowed is None:
        if user is not None:
            people.end_sign_ins(session, user.id, now)
        raise NotTold(Why.NO_GROUP, f"{told.login or told.subject}: none of their groups may work here")
    sites = people.site_ids(session, allowed.sites)
    if missing := [code for code in allowed.sites if code not in sites]:
        raise NotTold(Why.NO_GROUP, f"{told.login}: their group works at {', '.join(missing)}, which is no site here")
    user = user or _known(session, told)
    if user is None:
        user = _first_time(session, told, allowed, now)
    elif not user.active:
        raise NotTold(Why.ENDED, f"{user.login} was ended")
    elif user.role == Role.LEAD and allowed.role != Role.LEAD and not people.active_leads(session) - {user.id}:
        raise NotTold(Why.LAST_LEAD, f"{user.login} is the last lead")
    user.provider_subject, user.provider_awaited = subject, False
    before = (user.role, people.bound_to(session, user.id))
    user.role = allowed.role.value
    people.bind(session, user.id, sites.values())
    if before != (user.role, frozenset(sites.values())):
        note(session, Event.PERSON_CHANGED, by=None, subject=user.login, at=now, words=f"now {allowed.words}, by their groups")
    note(session, Event.SIGNED_IN, by=user.id, subject=user.login, at=now, words=f"through {provider.name}", address=address)
    return user


def note_refusal(session: Session, provider: Provider, refusal: NotTold, *, address: str, now: datetime) -> None:
    """Write down that somebody came back from the provider and was not signed in."""
    words = f"through {provider.name}: {refusal.words}"
    note(session, Event.SIGN_IN_FAILED, by=None, subject=provider.name, at=now, words=words, address=address)


def _login(told: Told) -> str:
    return "".join(told.login.split()).lower()[:80] or told.subject[:80].lower()


def _known(session: Session, told: Told) -> User | None:
    """Who has their login here, where a lead said that it is them."""
    user = session.scalar(select(User).where(User.login == _login(told)).with_for_update())
    if user is not None and not user.provider_awaited:
        raise NotTold(Why.TAKEN, f"{user.login} has an account here that is not theirs yet")
    return user


def _first_time(session: Session, told: Told, allowed: Allowed, now: datetime) -> User:
    login = _login(told)
    name = " ".join(told.name.split())[:80] or login
    user = User(login=login, name=name, role=allowed.role.value, password_hash=hash_password(secrets.token_urlsafe(32)))
    session.add(user)
    session.flush()
    note(session, Event.PERSON_ADDED, by=None, subject=login, at=now, words=f"{name}, {allowed.words}, by their groups")
    return user


def let_in(session: Session, user_id: int, *, by: int, now: datetime) -> None:
    """Whoever has this login at the provider is this person from when they first come.

    Raises
    ------
    NotFound : no such person · Refused : who was ended, or comes that way already
    """
    user = locked_person(session, user_id)
    if not user.active:
        raise Refused(Fault("person", f"{user.name} was ended: take them back first"))
    if user.provider_subject:
        raise Refused(Fault("person", f"{user.name} comes that way already"))
    user.provider_awaited = True
    note(session, Event.PROVIDER_AWAITED, by=by, subject=user.login, at=now)


def let_out(session: Session, user_id: int, *, by: int, now: datetime) -> None:
    """A person signs in with a password alone; they are signed out everywhere, and may need a link to choose one.

    Raises
    ------
    NotFound : no such person · Refused : who does not come that way, or oneself, for one without a password would be locked out
    """
    user = locked_person(session, user_id)
    if user_id == by:
        raise Refused(Fault("person", "nobody takes their own way in: another lead does that"))
    if not user.provider_subject and not user.provider_awaited:
        raise Refused(Fault("person", f"{user.name} does not come that way"))
    user.provider_subject, user.provider_awaited = None, False
    people.end_sign_ins(session, user.id, now)
    note(session, Event.PROVIDER_LEFT, by=by, subject=user.login, at=now)
