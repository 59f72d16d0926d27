"""What keeps a job from closing, by name: steps, screws by group, leads, the closed machine (rules F3, F6, F7, F11)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from almanac.core.parts.kinds import Verdict
from almanac.core.teardown.fasteners import leads_back, may_close, refit_complete
from almanac.core.workbench.closing_checks import CHECKS
from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import JobPlan, Phase


def mismatches(plan: JobPlan, standing: Standing) -> list[str]:
    """Screws and leads whose sets differ, each by name. What the page leaves out on the way back is not expected.

    Parameters
    ----------
    plan : of the job · standing : as folded

    Returns
    -------
    list of str : empty when the tray is empty and every lead is back
    """
    gone = {step.operation for step in plan.steps if step.left_out}
    lost_screws: dict[str, int] = {}
    lost_leads: set[str] = set()
    for step in plan.steps:
        if step.phase == Phase.OPENING and step.operation in gone and step.id in standing.done:
            lost_leads |= {lead.name for lead in step.leads}
            for group in step.screws:
                lost_screws[group.group] = lost_screws.get(group.group, 0) + group.loose
    ended = standing.ends.accounted
    out = {group: count - lost_screws.get(group, 0) - ended(group) for group, count in standing.tray_out.items()}
    screws = refit_complete({group: count for group, count in out.items() if count > 0}, standing.tray_back)
    leads = leads_back(standing.leads_out - lost_leads, standing.leads_back)
    return [answer.reason for answer in (screws, leads) if answer.verdict != Verdict.YES]


def closing_refusals(plan: JobPlan, standing: Standing, *, opened: bool) -> list[str]:
    """Why a job cannot be closed yet.

    Parameters
    ----------
    plan : of the job · standing : as folded · opened : whether any step was done; a job never opened closes without checks

    Returns
    -------
    list of str : empty when it may close
    """
    if not opened:
        return []
    faults = [f"not done: {step.text}" for step in plan.steps if step.id not in standing.done]
    faults += [f"unequal: {words}" for words in mismatches(plan, standing)]
    faults += [f"a screw of {group} may be inside: find it, or have a second person search" for group in standing.ends.inside]
    faults += _pack_faults(plan, standing)
    if plan.form and any(step.phase == Phase.CLOSING for step in plan.steps):
        faults += [f"not checked: {words}" for key, words in checks_of(plan).items() if not _checked(key, standing.checks)]
    return faults


def checks_of(plan: JobPlan) -> dict[str, str]:
    """What is looked at once the machine is closed, by key: as the plan says, the common ones for plans of before."""
    return dict(plan.checks) or dict(CHECKS)


def _pack_faults(plan: JobPlan, standing: Standing) -> list[str]:
    """A pack that was not found sound does not stay in the machine (rule B4)."""
    if not standing.danger or not standing.released or standing.decision == "released":
        return []
    changed = {key for key, swap in standing.swaps.items() if key in plan.packs and swap.get("refitted") is not True}
    return [] if changed else [f"the pack was {standing.decision}: reach it too, and fit another or leave its place empty"]


def _checked(key: str, checks: Mapping[str, Any]) -> bool:
    if key == "latches":
        return may_close({"latches": "retracted" if checks.get(key) is True else "unknown"}).verdict == Verdict.YES
    return checks.get(key) is True
