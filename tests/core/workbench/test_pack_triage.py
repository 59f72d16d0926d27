"""What becomes of a pack, and counts that differ from the page."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.workbench.counted import Counted, counted_otherwise, with_counts
from almanac.core.workbench.journal import Entry, fold
from almanac.core.workbench.pack_triage import RunTime, pack_triage, run_time_of, run_time_refusals
from almanac.core.workbench.reported import PackSeen
from tests.core.workbench.bench import notebook, plan_for

RUN = RunTime(120, 100, 20, "a film, screen at half", 16)


@pytest.mark.parametrize(("full", "advice"), [(49, "keep"), (48, "watch"), (36, "watch"), (35.9, "replace")])
def test_health_decides_and_unknown_cycles_stay_unknown(full: float, advice: str) -> None:
    found = pack_triage(PackSeen(60, full), (), None)
    assert found.advice == advice
    assert found.why[-1] == "charge cycles are not known"
    assert pack_triage(PackSeen(60, full, cycles=0), (), None).why[-1] == "0 charge cycles"


def test_signs_override_every_figure() -> None:
    found = pack_triage(PackSeen(60, 60, cycles=1), ["swollen"], RUN)
    assert found.advice == "quarantine"
    assert "no figure makes it a good one" in found.why[0]


@pytest.mark.parametrize("pack", [None, PackSeen(60), PackSeen(None, 50), PackSeen(60, 0)])
def test_without_its_health_nothing_is_called_good(pack: PackSeen | None) -> None:
    assert pack_triage(pack, (), RUN).advice == "unknown"


def test_a_run_time_speaks_through_the_power_drawn() -> None:
    assert RUN.full_wh == pytest.approx(16 * 2 / 0.8)
    assert "one of both is wrong" in pack_triage(PackSeen(60, 58), (), RUN).why[-1]
    assert pack_triage(PackSeen(60, 42), (), RUN).why[-1].endswith("at 16 W: a full pack of 40 Wh")
    short = RunTime(20, 100, 90, "office", 40)
    assert "too short" in pack_triage(PackSeen(60, 58), (), short).why[-1]
    assert "says nothing of its energy" in pack_triage(PackSeen(60, 58), (), RunTime(60, 90, 10, "office")).why[-1]


GOOD = {"minutes": 120, "from_percent": 100, "to_percent": 20, "draw_w": 16, "conditions": "a film"}


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"conditions": "  "}, "only with its conditions"),
        ({"minutes": 0}, "how many minutes"),
        ({"minutes": True}, "how many minutes"),
        ({"to_percent": 100}, "from which charge"),
        ({"to_percent": None}, "from which charge"),
        ({"draw_w": 0}, "the power drawn"),
        ({"draw_w": "much"}, "the power drawn"),
    ],
)
def test_a_run_time_counts_only_with_its_conditions(changed: dict[str, Any], words: str) -> None:
    assert run_time_refusals(GOOD) == []
    assert run_time_of(GOOD) == RunTime(120, 100, 20, "a film", 16)
    assert run_time_of({**GOOD, "draw_w": None}).full_wh is None
    (fault,) = run_time_refusals({**GOOD, **changed})
    assert words in fault


@given(st.floats(0.1, 200), st.floats(0.1, 200), st.lists(st.sampled_from(["swollen", "hot"])), st.booleans())
def test_no_figure_turns_a_dangerous_pack_into_a_good_one(full: float, design: float, signs: list[str], run: bool) -> None:
    found = pack_triage(PackSeen(design, full), signs, RUN if run else None)
    assert (found.advice == "quarantine") == bool(signs)


def test_counts_become_a_proposal_to_the_page() -> None:
    page = notebook()
    plan = plan_for(page, "fan")
    step = next(step for step in plan.steps if step.screws)
    group = step.screws[0]
    data = {"step": step.id, "screws": {group.group: group.loose + group.unknown - 1}, "captive": {group.group: False}}
    before = [Entry("step", {"step": one.id}) for one in plan.steps[: plan.steps.index(step)]]
    (found,) = counted_otherwise(plan, fold(plan, [*before, Entry("step", data)]))
    assert found == Counted(str(step.operation), group.group, str(group.loose + group.unknown), group.loose + group.unknown - 1)
    document, proposed, left = with_counts(page, page, [found], "job 7")
    (entry,) = [
        item for one in document["operations"] if one["id"] == step.operation for item in one["fasteners"] if item["group"] == group.group
    ]
    assert (entry["count"], proposed, left) == (found.counted, [found], [])
    assert entry["note"] == f"{found.counted} counted, {found.page} before: job 7"
    assert page != document, "the page that holds is left as it was"
    same = {**data, "screws": {group.group: group.loose + group.unknown}}
    assert counted_otherwise(plan, fold(plan, [*before, Entry("step", same)])) == []


def test_a_page_that_inherits_a_step_states_its_fasteners_anew() -> None:
    page = notebook()
    operation = next(one for one in page["operations"] if one.get("fasteners"))
    group = operation["fasteners"][0]["group"]
    own = {"maker": "Brindwell", "name": "Heir", "inherits": "Ostrel Page"}
    document, proposed, _ = with_counts(own, page, [Counted(operation["id"], group, "8", 0)], "job 7")
    assert len(proposed) == 1
    assert [one["group"] for one in document["operations"][0]["fasteners"]] == [one["group"] for one in operation["fasteners"][1:]]
    assert document["operations"][0]["text"] == operation["text"]


def test_a_group_in_several_places_of_a_step_is_left_to_a_person() -> None:
    page = notebook()
    operation = next(one for one in page["operations"] if one.get("fasteners"))
    twice = {**operation["fasteners"][0], "hidden": "a foot"}
    doubled = {**page, "operations": [{**operation, "fasteners": [operation["fasteners"][0], twice]}]}
    item = Counted(operation["id"], twice["group"], "8", 7)
    assert with_counts(doubled, doubled, [item], "job 7")[1:] == ([], [item])
    assert with_counts(page, page, [Counted("ghost", "x", "1", 2)], "job 7")[2] == [Counted("ghost", "x", "1", 2)]
