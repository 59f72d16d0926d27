"""After the bench: watching, settling the finding, reopening, abandoning, and the custody of drives."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import FAULT_CLAIMS, Finding
from almanac.core.parts.kinds import Kind
from almanac.core.triage.confirm import PROOFS, Evidence
from almanac.core.workbench.closing import mismatches
from almanac.core.workbench.journal import ENDED, JobState, Standing
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.ledger.correct import CorrectionRequest, correct_incident
from almanac.services.ledger.record import IncidentRequest, LineRequest, record_incident
from almanac.services.stores.issue import left_over, let_go
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.open import OpenRequest, open_job
from almanac.services.workbench.planning import PlanRequest, restored
from almanac.services.workbench.read import standing_of
from almanac.store import assets, incidents
from almanac.store.models import Asset, CustodyLine, Job, Unit

IN_DOUBT = FAULT_CLAIMS | {Finding.DEAD_ON_ARRIVAL}
"""Findings that a return puts in doubt."""


@dataclass(frozen=True)
class SettleRequest:
    """The finding of a watched job, with what the old part did elsewhere or shows."""

    finding: str
    fails_elsewhere: bool | None = None
    proof: str | None = None
    note: str = ""


def settle_job(session: Session, job_id: int, request: SettleRequest, *, clock: Clock, author_id: int) -> None:
    """Settle a watched job: the incident's finding is corrected and the job closed.

    Raises
    ------
    NotFound : there is no such job · Refused : it is not watched, or the evidence does not carry the finding
    """
    job = locked_job(session, job_id)
    standing = standing_of(session, job)
    if standing.state != JobState.WATCHING:
        raise Refused(Fault("job", f"the job is {standing.state.value}: only a watched one is settled"))
    evidence = Evidence(standing.cold_starts, 0, standing.came_back, request.fails_elsewhere, request.proof)
    if job.incident_id is not None:
        _correct(session, job, request.finding, request.note, evidence, clock, author_id)
    data = {"finding": request.finding, "note": request.note.strip(), "proof": request.proof, "fails_elsewhere": request.fails_elsewhere}
    write_entry(session, job, "close", data, clock=clock, author_id=author_id)
    job.state, job.ended_at = JobState.CLOSED.value, clock.now
    session.flush()


def _correct(session: Session, job: Job, finding: str, note: str, evidence: Evidence, clock: Clock, author_id: int) -> None:
    assert job.incident_id is not None
    incident = incidents.incident_for_update(session, job.incident_id)
    assert incident is not None
    before = incidents.latest_revision(session, incident)
    words = "; ".join(part for part in (before.note, note.strip()) if part)
    change = CorrectionRequest(
        before.number, before.occurred_on, before.reason, finding, before.minutes, words, before.last_good_on, evidence
    )
    correct_incident(session, incident.id, change, clock=clock, author_id=author_id)


def reopen_job(session: Session, job_id: int, reason: str, *, clock: Clock, author_id: int) -> int:
    """The fault came back: the finding is open again, and a new job keeps what this one found out; returns its number (rule D4).

    What a part shows by itself, swollen, broken or burnt, a return does not undo: such a finding stays.

    Raises
    ------
    NotFound : there is no such job · Refused : it is not ended or watched, or no reason was given
    """
    job = locked_job(session, job_id)
    if job.state not in ("closed", "watching"):
        raise Refused(Fault("job", f"the job is {job.state}: only a closed or watched one is reopened"))
    if not reason.strip():
        raise Refused(Fault("reason", "say what came back"))
    standing = standing_of(session, job)
    if job.incident_id is not None:
        incident = incidents.incident_for_update(session, job.incident_id)
        assert incident is not None
        shown = set(PROOFS) & {standing.proof, *standing.danger}
        if incidents.latest_revision(session, incident).finding in IN_DOUBT and not shown:
            _correct(
                session, job, Finding.OPEN, f"reopened, the fault came back: {reason.strip()}", Evidence(came_back=True), clock, author_id
            )
    if job.state == "watching":
        write_entry(session, job, "close", {"finding": "open", "note": f"reopened: {reason.strip()}"}, clock=clock, author_id=author_id)
        job.state, job.ended_at = JobState.CLOSED.value, clock.now
    asset = session.get_one(Asset, job.asset_id)
    plan = PlanRequest(targets=())
    request = OpenRequest(asset.tag, job.purpose, f"again: {job.symptom} ({reason.strip()})", plan, reopens_id=job.id, events=job.events)
    return open_job(session, request, clock=clock, author_id=author_id)


@dataclass(frozen=True)
class AbandonRequest:
    """Why a job ends without being done, and where the machine is if its pack is dangerous."""

    reason: str
    quarantine: str = ""


def abandon_job(session: Session, job_id: int, request: AbandonRequest, *, device: Device, clock: Clock) -> int | None:
    """End a job without its effects; what is out of the machine is written down. Returns the quarantine's incident, if any.

    Raises
    ------
    NotFound : there is no such job · Stale : another device has it
    Refused : ended already, no reason, or a dangerous pack and no place of quarantine
    """
    job = locked_job(session, job_id)
    require_lease(session, job, device)
    plan, standing = restored(job.plan), standing_of(session, job)
    faults = [] if request.reason.strip() else [Fault("reason", "say why it ends here")]
    if standing.state in ENDED or standing.state == JobState.WATCHING:
        faults.append(Fault("job", f"the job is {standing.state.value}: there is nothing to abandon"))
    faults += left_over(session, job.id)
    dangerous = bool(standing.danger) and not standing.released
    if dangerous and not request.quarantine.strip():
        faults.append(Fault("quarantine", "the pack is dangerous: say where it is quarantined, as the fire and safety officer says"))
    if faults:
        raise Refused(*faults)
    incident_id = _quarantine(session, job, standing, request, device, clock) if dangerous else None
    data = {"reason": request.reason.strip(), "out": mismatches(plan, standing), "quarantine": request.quarantine.strip()}
    write_entry(session, job, "abandon", data, clock=clock, author_id=device.user_id)
    job.state, job.ended_at, job.incident_id = JobState.ABANDONED.value, clock.now, incident_id
    let_go(session, job, clock)
    job.lease_user_id, job.lease_device, job.lease_until = None, None, None
    session.flush()
    return incident_id


def _quarantine(session: Session, job: Job, standing: Standing, request: AbandonRequest, device: Device, clock: Clock) -> int | None:
    """The record of a dangerous pack: its position stays as it is, the finding stays open until somebody settles it."""
    packs = [row for row in assets.positions_of_model(session, job.model_id) if row.kind == Kind.BATTERY]
    held = assets.open_tenures(session, job.asset_id)
    fitted = [row for row in packs if row.id in held] or packs[:1]
    if not fitted:
        return None
    asset = session.get_one(Asset, job.asset_id)
    incident = IncidentRequest(
        tag=asset.tag,
        occurred_on=clock.today,
        reason=f"pack {', '.join(standing.danger)}: quarantine",
        finding=Finding.OPEN,
        lines=[LineRequest(row.id, "kept") for row in fitted],
        note=f"In quarantine: {request.quarantine.strip()}. No transfer is offered; carrier and dangerous-goods rules decide.",
        confirmed=frozenset({"duplicate"}),
    )
    return record_incident(session, incident, clock=clock, author_id=device.user_id)


def add_custody(session: Session, unit_id: int, words: str, *, clock: Clock, author_id: int) -> None:
    """The next line of a drive's custody.

    Raises
    ------
    NotFound : there is no such unit · Refused : nothing said
    """
    if session.get(Unit, unit_id) is None:
        raise NotFound(f"there is no unit {unit_id}")
    if not words.strip():
        raise Refused(Fault("words", "say where the drive is now, and who has it"))
    session.add(CustodyLine(unit_id=unit_id, words=words.strip(), recorded_at=clock.now, author_id=author_id))
    session.flush()
