"""Lists as the company has them: looked at, applied, and undone."""

from __future__ import annotations

from flask import Blueprint, request
from pydantic import ValidationError

from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.columns import FIELDS, plain
from almanac.services.intake.difference import Group
from almanac.services.intake.record import sites_by_code
from almanac.services.intake.understand import Settled
from almanac.store import intake as store
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.problems import RequestInvalid
from almanac.web.schemas import intake as schemas

blueprint = Blueprint("intake", __name__, url_prefix="/api/v1/lists")
SHOWN, OF_GROUP, LATEST = 20, 200, 30


@endpoint(blueprint, "", access=Role.READER, replies=schemas.AppliedLists)
def applied_lists() -> schemas.AppliedLists:
    """Sources, and the lists that were applied."""
    return schemas.AppliedLists(
        sources=[source.name for source in store.sources(session())],
        lists=[
            schemas.AppliedList.model_validate(
                {
                    "id": row.id, "source": source, "file_name": row.file_name, "list_on": row.list_on, "recorded_at": row.recorded_at,
                    "author": author, "counts": row.counts, "undone_at": row.undone_at,
                }
            )
            for row, source, author in store.intakes(session(), LATEST)
        ],
    )  # fmt: skip


@endpoint(blueprint, "/look", method="POST", access=Role.LEAD, replies=schemas.ListLook)
def look_at_list() -> schemas.ListLook:
    """What a list says beside the record; nothing is written."""
    said = _said()
    return _look(said, look_at(session(), _request(said), clock=read_clock(session())))


@endpoint(blueprint, "", method="POST", access=Role.LEAD, replies=schemas.ListApplied, status=201)
def apply_a_list() -> schemas.ListApplied:
    """Write what a list says, as it was looked at."""
    said = _said()
    clock = read_clock(session())
    return schemas.ListApplied(id=apply_list(session(), _request(said), said.digest or "", clock=clock, author_id=author_id()))


@endpoint(blueprint, "/<int:intake_id>/undoing", method="POST", access=Role.LEAD, replies=schemas.ListUndone, status=201)
def undo_a_list(intake_id: int) -> schemas.ListUndone:
    """Take a list back as one."""
    return schemas.ListUndone(machines=undo_list(session(), intake_id, clock=read_clock(session()), author_id=author_id()))


def _said() -> schemas.ListSaid:
    try:
        return schemas.ListSaid.model_validate_json(request.form.get("said", "{}"))
    except ValidationError as error:
        raise RequestInvalid(error) from error


def _request(said: schemas.ListSaid) -> ListRequest:
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise Refused(Fault("file", "a list was wanted: choose a file"))
    given = said.settled
    settled = Settled(given.sheet, given.columns, given.day_first, given.names, given.gone.value if given.gone else None, given.delivered)
    return ListRequest(said.source, upload.filename, upload.read(), said.list_on, settled)


def _look(said: schemas.ListSaid, looked: Looked) -> schemas.ListLook:
    found, names = looked.understood, store.models_by_id(session())
    sites = sites_by_code(session())
    models = {str(number): f"{maker} {model}" for number, (maker, model) in names.items()}
    return schemas.ListLook(
        source=said.source,
        list_on=said.list_on,
        how=found.how,
        sheets=found.sheets,
        sheet=found.sheet,
        header_line=found.header_line,
        header=[name for name in found.header if name],
        fields=[
            schemas.ListField(name=field.name, about=field.about, needed=field.needed, column=found.columns.get(field.name))
            for field in FIELDS
        ],
        rows=len(found.rows),
        not_ours=found.not_ours,
        day_first=found.day_first,
        asks_order=found.asks_order,
        proves_day_first=[schemas.ProofView(line=line, text=text) for line, text in found.order.day_first],
        proves_month_first=[schemas.ProofView(line=line, text=text) for line, text in found.order.month_first],
        open_days=[schemas.ProofView(line=line, text=text) for line, text in found.order.open],
        questions=[
            schemas.ListQuestion(
                field=one.field, text=one.text, key=plain(one.text), rows=one.rows, lines=list(one.lines), proposal=one.proposal
            )
            for one in found.questions
        ],
        taken=[
            schemas.TakenView(field=field, text=text, meaning=(models if field == "model" else sites).get(meaning, meaning))
            for field, text, meaning in found.taken
        ],
        shown=[
            schemas.ListRow.model_validate({**vars(row), "model": models.get(row.model or "")}, extra="ignore")
            for row in found.rows[:SHOWN]
        ],
        groups=_groups(looked, models),
        open_gone=looked.difference.open_gone,
        gone=looked.settled.gone,
        delivered=bool(looked.settled.delivered),
        before=looked.before,
        digest=looked.digest,
        open=len(found.questions) + (looked.difference.open_gone > 0) + found.asks_order,
        models=[schemas.ListChoice(value=value, words=words) for value, words in sorted(models.items(), key=lambda item: item[1])],
        sites=[schemas.ListChoice(value=code, words=name) for code, name in sorted(sites.items(), key=lambda item: item[1])],
    )


def _groups(looked: Looked, models: dict[str, str]) -> list[schemas.ListGroup]:
    counts = looked.difference.counts()
    return [
        schemas.ListGroup(
            group=group,
            count=counts[group.value],
            changes=[
                schemas.ListChange(
                    group=group, tag=one.tag, line=one.line, words=one.words, model=models.get(one.model or ""), site=one.site
                )
                for one in [change for change in looked.difference.changes if change.group is group][:OF_GROUP]
            ],
        )
        for group in Group
        if counts[group.value]
    ]
