"""Planning from a page: the route, what fits a position, the memory planner."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.life.outcomes import Bucket
from almanac.core.parts.answers import known
from almanac.core.parts.claims import claim_state
from almanac.core.parts.fits.drive import fittings_to_add
from almanac.core.parts.holding import held_as
from almanac.core.parts.kinds import Kind, Serviceability, Verdict
from almanac.core.parts.labels.memory import sizes_of
from almanac.core.parts.planners.memory import MemoryOffer, MemoryPlan, MemorySlot, plan_memory
from almanac.core.teardown.carried import carried_over
from almanac.core.teardown.mat import Mat, lay_out
from almanac.core.teardown.operations import Teardown
from almanac.core.teardown.route import Route, WhileOpen, plan_route, saved_minutes, while_open
from almanac.core.teardown.written import teardown_of
from almanac.core.workbench.minutes import LearntMinutes, learnt_minutes
from almanac.services.errors import Fault, Refused
from almanac.services.pages.fits import PartVerdict, verdicts_of
from almanac.services.pages.library import ModelPage, read_library
from almanac.store import catalog, jobs, pages, shelves


@dataclass(frozen=True)
class RouteRequest:
    """Positions to reach; options the machine has; targets to take out themselves; optional steps; the school of the pack."""

    targets: Sequence[str]
    options: Mapping[str, str]
    direct: Collection[str] = ()
    include: Collection[str] = ()
    lift_pack_out: bool = False


@dataclass(frozen=True)
class PlannedRoute:
    """A route with what it saves, what else is within reach, what carries over, and what the other way would take."""

    page: ModelPage
    teardown: Teardown
    route: Route
    saved: float
    near: tuple[WhileOpen, ...]
    carries_over: dict[str, tuple[str, ...]]
    other_ways: dict[str, float]
    learnt: LearntMinutes


def plan_model_route(session: Session, model_id: int, request: RouteRequest) -> PlannedRoute:
    """The way in to some positions of a model.

    Raises
    ------
    NotFound : no such model
    Refused : no target, one the page does not hold, or one no step takes out
    """
    page = read_library(session).page(model_id)
    teardown = teardown_of(page.whole, request.options) if request.options else page.teardown
    route = _route(teardown, request)
    return PlannedRoute(
        page=page,
        teardown=teardown,
        route=route,
        saved=saved_minutes(teardown, request.targets, route) if len(request.targets) > 1 else 0.0,
        near=while_open(teardown, route),
        carries_over=_carried(page, teardown, route),
        other_ways=_other_ways(teardown, request),
        learnt=learnt_of(session, model_id),
    )


def learnt_of(session: Session, model_id: int) -> LearntMinutes:
    """What the closed jobs of a model say of its planned minutes."""
    pairs = jobs.taken_minutes(session, model_id)
    return learnt_minutes([planned for planned, _ in pairs], [taken for _, taken in pairs])


def _route(teardown: Teardown, request: RouteRequest) -> Route:
    try:
        return plan_route(
            teardown, request.targets, direct=request.direct, include=request.include, lift_pack_out=request.lift_pack_out, as_far=True
        )
    except (ContractError, NoEstimate) as reason:
        raise Refused(Fault("to", str(reason))) from reason


def _carried(page: ModelPage, teardown: Teardown, route: Route) -> dict[str, tuple[str, ...]]:
    """What moves from the old part to the new one, by what is replaced: a target, or what it is reached as (rule E3)."""
    reached = {item.target: item.reached for item in route.escalations}
    units = dict.fromkeys(reached.get(target, target) for target in route.targets)
    found = {key: carried_over(page.whole, teardown, key) for key in units}
    return {key: items for key, items in found.items() if items}


def _other_ways(teardown: Teardown, request: RouteRequest) -> dict[str, float]:
    """Minutes of taking a target out itself where its assembly is the default, so that both are costed."""
    found: dict[str, float] = {}
    held = {Serviceability.STAKED, Serviceability.GLUED}
    for target in request.targets:
        if teardown.places[target].held not in held or not teardown.freeing(target):
            continue
        turned = set(request.direct) ^ {target}
        found[target] = plan_route(teardown, request.targets, direct=turned, include=request.include, as_far=True).minutes
    return found


def mat_of(page: ModelPage, route: Route, *, paper: str) -> Mat:
    """The screw mat of a route.

    Raises
    ------
    Refused : the page has no plan size, or there is no such paper
    """
    plan = page.whole.get("plan")
    if not plan:
        raise Refused(Fault("plan", f"the page of {page.name} has no plan size: measure width and depth first"))
    try:
        return lay_out(plan["width_mm"], plan["depth_mm"], route.steps, paper=paper)
    except ContractError as error:
        raise Refused(Fault("paper", str(error))) from error


@dataclass(frozen=True)
class Fitting:
    """Stock parts for one position, what is on hand of each, and what must lie beside the new part."""

    entry: Mapping[str, Any]
    verdicts: list[PartVerdict]
    on_hand: dict[int, int]
    beside: list[str]
    claims: list[str]


def fitting_parts(session: Session, model_id: int, position: str) -> Fitting:
    """Every stock part of the position's kind with its verdict.

    Raises
    ------
    NotFound : no such model or position
    """
    page = read_library(session).page(model_id)
    entry = page.position(position)
    row = next((item for item in pages.positions(session, [model_id]) if item.key == position), None)
    listed = {
        part: reason
        for place, part, _, reason, origin in pages.fits_of(session, [model_id])
        if row is not None and place == row.id and origin == "listed"
    }
    verdicts = verdicts_of(entry, pages.all_parts(session), listed, catalog.interchange(session))
    stock = shelves.balances(session, Bucket.ON_HAND)
    on_hand: dict[int, int] = {}
    for (part, _), buckets in stock.items():
        on_hand[part] = on_hand.get(part, 0) + buckets.get(Bucket.ON_HAND, 0)
    beside = fittings_to_add(entry.get("takes") or {}, second_drive=entry.get("state") == "free") if entry["kind"] == Kind.SSD else []
    claims = [
        f"{claim['text']}: {claim_state(claim['variants'], claim.get('verified') or []).words}" for claim in page.whole.get("claims") or []
    ]
    return Fitting(entry, verdicts, on_hand, beside, claims if entry["kind"] == Kind.BATTERY else [])


@dataclass(frozen=True)
class MemorySheet:
    """The planner's small sheet, with the slots as the page has them and the modules offered."""

    plan: MemoryPlan
    slots: list[MemorySlot]
    soldered_gb: int
    maximum_gb: int | None
    tried_gb: int | None
    names: dict[str, str]


def plan_model_memory(session: Session, model_id: int, *, target_gb: int, fitted: Mapping[str, int] | None = None) -> MemorySheet:
    """The cheapest way to a memory total of a model; `fitted` overrides what the page says is in each slot.

    Raises
    ------
    NotFound : no such model
    Refused : the model has no memory slot, a target below 1, or a slot the page does not hold
    """
    page = read_library(session).page(model_id)
    entries = [entry for entry in page.whole.get("positions") or [] if entry["kind"] == Kind.MEMORY]
    slotted = [entry for entry in entries if held_as(entry) != Serviceability.SOLDERED]
    if not slotted:
        raise Refused(Fault("model", f"{page.name} has no memory slot: its memory is soldered to the mainboard"))
    unknown = set(fitted or {}) - {entry["key"] for entry in slotted}
    if unknown:
        raise Refused(Fault("fitted", f"no slot is called {', '.join(sorted(unknown))}"))
    slots = [MemorySlot(entry["key"], _number(entry, "takes", "maximum_gb"), _fitted(entry, fitted)) for entry in slotted]
    soldered = sum(_number(entry, "fitted", "capacity_gb") or 0 for entry in entries if entry not in slotted)
    maximum, tried = _of_machine(page, "memory_maximum_gb"), _of_machine(page, "memory_tried_gb")
    generation = known(slotted[0].get("takes") or {}, "generation")
    verdicts = [item for item in fitting_parts(session, model_id, slotted[0]["key"]).verdicts if item.answer.verdict == Verdict.YES]
    offers = [
        MemoryOffer(item.part.number, int(size.value), float(item.part.price), item.answer.practice)
        for item in verdicts
        if (size := known(item.part.facts, "capacity_gb"))
    ]
    try:
        plan = plan_memory(
            slots,
            offers,
            soldered_gb=soldered,
            maximum_gb=maximum,
            sizes_gb=sizes_of(str(generation.value) if generation else None),
            target_gb=target_gb,
        )
    except ContractError as error:
        raise Refused(Fault("target_gb", str(error))) from error
    return MemorySheet(plan, slots, soldered, maximum, tried, {item.part.number: item.part.name for item in verdicts})


def _number(entry: Mapping[str, Any], where: str, name: str) -> int | None:
    fact = known(entry.get(where) or {}, name)
    return int(fact.value) if fact else None


def _fitted(entry: Mapping[str, Any], given: Mapping[str, int] | None) -> int:
    if given and entry["key"] in given:
        return given[entry["key"]]
    return _number(entry, "fitted", "capacity_gb") or 0


def _of_machine(page: ModelPage, name: str) -> int | None:
    fact = known(page.whole.get("facts") or {}, name)
    return int(fact.value) if fact else None
