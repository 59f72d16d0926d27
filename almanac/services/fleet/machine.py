"""The machine's page: what is in it, what happened to it, and how it may be changed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.clock import Clock
from almanac.services.errors import NotFound
from almanac.services.fleet.edit import subject_of
from almanac.store import changes, machines
from almanac.store.changes import ChangeRow
from almanac.store.machines import EventRow, HeldRow, NoteRow
from almanac.store.models import Asset, DeviceModel

MOST_EVENTS = 200


@dataclass(frozen=True)
class HeldPart:
    """A part in a machine."""

    row: HeldRow
    age_days: int


@dataclass(frozen=True)
class MachinePage:
    """A machine. lacking : positions in which nothing is on record · number_of_changes : what an edit has to name"""

    asset: Asset
    model: DeviceModel
    site_code: str | None
    busy: bool
    held: list[HeldPart]
    lacking: list[str]
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
        notes=machines.notes(session, asset.id),
        events=machines.events(session, asset.id, MOST_EVENTS),
        number_of_changes=changes.count_of(session, subject),
        changes=changes.changes_of(session, subject),
    )


def _age(row: HeldRow, today: date) -> int:
    return (today - row.fitted_on).days + row.age_at_fitting_days
