"""A job on paper: the bench sheet, the record, the tray tags."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.teardown.counts import NONE, Count
from almanac.core.workbench.closing import checks_of
from almanac.core.workbench.gates import Gate, GateRules, gates_before
from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import TEST, JobPlan, JobStep, Phase
from almanac.exchange.job_sheets import JobSheet, SheetLine, SheetPart, TrayTag, job_pdf, tags_pdf
from almanac.services.clock import Clock
from almanac.services.words import day
from almanac.services.workbench.read import JobReading, Written, gate_rules, read_job
from almanac.services.workbench.report import comparisons

STOP = (
    "A swollen, dented, hot or leaking pack stops the job: no pressing, prying or charging; quarantine; call the fire and safety officer."
)
PHASES = {Phase.OPENING: "In", Phase.SWAP: "Swap", Phase.TEST: "Test before closing", Phase.CLOSING: "Back"}


def bench_sheet(session: Session, job_id: int, *, clock: Clock) -> bytes:
    """Every step in large type with a box to tick, gates where they stand, counts to write in.

    Raises
    ------
    NotFound : there is no such job
    """
    job, rules = read_job(session, job_id, clock=clock), gate_rules(session, clock)
    kit = SheetPart("Ready first", (SheetLine(", ".join((*job.plan.kit, *job.plan.consumables)) or "hands only", box=True),))
    parts = [kit, *_waived(job), *_phases(job.plan, rules, job.standing)]
    parts.append(SheetPart("The closed machine", tuple(SheetLine(words, box=True) for words in checks_of(job.plan).values())))
    parts.append(SheetPart("Finding", (SheetLine("", aside="open, no fault found, damage, dead on arrival, upgrade, preventive"),)))
    sheet = JobSheet(_title(job), _about(job), f"job {job_id}", (STOP,), tuple(part for part in parts if part.lines), large=True)
    return job_pdf(sheet)


def _title(job: JobReading) -> str:
    return f"Job {job.row.job.id}: {job.row.tag}, {job.row.model}"


def _about(job: JobReading) -> str:
    row = job.row
    agreed = f" Agreed: {job.standing.agreed}." if job.standing.agreed else ""
    return f"{row.job.symptom}. {row.site}, opened {day(row.job.opened_on)}. About {job.plan.minutes.mean:.0f} min.{agreed}"


def _waived(job: JobReading) -> list[SheetPart]:
    """Gates that nobody passed, before anything else: a waived check is not a passed one."""
    lines = tuple(SheetLine(f"NOT CHECKED: {waiver.words(gate)}") for gate, waiver in job.standing.waived.items())
    return [SheetPart("Waived gates", lines)] if lines else []


def _phases(plan: JobPlan, rules: GateRules, standing: Standing) -> list[SheetPart]:
    """Steps by phase; a gate stands where it is first asked, and again after the power was on. A waived one has no box to tick."""
    asked: set[str] = set()
    lines: dict[Phase, list[SheetLine]] = {phase: [] for phase in Phase}
    for place, step in enumerate(plan.steps, 1):
        fresh = [gate for gate in gates_before(plan, step, rules) if gate.id not in asked]
        asked |= {gate.id for gate in fresh}
        if step.id == TEST:
            asked -= {"power", "isolation"}
        lines[step.phase] += [_gate(gate, standing) for gate in fresh]
        lines[step.phase].append(_step(step, str(place)))
    return [SheetPart(PHASES[phase], tuple(found)) for phase, found in lines.items()]


def _gate(gate: Gate, standing: Standing) -> SheetLine:
    waiver = standing.waived.get(gate.id)
    if waiver is not None and waiver.now:
        return SheetLine(f"NOT CHECKED: {waiver.words(gate.id)}")
    return SheetLine(f"{gate.title}: {'; '.join(ask.words for ask in gate.asks)}", box=True)


def _step(step: JobStep, number: str) -> SheetLine:
    back = " back" if step.phase == Phase.CLOSING else ""
    counts = [(group.expected(), group.group) for group in step.screws]
    out = [f"{count.words} × {name}{back}" for count, name in counts if count != NONE] + [f"{lead.name}{back}" for lead in step.leads]
    captive = [f"{group.captive} captive × {group.group} stay in" for group in step.screws if group.captive]
    return SheetLine(step.text, number, step.tool or "", step.cautions, (*(f"□ {words}" for words in out), *captive, *step.aside), box=True)


def job_record(session: Session, job_id: int, *, clock: Clock) -> bytes:
    """What was done, by whom and when: the journal, what the machine reported, the finding.

    Raises
    ------
    NotFound : there is no such job
    """
    job = read_job(session, job_id, clock=clock)
    figures = comparisons(session, job.row.job, job.standing)
    reported = [SheetLine(f"{item.what}: {item.planned} planned, {item.reported} reported", aside=item.answer.reason) for item in figures]
    parts = [
        *_waived(job),
        SheetPart("Journal", tuple(_written(item, job.plan) for item in job.journal)),
        SheetPart("What the machine reported", tuple(reported)),
        SheetPart("Still unequal", tuple(SheetLine(words) for words in job.mismatches)),
    ]
    uncured = " NOT CURED: the power test failed." if job.standing.failed_test else ""
    about = f"{_about(job)} State: {job.standing.state.value}.{uncured}"
    return job_pdf(JobSheet(_title(job), about, f"job {job_id}", (), tuple(part for part in parts if part.lines)))


def _written(item: Written, plan: JobPlan) -> SheetLine:
    data, step = item.entry.data, plan.step(str(item.entry.data.get("step")))
    named = step.text if step else item.entry.kind.replace("_", " ")
    said = [f"{key.replace('_', ' ')} {_plain(value)}" for key, value in data.items() if key != "step" and value not in (None, "", [], {})]
    return SheetLine(
        named, str(item.entry.number), f"{item.entry.done_at:%H:%M} {item.author or ''}", notes=("; ".join(said),) if said else ()
    )


def _plain(value: object) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{key.replace('_', ' ')} {_plain(item)}" for key, item in value.items())
    if isinstance(value, list):
        return ", ".join(str(item) for item in value)
    return {True: "yes", False: "no"}.get(value, str(value)) if isinstance(value, bool) else str(value)


def tray_tags(session: Session, job_id: int, *, clock: Clock) -> bytes:
    """A tag for each compartment of the tray, and one for the machine itself.

    Raises
    ------
    NotFound : there is no such job
    """
    job = read_job(session, job_id, clock=clock)
    groups: dict[str, tuple[Count, int]] = {}
    for step in job.plan.steps:
        for group in step.screws if step.phase == Phase.OPENING else ():
            loose, captive = groups.get(group.group, (NONE, 0))
            groups[group.group] = (loose + group.expected(), captive + group.captive)
    about = (job.row.tag, f"{job.row.model}, job {job_id}")
    waived = tuple(waiver.words(gate) for gate, waiver in job.standing.waived.items())
    tags = [TrayTag(f"Job {job_id}", (*about, job.row.job.symptom, *waived), job.row.tag)]
    for name, (loose, captive) in groups.items():
        if loose != NONE:
            tags.append(
                TrayTag(name, (f"{loose.words} loose{f', {captive} captive stay in' if captive else ''}", *about), f"{job.row.tag} {name}")
            )
    return tags_pdf(f"Tray tags of job {job_id}", tags)
