"""Long lists, looked at and applied by a worker: what a request would have answered is kept for whoever asks."""

from __future__ import annotations

from typing import Any

from flask import Flask, current_app
from sqlalchemy.orm import Session

from almanac.services.clock import read_clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.intake.apply import ListRequest, apply_list, look_at, undo_list
from almanac.services.intake.settled import Settled
from almanac.store import list_work, queue
from almanac.store.models import ListWork
from almanac.web.database import closing, commit
from almanac.web.list_replies import look_reply
from almanac.web.problems import REPLIES
from almanac.web.schemas import intake as schemas

KNOWN = (Refused, Stale, NotFound)
STOPPED = {"title": "Stopped", "detail": "It was stopped. Nothing was saved.", "status": 409, "faults": []}
LEFT = {
    "title": "It was not finished",
    "detail": "The worker failed at it. Nothing was saved; the fault is in its log.",
    "status": 500,
    "faults": [],
}
WAITING = "waiting for a worker"


def list_request(said: schemas.ListSaid, file_name: str, content: bytes) -> ListRequest:
    """A list with what is said of it."""
    given = said.settled
    settled = Settled(**{**given.model_dump(), "gone": given.gone.value if given.gone else None})
    return ListRequest(said.source, file_name, content, said.list_on, settled, said.kind)


def carry_out(session: Session, row: ListWork) -> None:
    """Look at a list, apply or undo it, in the caller's transaction; what it was refused for is kept as it would have been answered."""
    try:
        with session.begin_nested():
            answer = _answer(session, row)
    except KNOWN as error:
        with current_app.test_request_context():
            problem: dict[str, Any] = REPLIES[type(error)](error).get_json()
        list_work.end(row, problem=problem)
    else:
        list_work.end(row, answer=answer)
    session.flush()


def _answer(session: Session, row: ListWork) -> dict[str, Any]:
    if row.what == "undo":
        changes, stays = undo_list(session, int(row.said["intake"]), clock=read_clock(session), author_id=row.author_id)
        return {"changes": changes, "stays": stays}
    said, clock = schemas.ListSaid.model_validate(row.said), read_clock(session)
    request = list_request(said, row.file_name, row.content or b"")
    if row.what == "look":
        found: dict[str, Any] = look_reply(session, said, look_at(session, request, clock=clock)).model_dump(mode="json")
        return found
    return {"id": apply_list(session, request, said.digest or "", clock=clock, author_id=row.author_id)}


def work_on(app: Flask, work_id: int) -> None:
    """Carry out a list in a worker, once: where it was carried out before, or stopped, there is nothing left to do."""
    with closing(app) as own:
        row = list_work.one(own, work_id, lock=True)
        if row is not None and row.ended_at is None:
            carry_out(own, row)
            commit()


def stopped(app: Flask, work_id: int) -> None:
    """Keep that a list was stopped."""
    with closing(app) as own:
        row = list_work.one(own, work_id, lock=True)
        if row is not None and row.ended_at is None:
            list_work.end(row, problem=STOPPED)
            own.commit()


def stop(session: Session, row: ListWork) -> None:
    """Stop a list: at once where no worker has it, else at its next look."""
    job = queue.under(session, list_work.lock_of(row.id))
    if job is not None:
        queue.cancel(session, job[0])
    if job is None or job[1] != "doing":
        list_work.end(row, problem=STOPPED)
        session.flush()


def work_view(session: Session, row: ListWork, author: str | None = None) -> schemas.ListWorkView:
    """How a list stands: what a worker is at, or what became of it."""
    lock = list_work.lock_of(row.id)
    words, done, of = queue.progress(session, lock) or (WAITING, 0, 0)
    problem, job = row.problem, None if row.ended_at else queue.under(session, lock)
    if row.ended_at is None and (job is None or job[1] not in ("todo", "doing")):
        problem = LEFT
    looked = row.answer if row.what == "look" else None
    return schemas.ListWorkView(
        id=row.id,
        what=row.what,
        file_name=row.file_name,
        author=author,
        ended=row.ended_at is not None or problem is not None,
        words=words,
        done=done,
        of=of,
        look=None if looked is None else schemas.ListLook.model_validate(looked),
        applied=row.answer["id"] if row.answer is not None and row.what == "apply" else None,
        undone=schemas.ListUndone.model_validate(row.answer) if row.answer is not None and row.what == "undo" else None,
        problem=None if problem is None else schemas.ListProblem.model_validate(problem),
    )
