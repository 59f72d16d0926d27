"""A machine: what is in it, what happened to it, and how it is changed."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import Field

from almanac.core.parts.kinds import Duty
from almanac.services.fleet.dispose import DataFate, WentTo
from almanac.web.schemas.base import Schema
from almanac.web.schemas.catalog import CatalogChangeView


class MachineFields(Schema):
    serial: str | None = Field(default=None, max_length=200)
    duty: Duty
    retire_planned_on: date | None = None


class HeldPartView(Schema):
    """A part in a machine. share : what it could still give when it was read last, of what it was made for"""

    key: str
    label: str
    kind: str
    number: str
    name: str
    serial: str | None
    fitted_on: date
    age_days: int
    age_span_days: int
    warranty_until: date | None
    read_on: date | None
    share: float | None


class MachineEventView(Schema):
    """Something that happened. what : incident, fitted, held, removed, stands or job · number : of an incident or job"""

    day: date
    what: str
    words: str
    more: str
    number: int | None


class MachineNoteView(Schema):
    """Something that stays with a machine until a later job mends it. key : of its entry in the journal of a job"""

    key: str
    words: str
    photo: str | None
    job_id: int
    day: date
    author: str | None


class FixedPartView(Schema):
    """A place whose part is not replaced by itself. held : how it is held · ordered : what is ordered in its place"""

    label: str
    held: str
    ordered: str | None


class ReadPointView(Schema):
    """A reading. share : of what the part was made for · cycles : charge cycles counted by then"""

    on: date
    share: float
    cycles: int | None


class CurveView(Schema):
    """Readings of one part. until : the day it came out · threshold : share at which it is swapped"""

    label: str
    kind: str
    number: str
    since: date
    until: date | None
    threshold: float | None
    points: list[ReadPointView]


class HarvestView(Schema):
    """What its parts are worth taken out and tested, at their price less a share a year. parts : that count"""

    worth: float
    parts: int
    penalty: float


class AskedOfMachine(Schema):
    """What it says that is on record otherwise."""

    id: int
    words: str


class SaidLastView(Schema):
    """What it said of itself last."""

    at: datetime
    says: list[str]
    missed: list[str]
    asked: list[AskedOfMachine]


class MachineView(Schema):
    """A machine. lacking : positions in which nothing is on record · number_of_changes : what an edit has to name"""

    tag: str
    model_id: int
    model: str
    form: str
    site: str | None
    in_service_on: date
    retired_on: date | None
    disposed_on: date | None
    disposal: str | None
    options: dict[str, str]
    busy: bool
    fields: MachineFields
    held: list[HeldPartView]
    lacking: list[str]
    fixed: list[FixedPartView]
    curves: list[CurveView]
    harvest: HarvestView
    said: SaidLastView | None
    notes: list[MachineNoteView]
    events: list[MachineEventView]
    number_of_changes: int
    changes: list[CatalogChangeView]


class MachineEditIn(Schema):
    fields: MachineFields
    expected_changes: int


class MachineMoveIn(Schema):
    site: str = Field(max_length=8)
    on: date
    expected_changes: int


class MachineRetireIn(Schema):
    on: date
    expected_changes: int


class MachineDisposeIn(Schema):
    """It leaves for good. gone : where to · data : what became of the data on its drives · proof : certificate, or who took it"""

    gone: WentTo
    data: DataFate
    proof: str = Field(max_length=300)
    on: date
    expected_changes: int


class MachineReturnIn(Schema):
    expected_changes: int


class MachineChanged(Schema):
    tag: str
