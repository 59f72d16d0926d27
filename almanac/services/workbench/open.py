"""Opening a job, and changing what it is to reach."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.workbench.intake import SIGNS, intake
from almanac.core.workbench.journal import ENDED, JobState
from almanac.core.workbench.plan import JobPlan, Phase
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NeedsConfirmation, NotFound, Refused
from almanac.services.pages.library import ModelPage, read_library
from almanac.services.workbench.approve import unreleased
from almanac.services.workbench.lease import Device, locked_job, require_lease, write_entry
from almanac.services.workbench.planning import PlanRequest, make_plan, restored, stored
from almanac.services.workbench.read import standing_of
from almanac.store import assets, jobs
from almanac.store.models import Asset, Job, Site

EVENTS = ("drop", "spill")
FREE_TARGET = frozenset({JobState.OPEN, JobState.RUNNING})


@dataclass(frozen=True)
class OpenRequest:
    """A job as a person opens it. Without targets it is diagnosed first.

    signs : of a swelling pack, or of mains work that is licensed work, as seen before the first screw
    agreed_parts : the part number agreed for a position, by its key; where none is said, it is the same again
    """

    tag: str
    purpose: str
    symptom: str
    plan: PlanRequest
    events: Sequence[str] = ()
    agreed: str = ""
    signs: Sequence[str] = ()
    confirmed: Collection[str] = frozenset()
    reopens_id: int | None = None
    agreed_parts: Mapping[str, str] = field(default_factory=dict)


def open_job(session: Session, request: OpenRequest, *, clock: Clock, author_id: int) -> int:
    """Open a job on a machine; returns its number.

    Raises
    ------
    Refused : with a fault for each thing that is wrong · NeedsConfirmation : another job of the machine is still open
    """
    asset, site = _machine(session, request, clock)
    stopped = unreleased(session, asset.id)
    if stopped is not None:
        words = f"{asset.tag} was stopped by job {stopped.id} and nobody released it: a lead does that first, no other job begins on it"
        raise Refused(Fault("tag", words))
    unfinished = jobs.open_job_of(session, asset.id, sorted(ENDED))
    if unfinished is not None and "second_job" not in request.confirmed:
        raise NeedsConfirmation(
            "second_job", f"Job {unfinished} of {asset.tag} is not ended. Open a second one?", {"job_id": str(unfinished)}
        )
    page = page_of(session, asset)
    plan = make_plan(page, asset.options, request.plan)
    parts = _agreed_parts(session, asset, request)
    job = Job(
        asset_id=asset.id,
        model_id=asset.model_id,
        site_id=site.id,
        page_revision_id=page.revision_id,
        purpose=request.purpose,
        state=JobState.OPEN.value,
        symptom=request.symptom.strip(),
        events=list(dict.fromkeys(request.events)),
        plan=stored(plan),
        planned_minutes=plan.minutes.mean,
        opened_on=clock.today,
        opened_at=clock.now,
        opened_by=author_id,
        reopens_id=request.reopens_id,
    )
    session.add(job)
    session.flush()
    if request.agreed.strip() or parts:
        write_entry(session, job, "agree", {"words": request.agreed.strip(), "parts": parts}, clock=clock, author_id=author_id)
    _look(session, job, page, request, clock, author_id)
    return job.id


def _agreed_parts(session: Session, asset: Asset, request: OpenRequest) -> dict[str, str]:
    """Parts that were agreed, by position: what the machine has to report in the end.

    Raises
    ------
    Refused : a position the model does not have, or a number of no part
    """
    known = {row.key for row in assets.positions_of_model(session, asset.model_id)}
    faults, found = [], {}
    for key, number in request.agreed_parts.items():
        if not number.strip():
            continue
        part = assets.part_by_number(session, number)
        if key not in known:
            faults.append(Fault(f"agreed_parts.{key}", f"the model has no position {key}"))
        elif part is None:
            faults.append(Fault(f"agreed_parts.{key}", f"no part has the number {number.strip()}"))
        else:
            found[key] = part.number
    if faults:
        raise Refused(*faults)
    return found


def _look(session: Session, job: Job, page: ModelPage, request: OpenRequest, clock: Clock, author_id: int) -> None:
    """What was seen at intake stops the job before its first screw (rule G1b)."""
    seen = intake(str(page.whole.get("form") or ""), request.signs)
    if seen.entry is not None:
        data = {"signs": list(seen.words), "intake": True}
        write_entry(session, job, seen.entry, data, clock=clock, author_id=author_id)
        job.state = JobState.STOPPED.value
        session.flush()


def page_of(session: Session, asset: Asset) -> ModelPage:
    """The page of a machine's model.

    Raises
    ------
    Refused : its model has none
    """
    try:
        return read_library(session).page(asset.model_id)
    except NotFound as error:
        raise Refused(Fault("tag", f"{asset.tag}'s model has no page yet: survey it first")) from error


def _machine(session: Session, request: OpenRequest, clock: Clock) -> tuple[Asset, Site]:
    asset = assets.asset_by_tag(session, request.tag, lock=True)  # so that eight openings at once see one another
    if asset is None:
        raise Refused(Fault("tag", f"no asset has the tag {request.tag.strip() or '(empty)'}: check the label, or import the asset first"))
    faults = []
    if not request.symptom.strip():
        faults.append(Fault("symptom", "say what was noticed or what is wanted, in a few words"))
    if strange := set(request.signs) - set(SIGNS):
        faults.append(Fault("signs", f"one of {', '.join(SIGNS)} was wanted, got {', '.join(sorted(strange))}"))
    if strange := set(request.events) - set(EVENTS):
        faults.append(Fault("events", f"one of {', '.join(EVENTS)} was wanted, got {', '.join(sorted(strange))}"))
    site = assets.site_on(session, asset.id, min(clock.today, asset.retired_on or clock.today))
    if site is None:
        faults.append(Fault("tag", f"{asset.tag} stands at no site today: correct its stays first"))
    if faults:
        raise Refused(*faults)
    assert site is not None
    return asset, site


def change_targets(session: Session, job_id: int, request: PlanRequest, *, reason: str, device: Device, clock: Clock) -> None:
    """Set what a job is to reach. Leaving the route that was agreed asks for a reason; steps already done stay done.

    Raises
    ------
    NotFound : there is no such job · Stale : another device has it
    Refused : closing has begun, no reason given, or no way to a target
    """
    job = locked_job(session, job_id)
    require_lease(session, job, device)
    plan, standing = restored(job.plan), standing_of(session, job)
    if standing.state not in FREE_TARGET:
        raise Refused(Fault("targets", f"the job is {standing.state.value}: resume it first"))
    if any(name.startswith(("close:", "test")) for name in standing.done):
        raise Refused(Fault("targets", "testing or closing has begun: finish this job and open another one"))
    agreed = plan.wanted or plan.targets
    if agreed and not reason.strip():
        raise Refused(Fault("reason", "this leaves the route that was agreed: say why"))
    lost = [key for key in agreed if key not in request.targets and _worked_on(plan, standing.done)]
    targets = [*lost, *request.targets]
    done = [step.operation for step in plan.steps if step.phase == Phase.OPENING and step.id in standing.done and step.operation]
    asset = session.get_one(Asset, job.asset_id)
    wanted = PlanRequest(
        targets, request.direct, request.include, request.lift_pack_out, request.test_first, request.remote, done,
        plain=plan.plain or request.plain, typed=plan.typed, powered=plan.powered,
    )  # fmt: skip
    page = page_of(session, asset)
    fresh = _plan_anew(page, asset.options, wanted)
    job.plan, job.planned_minutes, job.page_revision_id = stored(fresh), fresh.minutes.mean, page.revision_id
    write_entry(
        session, job, "plan", {"targets": list(targets), "include": list(request.include), "reason": reason.strip()}, clock=clock,
        author_id=device.user_id,
    )  # fmt: skip


def _plan_anew(page: ModelPage, options: Mapping[str, Any], wanted: PlanRequest) -> JobPlan:
    """The plan of other targets. A job that began by the short way takes the way that cuts the power where there is none to them."""
    try:
        return make_plan(page, options, wanted)
    except Refused as refused:
        if not wanted.powered or [fault.field for fault in refused.faults] != ["powered"]:
            raise
        return make_plan(page, options, replace(wanted, powered=False))


def _worked_on(plan: JobPlan, done: Sequence[str]) -> bool:
    """Once a screw is out, what the job was opened for stays part of it."""
    return any(step.id in done for step in plan.steps)
