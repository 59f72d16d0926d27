"""The simulated scanner of the bench, and what the company decided about it."""

from __future__ import annotations

from almanac.web.schemas.base import Schema


class LabelQuery(Schema):
    job: int | None = None


class ScanLabel(Schema):
    """A label the simulated scanner can read: what it is on, and what it types."""

    words: str
    text: str


class ScanLabels(Schema):
    labels: list[ScanLabel]
