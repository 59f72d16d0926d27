"""Who may approve what at the bench: a second signed-in person, for some things a lead, never the worker (rules G1a, G1c)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from almanac.core.workbench.gates import Gate


class Approval(StrEnum):
    """What is approved: a gate let be, a gate that asks for it, a screw left out, a machine that was stopped."""

    WAIVE = "waive"
    GATE = "gate"
    LEFT_OUT = "left_out"
    RELEASE = "release"


BY_LEAD = frozenset({Approval.WAIVE, Approval.RELEASE})
OWN_WORD = "your own word is none: a second signed-in person approves it"


@dataclass(frozen=True)
class Approver:
    """Somebody who answers. works : whether the job is in their hand, or they asked"""

    is_lead: bool
    works: bool


def answer_refusals(what: Approval, approver: Approver) -> list[str]:
    """Why somebody may not answer.

    Parameters
    ----------
    what : is asked · approver : who answers

    Returns
    -------
    list of str
    """
    if approver.works:
        return [OWN_WORD]
    return ["a lead decides this, signed in"] if what in BY_LEAD and not approver.is_lead else []


def own_refusals(what: Approval, gate: Gate | None, *, allowed: bool, alone: bool, photo: bool) -> list[str]:
    """Why somebody may not approve their own work, in a company that may allow it to its one person.

    Parameters
    ----------
    what : is approved · gate : it is about, None for others · allowed : by the company · alone : nobody else may approve
    photo : whether one shows it

    Returns
    -------
    list of str
    """
    sealed = gate is not None and gate.id.startswith("seal:")
    mains = what == Approval.WAIVE and gate is not None and not gate.waivable
    if what == Approval.RELEASE or sealed or mains:
        return ["packs, mains and seals are never approved by the one who works on them"]
    if not allowed:
        return [OWN_WORD]
    if not alone:
        return ["somebody else can approve it: ask them"]
    return [] if photo else ["an own approval needs a photo"]
