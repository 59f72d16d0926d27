"""Who may approve what, what is seen at intake, and what nobody lets be (rules G1a to G1c)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.teardown.route import MAINS_FORMS
from almanac.core.workbench.approvals import OWN_WORD, Approval, Approver, answer_refusals, own_refusals
from almanac.core.workbench.gates import Gate, gates_before, search_gate
from almanac.core.workbench.intake import MAINS_SIGNS, PACK_SIGNS, intake
from almanac.core.workbench.journal import Entry, open_gates
from almanac.core.workbench.plan import TEST, JobStep, Phase
from tests.core.teardown.pages import part, step
from tests.core.workbench.bench import ANSWERS, APPROVED, Technician, notebook, plan_for

POWER = Gate("power", "Power off", "", ())
SEAL = Gate("seal:cover", "A seal", "", (), waivable=False, approval="second")
MAINS = Gate("power", "Power off", "", (), waivable=False)
ONE_WAY = Gate("one_way:cover", "No way back", "", (), waivable=False, approval="second")


@pytest.mark.parametrize("what", list(Approval))
def test_nobody_approves_what_they_work_on(what: Approval) -> None:
    assert answer_refusals(what, Approver(is_lead=True, works=True)) == [OWN_WORD]
    assert answer_refusals(what, Approver(is_lead=True, works=False)) == []


@pytest.mark.parametrize(
    ("what", "may"), [(Approval.WAIVE, False), (Approval.RELEASE, False), (Approval.GATE, True), (Approval.LEFT_OUT, True)]
)
def test_a_lead_lets_gates_be_and_releases_packs_and_any_second_person_the_rest(what: Approval, may: bool) -> None:
    assert (answer_refusals(what, Approver(is_lead=False, works=False)) == []) is may


@pytest.mark.parametrize(
    ("what", "gate", "may"),
    [
        (Approval.WAIVE, POWER, True),
        (Approval.GATE, ONE_WAY, True),
        (Approval.LEFT_OUT, None, True),
        (Approval.RELEASE, None, False),
        (Approval.GATE, SEAL, False),
        (Approval.WAIVE, MAINS, False),
    ],
)
def test_one_person_alone_never_approves_packs_mains_or_seals(what: Approval, gate: Gate | None, may: bool) -> None:
    assert (own_refusals(what, gate, allowed=True, alone=True, photo=True) == []) is may
    if may:
        assert own_refusals(what, gate, allowed=False, alone=True, photo=True) == [OWN_WORD]
        assert own_refusals(what, gate, allowed=True, alone=False, photo=True) == ["somebody else can approve it: ask them"]
        assert own_refusals(what, gate, allowed=True, alone=True, photo=False) == ["an own approval needs a photo"]


@pytest.mark.parametrize("sign", list(PACK_SIGNS))
def test_each_sign_of_a_swelling_pack_stops_where_there_may_be_one(sign: str) -> None:
    seen = intake("notebook", [sign])
    assert (seen.entry, seen.words) == ("danger", (PACK_SIGNS[sign],))
    assert intake("notebook", []).entry is None


@pytest.mark.parametrize("form", sorted(MAINS_FORMS))
@pytest.mark.parametrize("sign", list(MAINS_SIGNS))
def test_each_sign_of_mains_is_licensed_work_where_mains_is_inside(form: str, sign: str) -> None:
    seen = intake(form, [sign])
    assert (seen.entry, seen.words) == ("refer", (MAINS_SIGNS[sign],))
    if sign not in PACK_SIGNS:
        assert intake("notebook", [sign]).entry is None


def test_a_pack_in_a_bay_is_looked_at_before_the_first_step_that_touches_it() -> None:
    page = {"positions": [part("battery", "battery")], "operations": [step("bay", frees=["battery"], outside=True)]}
    plan = plan_for(page, "battery")
    assert "pack" in [gate.id for gate in gates_before(plan, plan.steps[0])]


def test_seals_one_way_steps_and_searches_are_never_let_be() -> None:
    worker = Technician(plan_for(notebook(), "keyboard"))
    worker.until("open:keyboard_out")
    for gate in ("seal:keyboard_out", "one_way:keyboard_out"):
        assert worker.says("waive", gate=gate, reason="in a hurry", name="A. Quay")[0].endswith("this gate is never waived")
    assert not search_gate("short").waivable


ACTS = st.sampled_from(
    ["step", "gate", "hurried gate", "waive", "approve", "back", "power_on", "park", "resume", "danger", "release", "screw"]
)


@settings(max_examples=300, deadline=None)
@given(st.sampled_from(sorted(MAINS_FORMS)), st.lists(st.tuples(ACTS, st.integers(0, 3)), min_size=10, max_size=20))
def test_no_sequence_reaches_the_inside_of_a_mains_machine_without_its_gates(form: str, acts: list[tuple[str, int]]) -> None:
    """Whatever honest and careless people do in whatever order: a step inside is done behind gates that were answered, never let be."""
    page = {
        "positions": [part("fan", "fan"), part("memory_a", "memory", "socketed")],
        "operations": [
            step("back_off", isolates=True, outside=True, fasteners=[{"group": "long", "count": 2, "captive": False}]),
            step("fan_out", ["back_off"], frees=["fan"], bare_board=True, plugs=[{"name": "fan lead", "kind": "press_fit"}]),
        ],
    }
    worker = Technician(plan_for(page, "fan", form=form, wait_minutes=10.0))
    answered: set[str] = set()
    for act, number in acts:
        before, coming = worker.standing, worker.standing.next_step(worker.plan)
        taken = said(worker, act, number, coming)
        done = set(worker.standing.done) - set(before.done)
        for name in done:
            inside = worker.plan.step(name)
            assert inside is not None
            if inside.shut:
                assert "isolation" in answered
            if inside.phase in (Phase.OPENING, Phase.SWAP):
                assert "power" in answered
        if taken is not None and taken.kind == "gate":
            answered.add(str(taken.data["gate"]))
        if (taken is not None and taken.kind in ("power_on", "resume", "release")) or TEST in done:
            answered -= {"power", "isolation"}  # the machine had power, or nobody knows
        assert not {"power", "isolation"} & {gate for gate, waiver in worker.standing.waived.items() if waiver.now}


def said(worker: Technician, act: str, number: int, coming: JobStep | None) -> Entry | None:
    """One entry, honest or careless, where it was taken; what is refused changes nothing."""
    gates = open_gates(worker.plan, worker.standing)
    gate = gates[number % len(gates)].id if gates else "power"
    act = ("gate" if gates else "step") if act == "on" else act
    honest: Mapping[str, Any] = ANSWERS.get(gate, APPROVED)  # type: ignore[assignment]
    hurried = {**honest, "waited_minutes": number, "held_seconds": number, "no_light": False}
    entries: dict[str, dict[str, Any]] = {
        "step": {"step": coming.id, **worker.honest(coming)} if coming else {"step": "none"},
        "gate": {"gate": gate, "answers": honest},
        "hurried gate": {"gate": gate, "answers": hurried},
        "waive": {"gate": gate, "reason": "in a hurry", "name": "A. Quay"},
        "approve": {"gate": gate, "name": "A. Quay", "opens": True},
        "park": {"words": "away", "screws_where": "box", "isolated": True},
        "resume": {"read": True},
        "danger": {"signs": ["hot"]},
        "release": {"name": "A. Quay", "officer": "O. Fender", "day": "2026-11-02", "decision": "released"},
        "screw": {"group": "long", "end": "inside"},
    }
    refused = worker.says(act.removeprefix("hurried "), **entries.get(act, {}))
    return None if refused else worker.entries[-1]
