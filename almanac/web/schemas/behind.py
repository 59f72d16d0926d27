"""Log entries behind a figure of the outlook, as the API has them."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.web.schemas.base import Schema


class EntriesQuery(Schema):
    stream: str = Field(max_length=40)


class BehindEntry(Schema):
    """One log entry behind a figure."""

    incident_id: int
    occurred_on: date
    tag: str
    model: str
    site: str
    finding: str
    age_days: int
    age_span_days: int


class BehindEntries(Schema):
    stream: str
    entries: list[BehindEntry]
