"""Making users and describing the company from the command line."""

from __future__ import annotations

from almanac.launch.cluster import Cluster, LaunchError
from almanac.launch.databases import one_session
from almanac.services.accounts import create_user
from almanac.services.clock import read_clock
from almanac.services.company_settings import describe_company
from almanac.services.errors import Refused
from almanac.store.models import Role


def add(cluster: Cluster, *, login: str, name: str, role: str, password: str) -> None:
    """Add a user, or say why not in one line."""
    with one_session(cluster) as session:
        try:
            create_user(session, login=login, name=name, role=Role(role), password=password)
        except Refused as error:
            raise LaunchError(str(error)) from error


def describe(cluster: Cluster, *, name: str | None, currency: str | None, time_zone: str | None) -> None:
    """Name the company and its money and time, or say why not in one line."""
    with one_session(cluster) as session:
        try:
            describe_company(session, clock=read_clock(session), name=name, currency=currency, time_zone=time_zone)
        except Refused as error:
            raise LaunchError(str(error)) from error
