"""The database connection of a process and the migrations that bring a database up to date."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine

MIGRATIONS = Path(__file__).resolve().parents[2] / "migrations"


def connect(url: str) -> Engine:
    """An engine whose pooled connections are checked before use, so a restarted database is not an error."""
    return create_engine(url, pool_pre_ping=True, pool_size=4, max_overflow=4)


def migrate(engine: Engine) -> None:
    """Apply every migration that is missing, in one transaction."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
