"""How the units in service will change: planned retirements, early retirements and purchases, as dated changes by pool."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field
from typing import NamedTuple

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.services.outlook.inputs import DemandInputs
from almanac.services.outlook.pools import Pool, units_in_service
from almanac.store.planning import PlannedChange

NEVER = 10**6
"""Day of a retirement that is not planned, for sorting."""


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


def service_changes(inputs: DemandInputs) -> ServiceChanges:
    """Read the fleet and its plans as dated changes of units in service."""
    today = inputs.today
    found = ServiceChanges()
    leaving: dict[tuple[Pool, int], dict[int | None, float]] = defaultdict(lambda: defaultdict(float))
    for row in units_in_service(inputs.fleets, inputs.grouping):
        leaving[row.pool, row.site_id][row.retire_day] += row.units
        found.now[row.pool, row.site_id] += row.units
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


def _retire_early(
    inputs: DemandInputs, plan: PlannedChange, plan_day: int, leaving: dict[tuple[Pool, int], dict[int | None, float]]
) -> None:
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


def _purchase(inputs: DemandInputs, plan: PlannedChange, found: ServiceChanges) -> None:
    """New machines come with the parts the model's present machines hold; a new model with the first part listed."""
    machines = sum(count for (model, _, _), count in inputs.assets.items() if model == plan.model_id)
    held: dict[int, float] = defaultdict(float)
    for (pool, _), units in found.now.items():
        if pool.model_id == plan.model_id:
            held[pool.part_id] += units
    if machines == 0:
        machines, held = 1, defaultdict(float)
        for part, listed in inputs.first_parts.get(plan.model_id, {}).items():
            if part in inputs.group:
                held[inputs.group[part]] = float(listed)
    environment = next(site.environment for site in inputs.sites if site.id == plan.site_id)
    day = (plan.planned_on - inputs.today).days
    for part_id, units in held.items():
        bought = plan.quantity * units / machines
        pool = Pool(part_id, plan.model_id, plan.duty, environment)
        found.changes.append((pool, plan.site_id, day + DEAD_ON_ARRIVAL_DAYS, bought))
        found.fittings.append(PlannedParts(part_id, plan.site_id, plan.model_id, day, bought))
