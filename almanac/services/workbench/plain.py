"""The plain job: nobody described the way in, so its steps are typed as they are done, under the gates of any machine of its form."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.parts.proposals import fastener_entry
from almanac.core.teardown.shorthand import read_shorthand
from almanac.core.workbench.plan import JobPlan
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.pages.library import ModelPage
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.open import FREE_TARGET, page_of
from almanac.services.workbench.planning import PlanRequest, make_plan, restored, stored
from almanac.services.workbench.read import standing_of
from almanac.store.models import Asset

MOST_STEPS = 60


@dataclass(frozen=True)
class TypedStep:
    """One step of the way in as it is typed.

    fasteners : shorthand, such as "3x PH1 M2.5x8, 5x PH1 M2.5x4 captive" · leads : names of leads that come off
    frees : positions that come out · live : done before the power is cut · isolates : cuts it · outside : nothing inside is reached
    """

    text: str
    tool: str = ""
    fasteners: str = ""
    leads: Sequence[str] = ()
    frees: Sequence[str] = ()
    live: bool = False
    isolates: bool = False
    outside: bool = False


def add_step(session: Session, job_id: int, step: TypedStep, *, device: Device, clock: Clock) -> None:
    """Add the next step of the way in to a plain job.

    Raises
    ------
    NotFound : there is no such job · Stale : another device has it
    Refused : its way in is described, the way back has begun, or something of the step cannot be read
    """
    job = locked_job(session, job_id)
    require_lease(session, job, device)
    plan, standing = restored(job.plan), standing_of(session, job)
    if not plan.plain:
        raise Refused(Fault("job", "the way in is described: follow it, or say at the step what differs"))
    if standing.state not in FREE_TARGET:
        raise Refused(Fault("job", f"the job is {standing.state.value}: resume it first"))
    if any(not name.startswith("open:") for name in standing.done):
        raise Refused(Fault("job", "the swap or the way back has begun: finish this job and open another one"))
    asset = session.get_one(Asset, job.asset_id)
    page = page_of(session, asset)
    typed = [*plan.typed, _operation(step, plan, page)]
    fresh = make_plan(page, asset.options, PlanRequest(list(plan.wanted), plain=True, typed=typed))
    job.plan, job.planned_minutes = stored(fresh), fresh.minutes.mean
    data = {"targets": list(plan.wanted), "typed": dict(typed[-1]), "reason": f"typed: {step.text.strip()}"}
    write_entry(session, job, "plan", data, clock=clock, author_id=device.user_id)


def _operation(step: TypedStep, plan: JobPlan, page: ModelPage) -> dict[str, Any]:
    """The step as a page holds it; what nobody said stays unknown."""
    positions: Sequence[Mapping[str, Any]] = page.whole.get("positions") or []
    understood = read_shorthand(step.fasteners)
    faults = [] if step.text.strip() else [Fault("text", "say what is done, in a few words")]
    faults += [Fault("fasteners", f"not understood: {word} (such as 3x PH1 M2.5x8 captive)") for word in understood.unread]
    keys = {entry["key"] for entry in positions}
    faults += [Fault("frees", f"{page.name} has no position {key}") for key in step.frees if key not in keys]
    if step.isolates and step.live:
        faults.append(Fault("live", "a step that cuts the power is not done before it is cut"))
    if len(plan.typed) >= MOST_STEPS:
        faults.append(Fault("text", f"{MOST_STEPS} steps are typed: write the page first"))
    if faults:
        raise Refused(*faults)
    return {
        "id": f"typed_{len(plan.typed) + 1}",
        "text": step.text.strip(),
        "needs": [str(plan.typed[-1]["id"])] if plan.typed else [],
        "frees": list(dict.fromkeys(step.frees)),
        "tool": step.tool.strip() or None,
        "fasteners": [fastener_entry(group) for group in understood.groups],
        "plugs": [{"name": name.strip(), "kind": "other"} for name in dict.fromkeys(step.leads) if name.strip()],
        "live": step.live,
        "isolates": step.isolates,
        "outside": step.outside,
        "bare_board": not (step.outside or step.live or step.isolates),
        "seal": None,
    }
