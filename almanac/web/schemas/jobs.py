"""Jobs at the bench: opening, the running job, its journal, and closing."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import Field

from almanac.web.schemas.approvals import ApprovalView, StillOutView
from almanac.web.schemas.base import Schema, Words
from almanac.web.schemas.issue import WithParts
from almanac.web.schemas.ledger import EvidenceIn, FindingName
from almanac.web.schemas.machine_reports import FigureView, MachineSaid
from almanac.web.schemas.models import MinutesView

Purpose = Literal["repair", "upgrade", "preventive", "survey"]
Name = Annotated[str, Field(max_length=80)]


Sign = Literal["touchpad", "gap", "lid", "rocking", "smell", "heat", "no_power", "noise"]


class JobsQuery(Schema):
    ended: bool = False
    tag: str | None = Field(default=None, max_length=60)


class JobLineView(Schema):
    """A job in the list."""

    id: int
    tag: str
    model: str
    site: str
    purpose: str
    state: str
    symptom: str
    targets: list[str]
    opened_on: date
    opened_by: str | None
    in_hand_of: str | None
    planned_minutes: float
    failed_test: bool
    reopens_id: int | None
    incident_id: int | None


class JobList(Schema):
    jobs: list[JobLineView]


class PlanIn(Schema):
    """What a job is to reach. Without targets it is diagnosed first; `plain` where nobody described the way in.

    powered : by the short way that leaves the power connected, under a lead's waiver
    """

    targets: list[Name] = Field(default_factory=list, max_length=20)
    direct: list[Name] = Field(default_factory=list, max_length=20)
    include: list[Name] = Field(default_factory=list, max_length=50)
    lift_pack_out: bool = False
    test_first: bool | None = None
    remote: bool = False
    plain: bool = False
    powered: bool = False


class JobIn(PlanIn):
    """A job as it is opened. signs : what was seen before the first screw; none is an answer, left out it is not."""

    tag: str = Field(max_length=60)
    purpose: Purpose = "repair"
    symptom: str = Field(max_length=300)
    events: list[Literal["drop", "spill"]] = Field(default_factory=list)
    agreed: Words = ""
    agreed_parts: dict[str, str] = Field(default_factory=dict, max_length=40)
    signs: list[Sign]
    confirmed: list[Literal["second_job"]] = Field(default_factory=list)


class JobOpened(Schema):
    job_id: int


class TargetsIn(PlanIn):
    device: UUID
    reason: str = Field(default="", max_length=300)


class LeadView(Schema):
    name: str
    kind: str
    release: str | None


class TrayGroupView(Schema):
    """Screws of one group: loose ones expected in the tray, captive ones, and those nobody looked at."""

    group: str
    loose: int
    captive: int
    unknown: int
    least: bool
    about: bool


class AskView(Schema):
    key: str
    words: str
    kind: Literal["yes", "number", "words", "choice"]
    choices: list[str]
    optional: bool


class GateView(Schema):
    id: str
    title: str
    why: str
    asks: list[AskView]
    waivable: bool
    approval: Literal["second"] | None
    approved_by: str | None


class JobStepView(Schema):
    """One step. `gates` names every gate before it, passed or not, so that a device without a connection knows where to wait."""

    id: str
    phase: Literal["opening", "swap", "test", "closing"]
    text: str
    minutes: MinutesView
    operation: str | None
    position: str | None
    tool: str | None
    bits: list[str]
    cautions: list[str]
    screws: list[TrayGroupView]
    leads: list[LeadView]
    live: bool
    isolates: bool
    numbered: bool
    left_out: bool
    frees: list[str]
    one_way: str | None
    gates: list[str]


class JobTrayView(Schema):
    """One compartment: loose screws out and back, and captive ones, which never leave."""

    group: str
    out: int
    back: int
    expected: int
    exact: bool
    captive: int


class LeadState(Schema):
    name: str
    back: bool
    how: str


class SettleFactView(Schema):
    position: str
    field: str
    name: str
    question: str
    now: str | None


class EntryView(Schema):
    """An entry of the journal; `key` is the identifier the device that made it gave it."""

    key: UUID
    number: int
    kind: str
    data: dict[str, Any]
    done_at: datetime
    author: str | None


class LeaseView(Schema):
    """Who has the job in hand, and until when on the server's clock."""

    user: str | None
    device: UUID | None
    until: datetime | None
    now: datetime


class SwapView(Schema):
    """A position the job changes: what is in it, and what fits with stock by site."""

    position: str
    label: str
    kind: str
    held: str | None
    held_serial: str | None
    fits: list[SwapFit]


class SwapFit(Schema):
    part_number: str
    part_name: str
    verdict: str
    reason: str
    on_hand: dict[str, int]


class WaiverView(Schema):
    """A gate that was waived: it never reads as passed. `now` : it stands open by the waiver alone."""

    gate: str
    words: str
    now: bool


class JobView(WithParts):
    """A job with all that its journal adds up to."""

    id: int
    tag: str
    model: str
    model_id: int
    site: str
    site_code: str
    form: str
    purpose: str
    state: str
    symptom: str
    events: list[str]
    agreed: str
    opened_on: date
    opened_by: str | None
    reopens_id: int | None
    incident_id: int | None
    targets: list[str]
    plain: bool
    wanted: list[str]
    steps: list[JobStepView]
    done: list[str]
    gates: list[GateView]
    waivers: list[WaiverView]
    failed_test: bool
    isolated: bool
    passed: list[str]
    tray: list[JobTrayView]
    leads: list[LeadState]
    beneath: list[StillOutView]
    mismatches: list[str]
    blocking: list[str]
    swaps: list[SwapView]
    swapped: dict[str, dict[str, Any]]
    facts: list[SettleFactView]
    questions: list[str]
    checks: dict[str, bool]
    check_words: dict[str, str]
    report: list[FigureView]
    said: MachineSaid
    agreed_parts: dict[str, str]
    parked: dict[str, Any] | None
    waiting_for: str | None
    danger: list[str]
    referral: list[str]
    released: bool
    decision: str
    screw_ends: list[str]
    approvals: list[ApprovalView]
    tests: list[list[str]]
    cold_starts: int
    cold_starts_wanted: int
    watch_from: date | None
    watch_until: date | None
    came_back: bool
    planned: MinutesView
    learnt_factor: float
    learnt_jobs: int
    minutes_so_far: float
    test_reason: str
    consumables: list[str]
    lease: LeaseView
    journal: list[EntryView]


class TypedStepIn(Schema):
    """One step of a way in that nobody described, as it is typed; fasteners in shorthand."""

    device: UUID
    text: Name
    tool: str = Field(default="", max_length=40)
    fasteners: str = Field(default="", max_length=300)
    leads: list[Name] = Field(default_factory=list, max_length=20)
    frees: list[Name] = Field(default_factory=list, max_length=20)
    live: bool = False
    isolates: bool = False
    outside: bool = False


class LeaseIn(Schema):
    device: UUID
    takeover: bool = False


class LeaseGranted(Schema):
    until: datetime


class DeviceIn(Schema):
    device: UUID


class EntryIn(Schema):
    """One entry as the device made it; sent again, it is the same entry."""

    key: UUID
    kind: str = Field(max_length=30)
    data: dict[str, Any] = Field(default_factory=dict)
    done_at: datetime


class EntriesIn(Schema):
    device: UUID
    entries: list[EntryIn] = Field(min_length=1, max_length=200)


class EntriesTaken(Schema):
    """How many of the entries are written; the first that is refused with its reasons, None where all were taken."""

    written: int
    refused_key: UUID | None
    reasons: list[str]
    job: JobView


class CloseLineIn(Schema):
    position: Name
    action: Literal["replaced", "removed", "kept"]
    part_number: str | None = Field(default=None, max_length=60)
    shelf_site: str | None = Field(default=None, max_length=20)
    source: Literal["on_hand", "harvested"] = "on_hand"
    serial: str | None = Field(default=None, max_length=60)
    finding: FindingName | None = None
    removed_to: Literal["harvested", "quarantine", "scrapped", "returned"] | None = None
    removed_serial: str | None = Field(default=None, max_length=60)
    tested: Literal["good", "worn"] | None = None
    custody: str = Field(default="", max_length=300)


class CloseIn(Schema):
    device: UUID
    finding: FindingName
    lines: list[CloseLineIn] = Field(default_factory=list, max_length=20)
    minutes: int | None = Field(default=None, ge=0, le=10000)
    note: Words = ""
    accept_reason: str = Field(default="", max_length=300)
    evidence: EvidenceIn = EvidenceIn()
    watch: bool = False
    last_good_on: date | None = None
    consumables: list[Name] = Field(default_factory=list, max_length=30)
    confirmed: list[Literal["duplicate", "fit", "serial", "both_failed"]] = Field(default_factory=list)


class JobClosed(Schema):
    incident_id: int | None
    page_number: int | None


class SettleIn(Schema):
    finding: FindingName
    fails_elsewhere: bool | None = None
    proof: Literal["swollen", "broken", "burnt"] | None = None
    note: Words = ""


class ReopenIn(Schema):
    reason: str = Field(max_length=300)


class AbandonIn(Schema):
    device: UUID
    reason: str = Field(max_length=300)
    quarantine: str = Field(default="", max_length=300)


class Abandoned(Schema):
    incident_id: int | None
