"""What a machine's reports leave on record: serials nobody had read, and readings of packs and drives."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.heard import SIZES, Held, Kept, kept, lines, size_of
from almanac.core.workbench.journal import ENDED, Standing
from almanac.core.workbench.pack_triage import PackTriage, pack_triage, run_time_of
from almanac.core.workbench.reported import Reported, report_of
from almanac.services.clock import Clock
from almanac.services.readings import ReadingRequest, add_reading
from almanac.services.workbench.diagnose import earlier_jobs
from almanac.services.workbench.planning import restored
from almanac.store import assets
from almanac.store.machines import NoteRow, notes
from almanac.store.models import Asset, Job, Unit
from almanac.store.units import by_serial


@dataclass(frozen=True)
class Said:
    """What is known of a job's machine beside its record, for a screen.

    before, after : the swap, what it said · questions : what of it is on record otherwise · missed : what was not understood
    pack : what becomes of its pack, None where nothing is known to judge it by · notes : what stays with the machine
    """

    before: list[str] = field(default_factory=list)
    after: list[str] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)
    questions: list[str] = field(default_factory=list)
    pack: PackTriage | None = None
    notes: list[NoteRow] = field(default_factory=list)


def what_it_said(session: Session, job: Job, standing: Standing) -> Said:
    """Both reports of a job in lines, and what does not go together with the record; an ended job asks nothing any more."""
    before, after = _report(standing.report_before), _report(standing.report)
    missed = [str(words) for data in (standing.report_before, standing.report) for words in (data or {}).get("missed", [])]
    questions: list[str] = []
    if standing.state not in ENDED and not standing.swaps and before is not None:
        questions = list(kept(held_parts(session, job), before).questions)
    return Said(
        before=lines(before) if before else [],
        after=lines(after) if after else [],
        missed=missed,
        questions=questions,
        pack=_pack(session, job, standing, before),
        notes=notes(session, job.asset_id),
    )


def _pack(session: Session, job: Job, standing: Standing, before: Reported | None) -> PackTriage | None:
    """What becomes of the pack that was in the machine when the job began, by this job and those it came back from."""
    packs = restored(job.plan).packs
    signs = [*_signs(standing)]
    for earlier, stood in earlier_jobs(session, job):
        if any(key in restored(earlier.plan).packs and not swap.get("refitted") for key, swap in stood.swaps.items()):
            break
        signs += _signs(stood)
    seen = before.packs[0] if before and len(before.packs) == 1 else None
    run = run_time_of(standing.run_time) if standing.run_time else None
    if not signs and seen is None and run is None:
        return None
    if any(key in packs and not swap.get("refitted") for key, swap in standing.swaps.items()):
        return None
    return pack_triage(seen, list(dict.fromkeys(signs)), run)


def _signs(standing: Standing) -> tuple[str, ...]:
    """Signs of danger that nobody with the right to released."""
    return () if standing.decision == "released" else standing.danger


def keep_reported(session: Session, job: Job, data: Mapping[str, Any] | None, *, clock: Clock, author_id: int) -> Kept:
    """Write down what a report says of the parts that are in the machine now; what does not go together is left out.

    Returns
    -------
    Kept : what was written, and what was left out with its reason
    """
    report = _report(data)
    if report is None:
        return Kept()
    found = kept(held_parts(session, job), report)
    asset = session.get_one(Asset, job.asset_id)
    units = {row.key: row.id for row in assets.positions_of_model(session, job.model_id)}
    held = assets.open_tenures(session, job.asset_id)
    doubts = []
    for key, serial in found.serials.items():
        unit: Unit = held[units[key]][2]
        if by_serial(session, serial) is None:
            unit.serial = serial
        else:
            doubts.append(f"serial {serial} is on record of another unit: it was not written")
    for key, (full, design) in found.readings.items():
        on = max(_day_of(data, clock), held[units[key]][0].fitted_on)  # no part is read before it went in
        add_reading(session, ReadingRequest(asset.tag, key, on, full, design), clock=clock, author_id=author_id)
    session.flush()
    return replace(found, questions=(*found.questions, *doubts))


def _day_of(data: Mapping[str, Any] | None, clock: Clock) -> date:
    """The day a machine reported; journals of before did not say."""
    said = (data or {}).get("on")
    return date.fromisoformat(str(said)) if said else clock.today


def held_parts(session: Session, job: Job) -> list[Held]:
    """Parts on record in a job's machine that a machine reports of."""
    positions = {row.id: row for row in assets.positions_of_model(session, job.model_id)}
    found = []
    for place, (_, part, unit) in assets.open_tenures(session, job.asset_id).items():
        if part.kind in SIZES and place in positions:
            size = size_of(part.kind, part.facts)
            found.append(Held(positions[place].key, positions[place].label, part.kind, size, unit.serial or ""))
    return found


def _report(data: Mapping[str, Any] | None) -> Reported | None:
    return report_of(data) if data else None
