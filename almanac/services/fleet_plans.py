"""The plan of the fleet: what will be bought, retired and replaced on which day, who planned it, and what was withdrawn."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.outlook.inputs import read_inputs
from almanac.services.scenarios.changes import Planned, check_changes, plans_of, with_machines_of
from almanac.services.stores.fill import end_plan
from almanac.store import catalog
from almanac.store.models import FleetPlan

LONGEST_NOTE = 200
NOT_ON_RECORD = datetime(2000, 1, 1, tzinfo=UTC)
"""When plans were made that are older than the record of it: they count as always known."""


def plan(session: Session, changes: Sequence[Planned], note: str, *, clock: Clock, author_id: int) -> list[int]:
    """Put changes into the plan of the fleet, all or none of them; returns their numbers.

    Raises
    ------
    Refused : no change, one that cannot be done, machines that are not in service, or a note that is too long
    """
    if not changes:
        raise Refused(Fault("changes", "at least one change was wanted"))
    if len(note.strip()) > LONGEST_NOTE:
        raise Refused(Fault("note", f"at most {LONGEST_NOTE} characters were wanted, got {len(note.strip())}"))
    inputs = read_inputs(session)
    check_changes(session, inputs, changes)
    inputs = with_machines_of(session, inputs, changes)
    made, faults = [], []
    for place, change in enumerate(changes):
        rows = plans_of(session, inputs, change)
        made += rows
        if not rows:
            faults.append(Fault(f"changes.{place}.model_id", "no machine of this model is in service there: nothing to plan"))
    if faults:
        raise Refused(*faults)
    for row in made:
        row.note, row.recorded_at, row.author_id = note.strip(), clock.now, author_id
    session.add_all(made)
    session.flush()
    return [row.id for row in made]


def withdraw(session: Session, plan_id: int, *, clock: Clock, author_id: int) -> None:
    """Take something out of the plan; that it was planned stays on record.

    Raises
    ------
    NotFound : nothing of that number is planned · Refused : its day has come
    """
    found = session.get(FleetPlan, plan_id)
    if found is None or found.withdrawn_at is not None:
        raise NotFound(f"nothing with the number {plan_id} is planned")
    if found.planned_on <= clock.today:
        raise Refused(Fault("plan", f"{found.planned_on.isoformat()} has come: what was done is recorded with the machines"))
    found.withdrawn_at, found.withdrawn_by_id = max(clock.now, found.recorded_at), author_id
    session.flush()
    end_plan(session, found.id, clock)


def planned(session: Session, *, clock: Clock) -> list[catalog.PlanRow]:
    """What is planned for days to come, the next first; without a day of record where none was kept."""
    rows = catalog.plan_rows(session, after=clock.today)
    return [row._replace(recorded_at=None) if row.recorded_at == NOT_ON_RECORD else row for row in rows]
