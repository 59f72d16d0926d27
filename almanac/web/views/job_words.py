"""A job as the bench shows it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from almanac.core.teardown.bits import CLIMBS, SEAT, bit_advice
from almanac.core.teardown.tools import read_tools
from almanac.core.workbench.acceptance import Comparison
from almanac.core.workbench.closing import checks_of
from almanac.core.workbench.gates import Ask, Gate, GateRules, gates_before
from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import JobPlan, JobStep, Phase
from almanac.services.ledger.read import Card
from almanac.services.workbench.heard import Said
from almanac.services.workbench.planning import restored
from almanac.services.workbench.read import JobReading
from almanac.store.jobs import AskedApproval, JobRow
from almanac.web.schemas import jobs as schemas
from almanac.web.schemas import machine_reports
from almanac.web.schemas.approvals import ApprovalView, StillOutView
from almanac.web.schemas.issue import WithParts
from almanac.web.views.model_words import minutes_view


def line_view(row: JobRow) -> schemas.JobLineView:
    job = row.job
    return schemas.JobLineView(
        id=job.id,
        tag=row.tag,
        model=row.model,
        site=row.site,
        purpose=job.purpose,
        state=job.state,
        symptom=job.symptom,
        targets=list((plan := restored(job.plan)).wanted or plan.targets),
        opened_on=job.opened_on,
        opened_by=row.opened_by,
        in_hand_of=row.lease_user,
        planned_minutes=job.planned_minutes,
        failed_test=job.failed_test,
        reopens_id=job.reopens_id,
        incident_id=job.incident_id,
    )


def step_view(step: JobStep, plan: JobPlan, rules: GateRules) -> schemas.JobStepView:
    return schemas.JobStepView(
        id=step.id,
        phase=step.phase.value,
        text=step.text,
        minutes=minutes_view(step.minutes),
        operation=step.operation,
        position=step.position,
        tool=step.tool,
        bits=_bits(step.tool),
        cautions=list(step.cautions),
        screws=[schemas.TrayGroupView.model_validate(group) for group in step.screws],
        leads=[schemas.LeadView.model_validate(lead) for lead in step.leads],
        live=step.live,
        isolates=step.isolates,
        numbered=step.numbered,
        left_out=step.left_out,
        frees=list(step.frees),
        one_way=step.one_way,
        gates=[gate.id for gate in gates_before(plan, step, rules)],
    )


def gate_view(gate: Gate, standing: Standing) -> schemas.GateView:
    return schemas.GateView.model_validate(
        {
            "id": gate.id,
            "title": gate.title,
            "why": gate.why,
            "asks": [_ask(ask) for ask in gate.asks],
            "waivable": gate.waivable,
            "approval": gate.approval,
            "approved_by": standing.approved.get(gate.id),
        }
    )


def approval_view(item: AskedApproval) -> ApprovalView:
    row = item.row
    return ApprovalView.model_validate(
        {
            "id": row.id,
            "job_id": row.job_id,
            "tag": item.tag,
            "kind": row.kind,
            "subject": row.subject,
            "title": row.title,
            "reason": row.reason,
            "asked_at": row.asked_at,
            "asked_by": item.asked_by,
            "answered_by": item.answered_by,
            "granted": row.granted,
            "own": row.own,
            "words": str(row.details.get("words") or ""),
        }
    )


def _ask(ask: Ask) -> schemas.AskView:
    return schemas.AskView.model_validate(
        {"key": ask.key, "words": ask.words, "kind": ask.kind, "choices": list(ask.choices), "optional": ask.optional}
    )


def comparison_view(item: Comparison) -> machine_reports.FigureView:
    return machine_reports.FigureView(
        what=item.what, planned=item.planned, reported=item.reported, verdict=item.answer.verdict.value, reason=item.answer.reason
    )


def _bits(tool: str | None) -> list[str]:
    """What is worth knowing of a step's bits, and how to see whether they seat; nothing where it takes none."""
    found = [f"{item.bit}: {item.words}" for item in bit_advice([read_tools(tool)])]
    return [*found, SEAT, CLIMBS] if found else []


def tray_views(reading: JobReading) -> list[schemas.JobTrayView]:
    """Every group of the route: what is expected, captive, out and back."""
    expected: dict[str, list[int]] = {}
    uncounted: set[str] = set()
    for step in reading.plan.steps:
        if step.phase != Phase.OPENING:
            continue
        for group in step.screws:
            counts = expected.setdefault(group.group, [0, 0])
            counts[0] += group.loose + group.unknown
            counts[1] += group.captive
            uncounted |= set() if group.counted else {group.group}
    standing = reading.standing
    groups = dict.fromkeys([*expected, *standing.tray_out])
    return [
        schemas.JobTrayView(
            group=group,
            out=standing.tray_out.get(group, 0),
            back=standing.tray_back.get(group, 0),
            expected=expected.get(group, [0, 0])[0],
            exact=group not in uncounted,
            captive=expected.get(group, [0, 0])[1],
        )
        for group in groups
    ]


def lead_states(reading: JobReading) -> list[schemas.LeadState]:
    """Leads that are or were out, in the order they come off."""
    out = reading.standing.leads_out
    found: list[schemas.LeadState] = []
    for step in reading.plan.steps:
        for lead in step.leads if step.phase == Phase.OPENING else ():
            if lead.name in out and lead.name not in [state.name for state in found]:
                how = f"{lead.kind.replace('_', ' ')}{f', towards the {lead.release}' if lead.release else ''}"
                found.append(schemas.LeadState(name=lead.name, back=lead.name in reading.standing.leads_back, how=how))
    return found


def _powered(plan: JobPlan, done: Sequence[str]) -> bool:
    """Whether what cut the power was put back on the way out."""
    return any(step.isolates and step.phase == Phase.CLOSING and step.id in done for step in plan.steps)


def swap_views(reading: JobReading, card: Card) -> list[schemas.SwapView]:
    wanted = {step.position for step in reading.plan.steps if step.position}
    return [
        schemas.SwapView(
            position=position.key,
            label=position.label,
            kind=position.kind,
            held=held[1].number if held else None,
            held_serial=held[2].serial if held else None,
            fits=[
                schemas.SwapFit(part_number=part.number, part_name=part.name, verdict=fit.verdict, reason=fit.reason, on_hand=stock)
                for fit, part, stock in fits
                if fit.verdict != "no"
            ],
        )
        for position, held, fits in card.positions
        if position.key in wanted
    ]


def _closed_words(plan: JobPlan, standing: Standing) -> dict[str, Any]:
    """What is looked at once the machine is closed, what was answered, and how the machine is kept an eye on."""
    words = checks_of(plan)
    return {
        "checks": {key: standing.checks.get(key) is True for key in words},
        "check_words": words,
        "danger": list(standing.danger) if not standing.released else [],
        "referral": list(standing.referral) if not standing.released else [],
        "parked": dict(standing.parked) if standing.parked else None,
    }


def job_view(
    reading: JobReading, card: Card, figures: list[Comparison], said: Said, rules: GateRules, watch: tuple[int, int]
) -> schemas.JobView:
    """`watch` are the cold starts and days the company asks for."""
    row, job, plan, standing = reading.row, reading.row.job, reading.plan, reading.standing
    return schemas.JobView(
        id=job.id,
        tag=row.tag,
        model=row.model,
        model_id=job.model_id,
        site=row.site,
        site_code=row.site_code,
        form=plan.form,
        purpose=job.purpose,
        state=standing.state.value,
        symptom=job.symptom,
        events=list(job.events),
        agreed=standing.agreed,
        agreed_parts=dict(standing.agreed_parts),
        said=machine_reports.MachineSaid.model_validate(said),
        opened_on=job.opened_on,
        opened_by=row.opened_by,
        reopens_id=job.reopens_id,
        incident_id=job.incident_id,
        targets=list(plan.wanted if plan.plain else plan.targets),
        plain=plan.plain,
        wanted=[key for key in plan.wanted if key not in plan.targets],
        steps=[step_view(step, plan, rules) for step in plan.steps],
        done=list(standing.done),
        gates=[gate_view(gate, standing) for gate in reading.gates],
        waivers=[schemas.WaiverView(gate=gate, words=waiver.words(gate), now=waiver.now) for gate, waiver in standing.waived.items()],
        failed_test=standing.failed_test,
        isolated="isolation" in standing.truly_passed and not _powered(plan, standing.done),
        passed=sorted(standing.passed),
        tray=tray_views(reading),
        leads=lead_states(reading),
        beneath=[StillOutView.model_validate(item) for item in reading.beneath],
        mismatches=reading.mismatches,
        blocking=reading.blocking,
        swaps=swap_views(reading, card),
        swapped={key: dict(swap) for key, swap in standing.swaps.items()},
        facts=[schemas.SettleFactView.model_validate(fact) for fact in reading.facts],
        questions=reading.questions,
        **_closed_words(plan, standing),
        report=[comparison_view(item) for item in figures],
        waiting_for=standing.waiting_for,
        released=standing.released,
        decision=standing.decision,
        screw_ends=standing.ends.lines(),
        approvals=[approval_view(item) for item in reading.approvals],
        **dict(WithParts.model_validate(reading)),
        tests=[list(item) for item in standing.tests],
        cold_starts=standing.cold_starts,
        cold_starts_wanted=watch[0],
        watch_from=job.watch_from,
        watch_until=job.watch_from + timedelta(days=watch[1]) if job.watch_from else None,
        came_back=standing.came_back,
        planned=minutes_view(plan.minutes),
        learnt_factor=reading.learnt.factor,
        learnt_jobs=reading.learnt.jobs,
        minutes_so_far=reading.minutes_so_far,
        test_reason=plan.test_reason,
        consumables=list(plan.consumables),
        lease=schemas.LeaseView(user=row.lease_user, device=job.lease_device, until=job.lease_until, now=reading.server_now),
        journal=[
            schemas.EntryView(
                key=item.entry.entry_key,
                number=item.entry.number,
                kind=item.entry.kind,
                data=item.entry.data,
                done_at=item.entry.done_at,
                author=item.author,
            )
            for item in reading.journal
        ],
    )
