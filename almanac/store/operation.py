"""How the almanac itself is doing: its people, its queue, its answers, its backups, the room it takes."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store import answers, queue

PEOPLE = 'SELECT role, count(*) FROM "user" WHERE active GROUP BY role'
WORK = "SELECT status::text, count(*) FROM procrastinate_jobs GROUP BY status"
LAST_GOOD = "SELECT max(at) FROM backup_run WHERE good"
COUNTS = """SELECT (SELECT count(*) FROM web_session WHERE ended_at IS NULL),
(SELECT count(*) FROM audit_entry WHERE event = 'sign_in_failed'),
(SELECT count(*) FROM asset WHERE retired_on IS NULL), (SELECT count(*) FROM incident), pg_database_size(current_database())"""


class Operation(NamedTuple):
    """One look. people : who may sign in, by role · work : pieces in the queue, by status · last_good : backup made by itself

    backup_failed : whether the last one failed · sign_ins : not ended on purpose · room : of the database, bytes
    """

    schema: str
    people: Mapping[str, int]
    work: Mapping[str, int]
    workers: int
    answers: int
    answer_bytes: int
    last_good: datetime | None
    backup_failed: bool
    sign_ins: int
    failed_sign_ins: int
    machines: int
    incidents: int
    room: int


def schema_at(session: Session) -> str:
    """The migration a database is at."""
    return str(session.scalar(text("SELECT version_num FROM alembic_version")))


def look(session: Session) -> Operation:
    """How it is doing now."""
    last = queue.last_backup(session)
    kept, size = answers.kept(session)
    sign_ins, failed, machines, incidents, room = session.execute(text(COUNTS)).one()
    return Operation(
        schema=schema_at(session),
        people={str(role): int(number) for role, number in session.execute(text(PEOPLE))},
        work={str(status): int(number) for status, number in session.execute(text(WORK))},
        workers=queue.workers(session),
        answers=kept,
        answer_bytes=size,
        last_good=session.scalar(text(LAST_GOOD)),
        backup_failed=last is not None and not last.good,
        sign_ins=int(sign_ins),
        failed_sign_ins=int(failed),
        machines=int(machines),
        incidents=int(incidents),
        room=int(room),
    )
