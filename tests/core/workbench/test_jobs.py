"""A job from its plan to its closing: order, gates, trays and leads."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.teardown.route import plan_route
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.closing import checks_of, closing_refusals, mismatches
from almanac.core.workbench.entries import count_questions
from almanac.core.workbench.gates import GateRules, gates_before, remote_refusals
from almanac.core.workbench.journal import JobState, Waiver, open_gates
from almanac.core.workbench.plan import Machine, Phase, job_plan
from almanac.core.workbench.settling import open_facts
from tests.core.teardown.pages import pages, part, step
from tests.core.workbench.bench import Technician, notebook, plan_for


def test_the_steps_are_the_way_in_the_swap_the_test_and_the_way_back() -> None:
    plan = plan_for(notebook(), "fan")
    assert [item.id for item in plan.steps] == [
        "open:cover", "open:plug", "open:fan_out", "swap:fan", "test", "isolate", "close:fan_out", "close:plug", "close:cover",
    ]  # fmt: skip
    assert plan.test_reason == "touched: fan"
    assert plan.minutes.likely == 3 + 2 + 3 + 1 + 3


def test_no_open_power_test_where_mains_is_inside_or_nothing_shows() -> None:
    assert "test" not in [item.id for item in plan_for(notebook(), "fan", form="all_in_one").steps]
    assert "test" not in [item.id for item in plan_for(notebook(), "drive").steps]
    teardown = teardown_of(notebook())
    asked = job_plan(teardown, plan_route(teardown, ["drive"]), Machine("notebook"), test_first=True)
    assert "test" in [item.id for item in asked.steps]


@given(pages(), st.data())
def test_an_honest_job_on_any_page_ends_with_equal_sets(page: dict[str, Any], data: st.DataObject) -> None:
    teardown = teardown_of(page)
    reachable = [key for key in teardown.places if teardown.freeing(key)]
    target = data.draw(st.sampled_from(reachable))
    worker = Technician(job_plan(teardown, plan_route(teardown, [target]), Machine("notebook")))
    worker.everything()
    assert mismatches(worker.plan, worker.standing) == []
    assert worker.standing.tray_out == {} or sum(worker.standing.tray_out.values()) == sum(worker.standing.tray_back.values())
    assert closing_refusals(worker.plan, worker.standing, opened=True) == [
        f"not checked: {words}" for words in checks_of(worker.plan).values()
    ]


@given(pages(), st.data())
def test_whatever_is_left_out_on_the_way_back_is_named_before_the_next_layer_goes_on(page: dict[str, Any], data: st.DataObject) -> None:
    teardown = teardown_of(page)
    target = data.draw(st.sampled_from([key for key in teardown.places if teardown.freeing(key)]))
    worker = Technician(job_plan(teardown, plan_route(teardown, [target]), Machine("notebook")))
    while (now := worker.standing.next_step(worker.plan)) is not None:
        forget = now.phase == Phase.CLOSING and bool(now.leads) and data.draw(st.booleans())
        assert worker.does(**({"leads": []} if forget else {})) == []
        if not forget:
            continue
        off = {lead.name for lead in now.leads}
        beneath = worker.does() if worker.standing.next_step(worker.plan) else mismatches(worker.plan, worker.standing)
        assert all(name in " ".join(beneath) for name in off)
        assert worker.says("refit", leads=sorted(off)) == []
    assert mismatches(worker.plan, worker.standing) == []


def test_a_cover_does_not_go_on_over_a_plug_or_a_screw_that_is_out() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:fan_out")
    assert worker.does(leads=[], screws={"short": 1}) == []
    assert worker.does() == [
        "1 x short beneath this is not back: find it, or say what became of it", "fan lead beneath this is still off",
    ]  # fmt: skip
    assert worker.says("refit", leads=["fan lead"]) == []
    assert worker.says("screw", group="short", end="outside", count=2) == ["short: 1 are missing, not 2"]
    assert worker.says("screw", group="short", end="outside", count=1) == []
    worker.everything()
    assert mismatches(worker.plan, worker.standing) == []
    assert worker.standing.ends.lines() == ["1 x short: lost outside the machine"]


def test_what_is_opened_again_passes_its_gates_again() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:plug")
    assert worker.says("back") == []
    assert {"power", "isolation", "static"} & worker.standing.passed == set()
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["isolation", "static"]


def test_a_screw_that_may_be_inside_keeps_the_power_off_until_somebody_else_has_searched() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:fan_out")
    worker.does(screws={"short": 1})
    assert worker.says("screw", group="short", end="inside") == []
    assert worker.does() == []  # the gate of the search is passed by a second person, which does() has
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:fan_out")
    worker.does(screws={"short": 1})
    worker.says("screw", group="short", end="inside")
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["search:short"]
    step = worker.standing.next_step(worker.plan)
    assert step is not None
    assert worker.says("step", step=step.id, leads=["battery lead"]) == ["before this step: A screw of short may be inside"]
    assert worker.says("gate", gate="search:short", answers={})[0].endswith("your own word is none")
    assert worker.says("waive", gate="search:short", reason="in a hurry", name="A. Quay")[0].endswith("never waived")
    assert any("may be inside" in words for words in closing_refusals(worker.plan, worker.standing, opened=True))
    assert worker.says("screw", group="short", end="found") == []
    assert worker.says("screw", group="short", end="found") == ["short: 0 were lost, 1 cannot be found"]
    assert open_gates(worker.plan, worker.standing) == ()
    assert worker.says("step", step=step.id, leads=["battery lead"])[0].startswith("1 x short beneath this")


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ({"end": "eaten"}, "say what became of it"),
        ({"end": "replaced"}, "say by which size"),
        ({"end": "outside", "count": 0}, "at least one"),
        ({"end": "outside", "count": True}, "a whole number"),
        ({"end": "outside", "count": 1.5}, "a whole number"),
        ({"end": "left_out"}, "approval of a second signed-in person"),
    ],
)
def test_an_end_is_told_in_full_or_not_at_all(said: dict[str, Any], words: str) -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:fan_out")
    assert words in worker.says("screw", group="short", **said)[0]


@given(st.lists(st.tuples(st.sampled_from(["outside", "inside", "replaced", "found", "search"]), st.integers(1, 3)), max_size=12))
def test_screws_are_conserved_whatever_is_told_of_them(told: list[tuple[str, int]]) -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:fan_out")
    for end, count in told:
        if end == "search":
            worker.says("approve", gate="search:short", name="A. Quay", opens=True)
        else:
            worker.says("screw", group="short", end=end, count=count, size="M2x3")
        ends = worker.standing.ends
        assert 0 <= ends.accounted("short") <= 2
        assert ends.missing("short", 2, 0) == 2 - ends.accounted("short")


def test_screws_are_counted_by_group_and_never_beyond_what_came_out() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("close:fan_out")
    assert worker.standing.tray_out == {"long": 3, "short": 2}
    assert worker.does(screws={"short": 3})[0].startswith("short: 3 back, 2 came out")
    assert worker.does(screws={"short": 1}) == []
    assert "short: 2 out, 1 back" in mismatches(worker.plan, worker.standing)[0]


def test_captive_screws_never_enter_the_tray_and_unknown_ones_are_asked() -> None:
    worker = Technician(plan_for(notebook(), "drive"))
    worker.until("open:drive_out")
    worker.passes_gates()
    assert "captive or loose" in worker.says("step", step="open:drive_out")[0]
    assert worker.says("step", step="open:drive_out", captive={"short": True}) == []
    assert worker.standing.tray_out == {"long": 3}


def test_a_count_that_differs_is_a_question_for_the_page() -> None:
    worker = Technician(plan_for(notebook(), "memory_a"))
    assert worker.does(screws={"long": 2}) == []
    opened = worker.plan.steps[0]
    assert count_questions(opened, {"screws": {"long": 2}}) == ["long: counted 2, the page says 3: which is it?"]
    assert count_questions(opened, {}) == []
    assert worker.standing.tray_out == {"long": 2}


def test_live_steps_come_before_isolation_and_everything_else_after() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["power"]
    worker.until("open:fan_out")
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["isolation", "static"]
    assert worker.says("step", step="open:fan_out") == ["before this step: Isolated", "before this step: Static protection"]


def test_the_pack_is_looked_at_as_soon_as_it_is_seen_and_before_its_plug_is_touched() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("open:plug")
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["pack"]
    live = notebook()
    live["operations"].insert(1, step("tape", ["cover"], live=True))
    live["operations"][2]["requires"] = ["tape"]
    first = next(one for one in plan_for(live, "fan").steps if one.id in ("open:tape", "open:plug"))
    assert "pack" in [gate.id for gate in gates_before(plan_for(live, "fan"), first)]


def test_every_power_on_opens_isolation_again() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("isolate")
    assert {"power", "isolation"} & worker.standing.passed == set()
    assert worker.does() == []
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["isolation"]
    worker.until("close:cover")
    assert open_gates(worker.plan, worker.standing) == ()


def test_a_test_that_was_taken_back_had_the_power_on_all_the_same() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("isolate")
    assert worker.says("back") == []
    assert worker.standing.next_step(worker.plan).id == "test"  # type: ignore[union-attr]
    assert "isolation" not in worker.standing.passed


def test_one_step_back_takes_its_screws_and_leads_back() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    assert worker.says("back") == ["no step is done yet: there is nothing to take back"]
    worker.until("swap:fan")
    assert worker.says("back") == []
    assert worker.standing.tray_out == {"long": 3}
    assert worker.standing.leads_off == {"battery lead"}


@pytest.mark.parametrize(
    ("answers", "words"),
    [
        ({"encryption": "off"}, 'a verified backup or a signed "no data wanted" is needed first'),
        ({"backup": True, "encryption": "on"}, "encryption on: the recovery key must be on file first"),
        ({"backup": True, "encryption": "unknown"}, "encryption unknown: the recovery key must be on file first"),
        ({"backup": True, "encryption": "perhaps"}, "one of on, off, unknown was wanted: is the drive encrypted?"),
    ],
)
def test_data_are_safe_before_storage_is_touched(answers: dict[str, Any], words: str) -> None:
    worker = Technician(plan_for(notebook(), "drive"))
    worker.until("open:drive_out")
    assert words in worker.says("gate", gate="data", answers=answers)


def test_signed_no_data_wanted_opens_the_gate_and_memory_never_asks() -> None:
    worker = Technician(plan_for(notebook(), "drive"))
    worker.until("open:drive_out")
    assert worker.says("gate", gate="data", answers={"no_data_signed_by": "the owner", "encryption": "unknown"}) == []
    memory = plan_for(notebook(), "memory_a")
    assert all("data" not in [gate.id for gate in gates_before(memory, item)] for item in memory.steps)


def test_settings_cells_count_as_data() -> None:
    page = {"positions": [part("cell")], "operations": [step("cell_out", frees=["cell"])]}
    plan = plan_for(page, "cell", settings_cells=("cell",))
    assert "data" in [gate.id for gate in gates_before(plan, plan.steps[0])]


def test_seals_and_one_way_steps_wait_for_approval_and_the_spare() -> None:
    worker = Technician(plan_for(notebook(), "keyboard"))
    worker.until("open:keyboard_out")
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["seal:keyboard_out", "one_way:keyboard_out"]
    typed = worker.says("gate", gate="one_way:keyboard_out", answers={"approved_by": "A. Quay", "spare": True})
    assert typed == ["There is no way back from this step: a second signed-in person approves it first, your own word is none"]
    assert worker.says("approve", gate="one_way:keyboard_out", name="A. Quay") == []
    assert worker.says("gate", gate="one_way:keyboard_out", answers={}) == ["not confirmed: spare in the kit: keyboard"]
    assert worker.says("gate", gate="one_way:keyboard_out", answers={"spare": True}) == []
    assert worker.says("approve", gate="seal:keyboard_out", name="A. Quay", opens=True) == []
    assert open_gates(worker.plan, worker.standing) == ()


def test_a_waived_gate_needs_a_reason_and_a_name_and_the_pack_is_never_waived() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    assert worker.says("waive", gate="power", reason="", name="") == ["a waived gate needs a reason", "a waived gate needs a name"]
    worker.until("open:plug")
    assert worker.says("waive", gate="pack", reason="looks fine", name="R. Pell") == ["Look at the pack: this gate is never waived"]
    worker.until("open:fan_out")
    assert worker.says("waive", gate="static", reason="no strap here", name="R. Pell") == []
    assert worker.standing.waived == {"static": Waiver("R. Pell", "no strap here")}
    assert worker.standing.waived["static"].words("static") == "static waived by R. Pell: no strap here"
    assert "static" in worker.standing.passed
    assert "static" not in worker.standing.truly_passed


def test_mains_waits_as_the_maker_says_and_stops_where_nobody_knows() -> None:
    page = {"positions": [part("fan", "fan")], "operations": [step("out", isolates=True, outside=True), step("fan_out", frees=["fan"])]}
    known, unknown = (plan_for(page, "fan", form="all_in_one", wait_minutes=wait) for wait in (10.0, None))
    worker = Technician(known)
    worker.until("open:fan_out")
    assert worker.says("gate", gate="isolation", answers={"held_seconds": 15, "waited_minutes": 9}) == [
        "wait at least 10 min after the mains is out, 9 min were said"
    ]
    worker = Technician(unknown)
    worker.until("open:fan_out")
    assert "the maker's waiting time is not on the page" in worker.says("gate", gate="isolation", answers={"held_seconds": 15})[0]
    said = {"held_seconds": 15, "maker_minutes": 2, "maker_source": "its label", "waited_minutes": 3}
    assert worker.says("gate", gate="isolation", answers=said | {"held_seconds": 4}) == [
        "hold the power button for at least 15 s, 4 s were said"
    ]
    assert "look it up" in worker.says("gate", gate="isolation", answers=said | {"maker_minutes": 0, "waited_minutes": 0})[0]
    assert worker.says("gate", gate="isolation", answers=said | {"maker_source": " "}) == ["not filled in: where that is written"]
    assert worker.says("gate", gate="isolation", answers=said | {"waited_minutes": 1.9})[0].startswith("wait at least 2 min")
    for gate in ("power", "isolation"):
        fresh = Technician(unknown)
        fresh.until("open:fan_out" if gate == "isolation" else "open:out")
        assert fresh.says("waive", gate=gate, reason="in a hurry", name="A. Quay")[0].endswith("never waived with mains inside")
    company = gates_before(known, known.steps[1], GateRules(hold_seconds=20))[1]
    assert company.asks[0].words == "power button held, in seconds (at least 20)"


def test_a_dangerous_pack_stops_everything_until_it_is_released_by_name() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("open:fan_out")
    assert worker.says("danger", signs=["looks odd"]) == ["name what is seen: swollen, dented, hot, leaking, smelling"]
    assert worker.says("danger", signs=["swollen"]) == []
    assert worker.standing.state == JobState.STOPPED
    assert "fire and safety officer" in worker.says("step", step="open:fan_out")[0]
    assert worker.says("resume", read=True) != []
    assert [words.split()[0] for words in worker.says("release", name="", words="")] == ["a", "a", "a", "decide:"]
    assert worker.says("release", name="A. Quay", officer="O. Safety", day="2026-11-02", decision="disposed") == []
    assert "pack" in [gate.id for gate in open_gates(worker.plan, worker.standing)]
    assert any("the pack was disposed" in words for words in closing_refusals(worker.plan, worker.standing, opened=True))


def test_a_pack_that_stopped_the_job_goes_back_in_only_where_it_was_released() -> None:
    for decision, taken in (("released", True), ("disposed", False), ("returned", False)):
        page = notebook()
        page["operations"].append(step("pack_out", ["plug"], frees=["battery"]))
        worker = Technician(plan_for(page, "battery"))
        worker.until("swap:battery")
        assert worker.says("danger", signs=["swollen"]) == []
        assert worker.says("release", name="A. Quay", officer="O. Safety", day="2026-11-02", decision=decision) == []
        worker.passes_gates()
        assert (worker.says("step", step="swap:battery", refitted=True) == []) is taken
        assert (worker.says("step", step="swap:battery", part_number="P-1") == []) is not taken


def test_a_parked_job_says_where_its_screws_are_and_is_isolated_anew() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    worker.until("swap:fan")
    assert worker.says("park", words="lunch") == [
        "screws are out: say where they are, box and compartment", "say whether the machine is isolated as it lies there",
    ]  # fmt: skip
    assert worker.says("park", words="lunch", screws_where="box 3", isolated=True) == []
    assert worker.says("step", step="swap:fan", part_number="F-1") == ["the job is parked: resume it first"]
    assert worker.says("resume") != []
    assert worker.says("resume", read=True) == []
    assert [gate.id for gate in open_gates(worker.plan, worker.standing)] == ["power", "isolation", "static"]


def test_waiting_and_the_order_of_steps_are_kept() -> None:
    worker = Technician(plan_for(notebook(), "fan"))
    assert worker.says("wait", **{"for": "luck"}) != []
    assert worker.says("wait", **{"for": "part"}) == []
    assert worker.standing.state == JobState.WAITING
    assert worker.says("resume") == []
    worker.passes_gates()
    assert "the next step is" in worker.says("step", step="open:plug")[0]
    worker.until("swap:fan")
    assert worker.says("step", step="swap:fan") == ["name the part that went in, or say that the old one was put back"]
    worker.until("test")
    assert len(worker.says("step", step="test")) == 2


def test_remote_help_is_for_doors_and_panels_only() -> None:
    assert any("bare boards" in words for words in remote_refusals(plan_for(notebook(), "memory_a")))
    door = {"positions": [part("filter")], "operations": [step("door", frees=["filter"], outside=True)]}
    assert remote_refusals(plan_for(door, "filter")) == []


def test_facts_still_open_are_asked_when_they_are_visible() -> None:
    page = notebook()
    page["positions"][2]["takes"] = {"mount": {"value": "F1", "grade": "told", "source": "a note", "date": "2026-01-01"}}
    facts = open_facts(page, plan_for(page, "fan"))
    asked = {(fact.position, fact.name): fact for fact in facts}
    assert asked["fan", "mount"].now == "F1 (told)"
    assert asked["fan", "ordered"].after_step == "open:cover"
    assert ("keyboard", "serviceability") not in asked


def test_steps_done_keep_their_order_when_the_plan_grows() -> None:
    teardown = teardown_of(notebook())
    route = plan_route(teardown, ["fan", "drive"], include=["cover", "plug", "fan_out"])
    plan = job_plan(teardown, route, Machine("notebook"), done=["cover", "plug", "fan_out"])
    assert [item.operation for item in plan.steps if item.phase == Phase.OPENING] == ["cover", "plug", "fan_out", "drive_out"]
