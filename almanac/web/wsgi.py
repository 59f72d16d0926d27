"""What the production server serves."""

from __future__ import annotations

import os

from flask import Flask

from almanac.store.engine import connect
from almanac.web.app import create_app


def production_app(database: str, secret: str, *, workers: bool = True) -> Flask:
    """The application on a database that is up to date, reached by loopback and by the names in ALMANAC_HOSTS, with workers behind it."""
    engine = connect(database)
    hosts = [name for name in os.environ.get("ALMANAC_HOSTS", "").replace(",", " ").split() if name]
    return create_app(engine, secret_key=secret, workers=workers, hosts=hosts, mail=os.environ.get("ALMANAC_MAIL", ""))


def development_app() -> Flask:
    """The same for Flask's reloader, which knows nothing but the environment."""
    return production_app(os.environ["ALMANAC_DATABASE"], os.environ["ALMANAC_SECRET"], workers=False)
