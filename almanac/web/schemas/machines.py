"""A machine: what is in it, what happened to it, and how it is changed."""

from __future__ import annotations

from datetime import date

from pydantic import Field

from almanac.core.parts.kinds import Duty
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


class MachineView(Schema):
    """A machine. lacking : positions in which nothing is on record · number_of_changes : what an edit has to name"""

    tag: str
    model_id: int
    model: str
    form: str
    site: str | None
    in_service_on: date
    retired_on: date | None
    busy: bool
    fields: MachineFields
    held: list[HeldPartView]
    lacking: list[str]
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


class MachineReturnIn(Schema):
    expected_changes: int


class MachineChanged(Schema):
    tag: str
