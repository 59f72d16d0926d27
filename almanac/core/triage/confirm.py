"""When a finding may be called confirmed, and how long a cured machine is watched (rule D2)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanac.core.life.outcomes import FAULT_CLAIMS, Finding
from almanac.core.parts.answers import Answer, no, unknown, yes

PROOFS = ("swollen", "broken", "burnt")


@dataclass(frozen=True)
class WatchRules:
    """What the company asks before a cure holds."""

    cold_starts: int = 5
    days: int = 14


@dataclass(frozen=True)
class Evidence:
    """What is known of a swap: good cold starts, days since, whether the fault came back, and what the old part did.

    fails_elsewhere : the old part failed in another machine (True), worked there (False), or nobody tried (None)
    proof : physical, such as swollen · told_apart : whether any test result separated the hypotheses, None if none was made
    """

    cold_starts: int = 0
    days: int = 0
    came_back: bool = False
    fails_elsewhere: bool | None = None
    proof: str | None = None
    told_apart: bool | None = None


def cure_holds(evidence: Evidence, rules: WatchRules) -> Answer:
    """Whether the cure holds: enough cold starts and days without the fault."""
    if evidence.came_back:
        return no("the fault came back: it was not that part, or not that part alone")
    missing = []
    if evidence.cold_starts < rules.cold_starts:
        missing.append(f"{rules.cold_starts - evidence.cold_starts} cold starts")
    if evidence.days < rules.days:
        missing.append(f"{rules.days - evidence.days} days")
    return unknown(f"still to watch: {' and '.join(missing)}") if missing else yes("the cure holds")


def may_confirm(evidence: Evidence, rules: WatchRules) -> Answer:
    """Whether "confirmed" is allowed: the cure holds AND the old part fails elsewhere or shows physical proof (rule D2).

    Parameters
    ----------
    evidence : of one swap · rules : the company's

    Returns
    -------
    Answer : unknown leaves the finding open, no reverses it
    """
    cure = cure_holds(evidence, rules)
    if cure.verdict != "yes":
        return cure
    if evidence.fails_elsewhere is False:
        return no("the old part works elsewhere: no fault found in it")
    if evidence.proof in PROOFS:
        return yes(f"the cure holds and the old part is {evidence.proof}")
    if evidence.fails_elsewhere:
        return yes("the cure holds and the old part fails elsewhere")
    same = "; no test result told the hypotheses apart" if evidence.told_apart is False else ""
    return unknown(f"the cure holds, but nobody tried the old part elsewhere and it shows no proof{same}: the finding stays open")


def finding_allowed(finding: Finding, evidence: Evidence, rules: WatchRules, *, age_days: int | None) -> Answer:
    """Whether a finding may be written for a part that came out.

    Parameters
    ----------
    finding : wanted · evidence : of the swap · rules : the company's · age_days : days since fitting, None if not known

    Returns
    -------
    Answer : a no or unknown says what to write instead
    """
    if finding == Finding.CONFIRMED:
        return may_confirm(evidence, rules)
    if finding == Finding.DEAD_ON_ARRIVAL and age_days is not None and age_days > 14:
        return no(f"fitted {age_days} days ago: dead on arrival is within 14 days")
    if finding == Finding.NO_FAULT_FOUND and evidence.proof in PROOFS:
        return no(f"the old part is {evidence.proof}: that is a fault")
    return yes("allowed")


def pair_question(findings: Sequence[Finding]) -> str | None:
    """What to ask where two modules were replaced together and both are called failed (rule M8).

    Parameters
    ----------
    findings : of the modules replaced at one time

    Returns
    -------
    str : the question; None where one failed at most: a pair replaced for one bad module is one failure and frees one good module
    """
    claims = sum(finding in FAULT_CLAIMS for finding in findings)
    if len(findings) < 2 or claims < 2:
        return None
    return (
        f"{claims} modules are called failed: a pair replaced for one bad module is one failure, the other one is good. Did {claims} fail?"
    )


def days_between(since: date, today: date) -> int:
    """Whole days from one day to another, never below 0."""
    return max((today - since).days, 0)
