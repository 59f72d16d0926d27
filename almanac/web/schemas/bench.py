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


class BenchSettingView(Schema):
    """A decision of the company about its bench."""

    key: str
    words: str
    value: float
    number: int
    wanted: str


class BenchSettings(Schema):
    settings: list[BenchSettingView]
