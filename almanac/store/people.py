"""Who may sign in, where they work, and the links by which they choose a password."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from almanac.store.models import AccessToken, Job, OrderDraft, PasswordLink, Site, User, UserSite, WebSession
from almanac.store.models.orders import OPEN_DRAFTS


class PersonRow(NamedTuple):
    """A person with when they were seen last, and until when a link of theirs is open."""

    user: User
    seen_at: datetime | None
    link_until: datetime | None


def people(session: Session, now: datetime) -> list[PersonRow]:
    """Everybody who may sign in or might, those who may first, by name."""
    seen = (
        select(WebSession.user_id, func.max(func.coalesce(WebSession.seen_at, WebSession.began_at)).label("at"))
        .group_by(WebSession.user_id)
        .subquery()
    )
    query = (
        select(User, seen.c.at, PasswordLink.expires_at)
        .outerjoin(seen, seen.c.user_id == User.id)
        .outerjoin(PasswordLink, (PasswordLink.user_id == User.id) & PasswordLink.ended_at.is_(None) & (PasswordLink.expires_at > now))
        .order_by(User.active.desc(), User.name, User.id)
    )
    return [PersonRow(user, at, until) for user, at, until in session.execute(query)]


def sites_of(session: Session) -> dict[int, tuple[str, ...]]:
    """Codes of the sites people are bound to, by user; who is bound to none is not among them."""
    query = select(UserSite.user_id, Site.code).join(Site, Site.id == UserSite.site_id).order_by(Site.code)
    found: dict[int, list[str]] = {}
    for user, code in session.execute(query):
        found.setdefault(user, []).append(code)
    return {user: tuple(codes) for user, codes in found.items()}


def bound_to(session: Session, user_id: int) -> frozenset[int]:
    """Sites a user is bound to; none is all of them."""
    return frozenset(session.scalars(select(UserSite.site_id).where(UserSite.user_id == user_id)))


def bind(session: Session, user_id: int, sites: Iterable[int]) -> None:
    """Bind a user to sites in place of those before."""
    session.execute(delete(UserSite).where(UserSite.user_id == user_id))
    session.add_all(UserSite(user_id=user_id, site_id=site) for site in sites)
    session.flush()


def site_ids(session: Session, codes: Sequence[str]) -> Mapping[str, int]:
    """Ids by code, of those there are."""
    return {code: number for code, number in session.execute(select(Site.code, Site.id).where(Site.code.in_(codes)))}


def active_leads(session: Session) -> set[int]:
    """Leads who may sign in; their rows are locked, so that two who end one another leave one."""
    return set(session.scalars(select(User.id).where(User.role == "lead", User.active).with_for_update()))


def end_links(session: Session, user_id: int, now: datetime) -> None:
    """No link of a user opens any more."""
    session.execute(update(PasswordLink).where(PasswordLink.user_id == user_id, PasswordLink.ended_at.is_(None)).values(ended_at=now))


def open_link(session: Session, token_hash: str, now: datetime) -> PasswordLink | None:
    """The link of a token while it opens, locked: of two who use it at once one comes second."""
    query = select(PasswordLink).where(
        PasswordLink.token_hash == token_hash, PasswordLink.ended_at.is_(None), PasswordLink.expires_at > now
    )
    return session.scalar(query.with_for_update())


def end_sign_ins(session: Session, user_id: int, now: datetime) -> int:
    """End a user's sign-ins on every browser; returns how many."""
    ended = update(WebSession).where(WebSession.user_id == user_id, WebSession.ended_at.is_(None)).values(ended_at=now)
    return len(session.execute(ended.returning(WebSession.id)).all())


def open_drafts(session: Session, user_id: int) -> int:
    """How many drafts of orders a user began that are neither sent nor dropped."""
    query = select(func.count()).where(OrderDraft.author_id == user_id, OrderDraft.state.in_(OPEN_DRAFTS))
    return session.scalar(query) or 0


def let_go(session: Session, user_id: int, ended_by: int, now: datetime) -> tuple[int, int]:
    """End a user's keys, and let go of the jobs they have in hand; returns how many of each."""
    keys = (
        update(AccessToken).where(AccessToken.user_id == user_id, AccessToken.ended_at.is_(None)).values(ended_at=now, ended_by_id=ended_by)
    )
    jobs = update(Job).where(Job.lease_user_id == user_id).values(lease_user_id=None, lease_device=None, lease_until=None)
    return len(session.execute(keys.returning(AccessToken.id)).all()), len(session.execute(jobs.returning(Job.id)).all())
