"""How the units in service will change: planned retirements, early retirements and purchases, as dated changes by pool."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field
from typing import NamedTuple

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.services.outlook.inputs import Inputs
from almanac.store.models import FleetPlan

NEVER = 10**6
"""Day of a retirement that is not planned, for sorting."""


class Pool(NamedTuple):
    """Units of one stock part in one model under one class of duty and air."""

    part_id: int
    model_id: int
    duty: str
    environment: str


class PlannedParts(NamedTuple):
    """Parts drawn for planned swaps, or fitted in machines bought, on a day after the as-of day."""

    part_id: int
    site_id: int
    model_id: int
    day: int
    quantity: float


@dataclass
class ServiceChanges:
    """Units by (pool, site): those in service now, and (day, change) from the as-of day on; parts drawn or fitted on a plan."""

    now: dict[tuple[Pool, int], float] = field(default_factory=lambda: defaultdict(float))
    changes: list[tuple[Pool, int, int, float]] = field(default_factory=list)
    swaps: list[PlannedParts] = field(default_factory=list)
    fittings: list[PlannedParts] = field(default_factory=list)


def service_changes(inputs: Inputs) -> ServiceChanges:
    """Read the fleet and its plans as dated changes of units in service."""
    today = inputs.clock.today
    found = ServiceChanges()
    leaving: dict[tuple[Pool, int], dict[int | None, float]] = defaultdict(lambda: defaultdict(float))
    for row in inputs.service:
        pool = Pool(row.part_id, row.model_id, row.duty, row.environment)
        by_day = leaving[pool, row.site_id]
        for day, units in zip(row.retire_days, row.units, strict=True):
            by_day[day] += units
        found.now[pool, row.site_id] += sum(row.units)
    for plan in inputs.plans:
        if plan.action == "retire":
            _retire_early(inputs, plan, (plan.planned_on - today).days, leaving)
        elif plan.action == "purchase":
            _purchase(inputs, plan, found)
        elif plan.part_id is not None and plan.part_id in inputs.group:
            day = (plan.planned_on - today).days
            found.swaps.append(PlannedParts(inputs.group[plan.part_id], plan.site_id, plan.model_id, day, plan.quantity))
    for (pool, site), by_day in leaving.items():
        found.changes.append((pool, site, 0, found.now[pool, site]))
        found.changes += [(pool, site, day, -units) for day, units in by_day.items() if day is not None and units > 0]
    return found


def _retire_early(inputs: Inputs, plan: FleetPlan, plan_day: int, leaving: dict[tuple[Pool, int], dict[int | None, float]]) -> None:
    """Bring retirements forward: the machines that would have gone soonest after the planned day go on it."""
    machines = inputs.assets.get((plan.model_id, plan.duty, plan.site_id), 0)
    if machines == 0:
        return
    share = min(plan.quantity / machines, 1.0)
    for (pool, site), by_day in leaving.items():
        if (pool.model_id, pool.duty, site) != (plan.model_id, plan.duty, plan.site_id):
            continue
        left = share * sum(by_day.values())
        for day in sorted((day for day in by_day if day is None or day > plan_day), key=lambda day: NEVER if day is None else day):
            moved = min(left, by_day[day])
            by_day[day] -= moved
            by_day[plan_day] += moved
            left -= moved


def _purchase(inputs: Inputs, plan: FleetPlan, found: ServiceChanges) -> None:
    """New machines come with the parts the model's present machines hold; a new model with the first part listed."""
    machines = sum(count for (model, _, _), count in inputs.assets.items() if model == plan.model_id)
    held: dict[int, float] = defaultdict(float)
    for row in inputs.service:
        if row.model_id == plan.model_id:
            held[row.part_id] += sum(row.units)
    if machines == 0:
        machines, held = (
            1,
            {inputs.group.get(part, part): float(units) for part, units in inputs.first_parts.get(plan.model_id, {}).items()},
        )
    environment = next(site.environment for site in inputs.sites if site.id == plan.site_id)
    day = (plan.planned_on - inputs.clock.today).days
    for part_id, units in held.items():
        bought = plan.quantity * units / machines
        pool = Pool(part_id, plan.model_id, plan.duty, environment)
        found.changes.append((pool, plan.site_id, day + DEAD_ON_ARRIVAL_DAYS, bought))
        found.fittings.append(PlannedParts(part_id, plan.site_id, plan.model_id, day, bought))
