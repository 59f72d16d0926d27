"""The machine's page: what is in it, what happened to it, and how it may be changed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS, WORN, BenchRole, kinds_of_role
from almanac.core.triage.repair import GoodPart, harvest_value
from almanac.core.workbench.heard import lines
from almanac.core.workbench.reported import report_of
from almanac.services.clock import Clock
from almanac.services.errors import NotFound
from almanac.services.fleet.edit import subject_of
from almanac.services.readings import worn_limits
from almanac.services.workbench.weighing import costs_of
from almanac.store import assets, changes, machines, reports
from almanac.store.changes import ChangeRow
from almanac.store.machines import EventRow, FixedRow, HeldRow, NoteRow, ReadingRow
from almanac.store.models import Asset, DeviceModel

MOST_EVENTS = 200
DAYS_A_YEAR = 365.25


@dataclass(frozen=True)
class HeldPart:
    """A part in a machine."""

    row: HeldRow
    age_days: int


@dataclass(frozen=True)
class Harvest:
    """What its parts are worth taken out and tested. parts : that count, packs never · penalty : share of the price a year"""

    worth: float
    parts: int
    penalty: float


@dataclass(frozen=True)
class Curve:
    """Readings of one part. threshold : share at which it is swapped, None where nobody said"""

    rows: list[ReadingRow]
    threshold: float | None


@dataclass(frozen=True)
class SaidLast:
    """What a machine said of itself last, in lines, and what of it is on record otherwise, by number."""

    at: datetime
    says: list[str]
    missed: list[str]
    asked: dict[int, str]


@dataclass(frozen=True)
class MachinePage:
    """A machine. lacking : positions in which nothing is on record · number_of_changes : what an edit has to name"""

    asset: Asset
    model: DeviceModel
    site_code: str | None
    busy: bool
    held: list[HeldPart]
    lacking: list[str]
    fixed: list[FixedRow]
    curves: list[Curve]
    harvest: Harvest
    said: SaidLast | None
    notes: list[NoteRow]
    events: list[EventRow]
    number_of_changes: int
    changes: list[ChangeRow]


def read_machine(session: Session, tag: str, clock: Clock) -> MachinePage:
    """A machine by its tag.

    Raises
    ------
    NotFound : no machine has that tag
    """
    asset = machines.by_tag(session, tag)
    if asset is None:
        raise NotFound(f"no machine has the tag {tag}")
    subject = subject_of(asset)
    return MachinePage(
        asset=asset,
        model=session.get_one(DeviceModel, asset.model_id),
        site_code=machines.stands_at(session, asset.id),
        busy=machines.is_busy(session, asset.id),
        held=[HeldPart(row, _age(row, clock.today)) for row in machines.held(session, asset.id)],
        lacking=machines.lacking(session, asset.id, [kind.value for kind in FORECAST_KINDS]),
        fixed=machines.fixed(session, asset.id),
        curves=_curves(session, asset, clock),
        harvest=_harvest(session, asset, clock),
        said=_said(session, asset),
        notes=machines.notes(session, asset.id),
        events=machines.events(session, asset.id, MOST_EVENTS),
        number_of_changes=changes.count_of(session, subject),
        changes=changes.changes_of(session, subject),
    )


def _age(row: HeldRow, today: date) -> int:
    return (today - row.fitted_on).days + row.age_at_fitting_days


def _curves(session: Session, asset: Asset, clock: Clock) -> list[Curve]:
    """Readings by part, those of parts that are in it first."""
    of: dict[int, list[ReadingRow]] = {}
    for row in machines.readings(session, asset.id):
        of.setdefault(row.tenure_id, []).append(row)
    limits = worn_limits(session, clock) if of else {}
    found = [Curve(rows, limits.get(rows[0].number) if rows[0].kind in WORN else None) for rows in of.values()]
    return sorted(found, key=lambda one: one.rows[0].removed_on is not None)


def _harvest(session: Session, asset: Asset, clock: Clock) -> Harvest:
    """Parts that would count as stock once they pass their test (rule N7), at their price less a share a year."""
    penalty, packs = costs_of(session, clock).age_penalty, kinds_of_role(BenchRole.PACK)
    good = [
        GoodPart(part.name, float(part.price), ((clock.today - tenure.fitted_on).days + tenure.age_at_fitting_days) / DAYS_A_YEAR)
        for tenure, part, _ in assets.open_tenures(session, asset.id).values()
        if part.kind not in packs
    ]
    values = [harvest_value(part, penalty) for part in good]
    return Harvest(sum(values), sum(value > 0 for value in values), penalty)


def _said(session: Session, asset: Asset) -> SaidLast | None:
    report = reports.report_of(session, asset.id, None)
    if report is None:
        return None
    asked = {row.id: row.words for row in reports.questions_of(session, asset.id) if row.settled_at is None}
    return SaidLast(report.reported_at, lines(report_of(report.said)), [str(words) for words in report.missed], asked)
