"""Lists as the company has them: what is settled of them, how they are understood, and what they say beside the record."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import ConfigDict, Field

from almanac.services.intake.changes import Gone, Group
from almanac.services.intake.settled import Asks
from almanac.web.schemas.base import Schema


class SettledView(Schema):
    """What a person says of a list. columns : header by field, empty for none · names : meaning by field and text, "-" for none of ours"""

    sheet: str | None = Field(default=None, max_length=200)
    columns: dict[str, str] = Field(default_factory=dict)
    day_first: bool | None = None
    names: dict[str, dict[str, str]] = Field(default_factory=dict)
    gone: Gone | None = None
    delivered: bool | None = None
    decimal: Literal[",", "."] | None = None


class ListSaid(Schema):
    """What goes with a file, as JSON in the field `said`. kind : what it is a list of, left out where its header is to tell"""

    kind: str | None = Field(default=None, max_length=20)
    source: str = Field(default="", max_length=80)
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


class ListChoice(Schema):
    value: str
    words: str


class ListQuestion(Schema):
    """Something nobody said yet. text : a name as it stands in the list · about : what is asked of it"""

    field: str
    about: str
    text: str
    key: str
    rows: int
    lines: list[int]
    proposal: str | None
    asks: Asks
    may_be_new: bool
    optional: bool
    options: list[ListChoice]


class TakenView(Schema):
    field: str
    text: str
    meaning: str


class ListChange(Schema):
    group: Group
    subject: str
    line: int | None
    words: str
    model: str | None
    site: str | None


class ListGroup(Schema):
    group: Group
    count: int
    changes: list[ListChange]


class ListRow(Schema):
    """A row as it was understood, a text for each of the columns shown."""

    line: int
    cells: list[str]


class FieldChoices(Schema):
    """What names of a field may mean."""

    field: str
    choices: list[ListChoice]


class ListKindView(Schema):
    """A kind of list. one, many : what a row is"""

    kind: str
    title: str
    one: str
    many: str


class Proofs(Schema):
    """What shows how days or amounts are written. first, second : rows that prove one or the other way · open : rows that could be both"""

    asks: bool
    first: list[ProofView]
    second: list[ProofView]
    open: list[ProofView]


class ListLook(Schema):
    """A list as it is understood and what it says. days : day before month, and month before day · amounts : comma, and point before
    decimals · digest : of what would be done; open : questions that are left
    """

    kind: str
    kinds: list[ListKindView]
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
    days: Proofs
    amounts: Proofs
    questions: list[ListQuestion]
    taken: list[TakenView]
    shown_columns: list[str]
    shown: list[ListRow]
    groups: list[ListGroup]
    open_gone: int
    gone: Gone | None
    delivered: bool
    before: date | None
    digest: str
    open: int
    choices: list[FieldChoices]


class ListApplied(Schema):
    id: int


class ListSourceView(Schema):
    kind: str
    name: str


class AppliedList(Schema):
    id: int
    kind: str
    source: str
    file_name: str
    list_on: date
    recorded_at: datetime
    author: str | None
    counts: dict[str, int]
    undone_at: datetime | None


class ListUndone(Schema):
    """stays : what is on record nevertheless, such as parts whose shelf was opened"""

    changes: int
    stays: list[str]


class ListFault(Schema):
    field: str
    message: str


class ListProblem(Schema):
    """Why a list was refused, as a request would have been told."""

    model_config = ConfigDict(extra="ignore")
    title: str
    detail: str
    status: int
    faults: list[ListFault]
    question: str | None = None


class ListWorkView(Schema):
    """A list that a worker looks at, applies or undoes. what : which of these · look, applied, undone : what came of it, else `problem`"""

    id: int
    what: str
    file_name: str
    author: str | None
    ended: bool
    words: str
    done: int
    of: int
    look: ListLook | None
    applied: int | None
    undone: ListUndone | None
    problem: ListProblem | None


class AppliedLists(Schema):
    kinds: list[ListKindView]
    sources: list[ListSourceView]
    lists: list[AppliedList]
    under_way: list[ListWorkView]
