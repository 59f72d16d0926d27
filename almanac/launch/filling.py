"""A database brought up to date and, where it is empty, filled: with the demo, or with the company and the first user of your own."""

from __future__ import annotations

import os

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
from almanac.services.first_user import new_code
from almanac.store.models import Role

VARIABLES = {
    "company": ("ALMANAC_COMPANY", "Your company"),
    "currency": ("ALMANAC_CURRENCY", "EUR"),
    "zone": ("ALMANAC_TIME_ZONE", "UTC"),
    "login": ("ALMANAC_FIRST_LOGIN", "lead"),
    "name": ("ALMANAC_FIRST_NAME", "First lead"),
    "password": ("ALMANAC_FIRST_PASSWORD", ""),
}
"""Environment variables by which an empty company begins without a browser, and what holds without them."""


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
    given = {name: os.environ.get(variable, default) for name, (variable, default) in VARIABLES.items()}
    if not given["password"]:
        with Session(engine) as session:
            code = new_code(session, read_clock(session))
            session.commit()
        click.echo(f"The company is empty. Its first user is made in the browser, with this code: {code}", err=True)
        return
    try:
        with Session(engine) as session:
            clock = read_clock(session)
            describe_company(session, clock=clock, name=given["company"], currency=given["currency"].upper(), time_zone=given["zone"])
            create_user(session, login=given["login"], name=given["name"], role=Role.LEAD, password=given["password"])
            session.commit()
    except Refused as error:
        raise LaunchError(f"the first user cannot be made as the environment says: {error}") from error
    click.echo(f"The first user, {given['login']}, was made as the environment says.", err=True)
