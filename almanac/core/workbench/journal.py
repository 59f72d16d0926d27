"""The journal of a job and what it adds up to: every state is a fold over entries that are never changed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any, NamedTuple

from almanac.core.workbench.gates import Gate, GateRules, gates_before, search_gate
from almanac.core.workbench.plan import TEST, JobPlan, JobStep, Phase
from almanac.core.workbench.screws import ScrewEnds


class JobState(StrEnum):
    """Where a job stands."""

    OPEN = "open"
    WAITING = "waiting"
    RUNNING = "running"
    PARKED = "parked"
    STOPPED = "stopped"
    WATCHING = "watching"
    CLOSED = "closed"
    ABANDONED = "abandoned"


ENDED = frozenset({JobState.CLOSED, JobState.ABANDONED})
WAITS_FOR = ("part", "approval", "data sign-off")


@dataclass(frozen=True)
class Entry:
    """One entry of the journal: what happened, with its data."""

    kind: str
    data: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Waiver:
    """A gate that nobody passed: who let it be, and why. `now` : it stands open by the waiver alone."""

    name: str
    reason: str
    now: bool = True

    def words(self, gate: str) -> str:
        """As it reads from then on, on every screen and paper (rule G1a)."""
        return f"{gate.replace('_', ' ').replace(':', ' of ')} waived by {self.name}: {self.reason}"


class Made(NamedTuple):
    """A test that was made: its outcome, and the symptom it was made for; empty in journals that did not say."""

    test: str
    outcome: str
    symptom: str = ""

    def of(self, symptom: str) -> bool:
        """Whether it was made for a symptom, as far as the journal says."""
        return self.symptom in ("", symptom)


@dataclass(frozen=True)
class Standing:
    """What the journal adds up to.

    done : ids of steps in order · passed : gates that are open, by an answer or a waiver · waived : those ever waived, by gate
    tray_out, tray_back : loose screws by group · leads_out, leads_back
    parked : how it was left · danger : signs seen of the pack · referral : signs that make it licensed work · swaps : by position,
    what went in and came out · approved : who approved a gate · decision : what became of the pack that stopped the job
    ends : what became of screws that did not come back · maker_wait : minutes the page did not know, and where they are written
    proof : what the old part shows, such as swollen · run_time : on the pack
    agreed : what the owner agreed to, agreed_parts : the part of each position · report : what the machine said after the last swap,
    report_before : before the first · checks : of the closed machine · watch : results
    """

    state: JobState = JobState.OPEN
    done: tuple[str, ...] = ()
    passed: frozenset[str] = frozenset()
    waived: Mapping[str, Waiver] = field(default_factory=dict)
    tray_out: Mapping[str, int] = field(default_factory=dict)
    tray_back: Mapping[str, int] = field(default_factory=dict)
    leads_out: frozenset[str] = frozenset()
    leads_back: frozenset[str] = frozenset()
    waiting_for: str | None = None
    waiting_part: str | None = None
    parked: Mapping[str, Any] | None = None
    danger: tuple[str, ...] = ()
    referral: tuple[str, ...] = ()
    released: bool = False
    decision: str = ""
    approved: Mapping[str, str] = field(default_factory=dict)
    ends: ScrewEnds = field(default_factory=ScrewEnds)
    maker_wait: tuple[float, str] | None = None
    proof: str = ""
    swaps: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    counts: Mapping[str, Mapping[str, Any]] = field(default_factory=dict)
    agreed: str = ""
    agreed_parts: Mapping[str, str] = field(default_factory=dict)
    run_time: Mapping[str, Any] | None = None
    report: Mapping[str, Any] | None = None
    report_before: Mapping[str, Any] | None = None
    checks: Mapping[str, Any] = field(default_factory=dict)
    cold_starts: int = 0
    came_back: bool = False
    tests: tuple[Made, ...] = ()
    settled: tuple[Mapping[str, Any], ...] = ()

    def next_step(self, plan: JobPlan) -> JobStep | None:
        """The first step not done yet."""
        return next((step for step in plan.steps if step.id not in self.done), None)

    @property
    def truly_passed(self) -> frozenset[str]:
        """Gates that were answered; a waived one is none of them."""
        return self.passed - {gate for gate, waiver in self.waived.items() if waiver.now}

    @property
    def failed_test(self) -> bool:
        """Whether the last power test was bad: what was done did not cure the machine."""
        return self.counts.get(TEST, {}).get("result") == "bad"

    @property
    def leads_off(self) -> frozenset[str]:
        """Leads that are out now."""
        return self.leads_out - self.leads_back


def open_gates(plan: JobPlan, standing: Standing, rules: GateRules | None = None) -> tuple[Gate, ...]:
    """Gates that stand before the next step and are not passed.

    Parameters
    ----------
    plan : of the job · standing : as folded · rules : the company's

    Returns
    -------
    tuple of Gate : none when the step may be done, or nothing is left to do
    """
    step = standing.next_step(plan)
    if step is None:
        return ()
    before = (*gates_before(plan, step, rules), *_searches(standing, step))
    return tuple(gate for gate in before if gate.id not in standing.passed)


def _searches(standing: Standing, step: JobStep) -> tuple[Gate, ...]:
    """What stands before power comes back while a screw may lie inside (rule F7a)."""
    powers = step.id == TEST or (step.phase == Phase.CLOSING and step.isolates)
    return tuple(search_gate(group) for group in standing.ends.inside) if powers else ()


def fold(plan: JobPlan, entries: Iterable[Entry]) -> Standing:
    """What a journal adds up to.

    Parameters
    ----------
    plan : of the job · entries : in the order they were written

    Returns
    -------
    Standing
    """
    standing = Standing()
    for entry in effective(entries):
        change = CHANGES.get(entry.kind)
        standing = change(plan, standing, entry.data) if change else standing
    return standing


def effective(entries: Iterable[Entry]) -> list[Entry]:
    """The entries that hold: `back` takes the last step out again. A power test that was taken back had the power on all the same.

    Parameters
    ----------
    entries : in the order they were written

    Returns
    -------
    list of Entry : without `back`
    """
    kept: list[Entry] = []
    for entry in entries:
        if entry.kind != "back":
            kept.append(entry)
            continue
        last = next((place for place in reversed(range(len(kept))) if kept[place].kind == "step"), None)
        if last is not None:
            undone = str(kept.pop(last).data["step"])
            if undone == TEST:
                kept.insert(last, Entry("power_on"))
            elif undone.startswith("close:"):  # what is opened again passes its gates again (rule F7)
                kept.insert(last, Entry("reopened"))
    return kept


def _started(standing: Standing) -> JobState:
    return JobState.RUNNING if standing.state in (JobState.OPEN, JobState.WAITING) else standing.state


def _step(plan: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    step = plan.step(data["step"])
    if step is None:
        return standing
    standing = replace(standing, state=_started(standing), done=(*standing.done, step.id), counts={**standing.counts, step.id: dict(data)})
    if step.id == TEST:
        standing = _power_on(plan, standing, data)
    if step.phase == Phase.OPENING:
        return _opened(standing, step, data)
    if step.phase == Phase.SWAP and step.position:
        swap = {key: value for key, value in data.items() if key != "step"}
        return replace(standing, swaps={**standing.swaps, step.position: swap}, report=None)
    return _closed(standing, data) if step.phase == Phase.CLOSING else standing


def loose_out(step: JobStep, data: Mapping[str, Any]) -> Counter[str]:
    """Loose screws a step put into the tray: counted ones if they were counted, else as the page says (rule F2)."""
    counted, captive = data.get("screws") or {}, data.get("captive") or {}
    out: Counter[str] = Counter()
    for group in step.screws:
        unknown = 0 if captive.get(group.group) else group.unknown
        out[group.group] += int(counted.get(group.group, group.loose + unknown))
    return +out


def _opened(standing: Standing, step: JobStep, data: Mapping[str, Any]) -> Standing:
    out = Counter(standing.tray_out) + loose_out(step, data)
    return replace(standing, tray_out=dict(out), leads_out=standing.leads_out | {lead.name for lead in step.leads})


def _closed(standing: Standing, data: Mapping[str, Any]) -> Standing:
    back = Counter(standing.tray_back) + Counter({group: int(count) for group, count in (data.get("screws") or {}).items()})
    return replace(standing, tray_back=dict(back), leads_back=standing.leads_back | set(data.get("leads") or ()))


def _refit(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    """Screws and leads put back after their step: what was forgotten and found."""
    return _closed(standing, data)


def _gate(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    standing = _shut(standing, {data["gate"]})
    answers = data.get("answers") or {}
    if answers.get("maker_source") and answers.get("maker_minutes"):
        standing = replace(standing, maker_wait=(float(answers["maker_minutes"]), str(answers["maker_source"]).strip()))
    return replace(standing, state=_started(standing), passed=standing.passed | {data["gate"]})


def _waive(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    waiver = Waiver(str(data["name"]).strip(), str(data["reason"]).strip())
    passed, waived = standing.passed | {data["gate"]}, {**standing.waived, data["gate"]: waiver}
    return replace(standing, state=_started(standing), passed=passed, waived=waived)


def _shut(standing: Standing, gates: set[str]) -> Standing:
    """Gates stand again; that one of them was waived stays on record."""
    waived = {gate: replace(waiver, now=waiver.now and gate not in gates) for gate, waiver in standing.waived.items()}
    return replace(standing, passed=standing.passed - gates, waived=waived)


def _power_on(_: JobPlan, standing: Standing, __: Mapping[str, Any]) -> Standing:
    """Every power-on opens power and isolation again, waived or not (rule G1)."""
    return _shut(standing, {"power", "isolation"})


def _approve(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    """A second person approved; a gate that asks nothing else is open with it."""
    gate = str(data["gate"])
    ends = standing.ends.searched(gate.removeprefix("search:")) if gate.startswith("search:") else standing.ends
    standing = replace(standing, approved={**standing.approved, gate: str(data["name"])}, ends=ends)
    return replace(standing, passed=standing.passed | {data["gate"]}) if data.get("opens") else standing


def _screw(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    ends = standing.ends.added(data["group"], data["end"], int(data.get("count") or 1))
    standing = replace(standing, ends=ends)
    search = f"search:{data['group']}"
    return standing if data["group"] not in ends.inside else replace(standing, passed=standing.passed - {search})


def _wait(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    part = str(data.get("part_number") or "").strip() or None
    return replace(standing, state=JobState.WAITING, waiting_for=data["for"], waiting_part=part)


def _park(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    return replace(standing, state=JobState.PARKED, parked=dict(data))


def _resume(_: JobPlan, standing: Standing, __: Mapping[str, Any]) -> Standing:
    """A machine that stood about is not known to be isolated any more: the gates are asked again."""
    state = JobState.RUNNING if standing.done else JobState.OPEN
    return replace(_shut(standing, {"power", "isolation", "static"}), state=state, waiting_for=None, waiting_part=None, parked=None)


def _danger(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    return replace(standing, state=JobState.STOPPED, danger=tuple(data["signs"]), released=False)


def _refer(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    return replace(standing, state=JobState.STOPPED, referral=tuple(data["signs"]), released=False)


def _release(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    decision = str(data.get("decision") or "released")
    if standing.state in ENDED:  # a machine in quarantine whose job ended there
        return replace(standing, released=True, decision=decision)
    return replace(_shut(standing, {"power", "isolation", "pack"}), state=JobState.RUNNING, released=True, decision=decision)


def _cold_start(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    good = bool(data.get("good"))
    return replace(standing, cold_starts=standing.cold_starts + good, came_back=standing.came_back or not good)


def _reported(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    return replace(standing, report=dict(data)) if standing.swaps else replace(standing, report_before=dict(data))


def _agree(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    parts = {**standing.agreed_parts, **(data.get("parts") or {})}
    return replace(standing, agreed=str(data.get("words") or standing.agreed), agreed_parts=parts)


def _corrected(_: JobPlan, standing: Standing, data: Mapping[str, Any]) -> Standing:
    """What was fitted, as it is said since; figures of a part that it was not are held against the right one."""
    key = str(data["position"])
    fresh = {name: data[name] for name in ("part_number", "serial", "removed_serial", "contradicts") if name in data}
    return replace(standing, swaps={**standing.swaps, key: {**standing.swaps.get(key, {}), **fresh}})


def _made(data: Mapping[str, Any]) -> Made:
    return Made(str(data["test"]), str(data["outcome"]), str(data.get("symptom") or ""))


def without(tests: tuple[Made, ...], taken: Made) -> tuple[Made, ...]:
    """Results without the last one like this."""
    last = next((place for place in reversed(range(len(tests))) if _same(tests[place], taken)), None)
    return tests if last is None else (*tests[:last], *tests[last + 1 :])


def _same(one: Made, other: Made) -> bool:
    return one[:2] == other[:2] and one.of(other.symptom)


Change = Callable[[JobPlan, Standing, Mapping[str, Any]], Standing]
CHANGES: Mapping[str, Change] = {
    "step": _step,
    "refit": _refit,
    "gate": _gate,
    "waive": _waive,
    "power_on": _power_on,
    "wait": _wait,
    "park": _park,
    "resume": _resume,
    "danger": _danger,
    "refer": _refer,
    "release": _release,
    "approve": _approve,
    "screw": _screw,
    "reopened": lambda _, standing, __: _shut(standing, {"power", "isolation", "static"}),
    "cold_start": _cold_start,
    "agree": _agree,
    "report": _reported,
    "run_time": lambda _, standing, data: replace(standing, run_time=dict(data)),
    "check": lambda _, standing, data: replace(standing, checks={**standing.checks, **data}),
    "test": lambda _, standing, data: replace(standing, tests=(*standing.tests, _made(data))),
    "correct": _corrected,
    "untest": lambda _, standing, data: replace(standing, tests=without(standing.tests, _made(data))),
    "settle": lambda _, standing, data: replace(standing, settled=(*standing.settled, dict(data))),
    "watch": lambda _, standing, data: replace(standing, state=JobState.WATCHING, proof=str(data.get("proof") or "")),
    "close": lambda _, standing, data: replace(standing, state=JobState.CLOSED, proof=str(data.get("proof") or "") or standing.proof),
    "abandon": lambda _, standing, __: replace(standing, state=JobState.ABANDONED),
}
