"""Files and labels of the stores, and what a scan leads to."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.web.schemas.base import Schema


class ScanQuery(Schema):
    text: str = Field(max_length=200)
    site: str | None = Field(default=None, max_length=20)


class ScanLeads(Schema):
    """Where a scan leads, and what it was taken for."""

    path: str
    words: str


class FileTaken(Schema):
    """Rows that were carried out; counts among them that wait for a lead; drafts that were made."""

    rows: int
    waits: int
    drafts: list[int]


class LabelsQuery(Schema):
    site: str = Field(max_length=20)
    part: str | None = Field(default=None, max_length=60)


class SiteAsked(Schema):
    site: str = Field(max_length=20)


class BreakView(Schema):
    """One place where the books do not add up, in words."""

    check: str
    part: str
    place: str
    words: str


class BooksView(Schema):
    as_of: date
    breaks: list[BreakView]
