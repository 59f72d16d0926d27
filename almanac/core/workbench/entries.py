"""Which entry a journal takes: the rules of a job as plain refusals."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.kinds import Kind
from almanac.core.workbench.gates import DANGER_SIGNS, GateRules, faults_of
from almanac.core.workbench.journal import ENDED, WAITS_FOR, Entry, JobState, Made, Standing, loose_out, open_gates, without
from almanac.core.workbench.pack_triage import run_time_refusals
from almanac.core.workbench.plan import TEST, JobPlan, JobStep, Phase
from almanac.core.workbench.screws import LEFT_OUT, end_refusals

AT_WORK = frozenset({JobState.OPEN, JobState.RUNNING})
ALLOWED: Mapping[JobState, frozenset[str]] = {
    JobState.WAITING: frozenset({"resume", "note", "agree", "test", "untest", "park", "waive", "approve", "danger"}),
    JobState.PARKED: frozenset({"resume", "note", "agree", "danger", "waive", "approve"}),
    JobState.STOPPED: frozenset({"release", "note"}),
    JobState.WATCHING: frozenset({"cold_start", "note"}),
}
AT_WORK_ONLY = frozenset(
    {
        "step",
        "back",
        "refit",
        "gate",
        "waive",
        "approve",
        "power_on",
        "wait",
        "park",
        "danger",
        "report",
        "check",
        "settle",
        "test",
        "untest",
        "run_time",
        "correct",
        "agree",
        "note",
        "screw",
    }
)


def refusals(plan: JobPlan, standing: Standing, entry: Entry, rules: GateRules | None = None) -> list[str]:
    """Why an entry cannot be taken now; nothing means it can.

    Parameters
    ----------
    plan : of the job · standing : as folded · entry : to be added · rules : the company's

    Returns
    -------
    list of str : plain sentences, each with its cure
    """
    if standing.state in ENDED:
        return [f"the job is {standing.state.value}: reopen it, or open a new one"]
    allowed = AT_WORK_ONLY if standing.state in AT_WORK else ALLOWED[standing.state]
    if entry.kind not in allowed:
        return [_not_now(standing, entry.kind)]
    if entry.kind in ("gate", "waive", "approve"):
        return _gate_refusals(plan, standing, entry, rules)
    rule = RULES.get(entry.kind)
    return rule(plan, standing, entry.data) if rule else (_step_refusals(plan, standing, entry.data, rules) if entry.kind == "step" else [])


def _not_now(standing: Standing, kind: str) -> str:
    if standing.state == JobState.STOPPED:
        if standing.referral and not standing.danger:
            return "mains inside: this is licensed work under the local code. Only socket and lead are checked, from outside the case"
        return "the pack stopped this job: a lead releases it with the site's fire and safety officer, nothing else goes on"
    if standing.state == JobState.WATCHING:
        return "the machine is being watched: record cold starts, or reopen the job"
    cure = "resume it first" if kind != "resume" else "it is not waiting"
    return f"the job is {standing.state.value}: {cure}"


def _gate_refusals(plan: JobPlan, standing: Standing, entry: Entry, rules: GateRules | None) -> list[str]:
    name = entry.data.get("gate")
    gate = next((gate for gate in open_gates(plan, standing, rules) if gate.id == name), None)
    if gate is None:
        return [f"no gate {name} stands before the next step"]
    if entry.kind == "gate":
        unapproved = gate.approval is not None and gate.id not in standing.approved
        faults = [f"{gate.title}: a second signed-in person approves it first, your own word is none"] if unapproved else []
        return faults + faults_of(gate, entry.data.get("answers") or {}, plan, rules)
    if entry.kind == "approve":
        return [] if gate.approval is not None else [f"{gate.title}: nobody approves this gate, it is answered"]
    if not gate.waivable:
        mains = " with mains inside" if plan.mains and gate.id in ("power", "isolation") else ""
        return [f"{gate.title}: this gate is never waived{mains}"]
    named = [key for key in ("reason", "name") if not str(entry.data.get(key) or "").strip()]
    return [f"a waived gate needs a {key}" for key in named]


def _step_refusals(plan: JobPlan, standing: Standing, data: Mapping[str, Any], rules: GateRules | None) -> list[str]:
    step = standing.next_step(plan)
    if step is None:
        return ["every step is done: check the machine and close the job"]
    if data.get("step") != step.id:
        return [f"the next step is {step.text!r}: another screen is ahead or behind, read the job again"]
    gates = open_gates(plan, standing, rules)
    if gates:
        return [f"before this step: {gate.title}" for gate in gates]
    by_phase = {
        Phase.OPENING: lambda: _opening_refusals(step, data),
        Phase.SWAP: lambda: _swap_refusals(standing, step, data),
        Phase.TEST: lambda: _test_refusals(data) if step.id == TEST else [],
        Phase.CLOSING: lambda: [one.words for one in beneath(plan, standing)] + _back_refusals(standing, data),
    }
    return by_phase[step.phase]()


def _test_refusals(data: Mapping[str, Any]) -> list[str]:
    faults = (
        [] if data.get("charge_checked") is True else ["check the charge before the power test: a flat battery looks like a dark screen"]
    )
    return faults if data.get("result") in ("good", "bad") else [*faults, "say whether the test was good or bad"]


def _opening_refusals(step: JobStep, data: Mapping[str, Any]) -> list[str]:
    captive, counted = data.get("captive") or {}, data.get("screws") or {}
    faults = [
        f"{group.group}: captive or loose? the page does not know, look and say (rule F2)"
        for group in step.screws
        if group.unknown and not isinstance(captive.get(group.group), bool) and group.group not in counted
    ]
    faults += [
        f"{group.group}: the page says {group.expected().words}: count those that came out (rule U1)"
        for group in step.screws
        if not group.counted and group.group not in counted and captive.get(group.group) is not True
    ]
    known = {group.group for group in step.screws}
    return faults + [f"{group}: this step has no such group" for group in counted if group not in known]


def _swap_refusals(standing: Standing, step: JobStep, data: Mapping[str, Any]) -> list[str]:
    if data.get("refitted") is True:
        pack = Kind.BATTERY.value in step.touches and bool(standing.danger) and standing.decision != "released"
        return ["this pack stopped the job and was not released: it is never fitted again"] if pack else []
    if str(data.get("part_number") or "").strip():
        return []
    return ["name the part that went in, or say that the old one was put back"]


@dataclass(frozen=True)
class StillOut:
    """Something beneath the next layer that is not back: screws of a group, or a lead."""

    words: str
    group: str | None = None
    count: int = 0
    lead: str | None = None


def beneath(plan: JobPlan, standing: Standing) -> list[StillOut]:
    """What is still out of the layers closed so far: the next does not go on before it is back, or its end is told (rules F7, F7a).

    Parameters
    ----------
    plan : of the job · standing : as folded

    Returns
    -------
    list of StillOut : screws by group, then leads
    """
    closed = [step for step in plan.steps if step.phase == Phase.CLOSING and step.id in standing.done and not step.left_out]
    opened = (plan.step(f"open:{step.operation}") for step in closed if step.screws)
    wanted: Counter[str] = sum((loose_out(step, standing.counts.get(step.id, {})) for step in opened if step is not None), Counter())
    found = []
    for group, count in sorted(wanted.items()):
        missing = standing.ends.missing(group, count, standing.tray_back.get(group, 0))
        be = "is" if missing == 1 else "are"
        words = f"{missing} x {group} beneath this {be} not back: find it, or say what became of it"
        found += [StillOut(words, group=group, count=missing)] if missing else []
    leads = {lead.name for step in closed for lead in step.leads} & standing.leads_off
    return found + [StillOut(f"{name} beneath this is still off", lead=name) for name in sorted(leads)]


def _back_refusals(standing: Standing, data: Mapping[str, Any]) -> list[str]:
    back = Counter(standing.tray_back) + Counter({group: int(count) for group, count in (data.get("screws") or {}).items()})
    faults = [
        f"{group}: {count} back, {standing.tray_out.get(group, 0)} came out: count again, a long screw never goes into a short hole"
        for group, count in back.items()
        if count > standing.tray_out.get(group, 0)
    ]
    foreign = sorted(set(data.get("leads") or ()) - standing.leads_out)
    return faults + [f"{name} was never taken off" for name in foreign]


def _wait_refusals(_: JobPlan, __: Standing, data: Mapping[str, Any]) -> list[str]:
    return [] if data.get("for") in WAITS_FOR else [f"what is it waiting for: one of {', '.join(WAITS_FOR)}"]


def _park_refusals(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> list[str]:
    faults = [] if str(data.get("words") or "").strip() else ["say why it is parked"]
    if sum(standing.tray_out.values()) > sum(standing.tray_back.values()) and not str(data.get("screws_where") or "").strip():
        faults.append("screws are out: say where they are, box and compartment")
    return faults if isinstance(data.get("isolated"), bool) else [*faults, "say whether the machine is isolated as it lies there"]


def _resume_refusals(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> list[str]:
    shown = data.get("read") is True or not standing.parked
    return [] if shown else ["read what is out, where the screws are and whether it is isolated, then resume"]


def _danger_refusals(_: JobPlan, __: Standing, data: Mapping[str, Any]) -> list[str]:
    signs = data.get("signs") or []
    return [] if signs and set(signs) <= set(DANGER_SIGNS) else [f"name what is seen: {', '.join(DANGER_SIGNS)}"]


CORRECTED = ("part_number", "serial", "removed_serial")
DECISIONS = ("released", "disposed", "returned")


def _release_refusals(_: JobPlan, __: Standing, data: Mapping[str, Any]) -> list[str]:
    """A lead releases it, with who decided, on which day, and what becomes of it (rules B4, G1c)."""
    wanted = {"name": "the lead who releases it", "officer": "the fire and safety officer, or the licensed person", "day": "the day"}
    faults = [f"a release needs {words}" for key, words in wanted.items() if not str(data.get(key) or "").strip()]
    return faults if data.get("decision") in DECISIONS else [*faults, f"decide: {', '.join(DECISIONS)}"]


def _screw_refusals(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> list[str]:
    """What a worker says became of a screw; that it is left out somebody else approves."""
    group, end = str(data.get("group") or ""), str(data.get("end") or "")
    if end == LEFT_OUT and not str(data.get("name") or "").strip():
        return ["a screw is left out only with the approval of a second signed-in person"]
    out, back = standing.tray_out.get(group, 0), standing.tray_back.get(group, 0)
    count = data.get("count", 1)
    if isinstance(count, bool) or not isinstance(count, int):
        return ["how many screws: a whole number was wanted"]
    return end_refusals(standing.ends, group, end, count, out=out, back=back, size=str(data.get("size") or ""))


def _nothing_to_undo(_: JobPlan, standing: Standing, __: Mapping[str, Any]) -> list[str]:
    return [] if standing.done else ["no step is done yet: there is nothing to take back"]


def _untest_refusals(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> list[str]:
    made = Made(str(data.get("test")), str(data.get("outcome")), str(data.get("symptom") or ""))
    return [] if without(standing.tests, made) != standing.tests else ["no such result is on record: there is nothing to take back"]


def _correct_refusals(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> list[str]:
    """What was fitted is corrected where it was said, with a reason: the closing says it no second time."""
    swap = standing.swaps.get(str(data.get("position") or ""))
    if swap is None or swap.get("refitted"):
        return ["nothing was fitted there at this job: there is nothing to correct"]
    faults = [] if str(data.get("reason") or "").strip() else ["say why it is corrected: what was misread, or mistyped"]
    if not any(name in data for name in CORRECTED):
        faults.append("say what is corrected: the part, its serial, or that of the old one")
    if "part_number" in data and not str(data["part_number"] or "").strip():
        faults.append("a part that was fitted has a number")
    return faults


def _words_refusals(_: JobPlan, __: Standing, data: Mapping[str, Any]) -> list[str]:
    return [] if str(data.get("words") or data.get("photo") or "").strip() else ["write something"]


RULES: Mapping[str, Callable[[JobPlan, Standing, Mapping[str, Any]], list[str]]] = {
    "back": _nothing_to_undo,
    "refit": lambda _, standing, data: _back_refusals(standing, data),
    "wait": _wait_refusals,
    "park": _park_refusals,
    "resume": _resume_refusals,
    "danger": _danger_refusals,
    "release": _release_refusals,
    "screw": _screw_refusals,
    "untest": _untest_refusals,
    "correct": _correct_refusals,
    "run_time": lambda _, __, data: run_time_refusals(data),
    "note": _words_refusals,
    "agree": _words_refusals,
}


def count_questions(step: JobStep, data: Mapping[str, Any]) -> list[str]:
    """Where a count at the bench differs from the page: a question for the page, never a silent correction (rule F1).

    Parameters
    ----------
    step : an opening step · data : of its entry

    Returns
    -------
    list of str
    """
    out = loose_out(step, data)
    counted = data.get("screws") or {}
    return [
        f"{group.group}: counted {out[group.group]}, the page says {group.expected().words}: which is it?"
        for group in step.screws
        if group.group in counted and not group.expected().agrees(out[group.group])
    ]
