"""The failure log, one machine, and recording what happened to it."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema

FindingName = Literal["confirmed", "open", "no_fault_found", "damage", "dead_on_arrival", "upgrade", "preventive"]


class EvidenceIn(Schema):
    """What "confirmed" rests on: cold starts without the fault, what the old part did elsewhere, physical proof."""

    cold_starts: int = Field(default=0, ge=0, le=1000)
    fails_elsewhere: bool | None = None
    proof: Literal["swollen", "broken", "burnt"] | None = None


class LogQuery(Schema):
    finding: FindingName | None = None
    kind: str | None = Field(default=None, max_length=20)
    site: str | None = Field(default=None, max_length=20)
    part: str | None = Field(default=None, max_length=60)
    q: str | None = Field(default=None, max_length=100)
    since: date | None = None
    until: date | None = None
    after: str | None = Field(default=None, max_length=60)
    limit: int = Field(default=60, ge=1, le=200)


class LogLineView(Schema):
    position_id: int
    position: str
    kind: str
    action: str
    finding: str
    removed_part: str | None
    removed_name: str | None
    fitted_part: str | None
    shelf_site: str | None
    fitted_on: date | None
    age_days: int | None
    age_span_days: int | None


class LogEntryView(Schema):
    incident_id: int
    number: int
    occurred_on: date
    recorded_at: datetime
    tag: str
    model: str
    site_code: str
    site: str
    finding: str
    reason: str
    minutes: int | None
    note: str
    last_good_on: date | None
    author: str | None
    lines: list[LogLineView]


class LogPage(Schema):
    """A page of the log; `next_key` is None on the last one. `total` is counted for the first page only."""

    entries: list[LogEntryView]
    next_key: str | None
    total: int | None


class IncidentHistory(Schema):
    """Every revision of an incident, the first one first."""

    incident_id: int
    revisions: list[LogEntryView]


class LineIn(Schema):
    position_id: int
    action: Literal["replaced", "removed", "kept"]
    part_number: str | None = Field(default=None, max_length=60)
    shelf_site: str | None = Field(default=None, max_length=20)
    serial: str | None = Field(default=None, max_length=60)
    finding: FindingName | None = None
    source: Literal["on_hand", "harvested"] = "on_hand"
    removed_to: Literal["harvested", "quarantine", "scrapped", "returned"] | None = None
    removed_serial: str | None = Field(default=None, max_length=60)
    tested: Literal["good", "worn"] | None = None


class IncidentIn(Schema):
    tag: str = Field(max_length=60)
    occurred_on: date
    reason: str = Field(max_length=300)
    finding: FindingName
    lines: list[LineIn] = Field(max_length=20)
    minutes: int | None = Field(default=None, ge=0, le=10000)
    note: str = Field(default="", max_length=2000)
    last_good_on: date | None = None
    confirmed: list[Literal["duplicate", "fit", "serial", "both_failed"]] = Field(default_factory=list)
    evidence: EvidenceIn = EvidenceIn()


class IncidentRecorded(Schema):
    incident_id: int
    number: int


class CorrectionIn(Schema):
    expected_number: int
    occurred_on: date
    reason: str = Field(max_length=300)
    finding: FindingName
    minutes: int | None = Field(default=None, ge=0, le=10000)
    note: str = Field(default="", max_length=2000)
    last_good_on: date | None = None
    evidence: EvidenceIn = EvidenceIn()


class FitView(Schema):
    part_number: str
    part_name: str
    verdict: str
    reason: str
    on_hand: dict[str, int]


class PositionView(Schema):
    position_id: int
    key: str
    label: str
    kind: str
    serviceability: str
    ordered_unit: str | None
    part_number: str | None
    part_name: str | None
    serial: str | None
    fitted_on: date | None
    fits: list[FitView]


class AssetCard(Schema):
    tag: str
    serial: str | None
    model: str
    form: str
    site_code: str | None
    site: str | None
    duty: str
    in_service_on: date
    retired_on: date | None
    positions: list[PositionView]


class ShareView(Schema):
    """A share with its 90% interval, and the counts it rests on."""

    share: float
    low: float
    high: float
    count: int
    total: int


class PartSharesView(Schema):
    """What the complaints about a part turned out to be."""

    number: str
    name: str
    kind: str
    counts: dict[str, int]
    complaints: int
    open: int
    no_fault: ShareView


class PartSharesList(Schema):
    parts: list[PartSharesView]


class RepeatView(Schema):
    """A position that failed again; `probability` is that of failing this soon or sooner at the part's rate, null without a rate."""

    tag: str
    model: str
    position: str
    kind: str
    part_number: str
    incident_id: int
    before_id: int
    occurred_on: date
    before_on: date
    lasted_days: int
    rate: float | None
    probability: float | None


class RepeatList(Schema):
    repeats: list[RepeatView]


class ExportQuery(Schema):
    finding: FindingName | None = None
    kind: str | None = Field(default=None, max_length=20)
    site: str | None = Field(default=None, max_length=20)
    q: str | None = Field(default=None, max_length=100)


class OldLogField(Schema):
    name: str
    about: str
    required: bool


class OldLogFault(Schema):
    line: int
    field: str
    message: str


class OldLogMeaning(Schema):
    """How the file's columns and words are meant; `columns` is null when they are to be proposed."""

    columns: dict[str, str] | None = None
    findings: dict[str, str] = Field(default_factory=dict)
    day_first: bool = True
    write: bool = False


class OldLogView(Schema):
    """What a file holds and what is wrong with it; the first faults are listed, all are counted."""

    header: list[str]
    fields: list[OldLogField]
    columns: dict[str, str]
    rows: int
    understood: int
    sample: list[dict[str, str]]
    faults: list[OldLogFault]
    faults_total: int
    unexplained: dict[str, int]
    written: int
