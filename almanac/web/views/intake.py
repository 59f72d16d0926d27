"""Lists as the company has them: looked at, applied, and undone."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from flask import Blueprint, current_app, request
from pydantic import ValidationError

from almanac.services.clock import read_clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.intake.apply import apply_list, look_at, undo_list
from almanac.store import intake as store
from almanac.store import list_work
from almanac.store.models import Intake, ListWork, Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.list_replies import kinds, look_reply
from almanac.web.long_lists import carry_out, list_request, stop, work_view
from almanac.web.problems import RequestInvalid
from almanac.web.schemas import intake as schemas
from almanac.web.schemas.base import Done

blueprint = Blueprint("intake", __name__, url_prefix="/api/v1/lists")
LATEST = 30


@endpoint(blueprint, "", access=Role.READER, replies=schemas.AppliedLists)
def applied_lists() -> schemas.AppliedLists:
    """Kinds of lists, their sources, and the lists that were applied."""
    return schemas.AppliedLists(
        kinds=kinds(),
        sources=[schemas.ListSourceView(kind=source.kind, name=source.name) for source in store.sources(session())],
        lists=[
            schemas.AppliedList.model_validate(
                {
                    "id": row.id, "kind": source.kind, "source": source.name, "file_name": row.file_name, "list_on": row.list_on,
                    "recorded_at": row.recorded_at, "author": author, "counts": row.counts, "undone_at": row.undone_at,
                }
            )
            for row, source, author in store.intakes(session(), LATEST)
        ],
        under_way=[work_view(session(), row, author) for row, author in list_work.being_written(session())],
    )  # fmt: skip


@endpoint(blueprint, "/look", method="POST", access=Role.LEAD, replies=schemas.ListLook)
def look_at_list() -> schemas.ListLook:
    """What a list says beside the record; nothing is written."""
    said = _said()
    return look_reply(session(), said, look_at(session(), list_request(said, *_file()), clock=read_clock(session())))


@endpoint(blueprint, "", method="POST", access=Role.LEAD, replies=schemas.ListApplied, status=201)
def apply_a_list() -> schemas.ListApplied:
    """Write what a list says, as it was looked at."""
    said = _said()
    clock = read_clock(session())
    return schemas.ListApplied(
        id=apply_list(session(), list_request(said, *_file()), said.digest or "", clock=clock, author_id=author_id())
    )


@endpoint(blueprint, "/long", method="POST", access=Role.LEAD, replies=schemas.ListWorkView, status=201)
def have_a_long_list_worked_on() -> schemas.ListWorkView:
    """Have a worker look at a list, or apply it as it was looked at; without any worker it is done here."""
    said, what, (file_name, content) = _said(), request.form.get("what", "look"), _file()
    if what not in ("look", "apply"):
        raise Refused(Fault("what", f"look or apply was wanted, got {what[:20]}"))
    return _begin(what, file_name, content, said.model_dump(mode="json"))


@endpoint(blueprint, "/long/undoing/<int:intake_id>", method="POST", access=Role.LEAD, replies=schemas.ListWorkView, status=201)
def have_a_long_list_undone(intake_id: int) -> schemas.ListWorkView:
    """Have a worker take a list back as one; without any worker it is done here."""
    row = session().get(Intake, intake_id)
    if row is None:
        raise NotFound(f"there is no list {intake_id}")
    return _begin("undo", row.file_name, None, {"intake": intake_id})


def _begin(what: str, file_name: str, content: bytes | None, said: dict[str, Any]) -> schemas.ListWorkView:
    now = datetime.now(UTC)
    row = list_work.put(session(), what=what, file_name=file_name, content=content, said=said, author_id=author_id(), now=now)
    if current_app.config["WORKERS"]:
        list_work.hand_to_worker(session(), row)
    else:
        carry_out(session(), row)
        session().refresh(row)
    return work_view(session(), row)


@endpoint(blueprint, "/long/<int:work_id>", access=Role.LEAD, replies=schemas.ListWorkView)
def how_a_long_list_stands(work_id: int) -> schemas.ListWorkView:
    """How far a worker is with a list, or what became of it."""
    return work_view(session(), _work(work_id))


@endpoint(blueprint, "/long/<int:work_id>/cancel", method="POST", access=Role.LEAD, replies=Done)
def stop_a_long_list(work_id: int) -> Done:
    """Stop looking at a list, or applying it: nothing of it is saved."""
    row = _work(work_id)
    if row.ended_at is None:
        stop(session(), row)
    return Done()


def _work(work_id: int) -> ListWork:
    row = list_work.one(session(), work_id)
    if row is None:
        raise NotFound("that list was looked at more than a day ago: choose its file again")
    return row


@endpoint(blueprint, "/<int:intake_id>/undoing", method="POST", access=Role.LEAD, replies=schemas.ListUndone, status=201)
def undo_a_list(intake_id: int) -> schemas.ListUndone:
    """Take a list back as one."""
    changes, stays = undo_list(session(), intake_id, clock=read_clock(session()), author_id=author_id())
    return schemas.ListUndone(changes=changes, stays=stays)


def _said() -> schemas.ListSaid:
    try:
        return schemas.ListSaid.model_validate_json(request.form.get("said", "{}"))
    except ValidationError as error:
        raise RequestInvalid(error) from error


def _file() -> tuple[str, bytes]:
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise Refused(Fault("file", "a list was wanted: choose a file"))
    return upload.filename, upload.read()
