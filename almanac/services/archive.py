"""The whole company as open files, a CSV a table in one zip; read into an empty company it gives the same records, to the last digit.

Users come without passwords, signed out; what the server keeps for itself (sessions, answers, which come again) stays behind.
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO, Any

import psycopg
from sqlalchemy import Connection, Table, insert, select

from almanac.services.errors import Fault, Refused
from almanac.store import archive as store
from almanac.store.models import Role, User

FORMAT = 1
MANIFEST = "company.json"
USERS = "user.csv"
BLOCK = 1 << 20
LARGEST = 4 << 30
"""Bytes an archive may unfold to; a fleet of a million machines takes about one in four of it."""
NO_PASSWORD = "!"  # noqa: S105 -- matches no hash, so nobody signs in by it


@dataclass(frozen=True)
class Archive:
    """What was written, or read: rows by table."""

    rows: dict[str, int]

    @property
    def total(self) -> int:
        """Rows of all tables."""
        return sum(self.rows.values())


def write_archive(connection: Connection, file: IO[bytes], *, made_on: str) -> Archive:
    """Write everything the company recorded, as it stood at one moment.

    Parameters
    ----------
    connection : of a transaction that sees one moment (REPEATABLE READ), used for nothing else
    """
    rows: dict[str, int] = {}
    told: dict[str, Any] = {"format": FORMAT, "schema": store.schema_of(connection), "made_on": made_on, "tables": {}}
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as folder:
        folder.writestr(USERS, _users(connection))
        for table in store.company_tables():
            digest = hashlib.sha256()
            with folder.open(f"{table.name}.csv", "w", force_zip64=True) as written:
                for block in store.copy_out(connection, table):
                    digest.update(block)
                    written.write(block)
            rows[table.name] = store.rows_of(connection, table)
            told["tables"][table.name] = {"rows": rows[table.name], "sha256": digest.hexdigest()}
        folder.writestr(MANIFEST, json.dumps(told, indent=2))
    return Archive(rows)


def _users(connection: Connection) -> bytes:
    lines = io.StringIO()
    writer = csv.writer(lines, lineterminator="\n")
    writer.writerow(("login", "name", "role"))
    writer.writerows(connection.execute(select(User.login, User.name, User.role).order_by(User.login)))
    return lines.getvalue().encode()


def read_archive(connection: Connection, file: IO[bytes]) -> Archive:
    """Read an archive into an empty company, in the caller's transaction: all of it, the same to the last digit, or nothing.

    Who is not there yet is known by name and cannot sign in until a lead lets them.

    Raises
    ------
    Refused : no archive, one of another schema, damaged, or a company that is not empty
    """
    try:
        folder = zipfile.ZipFile(file)
    except zipfile.BadZipFile as error:
        raise _refused("this is no zip file: choose the one that was written as the whole company") from error
    with folder:
        told = _manifest(folder)
        _check_schema(connection, told)
        _check_empty(connection)
        _read_users(connection, folder)
        own = store.take_settings_away(connection)
        rows = {table.name: _read_table(connection, folder, table, told["tables"][table.name]) for table in store.company_tables()}
    for table in store.company_tables():
        store.go_on_counting(connection, table)
        _check_same(connection, table, told["tables"][table.name]["sha256"])
    store.put_back(connection, own)
    return Archive(rows)


def _refused(words: str) -> Refused:
    return Refused(Fault("file", words))


def _manifest(folder: zipfile.ZipFile) -> dict[str, Any]:
    """What an archive says of itself, once it says all that is needed."""
    names = {one.filename for one in folder.infolist()}
    if MANIFEST not in names:
        raise _refused(f"{MANIFEST} is not in this zip: choose the one that was written as the whole company")
    if sum(one.file_size for one in folder.infolist()) > LARGEST:
        raise _refused("this archive unfolds to more than 4 GB: read it by a backup instead (bin/almanac restore)")
    try:
        told = json.loads(folder.read(MANIFEST))
        tables = {str(name): {"rows": int(one["rows"]), "sha256": str(one["sha256"])} for name, one in told["tables"].items()}
        found = {"format": int(told["format"]), "schema": str(told["schema"]), "tables": tables}
    except (ValueError, KeyError, TypeError, AttributeError, zipfile.BadZipFile) as error:
        raise _refused(f"{MANIFEST} cannot be read: write the archive again") from error
    if found["format"] != FORMAT:
        raise _refused(f"this archive is of format {found['format']}, and format {FORMAT} is read here")
    wanted = [f"{table.name}.csv" for table in store.company_tables()]
    missing = [name for name in (*wanted, USERS) if name not in names or (name != USERS and name[:-4] not in tables)]
    if missing:
        raise _refused(f"{missing[0]} is missing from the archive: write it again")
    return found


def _check_schema(connection: Connection, told: dict[str, Any]) -> None:
    own = store.schema_of(connection)
    if told["schema"] != own:
        raise _refused(
            f"the archive was written by a version whose records are of schema {told['schema']}, this one's are of {own}: "
            "bring the company it comes from to this version first, and write it again"
        )


def _check_empty(connection: Connection) -> None:
    for table in store.company_tables():
        if table.name != "setting" and store.rows_of(connection, table):
            raise _refused(
                f"this company is not empty: it has rows of {table.name} already. A whole company is read into an empty one only "
                "(bin/start --empty --data FOLDER)"
            )


def _read_users(connection: Connection, folder: zipfile.ZipFile) -> None:
    try:
        rows = list(csv.DictReader(io.StringIO(folder.read(USERS).decode())))
        people = [(row["login"].lower(), row["name"], Role(row["role"]).value) for row in rows]
    except (KeyError, ValueError, AttributeError, csv.Error, zipfile.BadZipFile) as error:
        raise _refused(f"{USERS} cannot be read: login, name and role were wanted") from error
    there = set(connection.scalars(select(User.login)))
    new = [{"login": a, "name": b, "role": c, "password_hash": NO_PASSWORD, "active": False} for a, b, c in people if a not in there]
    if new:
        connection.execute(insert(User), new)


def _read_table(connection: Connection, folder: zipfile.ZipFile, table: Table, told: dict[str, Any]) -> int:
    name = f"{table.name}.csv"
    try:
        with folder.open(name) as content:
            count = store.copy_in(connection, table, _blocks(content))
    except zipfile.BadZipFile as error:
        raise _refused(f"{name} is damaged: write the archive again") from error
    except psycopg.Error as error:
        context = f" ({error.diag.context.splitlines()[0]})" if error.diag.context else ""
        raise _refused(f"{name}: {error.diag.message_primary or 'a row cannot be read'}{context}; nothing was read") from error
    if count != told["rows"]:
        raise _refused(f"{name} holds {count:,} rows and {told['rows']:,} were written: the archive was changed since; write it again")
    return count


def _blocks(content: IO[bytes]) -> Iterator[bytes]:
    while block := content.read(BLOCK):
        yield block


def _check_same(connection: Connection, table: Table, wanted: str) -> None:
    """What was read, written again, is what the archive holds."""
    digest = hashlib.sha256()
    for block in store.copy_out(connection, table):
        digest.update(block)
    if digest.hexdigest() != wanted:
        raise _refused(f"{table.name}.csv was changed since it was written: write the archive again; nothing was read")
