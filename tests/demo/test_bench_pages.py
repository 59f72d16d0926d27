"""Every part of every demo page can be reached, swapped and put back by an honest technician, and nothing is left over."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import pytest

from almanac.core.errors import NoEstimate
from almanac.core.teardown.route import plan_route
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.closing import checks_of, closing_refusals
from almanac.core.workbench.gates import gates_before
from almanac.core.workbench.plan import JobPlan, job_plan
from almanac.demo.page_files import read_pages
from almanac.services.workbench.planning import machine_of
from tests.core.workbench.bench import Technician

PAGES = {name: whole for name, (_, whole) in read_pages().items()}


def _plan(page: Mapping[str, Any], target: str) -> JobPlan:
    teardown = teardown_of(page)
    return job_plan(teardown, plan_route(teardown, [target]), machine_of(page, teardown, page["form"]))


@pytest.mark.parametrize("name", PAGES)
def test_every_part_of_a_page_is_a_job_that_closes(name: str) -> None:
    page, jobs = PAGES[name], 0
    for target in teardown_of(page).places:
        try:
            plan = _plan(page, target)
        except NoEstimate:
            continue
        worker = Technician(plan)
        worker.everything()
        worker.says("check", **dict.fromkeys(checks_of(plan), True))
        assert closing_refusals(plan, worker.standing, opened=True) == [], f"{name}: {target}"
        jobs += 1
    assert jobs >= 3


@pytest.mark.parametrize("name", PAGES)
def test_nothing_inside_is_touched_before_the_power_is_cut(name: str) -> None:
    page = PAGES[name]
    for target in teardown_of(page).places:
        try:
            plan = _plan(page, target)
        except NoEstimate:
            continue
        first = next(
            (place for place, step in enumerate(plan.steps) if "isolation" in [gate.id for gate in gates_before(plan, step)]), None
        )
        cut = next((place for place, step in enumerate(plan.steps) if step.isolates), None)
        if first is not None:
            assert cut is not None, f"{name}: {target} has no step that cuts the power"
            assert cut < first, f"{name}: {target}"


def test_the_mains_of_an_all_in_one_waits_as_its_maker_says() -> None:
    plan = _plan(PAGES["Brindwell Counter 20"], "fan_centre")
    assert plan.wait_minutes == 10
    assert "test" not in [step.id for step in plan.steps]
    assert _plan(PAGES["Quillfin Bollard"], "fan_left").wait_minutes == 2
