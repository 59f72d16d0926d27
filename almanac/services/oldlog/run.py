"""An old log from end to end: read, mapped, checked, and written whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.exchange.tables import Row, TableFault, read_csv, read_xlsx
from almanac.services.answers.progress import each
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.oldlog.check import Checked, OldIncident, Reading, check_rows, covering
from almanac.services.oldlog.columns import proposed
from almanac.store import oldlog
from almanac.store.models import Asset, EventLine, EventRevision, Incident, Site, Tenure, Unit

ZIP = b"PK\x03\x04"


@dataclass(frozen=True)
class OldLog:
    """What a file holds: its columns, the reading used or proposed, and what checking said."""

    header: list[str]
    reading: Reading
    rows: list[Row]
    checked: Checked
    written: int = 0


@dataclass(frozen=True)
class OldLogRequest:
    """A file with how its columns are meant; without columns they are proposed from the header."""

    data: bytes
    columns: dict[str, str] | None = None
    findings: dict[str, str] = field(default_factory=dict)
    day_first: bool = True
    write: bool = False


def read_old_log(session: Session, request: OldLogRequest, *, clock: Clock, author_id: int, most_rows: int | None = None) -> OldLog:
    """Preview an old log, and with `write` and nothing wrong record all of it.

    Raises
    ------
    Refused : the file is no table, a column that it has not, or faults and a wish to write
    """
    try:
        read = (
            read_xlsx(request.data, most_rows=most_rows)
            if request.data.startswith(ZIP)
            else read_csv(request.data, required=(), most_rows=most_rows)
        )
    except TableFault as fault:
        raise Refused(Fault("file", str(fault))) from fault
    header = list(read[0].cells) if read else []
    if not read:
        raise Refused(Fault("file", "the file has a header and no row"))
    columns = request.columns if request.columns is not None else proposed(header)
    strange = [name for name in columns.values() if name and name not in header]
    if strange:
        raise Refused(Fault("columns", f"the file has no column {', '.join(strange)}: it has {', '.join(header)}"))
    reading = Reading({name: column for name, column in columns.items() if column}, request.findings, request.day_first)
    checked = check_rows(session, read, reading, clock=clock)
    if not request.write:
        return OldLog(header, reading, read, checked)
    if checked.faults:
        raise Refused(Fault("file", f"{len(checked.faults)} faults; nothing was written: mend the rows, or leave them out of the file"))
    write_incidents(session, checked.incidents, clock=clock, author_id=author_id)
    return OldLog(header, reading, read, checked, written=len(checked.incidents))


def _table(data: bytes, most_rows: int | None) -> list[Row]:
    """A workbook by its first bytes, else CSV."""
    return read_xlsx(data, most_rows=most_rows) if data.startswith(ZIP) else read_csv(data, required=(), most_rows=most_rows)


def write_incidents(session: Session, found: Sequence[OldIncident], *, clock: Clock, author_id: int | None) -> list[int]:
    """Record old incidents in order of day: each ends one part's life and begins the next. Shelves are not touched.

    Where no fault was found and no other part was fitted, the old part stayed in. Returns the ids of the incidents.
    """
    written = []
    for item in each(sorted(found, key=lambda one: (one.occurred_on, one.line)), "writing"):
        asset = session.get_one(Asset, item.machine.id)
        site = session.get_one(Site, item.machine.site_id)
        tenure = _tenure_at(session, item)
        kept = item.kept or (item.finding == Finding.NO_FAULT_FOUND and item.part_id is None)
        ended, begun = (tenure, None) if kept else _split(session, item, tenure, asset, site, clock)
        revision = _revision(session, item, site.id, clock, author_id)
        written.append(revision.incident_id)
        session.add(
            EventLine(
                revision_id=revision.id,
                number=1,
                position_id=item.place.id,
                action="replaced" if begun else "kept",
                finding=item.finding.value,
                removed_tenure_id=ended.id,
                removed_part_id=ended.part_id,
                fitted_tenure_id=begun.id if begun else None,
                fitted_part_id=begun.part_id if begun else None,
                shelf_site_id=None,
            )
        )
        session.flush()
    return written


def _revision(session: Session, item: OldIncident, site_id: int, clock: Clock, author_id: int | None) -> EventRevision:
    incident = Incident(
        asset_id=item.machine.id,
        site_id=site_id,
        latest_number=1,
        occurred_on=item.occurred_on,
        is_open=item.finding == Finding.OPEN,
    )
    session.add(incident)
    session.flush()
    revision = EventRevision(
        incident_id=incident.id,
        number=1,
        occurred_on=item.occurred_on,
        recorded_at=clock.now,
        author_id=author_id,
        reason=item.reason,
        finding=item.finding.value,
        minutes=item.minutes,
        note=item.note,
        last_good_on=item.last_good_on,
    )
    session.add(revision)
    session.flush()
    return revision


def _tenure_at(session: Session, item: OldIncident) -> Tenure:
    """The tenure a row falls into as it stands now: rows before it may have split it."""
    tenure: Tenure | None = covering(oldlog.tenures_at(session, item.machine.id, item.place.id), item.occurred_on)
    if tenure is None:
        raise Refused(Fault("file", f"line {item.line}: another row of this file already covers that day"))
    return tenure


def _split(session: Session, item: OldIncident, tenure: Tenure, asset: Asset, site: Site, clock: Clock) -> tuple[Tenure, Tenure]:
    """One recorded life becomes two. The row that recorded incidents point to keeps its side."""
    unit = Unit(part_id=item.part_id or tenure.part_id, serial=item.serial, condition="new", received_on=item.occurred_on)
    if oldlog.ended_by_log(session, tenure.id):
        return _earlier(session, item, tenure, asset, clock)
    session.add(unit)
    session.flush()
    until, recorded = tenure.removed_on, tenure.removal_recorded_at
    tenure.removed_on, tenure.removal_recorded_at = item.occurred_on, clock.now
    session.flush()
    begun = Tenure(
        unit_id=unit.id,
        part_id=unit.part_id,
        asset_id=asset.id,
        model_id=asset.model_id,
        position_id=item.place.id,
        fitted_on=item.occurred_on,
        removed_on=until,
        observed_from=max(item.occurred_on, site.log_began_on),
        recorded_at=clock.now,
        removal_recorded_at=recorded,
    )
    session.add(begun)
    session.flush()
    return tenure, begun


def _earlier(session: Session, item: OldIncident, tenure: Tenure, asset: Asset, clock: Clock) -> tuple[Tenure, Tenure]:
    """A recorded incident ends this life: it keeps the later part, and the earlier part becomes a life of its own."""
    unit = Unit(part_id=tenure.part_id, condition="used")
    session.add(unit)
    session.flush()
    fitted, observed, age, span = tenure.fitted_on, tenure.observed_from, tenure.age_at_fitting_days, tenure.age_span_days
    tenure.fitted_on, tenure.age_at_fitting_days, tenure.age_span_days = item.occurred_on, 0, 0
    tenure.observed_from = max(item.occurred_on, observed)
    session.flush()
    ended = Tenure(
        unit_id=unit.id,
        part_id=unit.part_id,
        asset_id=asset.id,
        model_id=asset.model_id,
        position_id=item.place.id,
        fitted_on=fitted,
        removed_on=item.occurred_on,
        age_at_fitting_days=age,
        age_span_days=min(span, age + (min(observed, item.occurred_on) - fitted).days),
        observed_from=min(observed, item.occurred_on),
        recorded_at=tenure.recorded_at,
        removal_recorded_at=clock.now,
    )
    session.add(ended)
    session.flush()
    return ended, tenure
