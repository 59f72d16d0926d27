"""Gates: what must be true before a step, who may let it pass, and what a power-on opens again (rules G1 to G6, B4, F7a)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.parts.kinds import Kind
from almanac.core.workbench.plan import ISOLATE, TEST, JobPlan, JobStep, Phase

DATA_KINDS = kinds_of_role(BenchRole.STORAGE, BenchRole.BOARD)
HOLD_SECONDS = 15.0
ENCRYPTION = ("on", "off", "unknown")
DANGER_SIGNS = ("swollen", "dented", "hot", "leaking", "smelling")
SECOND = "second"
"""Who approves: a second signed-in person, never the one who asks."""


@dataclass(frozen=True)
class Ask:
    """One question of a gate: `yes` must be answered with yes, `number` and `words` with a value, `choice` with one of `choices`."""

    key: str
    words: str
    kind: str = "yes"
    choices: tuple[str, ...] = ()
    optional: bool = False


@dataclass(frozen=True)
class Gate:
    """What stands before a step. A lead may waive `waivable` ones; `again` ones reopen at every power-on.

    approval : who has to approve before it opens, None where nobody has to
    """

    id: str
    title: str
    why: str
    asks: tuple[Ask, ...]
    waivable: bool = True
    again: bool = False
    approval: str | None = None


POWERED = "The short way leaves the pack connected. Only a lead, beside whoever works, may let that be."


@dataclass(frozen=True)
class GateRules:
    """What the company decided: seconds the power button is held with the power off."""

    hold_seconds: float = HOLD_SECONDS


def gates_before(plan: JobPlan, step: JobStep, rules: GateRules | None = None) -> tuple[Gate, ...]:
    """Every gate a step asks for, whether passed or not, in the order they are asked.

    Parameters
    ----------
    plan : of the job · step : one of its steps · rules : the company's

    Returns
    -------
    tuple of Gate
    """
    company = rules or GateRules()
    if step.id in (TEST, ISOLATE):
        return ()
    inward = step.phase in (Phase.OPENING, Phase.SWAP)
    asked = (
        (inward, _power(plan)),
        (step.shut, _isolation(plan, company)),
        (inward and _pack_seen(plan, step), _pack()),
        (step.bare, _static()),
        (inward and _touches_data(plan, step), _data()),
        *_approvals(step),
    )
    return tuple(gate for wanted, gate in asked if wanted)


def _approvals(step: JobStep) -> list[tuple[bool, Gate]]:
    opening = step.phase == Phase.OPENING
    seal = _approval(f"seal:{step.operation}", "A seal is broken here", "no step that breaks a seal without approval", None)
    one_way = _approval(f"one_way:{step.operation}", "There is no way back from this step", step.one_way or "", step.destroys)
    return [(opening and bool(step.seal), seal), (opening and bool(step.one_way), one_way)]


def _power(plan: JobPlan) -> Gate:
    outside = "mains lead out, and in your hand" if plan.mains else "charger out and outside battery out, if it has one"
    asks = (Ask("shut_down", "shut down, not asleep"), Ask("outside_off", outside), Ask("no_light", "no light on the machine"))
    why = "Power off before the first screw. Mains and power bricks are never opened: licensed electrician, local code."
    return Gate("power", "Power off", why, asks, waivable=not plan.mains, again=True)


def _isolation(plan: JobPlan, rules: GateRules) -> Gate:
    if plan.powered:
        return Gate("isolation", "Not isolated", POWERED, (), waivable=not plan.mains, again=True)
    asks = [Ask("held_seconds", f"power button held, in seconds (at least {rules.hold_seconds:g})", "number")]
    if not plan.cuts_power:
        asks.insert(0, Ask("how", "no step of the page cuts the power: how was it cut?", "words"))
    if plan.mains and plan.wait_minutes is None:
        asks.append(Ask("maker_minutes", "the maker's waiting time is not on the page: stop, look it up, and enter its minutes", "number"))
        asks.append(Ask("maker_source", "where that is written", "words"))
    if plan.mains:
        least = f" (at least {plan.wait_minutes:g})" if plan.wait_minutes is not None else ""
        asks.append(Ask("waited_minutes", f"minutes waited since the mains was out{least}", "number"))
    why = "What is left in the machine drains through the button. Every power-on opens this gate again."
    return Gate("isolation", "Isolated", why, tuple(asks), waivable=not plan.mains, again=True)


def _pack() -> Gate:
    asks = (Ask("sound", "the pack is flat, whole, cool and dry"),)
    return Gate(
        "pack",
        "Look at the pack",
        "Swollen, dented, hot or leaking: stop here, nothing is pressed, pried or charged.",
        asks,
        waivable=False,
    )


def _static() -> Gate:
    return Gate(
        "static", "Static protection", "From the first bare board to the last cover.", (Ask("strap", "wrist strap on and connected"),)
    )


def _data() -> Gate:
    asks = (
        Ask("backup", "backup verified", optional=True),
        Ask("no_data_signed_by", 'or "no data wanted", signed by', "words", optional=True),
        Ask("encryption", "is the drive encrypted?", "choice", ENCRYPTION),
        Ask("recovery_key", "recovery key on file", optional=True),
    )
    return Gate("data", "Data safe", "Storage, board and settings cell are touched only when the data are safe.", asks)


def _approval(name: str, title: str, why: str, destroys: str | None) -> Gate:
    asks = (Ask("spare", f"spare in the kit: {destroys}"),) if destroys else ()
    return Gate(name, title, why, asks, waivable=False, approval=SECOND)


def search_gate(group: str) -> Gate:
    """Before power comes back while a screw may lie inside: somebody else has looked too, and found none (rule F7a)."""
    why = "It may lie on a board. No power until it is found, or a second person has searched and found none."
    return Gate(f"search:{group}", f"A screw of {group} may be inside", why, (), waivable=False, approval=SECOND)


def _touches_data(plan: JobPlan, step: JobStep) -> bool:
    changed = step.position if step.phase == Phase.SWAP else None
    return bool(DATA_KINDS & set(step.touches)) or any(key in plan.settings_cells for key in (*step.frees, changed))


def _pack_seen(plan: JobPlan, step: JobStep) -> bool:
    """As soon as a pack can be seen, and before any step touches it, live ones too (rule G1b)."""
    before = (earlier for earlier in plan.steps[: plan.steps.index(step)] if earlier.phase == Phase.OPENING)
    return _touches_pack(plan, step) or any(_touches_pack(plan, one) or _bares_pack(plan, one) for one in before)


def _bares_pack(plan: JobPlan, step: JobStep) -> bool:
    """Whether a pack can be seen after a step; where nobody described the machine, any step inside may lay one bare."""
    inside = step.shut or step.live or step.isolates
    return bool(set(plan.packs) & set(step.exposes)) or (plan.plain and inside and not plan.mains)


def _touches_pack(plan: JobPlan, step: JobStep) -> bool:
    return (step.isolates and not plan.mains) or Kind.BATTERY.value in step.touches


def faults_of(gate: Gate, answers: Mapping[str, Any], plan: JobPlan, rules: GateRules | None = None) -> list[str]:
    """What keeps a gate shut with these answers; nothing means it opens.

    Parameters
    ----------
    gate : asked · answers : by key of its questions · plan : of the job · rules : the company's

    Returns
    -------
    list of str : plain sentences
    """
    faults = [fault for ask in gate.asks if not ask.optional for fault in _unanswered(ask, answers)]
    if gate.id == "data":
        return faults + _data_faults(answers)
    if gate.id == "isolation" and plan.powered:
        return ["no answer opens this gate: a lead waives it, or the job takes the way that cuts the power"]
    if gate.id == "isolation" and not faults:
        return _isolation_faults(answers, plan, rules or GateRules())
    return faults


def _unanswered(ask: Ask, answers: Mapping[str, Any]) -> list[str]:
    given = answers.get(ask.key)
    if ask.kind == "yes":
        return [] if given is True else [f"not confirmed: {ask.words}"]
    if ask.kind == "number":
        good = isinstance(given, int | float) and not isinstance(given, bool) and given >= 0
        return [] if good else [f"a number was wanted: {ask.words}"]
    if ask.kind == "choice":
        return [] if given in ask.choices else [f"one of {', '.join(ask.choices)} was wanted: {ask.words}"]
    return [] if isinstance(given, str) and given.strip() else [f"not filled in: {ask.words}"]


def _data_faults(answers: Mapping[str, Any]) -> list[str]:
    faults = []
    signed = answers.get("no_data_signed_by")
    if answers.get("backup") is not True and not (isinstance(signed, str) and signed.strip()):
        faults.append('a verified backup or a signed "no data wanted" is needed first')
    elif answers.get("backup") is True and answers.get("encryption") in ("on", "unknown") and answers.get("recovery_key") is not True:
        faults.append(f"encryption {answers['encryption']}: the recovery key must be on file first")
    return faults


def _isolation_faults(answers: Mapping[str, Any], plan: JobPlan, rules: GateRules) -> list[str]:
    faults = []
    if answers["held_seconds"] < rules.hold_seconds:
        faults.append(f"hold the power button for at least {rules.hold_seconds:g} s, {answers['held_seconds']:g} s were said")
    if plan.mains:
        least = plan.wait_minutes if plan.wait_minutes is not None else answers["maker_minutes"]
        if least <= 0:
            faults.append("a maker's waiting time of zero is none: look it up, and enter its minutes")
        elif answers["waited_minutes"] < least:
            faults.append(f"wait at least {least:g} min after the mains is out, {answers['waited_minutes']:g} min were said")
    return faults


def remote_refusals(plan: JobPlan) -> list[str]:
    """What a lay user helped from afar may not do: doors and panels only, no board, no pack (rule G6).

    Parameters
    ----------
    plan : of the job

    Returns
    -------
    list of str : one sentence for each step that is refused
    """
    refused = []
    for step in plan.steps:
        if step.phase not in (Phase.OPENING, Phase.SWAP):
            continue
        if step.bare or Kind.MAINBOARD.value in step.touches:
            refused.append(f"{step.text}: bare boards are for the bench")
        elif Kind.BATTERY.value in step.touches or (step.isolates and step.shut):
            refused.append(f"{step.text}: packs are for the bench")
    return refused
