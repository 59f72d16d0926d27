"""A job's plan from the model page: the route's steps for this machine, kept as they were planned."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import TypeAdapter

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.parts.answers import Known, known
from almanac.core.parts.declared.kinds import BenchRole, kinds_of_role
from almanac.core.parts.variants import of_variant
from almanac.core.teardown.aside import aside_words
from almanac.core.teardown.carried import carried_over
from almanac.core.teardown.operations import Teardown
from almanac.core.teardown.route import Route, plan_route, route_as_typed
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.closing_checks import Closed
from almanac.core.workbench.gates import remote_refusals
from almanac.core.workbench.plan import JobPlan, Machine, connected, job_plan
from almanac.services.errors import Fault, Refused
from almanac.services.pages.library import ModelPage

PLAN = TypeAdapter(JobPlan)
SETTINGS_CELLS = kinds_of_role(BenchRole.SETTINGS)


NO_SHORT_WAY = "there is no short way here: cutting the power is no detour, or the machine lives on mains"


@dataclass(frozen=True)
class PlanRequest:
    """What a job is to reach and how.

    done : operations already done, kept first in their order · plain : nobody described the way in · typed : steps of it so far, as a
    page holds them · powered : by the short way, the power connected, under a lead's waiver
    """

    targets: Sequence[str]
    direct: Collection[str] = ()
    include: Collection[str] = ()
    lift_pack_out: bool = False
    test_first: bool | None = None
    remote: bool = False
    done: Sequence[str] = ()
    plain: bool = False
    typed: Sequence[Mapping[str, Any]] = ()
    powered: bool = False


def make_plan(page: ModelPage, options: Mapping[str, Any], request: PlanRequest) -> JobPlan:
    """The steps of a job on a machine with these options; none for a job that is still to be diagnosed.

    Raises
    ------
    Refused : a target the page does not hold or no step takes out, or one a lay user may not do
    """
    form = str(page.whole.get("form") or "")
    if request.powered and (request.plain or not request.targets):
        raise Refused(Fault("powered", "a short way is that of a page to a part: choose what to reach, or leave the short way"))
    if request.plain:
        return _plain(page, options, request, form)
    if not request.targets and not request.include:
        return JobPlan(form, (), ())
    known_options = {name: str(value) for name, value in options.items()}
    whole = of_variant(page.whole, known_options)
    try:
        plan = _planned(whole, teardown_of(whole, known_options), request, form)
    except (ContractError, NoEstimate) as reason:
        raise Refused(Fault("targets", str(reason))) from reason
    if request.remote and (refused := remote_refusals(plan)):
        raise Refused(*[Fault("remote", f"not by a lay user: {words}") for words in refused])
    return plan


def _planned(whole: Mapping[str, Any], teardown: Teardown, request: PlanRequest, form: str) -> JobPlan:
    include = [*request.include, *(name for name in request.done if name in teardown.operations)]
    route = _way(teardown, request, include)
    if request.powered:
        if route.short is None:
            raise Refused(Fault("powered", NO_SHORT_WAY))
        route = _way(replace(teardown, isolation=False), request, include)
    plan = job_plan(teardown, route, machine_of(whole, teardown, form), test_first=request.test_first, done=request.done)
    return connected(plan) if request.powered else plan


def _way(teardown: Teardown, request: PlanRequest, include: Sequence[str]) -> Route:
    return plan_route(teardown, request.targets, direct=request.direct, include=include, lift_pack_out=request.lift_pack_out)


def _plain(page: ModelPage, options: Mapping[str, Any], request: PlanRequest, form: str) -> JobPlan:
    """The steps typed so far and their way back, with the gates of any machine of its form."""
    known_keys = {entry["key"] for entry in page.whole.get("positions") or []}
    if strange := [key for key in request.targets if key not in known_keys]:
        raise Refused(*(Fault("targets", f"{page.name} has no position {key}: choose one of its parts") for key in strange))
    if request.remote:
        raise Refused(Fault("remote", "nobody described the way in: that is no work for a lay user"))
    empty = JobPlan(form, (), (), plain=True, wanted=tuple(request.targets))
    if not request.typed:
        return empty
    document = {**page.whole, "operations": [dict(step) for step in request.typed]}
    known_options = {name: str(value) for name, value in options.items()}
    teardown = teardown_of(document, known_options)
    try:
        route = route_as_typed(teardown, request.targets, [str(step["id"]) for step in request.typed])
        machine = machine_of(of_variant(page.whole, known_options), teardown, form)
        plan = job_plan(teardown, route, machine, test_first=request.test_first)
    except (ContractError, NoEstimate) as reason:
        raise Refused(Fault("step", str(reason))) from reason
    return replace(plan, plain=True, wanted=empty.wanted, typed=tuple(request.typed))


def machine_of(page: Mapping[str, Any], teardown: Teardown, form: str) -> Machine:
    """What the page says of the machine's power, its settings, and what hangs on its parts."""
    wait = known(page.get("facts") or {}, "mains_wait_minutes")
    entries = [entry for entry in page.get("positions") or [] if entry["key"] in teardown.places]
    return Machine(
        form=form,
        wait_minutes=float(wait.value) if wait else None,
        settings_cells=tuple(entry["key"] for entry in entries if entry["kind"] in SETTINGS_CELLS),
        energy_wh={entry["key"]: float(fact.value) for entry in entries if (fact := _takes(entry, "energy_wh"))},
        bus={entry["key"]: _bus(fact.value) for entry in entries if (fact := _takes(entry, "bus"))},
        closed=_closed(page.get("opening") or {}),
        carries_over={entry["key"]: carried_over(page, teardown, entry["key"]) for entry in entries},
        aside={step.id: words for step in teardown.operations.values() if (words := aside_words(step, page, teardown))},
    )


def _closed(opening: Mapping[str, Any]) -> Closed:
    feet = opening.get("feet") or []
    return Closed(
        tuple(str(foot["name"]) for foot in feet),
        tuple(str(foot["name"]) for foot in feet if foot.get("unlike")),
        opening.get("largest_hinge_angle"),
    )


def _takes(entry: Mapping[str, Any], name: str) -> Known | None:
    return known(entry.get("takes") or {}, name)


def _bus(value: Any) -> str:
    return " or ".join(str(item) for item in value) if isinstance(value, list) else str(value)


def stored(plan: JobPlan) -> dict[str, Any]:
    """A plan as it is kept."""
    document: dict[str, Any] = PLAN.dump_python(plan, mode="json")
    return document


def restored(document: Mapping[str, Any]) -> JobPlan:
    """A plan as it was kept."""
    return PLAN.validate_python(dict(document))
