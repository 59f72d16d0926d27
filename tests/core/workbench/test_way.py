"""The way of a job: it goes in, turns, and comes back."""

from __future__ import annotations

from dataclasses import replace

from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import Phase
from almanac.core.workbench.screws import OUTSIDE, ScrewEnds
from almanac.core.workbench.way import loose, way_of
from tests.core.workbench.bench import notebook, plan_for


def test_every_step_brings_it_on_and_it_turns_where_the_way_back_begins() -> None:
    plan = plan_for(notebook(), "fan")
    assert plan.steps
    ways = [way_of(plan, Standing(done=tuple(step.id for step in plan.steps[:done]))) for done in range(len(plan.steps) + 1)]
    shares = [way.at for way in ways if way is not None]
    assert len(shares) == len(ways)
    assert shares == sorted(set(shares))
    assert (shares[0], shares[-1]) == (0.0, 1.0)
    first = ways[0]
    assert first is not None
    opening = [step for step in plan.steps if step.phase == Phase.OPENING]
    assert first.turn * len(plan.steps) == len(opening)
    assert (first.done, first.steps) == (0, len(plan.steps))


def test_nobody_knows_the_way_of_a_job_without_steps_or_with_typed_ones() -> None:
    plan = plan_for(notebook(), "fan")
    assert way_of(replace(plan, steps=()), Standing()) is None
    assert way_of(replace(plan, plain=True), Standing()) is None


def test_what_is_out_is_what_did_not_come_back() -> None:
    standing = Standing(
        tray_out={"lid": 8, "fan": 3}, tray_back={"lid": 5, "fan": 4}, leads_out=frozenset({"pack", "fan"}), leads_back=frozenset({"fan"})
    )
    assert loose(standing) == (3, 1), "one too many in a tray makes up for none elsewhere"
    lost = replace(standing, ends=ScrewEnds().added("lid", OUTSIDE, 2))
    assert loose(lost) == (1, 1), "two that were lost outside lie nowhere any more"
