"""Making users and describing the company from the command line."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import select

from almanac.launch.cluster import Cluster, LaunchError
from almanac.launch.databases import one_session
from almanac.services.accounts import create_user
from almanac.services.audit import Event, note
from almanac.services.clock import read_clock
from almanac.services.company_settings import describe_company
from almanac.services.errors import Refused
from almanac.services.people import make_link
from almanac.store.models import Role, User


def add(cluster: Cluster, *, login: str, name: str, role: str, password: str) -> None:
    """Add a user, or say why not in one line."""
    with one_session(cluster) as session:
        try:
            user = create_user(session, login=login, name=name, role=Role(role), password=password)
            note(session, Event.PERSON_ADDED, by=None, subject=user.login, at=datetime.now(UTC), words=f"{name}, {role}, from the shell")
        except Refused as error:
            raise LaunchError(str(error)) from error


def link(cluster: Cluster, *, login: str) -> str:
    """A token by which a person chooses a password, for when no lead can sign in; or say why not in one line."""
    with one_session(cluster) as session:
        user = session.scalar(select(User).where(User.login == login.strip().lower()))
        if user is None:
            raise LaunchError(f"there is no login {login}")
        try:
            return make_link(session, user.id, by=None, now=datetime.now(UTC))
        except Refused as error:
            raise LaunchError(str(error)) from error


def describe(cluster: Cluster, *, name: str | None, currency: str | None, time_zone: str | None) -> None:
    """Name the company and its money and time, or say why not in one line."""
    with one_session(cluster) as session:
        try:
            describe_company(session, clock=read_clock(session), name=name, currency=currency, time_zone=time_zone)
        except Refused as error:
            raise LaunchError(str(error)) from error
