"""A backup of any schema there ever was comes back and is brought up to date."""

from __future__ import annotations

import subprocess
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from sqlalchemy import text

from almanac.launch.cluster import Cluster
from almanac.launch.databases import administer
from almanac.store import backups
from almanac.store.engine import MIGRATIONS, connect, migrate

PERSON = """INSERT INTO "user" (login, name, role, password_hash, active) VALUES ('quay', 'M. Quay', 'lead', 'none', true)"""


@pytest.mark.parametrize("schema", backups.known_schemas())
def test_a_backup_of_every_schema_is_restored_and_brought_up_to_date(cluster: Cluster, tmp_path: Path, schema: str) -> None:
    administer(
        cluster,
        *(f"DROP DATABASE IF EXISTS {name} WITH (FORCE)" for name in ("back_then", "up_to_date")),
        "CREATE DATABASE back_then",
        "CREATE DATABASE up_to_date",
    )
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    engine = connect(cluster.url("back_then"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, schema)
        connection.execute(text(PERSON))
    engine.dispose()
    file = tmp_path / "then.dump"
    assert backups.dump(cluster.url("back_then"), file).schema == schema
    backups.restore(cluster.url(), file, "up_to_date")
    engine = connect(cluster.url("up_to_date"))
    migrate(engine)
    with engine.connect() as connection:
        assert connection.scalar(text("SELECT version_num FROM alembic_version")) == backups.known_schemas()[-1]
        assert connection.scalar(text("""SELECT name FROM "user" WHERE login = 'quay'""")) == "M. Quay"
    engine.dispose()


def test_no_password_stands_on_a_command_line(cluster: Cluster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    seen: list[tuple[list[str], dict[str, str]]] = []
    run = subprocess.run

    def watched(command: list[str], **more: Any) -> Any:
        seen.append((command, more["env"]))
        return run(command, **more)

    administer(cluster, "DROP DATABASE IF EXISTS back_then WITH (FORCE)", "CREATE DATABASE back_then")
    engine = connect(cluster.url("back_then"))
    migrate(engine)
    engine.dispose()
    monkeypatch.setattr("almanac.store.backups.subprocess.run", watched)
    backups.dump(cluster.url("back_then"), tmp_path / "one.dump")
    ((command, environment),) = seen
    assert cluster.key("database") not in " ".join(command)
    assert (environment["PGPASSWORD"], environment["PGDATABASE"]) == (cluster.key("database"), "back_then")
