"""Correcting an incident: always a new revision; the finding moves the removed unit, a new day moves its tenures."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import REMOVED_TO, Bucket, Finding
from almanac.core.triage.confirm import Evidence
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.ledger.effects import MovedOn, add_move
from almanac.services.ledger.evidence import check_findings
from almanac.services.ledger.record import account_faults, add_revision
from almanac.services.words import day as day_words
from almanac.store import incidents
from almanac.store.models import EventLine, EventRevision, Site, Tenure


@dataclass(frozen=True)
class CorrectionRequest:
    """What is now known. `expected_number` is the revision the person read; line findings follow the incident's."""

    expected_number: int
    occurred_on: date
    reason: str
    finding: str
    minutes: int | None
    note: str
    last_good_on: date | None = None
    evidence: Evidence = field(default_factory=Evidence)


def correct_incident(session: Session, incident_id: int, request: CorrectionRequest, *, clock: Clock, author_id: int) -> int:
    """Append a revision and bring tenures and shelves in line with it; returns the revision's number.

    Raises
    ------
    NotFound : no such incident · Stale : somebody corrected it meanwhile · Refused : the day does not fit the tenures
    """
    incident = incidents.incident_for_update(session, incident_id)
    if incident is None:
        raise NotFound(f"there is no incident {incident_id}")
    if incident.latest_number != request.expected_number:
        raise Stale(f"incident {incident_id} was corrected meanwhile (revision {incident.latest_number}): read it again, then decide")
    before = incidents.latest_revision(session, incident)
    lines = incidents.revision_lines(session, before.id)
    if faults := account_faults(request, clock):
        raise Refused(*faults)
    if request.finding != before.finding:
        check_findings([(Finding(request.finding), _age(session, lines, request.occurred_on))], request, session, clock)
    _check_units(session, lines, before, request)
    if request.occurred_on != before.occurred_on:
        _move_day(session, lines, request.occurred_on, session.get_one(Site, incident.site_id))
    revision = add_revision(session, incident.id, before.number + 1, request, clock=clock, author_id=author_id)
    for line in lines:
        _carry_over(session, line, before, revision, incident.site_id, clock)
    incident.latest_number, incident.occurred_on = revision.number, revision.occurred_on
    incident.is_open = revision.finding == Finding.OPEN
    session.flush()
    return revision.number


def _check_units(session: Session, lines: list[EventLine], before: EventRevision, request: CorrectionRequest) -> None:
    """A part that was recovered and fitted elsewhere is no longer where this incident put it: its finding cannot move it."""
    for line in lines:
        if line.removed_tenure_id is None or line.action == "kept":
            continue
        old, new = _buckets(line, before.finding, request.finding)
        if old is new:
            continue
        elsewhere = incidents.fitted_since(session, line.removed_tenure_id)
        if elsewhere is not None:
            tag, on = elsewhere
            message = f"the part that came out was recovered and fitted into {tag} on {day_words(on)}: correct what happened there first"
            raise Refused(Fault("finding", message))


def _buckets(line: EventLine, finding_before: str, finding_now: str) -> tuple[Bucket, Bucket]:
    """Where the old part of a line lies, and where it lies once the incident's finding is another."""
    finding = Finding(finding_now if line.finding == finding_before else line.finding)
    old = Bucket(line.removed_to) if line.removed_to else REMOVED_TO[Finding(line.finding)]
    return old, old if finding == line.finding else REMOVED_TO[finding]


def _age(session: Session, lines: list[EventLine], day: date) -> int | None:
    """Days since the youngest of the parts that came out was fitted."""
    tenures = [session.get_one(Tenure, line.removed_tenure_id) for line in lines if line.removed_tenure_id]
    return min(((day - tenure.fitted_on).days for tenure in tenures), default=None)


def _move_day(session: Session, lines: list[EventLine], day: date, site: Site) -> None:
    """The old unit came out, and the new one went in, on the corrected day."""
    for line in lines:
        if line.action == "kept":
            continue
        removed = session.get(Tenure, line.removed_tenure_id) if line.removed_tenure_id else None
        fitted = session.get(Tenure, line.fitted_tenure_id) if line.fitted_tenure_id else None
        if removed is not None and day < removed.fitted_on:
            raise Refused(
                Fault("occurred_on", f"the part that came out was fitted on {day_words(removed.fitted_on)}: name that day or a later one")
            )
        if fitted is not None and fitted.removed_on is not None and day > fitted.removed_on:
            raise Refused(
                Fault("occurred_on", f"the part that went in came out on {day_words(fitted.removed_on)}: name that day or an earlier one")
            )
        moves = [("removed_on", removed), ("fitted_on", fitted)]
        later = fitted is not None and day > fitted.fitted_on
        for column, tenure in reversed(moves) if later else moves:
            if tenure is None:
                continue
            if column == "fitted_on":
                tenure.observed_from = max(day, site.log_began_on)
            setattr(tenure, column, day)
            session.flush()


def _carry_over(session: Session, line: EventLine, before: EventRevision, revision: EventRevision, site_id: int, clock: Clock) -> None:
    """The line again, with the new finding where it followed the incident's; the removed unit changes its bucket."""
    finding = Finding(revision.finding if line.finding == before.finding else line.finding)
    old, new = _buckets(line, before.finding, revision.finding)
    if line.action != "kept" and line.removed_part_id is not None and old is not new:
        for bucket, quantity in ((old, -1), (new, 1)):
            add_move(
                session,
                line.removed_part_id,
                site_id,
                bucket,
                quantity,
                "reclassified",
                at=MovedOn(clock.today),
                clock=clock,
                revision=revision,
            )
    session.add(
        EventLine(
            revision_id=revision.id,
            number=line.number,
            position_id=line.position_id,
            action=line.action,
            finding=finding.value,
            removed_tenure_id=line.removed_tenure_id,
            removed_part_id=line.removed_part_id,
            fitted_tenure_id=line.fitted_tenure_id,
            fitted_part_id=line.fitted_part_id,
            shelf_site_id=line.shelf_site_id,
            fitted_from=line.fitted_from,
            removed_to=new.value if line.action != "kept" and line.removed_part_id is not None else None,
        )
    )
