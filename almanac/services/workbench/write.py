"""Writing a journal: entries in the order the device made them, each once, each under the rules of the job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy.orm import Session

from almanac.core.workbench.entries import refusals
from almanac.core.workbench.journal import Entry, fold
from almanac.core.workbench.swap_answers import contradictions, unanswered
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.stores.acts import Recorded
from almanac.services.stores.issue import wait_for_part
from almanac.services.workbench.diagnose import unknown_result
from almanac.services.workbench.facts import settled_as_read
from almanac.services.workbench.in_hand import answers_of
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import BY_SERVER, entry_of, gate_rules
from almanac.store import assets, jobs
from almanac.store.models import Job


@dataclass(frozen=True)
class DeviceEntry:
    """An entry as the device made it; `key` is its identifier for good."""

    key: UUID
    kind: str
    data: Mapping[str, Any]
    done_at: datetime


@dataclass(frozen=True)
class Taken:
    """What became of the entries: how many are written now, and why the first of the others was refused."""

    written: int
    refused_key: UUID | None = None
    reasons: list[str] = field(default_factory=list)


def write_entries(session: Session, job_id: int, sent: Sequence[DeviceEntry], *, device: Device, clock: Clock) -> Taken:
    """Append entries in order. One that was written before is skipped; the first that is refused ends it, those before stay.

    Raises
    ------
    NotFound : there is no such job · Stale : another device has the job in hand · Refused : a key that another job used
    """
    job = locked_job(session, job_id)
    known = jobs.known_keys(session, [item.key for item in sent])
    if any(other != job_id for other in known.values()):
        raise Refused(Fault("entries", "an entry key belongs to another job: make a new key for each step"))
    fresh = [item for item in sent if item.key not in known]
    if not fresh:
        return Taken(len(sent))
    require_lease(session, job, device)
    plan, rules = restored(job.plan), gate_rules(session, clock)
    journal = [entry_of(row) for row, _ in jobs.entries(session, job.id)]
    for place, item in enumerate(fresh):
        standing = fold(plan, journal)
        why, data = _read(session, job, item, clock)
        entry = Entry(item.kind, data)
        why = why or refusals(plan, standing, entry, rules)
        if why:
            return Taken(len(sent) - len(fresh) + place, item.key, why)
        write_entry(
            session, job, item.kind, dict(data), clock=clock, author_id=device.user_id, key=item.key, done_at=item.done_at
        )  # fmt: skip
        if item.kind == "wait" and data.get("part_number"):
            _keep_part(session, job, str(data["part_number"]), Recorded(clock, device.user_id, is_lead=False))
        journal.append(entry)
        job.state = fold(plan, journal).state.value
        session.flush()
    return Taken(len(sent))


def _known_part(session: Session, data: Mapping[str, Any]) -> tuple[list[str], Mapping[str, Any]]:
    number = str(data["part_number"]).strip()
    return [] if assets.part_by_number(session, number) else [f"no part has the number {number}"], data


def _keep_part(session: Session, job: Job, part_number: str, by: Recorded) -> None:
    """What a job waits for is kept, or waited for, where its machine stands."""
    site = assets.site_on(session, job.asset_id, by.clock.today)
    if site is not None:
        wait_for_part(session, job, part_number, site.code, by)


def _read(session: Session, job: Job, item: DeviceEntry, clock: Clock) -> tuple[list[str], Mapping[str, Any]]:
    """Why an entry cannot be written at all, and its data as rules read them."""
    if item.kind in ("waive", "approve", "release") or (item.kind == "screw" and "name" in item.data):
        return ["your own word is none here: ask a second signed-in person to approve it"], item.data
    if item.kind == "agree" and item.data.get("parts"):
        return ["which parts are agreed is said when the job is opened"], item.data
    if item.kind in BY_SERVER:
        return [f"{item.kind} is not written this way"], item.data
    if str(item.data.get("part_number") or "").strip() and item.kind in ("step", "wait", "correct"):
        return _known_part(session, item.data) if item.kind == "wait" else _answered(session, job, item.data)
    return _read_words(session, job, item, clock)


def _read_words(session: Session, job: Job, item: DeviceEntry, clock: Clock) -> tuple[list[str], Mapping[str, Any]]:
    if item.kind == "test":
        return unknown_result(session, item.data, clock), item.data
    if item.kind != "settle":
        return [], item.data
    try:
        return [], settled_as_read(session, job, item.data)
    except Refused as refused:
        return [fault.message for fault in refused.faults], item.data


def _answered(session: Session, job: Job, data: Mapping[str, Any]) -> tuple[list[str], Mapping[str, Any]]:
    """A part is answered before it goes in; one that speaks against itself goes in with a reason, which a lead reads (rule N12)."""
    position = str(data.get("position") or str(data.get("step") or "").removeprefix("swap:"))
    try:
        answers = answers_of(session, job, position, data)
    except NotFound:
        return [], data  # no swap of this model: the journal's own rules say so
    against = contradictions(answers)
    return unanswered(data, answers), {**data, "contradicts": against} if against else data
