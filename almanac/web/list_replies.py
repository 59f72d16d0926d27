"""A list as it was looked at, as the API shows it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy.orm import Session

from almanac.services.intake.apply import Looked
from almanac.services.intake.changes import Group
from almanac.services.intake.columns import plain
from almanac.services.intake.kinds import SUBJECTS
from almanac.services.intake.settled import Question
from almanac.web.schemas import intake as schemas

OF_GROUP = 200


def kinds() -> list[schemas.ListKindView]:
    """Kinds of lists."""
    return [schemas.ListKindView(kind=one.kind, title=one.title, one=one.one, many=one.many) for one in SUBJECTS.values()]


def look_reply(session: Session, said: schemas.ListSaid, looked: Looked) -> schemas.ListLook:
    """What a list says beside the record, as it is shown."""
    found, table, subject = looked.understood, looked.understood.table, looked.subject
    choices = subject.choices(session)
    about = {field.name: field.about for field in subject.fields}
    return schemas.ListLook(
        kind=subject.kind,
        kinds=kinds(),
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
