"""The way that leaves the pack connected: a job of its own, said at every step, opened by a waiver alone."""

from __future__ import annotations

import pytest
from sqlalchemy.orm import Session

from almanac.core.teardown.cautions import CONNECTED
from almanac.core.workbench.approvals import Approval
from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.workbench.open import change_targets
from almanac.services.workbench.planning import PlanRequest
from tests.core.workbench.bench import ANSWERS
from tests.services.jobs import machine, opened


def test_the_short_way_is_a_job_that_only_a_waiver_opens(session: Session, clock: Clock) -> None:
    where, _ = machine(session, "ssd", "Halyard 12")
    long = opened(session, clock, where.tag, "heat_spreader").job.plan
    worker = opened(
        session, clock, where.tag, "heat_spreader", plan=PlanRequest(("heat_spreader",), powered=True), confirmed=("second_job",)
    )
    plan = worker.job.plan
    assert plan.powered
    assert not any(step.isolates for step in plan.steps)
    assert all(CONNECTED in step.cautions for step in plan.steps if step.shut)
    assert not any(CONNECTED in step.cautions for step in long.steps if step.shut)
    assert plan.minutes.mean < long.minutes.mean - 3
    while "isolation" not in [gate.id for gate in worker.job.gates]:
        worker.says("gate", gate=worker.job.gates[0].id, answers=ANSWERS[worker.job.gates[0].id]) if worker.job.gates else worker.does()
    answered = worker.sends("gate", gate="isolation", answers={"held_seconds": 30, "how": "it is cut"})
    assert "no answer opens this gate" in answered.reasons[0]
    worker.is_approved(Approval.WAIVE, "isolation", reason="the board lies above the plug")
    assert "isolation" in worker.job.standing.passed
    assert "isolation" not in worker.job.standing.truly_passed


def test_where_cutting_the_power_is_no_detour_there_is_no_short_way(session: Session, clock: Clock) -> None:
    where, key = machine(session, "fan")
    with pytest.raises(Refused, match="there is no short way"):
        opened(session, clock, where.tag, key, plan=PlanRequest((key,), powered=True))


def test_a_short_way_leads_from_a_page_to_a_part(session: Session, clock: Clock) -> None:
    where, _ = machine(session, "ssd", "Halyard 12")
    for plan in (PlanRequest((), powered=True), PlanRequest(("heat_spreader",), powered=True, plain=True)):
        with pytest.raises(Refused, match="choose what to reach"):
            opened(session, clock, where.tag, plan=plan)


def test_another_target_without_a_short_way_takes_the_way_that_cuts_the_power(session: Session, clock: Clock) -> None:
    where, key = machine(session, "ssd", "Halyard 12")
    worker = opened(session, clock, where.tag, "heat_spreader", plan=PlanRequest(("heat_spreader",), powered=True))
    change_targets(session, worker.job_id, PlanRequest((key,)), device=worker.device, reason="the drive it is", clock=clock)
    plan = worker.job.plan
    assert not plan.powered
    assert any(step.isolates for step in plan.steps)
