"""Backups: pg_dump of one moment with a digest of every table of that very moment, proven by restoring them beside the database.

The digest of a table is its number of rows and the sum of their hashes, so that it does not depend on their order.
"""

from __future__ import annotations

import json
import os
import subprocess
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, create_engine, make_url, text
from sqlalchemy.engine import URL
from sqlalchemy.exc import DBAPIError

from almanac.store.engine import MIGRATIONS

CHECK = "almanac_check"
"""The scratch database a backup is restored into; taken away afterwards."""
PREFIX, SUFFIX = "almanac-", ".dump"
TABLES = """SELECT c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE n.nspname = 'public' AND c.relkind IN ('r', 'p') ORDER BY 1"""
ALIKE = (
    "SET LOCAL TimeZone = 'UTC'",
    "SET LOCAL DateStyle = 'ISO, YMD'",
    "SET LOCAL extra_float_digits = 3",
    "SET LOCAL bytea_output = 'hex'",
)
"""Values read alike wherever a connection is opened."""


class BackupError(Exception):
    """A backup could not be made, proven or restored; the message is one line and names the cure."""


@dataclass(frozen=True)
class Backup:
    """A backup and what it holds. schema : the migration it is at · tables : rows and digest by name"""

    file: Path
    made_at: datetime
    schema: str
    tables: Mapping[str, tuple[int, str]]

    @property
    def rows(self) -> int:
        return sum(rows for rows, _ in self.tables.values())


def programs() -> Path:
    """Folder of the newest PostgreSQL programs Debian installed.

    Raises
    ------
    BackupError : there are none
    """
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/pg_dump"), key=lambda path: int(path.parts[-3]))
    if not found:
        raise BackupError("pg_dump is not installed (as root: apt-get install postgresql-client)")
    return found[-1].parent


def dump(url: str, file: Path) -> Backup:
    """Write what a database holds while people go on working; one that fails leaves no file. See `almanac.store.proven` for backups.

    Raises
    ------
    BackupError : the file cannot be written, or the database not read
    """
    try:
        os.close(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600))  # pg_dump keeps the mode of a file that is there
        file.chmod(0o600)
    except OSError as error:
        raise BackupError(f"cannot write {file}: {error.strerror} (choose another file)") from error
    try:
        with _moment(url) as connection:
            moment = connection.scalar(text("SELECT pg_export_snapshot()"))
            _run("pg_dump", url, "--format=custom", "--no-owner", f"--snapshot={moment}", f"--file={file}")
            backup = Backup(file, datetime.now(UTC), _schema(connection), digests(connection))
    except (BackupError, DBAPIError) as error:
        file.unlink(missing_ok=True)
        raise BackupError(f"the backup failed: {_line(error)}") from error
    written = {"made_at": backup.made_at.isoformat(), "schema": backup.schema, "tables": backup.tables}
    manifest_of(file).write_text(json.dumps(written))
    manifest_of(file).chmod(0o600)
    return backup


@contextmanager
def _moment(url: str) -> Iterator[Connection]:
    """A connection that sees one moment, whose values read alike wherever it is opened."""
    engine = create_engine(url)
    try:
        with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection, connection.begin():
            for setting in ALIKE:
                connection.execute(text(setting))
            yield connection
    finally:
        engine.dispose()


def digests(connection: Connection) -> dict[str, tuple[int, str]]:
    """Rows and digest of every table."""
    found = {}
    for name in connection.scalars(text(TABLES)).all():
        query = f'SELECT count(*), COALESCE(sum(hashtextextended(t::text, 0)::numeric), 0)::text FROM "{name}" t'
        rows, digest = connection.execute(text(query)).one()
        found[str(name)] = (int(rows), str(digest))
    return found


def prove(url: str, file: Path) -> Backup:
    """Restore a backup into a scratch database and hold every table against what it was when the backup was made.

    Raises
    ------
    BackupError : it is cut, of another kind, without its manifest, or a table differs
    """
    wanted = read_manifest(file)
    try:
        _administer(url, f"DROP DATABASE IF EXISTS {CHECK} WITH (FORCE)", f"CREATE DATABASE {CHECK}")
        beside = make_url(url).set(database=CHECK)
        _run("pg_restore", _words(beside), "--no-owner", "--exit-on-error", f"--dbname={CHECK}", str(file))
        with _moment(_words(beside)) as connection:
            found = digests(connection)
    except (BackupError, DBAPIError) as error:
        raise BackupError(f"{file} does not restore: {_line(error)} (make another backup)") from error
    finally:
        _administer(url, f"DROP DATABASE IF EXISTS {CHECK} WITH (FORCE)")
    differing = sorted(name for name in wanted.tables.keys() | found.keys() if wanted.tables.get(name) != found.get(name))
    if differing:
        raise BackupError(f"{file} restores otherwise than it was: {', '.join(differing)} (make another backup)")
    return wanted


def restore(url: str, file: Path, database: str) -> None:
    """Restore a backup into an empty database, if this program knows its schema.

    Raises
    ------
    BackupError : it does not restore, or was made by a newer program
    """
    target = make_url(url).set(database=database)
    _run("pg_restore", _words(target), "--no-owner", "--exit-on-error", f"--dbname={database}", str(file))
    with _moment(_words(target)) as connection:
        schema = _schema(connection)
    known = known_schemas()
    if schema not in known:
        raise BackupError(f"it was made by a newer almanac (schema {schema}; this one knows up to {known[-1]}): install that one first")


def known_schemas() -> list[str]:
    """Migrations this program has, the first one first."""
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return sorted(script.revision for script in ScriptDirectory.from_config(config).walk_revisions())


def rotate(folder: Path, keep: int) -> list[Path]:
    """Take away the oldest backups of a folder beyond so many, and what killed ones left; returns what went."""
    newest_first = sorted((path for path in folder.glob(f"{PREFIX}*") if path.suffix in (SUFFIX, ".age")), reverse=True)
    left = [*newest_first[max(keep, 1) :], *folder.glob(f"{PREFIX}*.partial*")]
    for path in left:
        path.unlink(missing_ok=True)
        manifest_of(path).unlink(missing_ok=True)
    return left


def dated(folder: Path, at: datetime) -> Path:
    """The file of a backup made at a moment."""
    return folder / f"{PREFIX}{at:%Y%m%d-%H%M%S}{SUFFIX}"


def manifest_of(file: Path) -> Path:
    """What a backup holds stands beside it, under its name without what encrypts it."""
    return file.with_name(file.name.removesuffix(".age") + ".json")


def read_manifest(file: Path) -> Backup:
    """What a backup held when it was made.

    Raises
    ------
    BackupError : nothing stands beside it that says so
    """
    try:
        said = json.loads(manifest_of(file).read_text())
        tables = {name: (int(rows), str(digest)) for name, (rows, digest) in said["tables"].items()}
        return Backup(file, datetime.fromisoformat(said["made_at"]), str(said["schema"]), tables)
    except (OSError, ValueError, KeyError, AttributeError) as error:
        raise BackupError(f"{manifest_of(file)} does not say what {file.name} held (make another backup)") from error


def _schema(connection: Connection) -> str:
    return str(connection.scalar(text("SELECT version_num FROM alembic_version")))


def _administer(url: str, *statements: str) -> None:
    engine = create_engine(make_url(url).set(database="postgres"), isolation_level="AUTOCOMMIT")
    try:
        with engine.connect() as connection:
            for statement in statements:
                connection.execute(text(statement))
    finally:
        engine.dispose()


def _run(program: str, url: str, *arguments: str) -> None:
    """A program of PostgreSQL on a database; no password shows in a process list."""
    where = make_url(url)
    told = {
        "PGHOST": where.host or "",
        "PGPORT": str(where.port or 5432),
        "PGUSER": where.username or "",
        "PGDATABASE": where.database or "",
    }
    environment = {**os.environ, **told, "PGPASSWORD": str(where.password or "")}
    command = [str(programs() / program), *arguments]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise BackupError((done.stderr.strip().splitlines() or [f"{program} failed"])[-1])


def _words(url: URL) -> str:
    return url.render_as_string(hide_password=False)


def _line(error: Exception) -> str:
    return str(error).strip().splitlines()[0]
