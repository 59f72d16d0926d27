"""Writing incidents of tickets, and taking them back whole."""

from __future__ import annotations

import json
from collections.abc import Sequence
from datetime import date
from typing import Any

from sqlalchemy import select, text, update
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.services.errors import Fault, Refused
from almanac.services.intake.changes import Change
from almanac.services.intake.subject import By, Kept
from almanac.services.oldlog.check import OldIncident
from almanac.services.oldlog.run import write_incidents
from almanac.store import intake as store
from almanac.store.bulk import among
from almanac.store.models import Tenure
from almanac.store.oldlog import read_fleet

SPELT = (
    "unit_id",
    "part_id",
    "asset_id",
    "model_id",
    "position_id",
    "fitted_on",
    "removed_on",
    "age_at_fitting_days",
    "age_span_days",
    "observed_from",
)
TIMES = ("recorded_at", "removal_recorded_at")


def write_tickets(session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
    """Incidents, each with an open finding; returns their ids, and the lives they cut as they were and as they became."""
    fleet = read_fleet(session)
    machines = {machine.id: machine for machine in fleet.machines.values()}
    places = {place.id: place for own in fleet.places.values() for place in own}
    found = [
        OldIncident(
            line=change.line or 0,
            machine=machines[_number(change, "asset")],
            place=places[_number(change, "place")],
            occurred_on=change.on or date.min,
            finding=Finding.OPEN,
            reason=str(change.values["reason"]) or "from a ticket",
            part_id=None,
            serial=None,
            minutes=change.values["minutes"] if isinstance(change.values["minutes"], int) else None,
            note=str(change.values["note"]),
            kept=bool(change.values["kept"]),
        )
        for change in changes
    ]
    pairs = sorted({(one.machine.id, one.place.id) for one in found})
    before = _lives(session, pairs)
    incidents = write_incidents(session, found, clock=by.clock, author_id=by.author_id)
    after = _lives(session, pairs)
    kept: list[Kept] = [{"what": "incident", "id": number} for number in incidents]
    return [*kept, {"what": "lives", "pairs": [list(pair) for pair in pairs], "before": before, "after": after}]


def _number(change: Change, name: str) -> int:
    return int(str(change.values[name]))


def _lives(session: Session, pairs: Sequence[tuple[int, int]]) -> dict[str, dict[str, Any]]:
    """Lives of some positions of some machines by id, as plain values."""
    assets = sorted({asset for asset, _ in pairs})
    wanted = set(pairs)
    rows = session.scalars(select(Tenure).where(among(Tenure.asset_id, assets)).execution_options(populate_existing=True))
    own = [row for row in rows if (row.asset_id, row.position_id) in wanted]
    plain: dict[str, dict[str, Any]] = json.loads(
        json.dumps({str(row.id): {name: getattr(row, name) for name in (*SPELT, *TIMES)} for row in own}, default=str)
    )
    return plain


def undo_tickets(session: Session, rows: Sequence[Kept]) -> list[str]:
    """Take incidents back with everything they wrote.

    Raises
    ------
    Refused : one of them was settled or corrected since, or something else happened to a part it named
    """
    incidents = [int(row["id"]) for row in rows if row["what"] == "incident"]
    lives = next(row for row in rows if row["what"] == "lives")
    pairs = [(int(asset), int(place)) for asset, place in lives["pairs"]]
    session.flush()
    if store.incidents_revised(session, incidents):
        raise Refused(Fault("intake", "some of its incidents were settled or corrected since: correct the others one by one"))
    if _lives(session, pairs) != lives["after"]:
        raise Refused(Fault("intake", "parts it names were fitted or taken out since: correct its incidents one by one"))
    store.forget_incidents(session, incidents)
    new = [int(number) for number in lives["after"] if number not in lives["before"]]
    units = list(session.scalars(select(Tenure.unit_id).where(among(Tenure.id, new))))
    store.forget_tenures(session, new, [unit for unit in units if unit not in {row["unit_id"] for row in lives["before"].values()}])
    for number, was in lives["before"].items():
        session.execute(update(Tenure).where(Tenure.id == int(number)).values({name: _back(session, name, was[name]) for name in was}))
    session.expire_all()
    return []


def _back(session: Session, name: str, value: Any) -> Any:
    if value is None:
        return None
    if name in TIMES:
        return session.scalar(text("SELECT CAST(:value AS timestamptz)"), {"value": value})
    return date.fromisoformat(value) if name in ("fitted_on", "removed_on", "observed_from") else value
