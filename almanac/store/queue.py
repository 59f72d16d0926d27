"""The queue of long work, in PostgreSQL: put in with the transaction that asks for it, listed, cancelled, tried again."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from procrastinate import App, SyncPsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.store.models import BackupRun

QUEUE = App(connector=SyncPsycopgConnector())
"""Only ever used on the connection of a session."""
COMPUTE, REFRESH, SHARE, LIST = "compute", "refresh", "share", "list"
UNDER_WAY = "SELECT EXISTS (SELECT 1 FROM procrastinate_jobs WHERE lock = :lock AND status IN ('todo', 'doing'))"
LISTED = """
SELECT j.id, j.task_name, j.status::text AS status, j.args, j.attempts, j.abort_requested, p.words, p.done, p.of,
       (SELECT min(e.at) FROM procrastinate_events e WHERE e.job_id = j.id AND e.type = 'deferred') AS asked_at,
       (SELECT max(e.at) FROM procrastinate_events e WHERE e.job_id = j.id AND e.type = 'started') AS began_at,
       (SELECT max(e.at) FROM procrastinate_events e WHERE e.job_id = j.id AND e.type NOT IN ('deferred', 'started')) AS ended_at
FROM procrastinate_jobs j LEFT JOIN work_progress p ON p.job_id = j.id
ORDER BY j.status = 'doing' DESC, j.status = 'todo' DESC, j.id DESC
LIMIT :most
"""
PROGRESS = """
SELECT p.words, p.done, p.of FROM procrastinate_jobs j JOIN work_progress p ON p.job_id = j.id
WHERE j.status = 'doing' AND j.lock = :lock ORDER BY j.id DESC LIMIT 1
"""
OUTRANKED = """
SELECT EXISTS (
    SELECT 1 FROM procrastinate_jobs w JOIN procrastinate_jobs j ON j.id = :id
    WHERE w.status = 'todo' AND w.priority > j.priority AND (w.scheduled_at IS NULL OR w.scheduled_at <= now())
      AND NOT EXISTS (SELECT 1 FROM procrastinate_jobs d WHERE d.lock = w.lock AND d.status = 'doing')
) AND (SELECT count(*) FROM procrastinate_workers) <= (SELECT count(*) FROM procrastinate_jobs WHERE status = 'doing')
"""
REPORT = """
INSERT INTO work_progress (job_id, words, done, of) VALUES (:job_id, :words, :done, :of)
ON CONFLICT (job_id) DO UPDATE SET words = EXCLUDED.words, done = EXCLUDED.done, of = EXCLUDED.of
"""
TIDY = """
DELETE FROM work_progress p WHERE NOT EXISTS (SELECT 1 FROM procrastinate_jobs j WHERE j.id = p.job_id)
"""


@dataclass(frozen=True)
class Work:
    """A piece of long work: what, how it stands, and when."""

    id: int
    task: str
    status: str
    arguments: dict[str, Any]
    attempts: int
    ending: bool
    words: str | None
    done: int | None
    of: int | None
    asked_at: datetime | None
    began_at: datetime | None
    ended_at: datetime | None


def enqueue(session: Session, task: str, arguments: dict[str, Any], *, lock: str, priority: int = 0, anew: bool = False) -> bool:
    """Ask for work with this transaction; False where the same waits already. What shares a lock is never done side by side.

    anew : also where the same is being done, because what it has read may be older than this transaction
    """
    if not anew and session.scalar(text(UNDER_WAY), {"lock": lock}):
        return False
    try:
        with session.begin_nested():
            # Taken inside: only a connection that is asked for here gets the savepoint that a refusal goes back to. Without it the whole
            # transaction would be lost, and its commit would say nothing of that.
            driver = session.connection().connection.driver_connection
            QUEUE.configure_task(task, lock=lock, queueing_lock=lock, priority=priority, connection=driver).defer(**arguments)
    except AlreadyEnqueued:
        return False
    return True


def listed(session: Session, *, most: int = 60) -> list[Work]:
    """What runs, what waits, and what failed or was cancelled, in this order."""
    return [Work(*row) for row in session.execute(text(LISTED), {"most": most})]


def cancel(session: Session, job_id: int) -> bool:
    """Cancel work that waits, and have work that runs end at its next look; False where there is no such work."""
    return session.scalar(text("SELECT procrastinate_cancel_job_v1(:id, true, false)"), {"id": job_id}) is not None


def under(session: Session, lock: str) -> tuple[int, str] | None:
    """Number and state of the latest work under a lock; None where it is gone, which is done."""
    query = "SELECT id, status::text AS status FROM procrastinate_jobs WHERE lock = :lock ORDER BY id DESC LIMIT 1"
    row = session.execute(text(query), {"lock": lock}).first()
    return None if row is None else (row.id, row.status)


def try_again(session: Session, job_id: int) -> bool:
    """Put work that failed back into the queue; False where none with that number has."""
    failed = session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE id = :id AND status = 'failed'"), {"id": job_id})
    if not failed:
        return False
    session.execute(text("SELECT procrastinate_retry_job_v2(:id, now(), NULL, NULL, NULL)"), {"id": job_id})
    return True


def is_ended(session: Session, job_id: int) -> bool:
    """Whether somebody asked for work that runs to end."""
    return bool(session.scalar(text("SELECT abort_requested FROM procrastinate_jobs WHERE id = :id"), {"id": job_id}))


def is_outranked(session: Session, job_id: int) -> bool:
    """Whether something more urgent than work that runs waits, and no worker is free for it."""
    return bool(session.scalar(text(OUTRANKED), {"id": job_id}))


def report(session: Session, job_id: int, words: str, done: int, of: int) -> None:
    """Say how far work is."""
    session.execute(text(REPORT), {"job_id": job_id, "words": words, "done": done, "of": of})


def progress(session: Session, lock: str) -> tuple[str, int, int] | None:
    """How far the work under a lock is; None where it does not run or has not said."""
    row = session.execute(text(PROGRESS), {"lock": lock}).first()
    return None if row is None else (row.words, row.done, row.of)


def waiting(session: Session) -> int:
    """Pieces of work that wait or run."""
    return int(session.scalar(text("SELECT count(*) FROM procrastinate_jobs WHERE status IN ('todo', 'doing')")) or 0)


def workers(session: Session) -> int:
    """Workers that gave a sign of life within the last seconds."""
    return int(session.scalar(text("SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - interval '15 seconds'")) or 0)


def take_failed(session: Session, lock: str) -> bool:
    """Whether work under a lock failed; it is taken off the list, because whoever asks is told why."""
    gone = session.execute(text("DELETE FROM procrastinate_jobs WHERE lock = :lock AND status = 'failed' RETURNING id"), {"lock": lock})
    return bool(gone.all())


def withdraw(session: Session, locks: list[str]) -> int:
    """Take work that waits under some locks out of the queue again, and say how many pieces it was: nobody else will do it."""
    gone = session.execute(text("DELETE FROM procrastinate_jobs WHERE lock = ANY(:locks) AND status = 'todo'"), {"locks": locks})
    return int(gone.rowcount)  # type: ignore[attr-defined]


def tidy(session: Session) -> None:
    """Forget how far work was that is gone."""
    session.execute(text(TIDY))


def last_backup(session: Session) -> BackupRun | None:
    """What came of the last backup that was made by itself; None where none ever was."""
    return session.scalar(select(BackupRun).order_by(BackupRun.id.desc()).limit(1))
