"""Closing a job: machine, shelf, log, page and custody change together, in one transaction, or not at all."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Finding
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Kind, Verdict
from almanac.core.triage.confirm import Evidence
from almanac.core.workbench.closing import closing_refusals
from almanac.core.workbench.journal import ENDED, Standing
from almanac.core.workbench.plan import JobPlan
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.ledger.record import IncidentRequest, LineRequest, record_incident
from almanac.services.stores.issue import source_of, unused_words
from almanac.services.workbench.counts import propose_counts
from almanac.services.workbench.facts import settle_on_page
from almanac.services.workbench.heard import keep_reported
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import bench_minutes, standing_of
from almanac.services.workbench.report import comparisons
from almanac.store import assets, jobs, stores
from almanac.store.models import Asset, CustodyLine, Job, Position
from almanac.store.stores import IssuedRow

CLOSABLE = frozenset({"open", "running"})


@dataclass(frozen=True)
class CloseLine:
    """What became of one position: as in an incident's line, by the position's key; `custody` says where a removed drive went."""

    position: str
    line: LineRequest
    custody: str = ""


@dataclass(frozen=True)
class CloseRequest:
    """The end of a job as a person says it. `watch` keeps an eye on it until the cure has held.

    last_good_on : of a failure that nobody noticed until it was looked at, the last day on which the part was seen in order
    """

    finding: str
    lines: Sequence[CloseLine]
    minutes: int | None = None
    note: str = ""
    accept_reason: str = ""
    evidence: Evidence = field(default_factory=Evidence)
    watch: bool = False
    last_good_on: date | None = None
    consumables: Sequence[str] = ()
    confirmed: Collection[str] = frozenset()


@dataclass(frozen=True)
class Closed:
    """What was written: the incident, where there was one, and the revision of the page that facts went to."""

    incident_id: int | None
    page_number: int | None


def close_job(session: Session, job_id: int, request: CloseRequest, *, device: Device, clock: Clock) -> Closed:
    """Close a job with its effects.

    Raises
    ------
    NotFound : there is no such job · Stale : another device has it · NeedsConfirmation : as in recording an incident
    Refused : whatever keeps it open, each by name
    """
    job = locked_job(session, job_id)
    require_lease(session, job, device)
    plan, standing = restored(job.plan), standing_of(session, job)
    request = replace(request, lines=[_as_said(line, standing) for line in request.lines])
    asset = session.get_one(Asset, job.asset_id)
    positions = {row.key: row for row in assets.positions_of_model(session, job.model_id)}
    faults = [*_not_now(standing), *_blocking(plan, standing), *_unaccepted(session, job, standing, positions, request)]
    faults += [*_line_faults(request, standing, positions), *_uncured_faults(request, standing)]
    issued = stores.issued_to(session, job.id)
    faults += _unused(issued, request)
    if faults:
        raise Refused(*faults)
    minutes = request.minutes if request.minutes is not None else round(bench_minutes([row for row, _ in jobs.entries(session, job.id)]))
    request = replace(request, lines=[_from_hand(line, issued) for line in request.lines])
    before = keep_reported(session, job, standing.report_before, clock=clock, author_id=device.user_id)
    incident_id = _record(session, job, asset, request, positions, minutes, device, clock)
    after = keep_reported(session, job, standing.report, clock=clock, author_id=device.user_id)
    _keep_custody(session, job, request, positions, incident_id, device, clock)
    page_number = settle_on_page(session, job, standing, clock=clock, author_id=device.user_id)
    propose_counts(session, job, standing, clock=clock, author_id=device.user_id)
    kind = "watch" if request.watch else "close"
    data: dict[str, object] = {"finding": request.finding, "incident": incident_id, "minutes": minutes, "note": request.note.strip()}
    if standing.failed_test:
        data["cured"] = False
    more: dict[str, object] = {
        "accept_reason": request.accept_reason.strip(),
        "proof": request.evidence.proof,
        "questions": [*before.questions, *after.questions],
        "fails_elsewhere": request.evidence.fails_elsewhere,
        "consumables": list(request.consumables),
        "page_revision": page_number,
    }
    write_entry(session, job, kind, data | more, clock=clock, author_id=device.user_id)
    job.incident_id, job.taken_minutes, job.failed_test = incident_id, float(minutes), standing.failed_test
    _end(job, clock, watching=request.watch)
    session.flush()
    return Closed(incident_id, page_number)


def _end(job: Job, clock: Clock, *, watching: bool) -> None:
    job.state = "watching" if watching else "closed"
    job.watch_from = clock.today if watching else job.watch_from
    job.ended_at = None if watching else clock.now
    job.lease_user_id, job.lease_device, job.lease_until = None, None, None


def _not_now(standing: Standing) -> list[Fault]:
    if standing.state in ENDED:
        return [Fault("job", f"the job is {standing.state.value} already")]
    return [] if standing.state in CLOSABLE else [Fault("job", f"the job is {standing.state.value}: resume it first")]


def _blocking(plan: JobPlan, standing: Standing) -> list[Fault]:
    return [Fault("closing", words) for words in closing_refusals(plan, standing, opened=bool(standing.done))]


def _unaccepted(session: Session, job: Job, standing: Standing, positions: dict[str, Position], request: CloseRequest) -> list[Fault]:
    """Figures that differ from plan, or no report at all after a swap, close only with a reason."""
    if request.accept_reason.strip():
        return []
    found = comparisons(session, job, standing)
    wrong = [item for item in found if item.answer.verdict == Verdict.NO]
    if wrong:
        return [Fault("accept_reason", f"{item.what}: {item.answer.reason}; mend it, or say why it is accepted") for item in wrong]
    swapped = [key for key, swap in standing.swaps.items() if not swap.get("refitted") and key in positions]
    due = [positions[key].label for key in swapped if positions[key].kind in FORECAST_KINDS]
    if due and standing.report is None:
        return [Fault("accept_reason", f"the machine has not reported {', '.join(due)}: take its report, or say why there is none")]
    return []


def _uncured_faults(request: CloseRequest, standing: Standing) -> list[Fault]:
    """After a bad power test the job ends as not cured: what was wrong is not settled, and there is no cure to watch."""
    if not standing.failed_test:
        return []
    why = "the power test failed, so the job closes as not cured: the finding stays open, or go back and test again"
    faults = [Fault("finding", why)] if request.finding != Finding.OPEN else []
    settled = [place for place, line in enumerate(request.lines) if line.line.finding not in (None, Finding.OPEN)]
    faults += [Fault(f"lines.{place}.finding", why) for place in settled]
    return [*faults, Fault("watch", "nothing is cured yet: there is nothing to watch")] if request.watch else faults


def _line_faults(request: CloseRequest, standing: Standing, positions: dict[str, Position]) -> list[Fault]:
    faults = []
    named = {line.position: line.line for line in request.lines}
    for place, line in enumerate(request.lines):
        row = positions.get(line.position)
        if row is None:
            faults.append(Fault(f"lines.{place}.position", f"the model has no position {line.position}"))
        elif row.kind == Kind.SSD and line.line.action != "kept" and not line.custody.strip():
            faults.append(Fault(f"lines.{place}.custody", f"{row.label}: a removed drive needs custody: where is it, who has it?"))
    for key, swap in standing.swaps.items():
        asked = named.get(key)
        wanted = "kept" if swap.get("refitted") else "replaced"
        if asked is None or asked.action != wanted:
            label = positions[key].label if key in positions else key
            faults.append(Fault("lines", f"{label}: at the bench it was {wanted}, the closing says {asked.action if asked else 'nothing'}"))
        elif wanted == "replaced":
            faults += _contradicting(key, positions, asked, swap)
    return faults


FITTED = {"part_number": "part", "serial": "serial", "removed_serial": "serial of the old part"}


def _as_said(line: CloseLine, standing: Standing) -> CloseLine:
    """A line with what the journal says of its parts, where the closing leaves it out: nothing is entered twice."""
    swap = standing.swaps.get(line.position) or {}
    if swap.get("refitted") or line.line.action != "replaced":
        return line
    fitted = {name: str(swap[name]).strip() for name in FITTED if swap.get(name) and not getattr(line.line, name)}
    return replace(line, line=replace(line.line, **fitted))  # type: ignore[arg-type]


def _contradicting(key: str, positions: dict[str, Position], asked: LineRequest, swap: Mapping[str, Any]) -> list[Fault]:
    """What closes is what the journal says: what was misread there is corrected there, and nowhere else."""
    label = positions[key].label if key in positions else key
    faults = []
    for name, words in FITTED.items():
        said, here = str(swap.get(name) or "").strip(), str(getattr(asked, name) or "").strip()
        if said and said.upper() != here.upper():
            cure = "correct it in the journal, with its reason"
            faults.append(Fault("lines", f"{label}: at the bench its {words} was {said}, the closing says {here or 'nothing'}: {cure}"))
    return faults


def _record(
    session: Session,
    job: Job,
    asset: Asset,
    request: CloseRequest,
    positions: dict[str, Position],
    minutes: int,
    device: Device,
    clock: Clock,
) -> int | None:
    """The incident with all it does. A survey, or a job that touched no position, writes none."""
    if not request.lines or job.purpose == "survey":
        return None
    lines = [_with_position(line.line, positions[line.position].id) for line in request.lines]
    incident = IncidentRequest(
        tag=asset.tag,
        occurred_on=clock.today,
        reason=job.symptom,
        finding=request.finding,
        lines=lines,
        minutes=minutes,
        note=request.note,
        last_good_on=request.last_good_on,
        confirmed=frozenset(request.confirmed),
        evidence=request.evidence,
    )
    return record_incident(session, incident, clock=clock, author_id=device.user_id)


def _from_hand(line: CloseLine, issued: Sequence[IssuedRow]) -> CloseLine:
    """A part that was issued to the job is fitted from its hands, not once more from the shelf."""
    asked = line.line
    return replace(line, line=replace(asked, source=source_of(issued, asked.part_number, asked.shelf_site, asked.source)))


def _unused(issued: Sequence[IssuedRow], request: CloseRequest) -> list[Fault]:
    """Parts in the job's hands that no line fits."""
    replaced = [line.line for line in request.lines if line.line.action == "replaced"]
    fitted = Counter(((line.part_number or "").upper(), (line.shelf_site or "").upper()) for line in replaced)
    left = [(row, row.quantity - fitted[row.part_number.upper(), row.site.upper()]) for row in issued]
    return [Fault("issued", unused_words(over, row)) for row, over in left if over > 0]


def _with_position(line: LineRequest, position_id: int) -> LineRequest:
    values = {name: getattr(line, name) for name in LineRequest.__dataclass_fields__}
    return LineRequest(**{**values, "position_id": position_id})


def _keep_custody(
    session: Session,
    job: Job,
    request: CloseRequest,
    positions: dict[str, Position],
    incident_id: int | None,
    device: Device,
    clock: Clock,
) -> None:
    """A line for every drive that left the machine (rule S8)."""
    if incident_id is None:
        return
    removed = assets.units_removed_by(session, incident_id)
    for line in request.lines:
        row = positions[line.position]
        unit_id = removed.get(row.id)
        if row.kind == Kind.SSD and unit_id is not None:
            session.add(
                CustodyLine(unit_id=unit_id, job_id=job.id, words=line.custody.strip(), recorded_at=clock.now, author_id=device.user_id)
            )
