"""The way of a job: in while it opens, back while it closes, and how far along it stands."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.workbench.journal import Standing
from almanac.core.workbench.plan import JobPlan, Phase


@dataclass(frozen=True)
class Way:
    """How far a job is. done, steps : steps · turn : share of the way at which it turns back · at : share that is done"""

    done: int
    steps: int
    turn: float
    at: float


def way_of(plan: JobPlan, standing: Standing) -> Way | None:
    """How far a job is on its way.

    Parameters
    ----------
    plan : of the job · standing : as folded

    Returns
    -------
    Way, or None where no step is planned: it is diagnosed, or its steps are typed as they are done
    """
    steps = plan.steps
    if not steps or plan.plain:
        return None
    done = sum(step.id in standing.done for step in steps)
    inward = sum(step.phase == Phase.OPENING for step in steps)
    return Way(done, len(steps), inward / len(steps), done / len(steps))


def loose(standing: Standing) -> tuple[int, int]:
    """Loose screws that lie beside the machine, and leads that are off. What was lost or replaced lies nowhere any more."""
    missing = standing.ends.missing
    return sum(missing(group, out, standing.tray_back.get(group, 0)) for group, out in standing.tray_out.items()), len(standing.leads_off)
