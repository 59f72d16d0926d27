"""Changing the catalog: documents, history, page files, quick entry, photos."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import Field

from almanac.exchange.pages.facts import Evidence, PageFact
from almanac.exchange.pages.format import FastenersEntry, OperationEntry, Page, PositionEntry
from almanac.web.schemas.base import Schema


class RevisionRow(Schema):
    number: int
    draft: bool
    reason: str
    author: str | None
    recorded_at: datetime


class PageHistory(Schema):
    revisions: list[RevisionRow]


class DocumentView(Schema):
    """A page as written, to be edited; `sibling` is the whole page it inherits from."""

    model_id: int | None
    number: int | None
    draft: bool
    page: Page
    sibling: Page | None


class DocumentQuery(Schema):
    number: int | None = None


class TypedLineIn(Schema):
    """A line typed beside a page: place ["positions", key, "takes"], ["operations", id, "fasteners"] or ["facts"]."""

    place: list[str] = Field(min_length=1, max_length=3)
    text: str = Field(max_length=400)


class PageIn(Schema):
    """A page as it should be; `lines` were typed beside it and are read as it is saved."""

    page: dict[str, Any]
    reason: str = Field(max_length=300)
    number: int | None = None
    draft: bool = False
    lines: list[TypedLineIn] = Field(default_factory=list, max_length=200)


class TypedIn(Schema):
    """A line, and what it is read into: the entry it was typed at, and the evidence of whoever typed it."""

    line: TypedLineIn
    evidence: Evidence
    position: PositionEntry | None = None
    operation: OperationEntry | None = None
    facts: dict[str, list[PageFact]] = Field(default_factory=dict)


class PageFaultView(Schema):
    where: str
    message: str
    cure: str
    open: bool
    noted: bool = False
    line: int | None = None


class TypedRead(Schema):
    """Fields as they are with the line read; those it says nothing of are left out."""

    takes: dict[str, list[PageFact]] | None = None
    fitted: dict[str, list[PageFact]] | None = None
    facts: dict[str, list[PageFact]] | None = None
    fasteners: list[FastenersEntry] | None = None
    faults: list[PageFaultView]
    asked: list[str]


class PageSaved(Schema):
    model_id: int
    number: int
    draft: bool
    changed: bool
    faults: list[PageFaultView]


class PageCheckIn(Schema):
    page: dict[str, Any]


class PageChecked(Schema):
    sound: bool
    faults: list[PageFaultView]


class RestoreIn(Schema):
    latest: int


class YamlIn(Schema):
    """A page file; with `write` it is saved, otherwise only checked."""

    text: str = Field(max_length=1_000_000)
    reason: str = Field(default="Imported from a file", max_length=300)
    number: int | None = None
    draft: bool = False
    write: bool = False


class BundleText(Schema):
    """The text of a page that came with its photos, which are kept now."""

    text: str


class YamlReport(Schema):
    sound: bool
    name: str | None
    known_number: int | None
    faults: list[PageFaultView]
    saved: PageSaved | None


class ShorthandIn(Schema):
    line: str = Field(max_length=400)


class UnderstoodGroup(Schema):
    entry: dict[str, Any]
    words: str
    place: str | None


class Understood(Schema):
    groups: list[UnderstoodGroup]
    total: str
    unread: list[str]


class LabelIn(Schema):
    text: str = Field(max_length=200)
    kind: str | None = Field(default=None, max_length=20)


class MachineLabelIn(Schema):
    text: str = Field(max_length=300)
    form: str = Field(max_length=20)
    generations: list[int] = Field(default_factory=list, max_length=10)


class MachineLabelView(Schema):
    """What a machine's label says; what it leaves open is asked."""

    maker: str | None
    family: str | None
    model: str | None
    size_inches: float | None
    series: int | None
    generation: int | None
    code: str | None
    asked: list[str]


class StringsIn(Schema):
    texts: list[str] = Field(max_length=50)


class StringRoles(Schema):
    """The role each string most likely has, to be confirmed."""

    roles: dict[str, str]


class LabelReading(Schema):
    kind: str | None
    facts: dict[str, Any]
    flags: list[str]


class NotesIn(Schema):
    text: str = Field(max_length=20_000)
    positions: list[dict[str, Any]] = Field(default_factory=list, max_length=200)


class ProposalView(Schema):
    line: int
    text: str
    field: str
    target: str | None
    value: dict[str, Any]
    flags: list[str]


class Proposals(Schema):
    proposals: list[ProposalView]


class LiftIn(Schema):
    operation: str = Field(max_length=60)
    looked: list[str] = Field(default_factory=list, max_length=10)


class LookView(Schema):
    id: str
    what: str
    why: str


class PhotoStored(Schema):
    digest: str
    width: int
    height: int
