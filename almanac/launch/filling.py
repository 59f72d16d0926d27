"""A database brought up to date and, where it is empty, filled: with the demo, or with the company and the first user of your own."""

from __future__ import annotations

import getpass
import os
import sys

import click
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from almanac.demo import catalog
from almanac.launch.cluster import Cluster, LaunchError
from almanac.launch.databases import is_demo, is_empty, load_demo, open_database
from almanac.services.accounts import create_user
from almanac.services.clock import read_clock
from almanac.services.company_settings import describe_company
from almanac.services.errors import Refused
from almanac.store.models import Role


def filled(cluster: Cluster, *, reset_demo: bool, empty: bool) -> list[str]:
    """Open the database of a running cluster and fill it where nobody works yet; returns the demo's sign-ins as lines, if it is the demo.

    Raises
    ------
    LaunchError : the database refuses, or nobody is there to name the first user
    """
    try:
        engine = open_database(cluster, reset=reset_demo)
        _fill(engine, empty=empty)
        found = is_demo(engine)
        engine.dispose()
    except OperationalError as error:
        raise LaunchError(f"the database refused: {str(error.orig).strip().splitlines()[0]}") from error
    return [f"{role:<10} {login:<7} {password:<18} {name}" for login, name, role, password in catalog.USERS] if found else []


def _fill(engine: Engine, *, empty: bool) -> None:
    if not is_empty(engine):
        return
    if not empty:
        click.echo("Loading the demo company", err=True)
        load_demo(engine)
        return
    if not sys.stdin.isatty() and os.environ.get("ALMANAC_FIRST_PASSWORD") is None:
        raise LaunchError("--empty asks for the first user: run it in a terminal, or make one with bin/almanac user add")
    click.echo("The database is empty.", err=True)
    _describe_company(engine)
    click.echo("The first user is a lead.", err=True)
    login, name = click.prompt("Login"), click.prompt("Full name")
    while True:
        password = os.environ.get("ALMANAC_FIRST_PASSWORD") or getpass.getpass("Password (12 characters or more): ")
        try:
            with Session(engine) as session:
                create_user(session, login=login, name=name, role=Role.LEAD, password=password)
                session.commit()
            return
        except Refused as error:
            if os.environ.get("ALMANAC_FIRST_PASSWORD"):
                raise LaunchError(str(error)) from error
            click.echo(f"  {error}", err=True)


def _describe_company(engine: Engine) -> None:
    while True:
        name = click.prompt("Company")
        currency, zone = click.prompt("Currency", default="EUR"), click.prompt("Time zone", default="UTC")
        try:
            with Session(engine) as session:
                describe_company(session, clock=read_clock(session), name=name, currency=currency.upper(), time_zone=zone)
                session.commit()
            return
        except Refused as error:
            click.echo(f"  {error}", err=True)
