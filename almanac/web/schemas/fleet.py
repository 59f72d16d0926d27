"""The register of machines, what it will ask for, and looks at it that are kept."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from almanac.core.parts.kinds import Duty
from almanac.store.register import MachineStanding, RegisterOrder
from almanac.web.schemas.base import Schema

MOST_TAGS = 500


class RegisterQuery(Schema):
    """A look at the register; several models, sites, uses or wishes are separated by commas, ages are in whole years."""

    q: str = Field(default="", max_length=100)
    model: str = Field(default="", max_length=400)
    site: str = Field(default="", max_length=400)
    duty: str = Field(default="", max_length=100)
    standing: MachineStanding = MachineStanding.IN_USE
    youngest: int | None = Field(default=None, ge=0, le=99)
    oldest: int | None = Field(default=None, ge=0, le=99)
    wanted: str = Field(default="", max_length=200)


class RegisterPageQuery(RegisterQuery):
    """One page of it."""

    sort: RegisterOrder = RegisterOrder.TAG
    descending: bool = False
    first: int = Field(default=0, ge=0, le=10_000_000)
    most: int = Field(default=100, ge=1, le=500)


class AgesQuery(Schema):
    by: Literal["model", "site"] = "model"
    site: str | None = Field(default=None, max_length=20)


class RegisterLine(Schema):
    """A machine. failures : incidents of the last twelve months · share, share_kind : the lowest reading of a part in it

    warranty_until : the first that ends from today on · job_id : open on it · questions : of its reports · changes : an edit has to name
    """

    tag: str
    serial: str | None
    model_id: int
    model: str
    site: str | None
    duty: Duty
    in_service_on: date
    retire_planned_on: date | None
    retired_on: date | None
    failures: int
    share: float | None
    share_kind: str | None
    warranty_until: date | None
    job_id: int | None
    reported_at: datetime | None
    questions: int
    notes: int
    changes: int


class RegisterView(Schema):
    """Machines that are meant. total : of all pages"""

    as_of: date
    total: int
    machines: list[RegisterLine]


class AskedOfKind(Schema):
    """Parts of a kind in service, and how many are expected to fail within a year; None where nobody can say."""

    kind: str
    units: float
    failures: float | None


class AgeRow(Schema):
    """Machines of a model or at a site by whole year of age, the oldest together. key : id of the model or code of the site"""

    key: str
    name: str
    machines: list[int]
    asks: list[AskedOfKind]


class AgesView(Schema):
    """The fleet by age. bands : years from which each band begins · unsaid : kinds of which nobody can say what they will ask for

    unrecorded : machines of which nothing of some kind is on record: what will fail in those is in no figure
    """

    as_of: date
    bands: list[int]
    rows: list[AgeRow]
    kinds: list[str]
    unsaid: list[str]
    unrecorded: int


class MachineSeen(Schema):
    """A machine that is to be changed, and how many changes of it were seen."""

    tag: str = Field(max_length=60)
    changes: int


class BulkIn(Schema):
    """One change of many machines: `move` to a site on a day, `duty`, `plan` the day they retire (none: not planned), `retire` on a day."""

    machines: list[MachineSeen] = Field(min_length=1, max_length=MOST_TAGS)
    act: Literal["move", "duty", "plan", "retire"]
    site: str = Field(default="", max_length=8)
    duty: Duty | None = None
    on: date | None = None


class BulkDone(Schema):
    machines: int


class FleetViewIn(Schema):
    name: str = Field(max_length=200)
    query: str = Field(max_length=2500)


class FleetViewKept(Schema):
    """A look that is kept. query : as it stands in the address"""

    id: int
    name: str
    query: str


class FleetViewList(Schema):
    views: list[FleetViewKept]


class FleetLabelsQuery(Schema):
    """tags : separated by commas · single : one label a page, for a label printer"""

    tags: str = Field(max_length=12_000)
    single: bool = False
