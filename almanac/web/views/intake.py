"""Lists as the company has them: looked at, applied, and undone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from flask import Blueprint, request
from pydantic import ValidationError

from almanac.services.clock import read_clock
from almanac.services.errors import Fault, Refused
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.changes import Group
from almanac.services.intake.columns import plain
from almanac.services.intake.kinds import SUBJECTS
from almanac.services.intake.settled import Question, Settled
from almanac.store import intake as store
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.problems import RequestInvalid
from almanac.web.schemas import intake as schemas

blueprint = Blueprint("intake", __name__, url_prefix="/api/v1/lists")
OF_GROUP, LATEST = 200, 30


@endpoint(blueprint, "", access=Role.READER, replies=schemas.AppliedLists)
def applied_lists() -> schemas.AppliedLists:
    """Kinds of lists, their sources, and the lists that were applied."""
    return schemas.AppliedLists(
        kinds=_kinds(),
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
    )  # fmt: skip


def _kinds() -> list[schemas.ListKindView]:
    return [schemas.ListKindView(kind=one.kind, title=one.title, one=one.one, many=one.many) for one in SUBJECTS.values()]


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
    changes, stays = undo_list(session(), intake_id, clock=read_clock(session()), author_id=author_id())
    return schemas.ListUndone(changes=changes, stays=stays)


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
    settled = Settled(**{**given.model_dump(), "gone": given.gone.value if given.gone else None})
    return ListRequest(said.source, upload.filename, upload.read(), said.list_on, settled, said.kind)


def _look(said: schemas.ListSaid, looked: Looked) -> schemas.ListLook:
    found, table, subject = looked.understood, looked.understood.table, looked.subject
    choices = subject.choices(session())
    about = {field.name: field.about for field in subject.fields}
    return schemas.ListLook(
        kind=subject.kind,
        kinds=_kinds(),
        source=looked.source,
        list_on=said.list_on,
        how=table.how,
        sheets=table.sheets,
        sheet=table.sheet,
        header_line=table.header_line,
        header=[name for name in table.header if name],
        fields=[
            schemas.ListField(name=field.name, about=field.about, needed=field.needed, column=found.columns.get(field.name))
            for field in subject.fields
        ],
        rows=len(found.rows),
        not_ours=found.not_ours,
        days=_proofs(table.asks_order, table.order.day_first, table.order.month_first, table.order.open),
        amounts=_proofs(table.asks_decimal, table.marks.comma, table.marks.point, table.marks.open),
        questions=[_question(one, about.get(one.field, one.field)) for one in found.questions],
        taken=[
            schemas.TakenView(field=field, text=text, meaning=choices.get(field, {}).get(meaning, meaning))
            for field, text, meaning in found.taken
        ],
        shown_columns=[about.get(name, name) for name in looked.found.shown_fields],
        shown=[schemas.ListRow(line=line, cells=list(cells)) for line, cells in looked.found.shown],
        groups=_groups(looked, choices),
        open_gone=looked.difference.open_gone,
        gone=looked.settled.gone,
        delivered=bool(looked.settled.delivered),
        before=looked.before,
        digest=looked.digest,
        open=looked.open,
        choices=[
            schemas.FieldChoices(
                field=field,
                choices=[schemas.ListChoice(value=value, words=words) for value, words in sorted(own.items(), key=lambda item: item[1])],
            )
            for field, own in choices.items()
        ],
    )


def _question(one: Question, about: str) -> schemas.ListQuestion:
    return schemas.ListQuestion(
        field=one.field,
        about=one.about or about,
        text=one.text,
        key=plain(one.text) if one.key is None else one.key,
        rows=one.rows,
        lines=list(one.lines),
        proposal=one.proposal,
        asks=one.asks,
        may_be_new=one.may_be_new,
        optional=one.optional,
        options=[schemas.ListChoice(value=value, words=words) for value, words in one.options],
    )


Rows = Sequence[tuple[int, str]]


def _proofs(asks: bool, first: Rows, second: Rows, open_: Rows) -> schemas.Proofs:
    shown = {
        name: [schemas.ProofView(line=line, text=text) for line, text in rows]
        for name, rows in (("first", first), ("second", second), ("open", open_))
    }
    return schemas.Proofs(asks=asks, **shown)


def _groups(looked: Looked, choices: Mapping[str, Mapping[str, str]]) -> list[schemas.ListGroup]:
    counts, models = looked.difference.counts(), choices.get("model", {})
    return [
        schemas.ListGroup(
            group=group,
            count=counts[group.value],
            changes=[
                schemas.ListChange(
                    group=group, subject=one.subject, line=one.line, words=one.words, model=models.get(one.model or ""), site=one.site
                )
                for one in [change for change in looked.difference.changes if change.group is group][:OF_GROUP]
            ],
        )
        for group in Group
        if counts[group.value]
    ]
