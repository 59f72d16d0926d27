"""A worker process: takes work from the queue one piece at a time, says how far it is, and takes up what a killed one left.

Any number of them may run, on any number of machines; what shares a lock is never done side by side.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import time
from datetime import UTC, datetime
from typing import Any

import procrastinate
from flask import Flask
from procrastinate import JobContext, PsycopgConnector, RetryStrategy
from sqlalchemy.exc import SQLAlchemyError

from almanac.jobs.nightly import back_up, due, schedule_of
from almanac.jobs.tasks import Ended, compute, compute_share, refresh, work_on_list
from almanac.store.backups import BackupError
from almanac.store.queue import COMPUTE, LIST, REFRESH, SHARE

LOG = logging.getLogger(__name__)
BEAT_SECONDS, DEAD_SECONDS, TEND_SECONDS, POLL_SECONDS, GRACE_SECONDS = 2.0, 8.0, 2.0, 2.0, 8.0
"""A worker that gave no sign of life for so long is dead, and what it did is put back into the queue."""
BACKUP_LOOK_SECONDS = 60.0
"""So often it is looked whether a backup is due."""
DAILY_LOOK_SECONDS = 600.0
"""So often it is looked whether another day has begun."""
TRIES = RetryStrategy(max_attempts=3, wait=2, retry_exceptions=[SQLAlchemyError, LookupError])
"""What the database or a dropped answer did may go well the next time; what was asked wrongly stays wrong."""


def queue_app(database: str, app: Flask) -> procrastinate.App:
    """The tasks of an application, for a worker on its database."""
    # Its own listening connection beside those that fetch and report.
    conninfo = database.replace("postgresql+psycopg://", "postgresql://")
    queue = procrastinate.App(connector=PsycopgConnector(conninfo=conninfo, min_size=1, max_size=4))

    @queue.task(name=COMPUTE, pass_context=True, retry=TRIES)
    def _compute(context: JobContext, *, view: str, arguments: dict[str, Any]) -> None:
        try:
            compute(app, view, arguments, job_id=context.job.id, priority=context.job.priority)
        except Ended as ended:
            raise procrastinate.exceptions.JobAborted from ended

    @queue.task(name=SHARE, pass_context=True, retry=TRIES)
    def _share(context: JobContext, *, asked: str, site: str | None, kind: str, join: bool = False) -> None:
        try:
            compute_share(app, asked, site, kind, job_id=context.job.id, join=join)
        except Ended as ended:
            raise procrastinate.exceptions.JobAborted from ended

    @queue.task(name=LIST, pass_context=True, retry=TRIES)
    def _list(context: JobContext, *, work: int) -> None:
        try:
            work_on_list(app, work, job_id=context.job.id)
        except Ended as ended:
            raise procrastinate.exceptions.JobAborted from ended

    @queue.task(name=REFRESH, retry=TRIES)
    def _refresh() -> None:
        refresh(app)

    return queue


async def work(queue: procrastinate.App, *, until_done: bool = False, database: str = "") -> None:
    """Work until told to stop, or until nothing waits. database : whose backups are made, where the environment asks for some"""
    async with queue.open_async():
        await _refresh_soon(queue)
        tending = asyncio.create_task(_tend(queue))
        nightly = asyncio.create_task(_nightly(database)) if database and not until_done else None
        try:
            await queue.run_worker_async(
                wait=not until_done,
                delete_jobs="successful",
                fetch_job_polling_interval=POLL_SECONDS,
                abort_job_polling_interval=POLL_SECONDS,
                update_heartbeat_interval=BEAT_SECONDS,
                stalled_worker_timeout=DEAD_SECONDS,
                shutdown_graceful_timeout=GRACE_SECONDS,
                install_signal_handlers=not until_done,
            )
        finally:
            for task in (tending, nightly):
                if task is not None:
                    task.cancel()
                    with contextlib.suppress(asyncio.CancelledError):
                        await task


async def _nightly(database: str) -> None:
    """Make the day's backup once its hour has come."""
    try:
        schedule = schedule_of()
    except BackupError as error:
        LOG.error("no backups are made by themselves: %s", error)
        return
    tried: datetime | None = None
    while schedule is not None:
        now = datetime.now(UTC)
        try:
            if await asyncio.to_thread(due, schedule, now, tried=tried):
                tried = now  # whatever becomes of it, it is not tried again at once
                made = await asyncio.to_thread(back_up, database, schedule, now=now)
                tried = None if made else now
        except (SQLAlchemyError, OSError):
            LOG.exception("the backup could not be looked after")
        await asyncio.sleep(BACKUP_LOOK_SECONDS)


async def _refresh_soon(queue: procrastinate.App) -> None:
    """What was written while no worker ran, or on another day, is looked at first."""
    with contextlib.suppress(procrastinate.exceptions.AlreadyEnqueued):
        await queue.configure_task(REFRESH, lock=REFRESH, queueing_lock=REFRESH, priority=20).defer_async()


async def _tend(queue: procrastinate.App) -> None:
    """Put back what workers that died were doing, and look whether a new day has begun."""
    looked = time.monotonic()
    while True:
        try:
            if time.monotonic() - looked > DAILY_LOOK_SECONDS:
                looked = time.monotonic()
                await _refresh_soon(queue)
            for job in await queue.job_manager.get_stalled_jobs(seconds_since_heartbeat=DEAD_SECONDS):
                LOG.warning("work %s was left by a worker that died and is taken up again", job.id)
                await queue.job_manager.retry_job(job)
        except procrastinate.exceptions.ConnectorException as error:
            LOG.warning("the queue could not be tended: %s", error)
        await asyncio.sleep(TEND_SECONDS)
