"""What an incident does to machine, shelf and units: all in the transaction that records it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import NamedTuple, Protocol

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import REMOVED_TO, Bucket, Finding
from almanac.services.clock import Clock
from almanac.services.stores.ages import lot_of
from almanac.store import shelves, units
from almanac.store.models import Asset, EventLine, EventRevision, Part, Position, Site, StockMove, Tenure, Unit


class AskedLine(Protocol):
    """What was asked for at one position."""

    @property
    def action(self) -> str: ...
    @property
    def serial(self) -> str | None: ...
    @property
    def source(self) -> str: ...
    @property
    def removed_to(self) -> str | None: ...
    @property
    def removed_serial(self) -> str | None: ...
    @property
    def tested(self) -> str | None: ...


@dataclass(frozen=True)
class FoundLine:
    """A line whose names were found."""

    place: int
    request: AskedLine
    position: Position
    finding: Finding
    tenure: Tenure | None
    part: Part | None
    site: Site | None
    unit: Unit | None

    def age_days(self, day: date) -> int | None:
        """Days since the old part was fitted, None where there is none."""
        return (day - self.tenure.fitted_on).days if self.tenure else None

    @property
    def bucket(self) -> Bucket:
        """Where the old part goes: as asked, else as the finding says."""
        return Bucket(self.request.removed_to) if self.request.removed_to else REMOVED_TO[self.finding]


def carry_out(session: Session, asset: Asset, site: Site, line: FoundLine, revision: EventRevision, clock: Clock) -> Tenure | None:
    """End the old tenure, begin the new one, write the stock moves and the line; returns the new tenure."""
    removed = line.tenure if line.request.action != "kept" else None
    if removed is not None:
        removed.removed_on, removed.removal_recorded_at = revision.occurred_on, clock.now
        _mark(line, clock)
        session.flush()
    fitted = _fit(session, asset, site, line, revision, clock) if line.request.action == "replaced" else None
    moves = []
    if fitted is not None and line.site is not None:
        # The move names the lot the part is of, so that what is left of each is counted from the same.
        unit = session.get_one(Unit, fitted.unit_id)
        lot = unit.made_on if unit.lot_known_by is not None else None
        moves.append((fitted.part_id, line.site.id, Bucket(line.request.source), -1, "fitted", lot))
    if removed is not None:
        moves.append((removed.part_id, site.id, line.bucket, 1, "removed", None))
    for part_id, site_id, bucket, quantity, cause, made_on in moves:
        at = MovedOn(revision.occurred_on, made_on)
        add_move(session, part_id, site_id, bucket, quantity, cause, at=at, clock=clock, revision=revision)
    session.add(
        EventLine(
            revision_id=revision.id,
            number=line.place + 1,
            position_id=line.position.id,
            action=line.request.action,
            finding=line.finding.value,
            removed_tenure_id=line.tenure.id if line.tenure else None,
            removed_part_id=line.tenure.part_id if line.tenure else None,
            fitted_tenure_id=fitted.id if fitted else None,
            fitted_part_id=fitted.part_id if fitted else None,
            shelf_site_id=line.site.id if fitted and line.site else None,
            fitted_from=line.request.source if fitted else None,
            removed_to=line.bucket.value if removed is not None else None,
        )
    )
    return fitted


def _mark(line: FoundLine, clock: Clock) -> None:
    """What is known of the old unit now: its serial as read, whether it failed, what its test said."""
    if line.unit is None:
        return
    if line.request.removed_serial:
        line.unit.serial = line.request.removed_serial.strip()
    line.unit.condition = "failed" if line.finding in (Finding.CONFIRMED, Finding.DAMAGE, Finding.DEAD_ON_ARRIVAL) else "used"
    if line.bucket is Bucket.HARVESTED:
        line.unit.condition = "harvested"
    if line.request.tested:
        line.unit.tested_on, line.unit.tested_as = clock.today, line.request.tested


def _fit(session: Session, asset: Asset, site: Site, line: FoundLine, revision: EventRevision, clock: Clock) -> Tenure:
    """A new unit starts at age zero; a recovered one keeps its age."""
    assert line.part is not None and line.site is not None
    unit, age, span = Unit(part_id=line.part.id, serial=line.request.serial, condition="new", received_on=revision.occurred_on), 0, 0
    if line.request.source != Bucket.HARVESTED:
        shelf = shelves.shelf_for_update(session, line.part.id, line.site.id)
        lot = lot_of(session, (line.part, shelf, Bucket(line.request.source)), line.request.serial, revision.occurred_on)
        unit.made_on, unit.lot_known_by = lot or (None, None)
    if line.request.source == Bucket.HARVESTED:
        unit, age, span = units.harvested(session, line.part.id, line.site.id, serial=line.request.serial)[0]
        unit.serial = unit.serial or line.request.serial
    session.add(unit)
    session.flush()
    tenure = Tenure(
        unit_id=unit.id,
        part_id=line.part.id,
        asset_id=asset.id,
        model_id=asset.model_id,
        position_id=line.position.id,
        fitted_on=revision.occurred_on,
        age_at_fitting_days=age,
        age_span_days=span,
        observed_from=max(revision.occurred_on, site.log_began_on),
        recorded_at=clock.now,
    )
    session.add(tenure)
    session.flush()
    return tenure


class MovedOn(NamedTuple):
    """The day of a move, and the day its part was made where its lot is known."""

    day: date
    made_on: date | None = None


def add_move(
    session: Session,
    part_id: int,
    site_id: int,
    bucket: Bucket,
    quantity: int,
    cause: str,
    *,
    at: MovedOn,
    clock: Clock,
    revision: EventRevision,
) -> None:
    """One stock move caused by an incident's revision."""
    session.add(
        StockMove(
            shelf_id=shelves.shelf_for_update(session, part_id, site_id).id,
            bucket=bucket.value,
            quantity=quantity,
            cause=cause,
            made_on=at.made_on,
            moved_on=at.day,
            recorded_at=clock.now,
            author_id=revision.author_id,
            incident_id=revision.incident_id,
        )
    )
