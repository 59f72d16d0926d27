"""What the production server serves."""

from __future__ import annotations

import os

from flask import Flask

from almanac.store.engine import connect
from almanac.web.app import create_app
from almanac.web.outside import outside_of


def production_app(database: str, secret: str, *, workers: bool = True) -> Flask:
    """The application on a database that is up to date, and in the world the environment tells of."""
    engine = connect(database)
    return create_app(engine, secret_key=secret, workers=workers, outside=outside_of(os.environ))


def development_app() -> Flask:
    """The same for Flask's reloader, which knows nothing but the environment."""
    return production_app(os.environ["ALMANAC_DATABASE"], os.environ["ALMANAC_SECRET"], workers=False)
