"""What workers do: compute replies, and after a write those that somebody looked at lately."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

from flask import Flask
from sqlalchemy.orm import Session

from almanac.jobs.shares import join_in, share_out, site_of, take
from almanac.services.answers.ceiling import keep_within_ceiling
from almanac.services.answers.progress import listening
from almanac.services.answers.readings import state_of
from almanac.services.errors import NotFound, Refused
from almanac.store import queue, replies
from almanac.store.marks import gather_marks
from almanac.web.api import KEPT
from almanac.web.kept import AHEAD, FIRST, ask_for, make, reading_of, told
from almanac.web.long_lists import stopped, work_on

OUTLOOK = "outlook"
ALWAYS: tuple[tuple[str, dict[str, Any]], ...] = (
    (OUTLOOK, {"path": {}, "given": {"site": None}}),
    ("calibration", {"path": {}, "given": None}),
    ("rehearsal", {"path": {}, "given": {"rule": "plan"}}),
    ("books", {"path": {}, "given": None}),
)
"""What is computed whether somebody looked at it lately or not."""
LATELY = timedelta(days=3)
"""What nobody looked at for so long is computed when somebody does."""
FORGOTTEN = timedelta(days=60)
SAY_SECONDS = 0.5


class Ended(Exception):
    """Somebody asked for this work to end."""


class GaveWay(Exception):
    """Something more urgent waits: what was computed so far is kept, and the rest is done later."""


def compute(app: Flask, view: str, arguments: dict[str, Any], *, job_id: int | None, priority: int = AHEAD) -> bool:
    """Compute a reply, unless it is known already; returns whether there was anything to do.

    priority : of the work, which it keeps where it gives way
    """
    kept = KEPT[view]
    with app.app_context():
        with Session(app.extensions["engine"]) as own:
            if state_of(own, reading_of(kept, arguments)).holds:
                return False
        try:
            with _saying(app, job_id):
                if view == OUTLOOK:
                    share_out(app, reading_of(kept, arguments).asked, site_of(arguments), priority=priority)
                make(app, kept, arguments)
                _slow_ones_next(app, view)
        except (NotFound, Refused):
            # What has nothing to say is no failure while nobody waits for it: whoever asks is told why.
            if priority > AHEAD:
                raise
            return False
        except GaveWay:
            with Session(app.extensions["engine"]) as own:
                asked = reading_of(kept, arguments).asked
                queue.enqueue(own, queue.COMPUTE, told(kept, arguments), lock=asked, priority=priority, anew=True)
                own.commit()
    return True


def _slow_ones_next(app: Flask, view: str) -> None:
    """What takes long is asked for once an outlook is there: until then every worker has its part in that."""
    if view == OUTLOOK:
        with Session(app.extensions["engine"]) as own:
            queue.enqueue(own, queue.REFRESH, {}, lock=queue.REFRESH, priority=AHEAD, anew=True)
            own.commit()


def compute_share(app: Flask, asked: str, site: str | None, kind: str, *, job_id: int | None, join: bool = False) -> None:
    """Compute one kind of an outlook for the worker that wants the whole, or join in on what another worker began."""
    with app.app_context(), suppress(GaveWay), _saying(app, job_id):
        if join:
            join_in(app, asked, site, kind)
        else:
            take(app, asked, site, kind)


def work_on_list(app: Flask, work: int, *, job_id: int | None) -> None:
    """Look at a long list, or apply it: all of it, or nothing where somebody stops it."""
    with app.app_context():
        try:
            with _saying(app, job_id):
                work_on(app, work)
        except Ended:
            stopped(app, work)
            raise


def refresh(app: Flask) -> int:
    """Ask for every dear reply that was looked at lately and no longer holds, and tidy up; returns how many are asked for."""
    now, asked, asked_outlook = datetime.now(UTC), 0, False
    with app.app_context(), Session(app.extensions["engine"]) as own:
        dear = [name for name, view in KEPT.items() if view.dear]
        lately = [(one.view, one.arguments) for one in replies.asked_since(own, now - LATELY, dear)]
        wanted: dict[str, tuple[str, dict[str, Any]]] = {
            reading_of(KEPT[view], arguments).asked: (view, arguments) for view, arguments in (*ALWAYS, *lately)
        }
        for view, arguments in sorted(wanted.values(), key=lambda one: one[0] != OUTLOOK):
            if KEPT[view].how == "slow" and asked_outlook:
                continue
            state = state_of(own, reading_of(KEPT[view], arguments), now=now, asking=False)
            if not state.holds:
                asked_outlook = asked_outlook or view == OUTLOOK
                asked += ask_for(own, KEPT[view], arguments, state.asked, wanted=FIRST if view == OUTLOOK else AHEAD)
        gather_marks(own)
        keep_within_ceiling(own)
        replies.forget_before(own, now - FORGOTTEN)
        queue.tidy(own)
        own.commit()
    return asked


@contextmanager
def _saying(app: Flask, job_id: int | None) -> Iterator[None]:
    """Write down how far the work is, and end it where somebody asked for that."""
    if job_id is None:
        yield
        return
    with listening(_Sayer(app, job_id)):
        yield


@dataclass
class _Sayer:
    """Tells of progress, no oftener than twice a second."""

    app: Flask
    job_id: int
    last: float = 0.0
    clock: Callable[[], float] = field(default=time.monotonic)

    def __call__(self, words: str, done: int, of: int) -> None:
        if self.clock() - self.last < SAY_SECONDS:
            return
        self.last = self.clock()
        with Session(self.app.extensions["engine"]) as own:
            if queue.is_ended(own, self.job_id):
                raise Ended(f"work {self.job_id} was cancelled")
            if queue.is_outranked(own, self.job_id):
                raise GaveWay
            queue.report(own, self.job_id, words, done, of)
            own.commit()
