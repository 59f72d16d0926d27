"""Lists as the company has them: what is settled of them, how they are understood, and what they say beside the record."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field

from almanac.services.intake.difference import Gone, Group
from almanac.web.schemas.base import Schema


class SettledView(Schema):
    """What a person says of a list. columns : header by field, empty for none · names : meaning by field and text, "-" for none of ours"""

    sheet: str | None = Field(default=None, max_length=200)
    columns: dict[str, str] = Field(default_factory=dict)
    day_first: bool | None = None
    names: dict[str, dict[str, str]] = Field(default_factory=dict)
    gone: Gone | None = None
    delivered: bool | None = None


class ListSaid(Schema):
    """What goes with a file, as JSON in the field `said`."""

    source: str = Field(max_length=80)
    list_on: date
    settled: SettledView = Field(default_factory=SettledView)
    digest: str | None = Field(default=None, max_length=64)


class ListField(Schema):
    name: str
    about: str
    needed: bool
    column: str | None


class ProofView(Schema):
    line: int
    text: str


class ListQuestion(Schema):
    """A name that nobody explained yet, as it stands in the list."""

    field: str
    text: str
    key: str
    rows: int
    lines: list[int]
    proposal: str | None


class TakenView(Schema):
    field: str
    text: str
    meaning: str


class ListChange(Schema):
    group: Group
    tag: str
    line: int | None
    words: str
    model: str | None
    site: str | None


class ListGroup(Schema):
    group: Group
    count: int
    changes: list[ListChange]


class ListRow(Schema):
    """A row as it was understood."""

    line: int
    tag: str
    serial: str | None
    model: str | None
    site: str | None
    duty: str | None
    in_service_on: date | None
    retire_planned_on: date | None
    status: str


class ListChoice(Schema):
    value: str
    words: str


class ListLook(Schema):
    """A list as it is understood and what it says. digest : of what would be done; open : questions that are left"""

    source: str
    list_on: date
    how: str
    sheets: list[str]
    sheet: str
    header_line: int
    header: list[str]
    fields: list[ListField]
    rows: int
    not_ours: int
    day_first: bool
    asks_order: bool
    proves_day_first: list[ProofView]
    proves_month_first: list[ProofView]
    open_days: list[ProofView]
    questions: list[ListQuestion]
    taken: list[TakenView]
    shown: list[ListRow]
    groups: list[ListGroup]
    open_gone: int
    gone: Gone | None
    delivered: bool
    before: date | None
    digest: str
    open: int
    models: list[ListChoice]
    sites: list[ListChoice]


class ListApplied(Schema):
    id: int


class AppliedList(Schema):
    id: int
    source: str
    file_name: str
    list_on: date
    recorded_at: datetime
    author: str | None
    counts: dict[str, int]
    undone_at: datetime | None


class AppliedLists(Schema):
    sources: list[str]
    lists: list[AppliedList]


class ListUndone(Schema):
    machines: int
