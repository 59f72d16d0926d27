"""What a scenario may do to the fleet, and the outlook's inputs with it done."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from functools import partial
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named
from almanac.core.apportion import apportioned
from almanac.core.demand.ageing import Spell
from almanac.core.life.life_data import DUTIES
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.core.parts.kinds import Duty
from almanac.services.errors import Fault, Refused
from almanac.services.horizon import beyond_horizon
from almanac.services.outlook.inputs import Inputs, Weather
from almanac.services.outlook.life import PartFleet, PartLife
from almanac.store import catalog, evidence
from almanac.store.models import FleetPlan
from almanac.store.planning import planned_change
from almanac.store.readings import Followed

MOST_MACHINES = 100_000


@dataclass(frozen=True)
class Retire:
    """Machines of a model go on a day, all of them or so many; at one site, or everywhere."""

    model_id: int
    on: date
    site: str | None = None
    quantity: int | None = None


@dataclass(frozen=True)
class Buy:
    """So many machines of a model come to a site on a day."""

    model_id: int
    on: date
    site: str
    duty: str
    quantity: int


@dataclass(frozen=True)
class Move:
    """Machines of a model run under another duty from today on; at one site, or everywhere."""

    model_id: int
    duty: str
    site: str | None = None


@dataclass(frozen=True)
class Season:
    """From one day until another some kinds age so many times as fast: a hotter summer."""

    factor: float
    on: date
    until: date
    kinds: tuple[str, ...]


@dataclass(frozen=True)
class Swap:
    """The part in a position of a model's machines is replaced on a day, in all of them or in so many; at one site, or everywhere."""

    model_id: int
    position: str
    part_number: str
    on: date
    site: str | None = None
    quantity: int | None = None


Change = Retire | Buy | Move | Season | Swap
"""What a scenario may do."""
Planned = Retire | Buy | Swap
"""What a company can plan: dated, and done to machines."""


def with_changes(session: Session, inputs: Inputs, changes: list[Change]) -> Inputs:
    """The inputs with every change done in order.

    Raises
    ------
    Refused : a model, site, duty or kind that does not exist, a day that is over, or a number out of range; the place is named
    """
    check_changes(session, inputs, changes)
    found = with_machines_of(session, inputs, changes)
    for change in changes:
        found = _done(session, found, change)
    return found


def check_changes(session: Session, inputs: Inputs, changes: Sequence[Change]) -> None:
    """Every change can be done by itself.

    Raises
    ------
    Refused : as `with_changes`
    """
    faults = [fault for place, change in enumerate(changes) for fault in _faults(inputs, place, change)]
    faults = faults or [fault for place, change in enumerate(changes) for fault in _swap_faults(session, place, change)]
    if faults:
        raise Refused(*faults)


def with_machines_of(session: Session, inputs: Inputs, changes: Sequence[Change]) -> Inputs:
    """The inputs with the machines in service of every model that is changed, and what new ones of it come with."""
    models = {change.model_id for change in changes if not isinstance(change, Season)}
    assets = {**inputs.assets, **evidence.assets_in_service(session, models, as_of=inputs.clock.today)} if models else inputs.assets
    known = {model for (model, _, _), count in assets.items() if count}
    bought = {change.model_id for change in changes if isinstance(change, Buy)} - known
    first = {**inputs.first_parts, **{model: catalog.first_listed_parts(session, model) for model in bought}}
    return replace(inputs, assets=assets, first_parts=first)


def _faults(inputs: Inputs, place: int, change: Change) -> list[Fault]:
    at, found = f"changes.{place}", []
    sites = {site.code for site in inputs.sites}
    if not isinstance(change, Season) and change.model_id not in inputs.models:
        found.append(Fault(f"{at}.model_id", "no model has that number"))
    site = getattr(change, "site", None)
    if site is not None and site not in sites:
        found.append(Fault(f"{at}.site", f"one of {', '.join(sorted(sites))} was wanted, got {site}"))
    duty = getattr(change, "duty", None)
    if duty is not None and duty not in set(Duty):
        found.append(Fault(f"{at}.duty", f"one of {', '.join(Duty)} was wanted, got {duty}"))
    found += _day_faults(inputs, at, change)
    quantity = getattr(change, "quantity", None)
    if quantity is not None and not 1 <= quantity <= MOST_MACHINES:
        found.append(Fault(f"{at}.quantity", f"from 1 to {MOST_MACHINES:,} machines were wanted, got {quantity}"))
    if isinstance(change, Season):
        found += _season_faults(at, change)
    return found


def _day_faults(inputs: Inputs, at: str, change: Change) -> list[Fault]:
    """Days to come, and none beyond the horizon; a season may have begun."""
    found = []
    on = getattr(change, "on", None)
    if on is not None and on <= inputs.clock.today and not isinstance(change, Season):
        found.append(Fault(f"{at}.on", f"a day after {inputs.clock.today.isoformat()} was wanted, got {on.isoformat()}"))
    for name in ("on", "until"):
        day = getattr(change, name, None)
        if day is not None and (far := beyond_horizon(day, inputs.clock, inputs.settings)):
            found.append(Fault(f"{at}.{name}", far))
    return found


def _swap_faults(session: Session, place: int, change: Change) -> list[Fault]:
    if not isinstance(change, Swap):
        return []
    places = catalog.positions_of(session, change.model_id)
    if change.position not in places:
        return [Fault(f"changes.{place}.position", f"one of {', '.join(sorted(places))} was wanted, got {change.position}")]
    fitting = catalog.parts_that_fit(session, places[change.position])
    if change.part_number not in fitting:
        known = f"{', '.join(sorted(fitting))} fit there" if fitting else "no part is known to fit there"
        return [Fault(f"changes.{place}.part_number", f"{change.part_number} is not known to fit: {known}")]
    return []


def _season_faults(at: str, change: Season) -> list[Fault]:
    found = []
    if not 0.1 <= change.factor <= 10:
        found.append(Fault(f"{at}.factor", f"a factor from 0.1 to 10 was wanted, got {change.factor:g}"))
    if change.until <= change.on:
        found.append(Fault(f"{at}.until", f"a day after {change.on.isoformat()} was wanted, got {change.until.isoformat()}"))
    if not change.kinds or not set(change.kinds) <= {kind.value for kind in FORECAST_KINDS}:
        found.append(Fault(f"{at}.kinds", f"some of {', '.join(FORECAST_KINDS)} were wanted"))
    return found


def _done(session: Session, inputs: Inputs, change: Change) -> Inputs:
    if isinstance(change, Planned):
        return replace(inputs, plans=[*inputs.plans, *(planned_change(plan) for plan in plans_of(session, inputs, change))])
    if isinstance(change, Move):
        return _moved(inputs, change)
    today = inputs.clock.today
    spell = Spell((change.on - today).days, (change.until - today).days, change.factor)
    return replace(inputs, weather=(*inputs.weather, *(Weather(kind, spell) for kind in change.kinds)))


def plans_of(session: Session, inputs: Inputs, change: Planned) -> list[FleetPlan]:
    """A change as plans of the fleet, one for each duty and site; none where no such machine is in service.

    inputs : with the machines of the changed models
    """
    if isinstance(change, Buy):
        return [_purchase(inputs, change)]
    if isinstance(change, Retire):
        return [_plan(change, "retire", *machines) for machines in _machines(inputs, change)]
    position = catalog.positions_of(session, change.model_id)[change.position]
    part = catalog.parts_that_fit(session, position)[change.part_number]
    return [_plan(change, "swap", *machines, position_id=position, part_id=part) for machines in _machines(inputs, change)]


def _plan(change: Planned, action: str, site: int, duty: str, quantity: int, **of_a_swap: int) -> FleetPlan:
    return FleetPlan(action=action, model_id=change.model_id, site_id=site, duty=duty, planned_on=change.on, quantity=quantity, **of_a_swap)


def _machines(inputs: Inputs, change: Retire | Swap) -> list[tuple[int, str, int]]:
    """Site, duty and number of the machines a change is done to; fewer than all are spread over sites and duties by size."""
    code = {site.id: site.code for site in inputs.sites}
    own = {
        (duty, site): count
        for (model, duty, site), count in inputs.assets.items()
        if model == change.model_id and change.site in (None, code[site])
    }
    whole = sum(own.values())
    shares = apportioned(whole if change.quantity is None else min(change.quantity, whole), list(own.values()))
    return [(site, duty, share) for (duty, site), share in zip(own, shares, strict=True) if share > 0]


def _purchase(inputs: Inputs, change: Buy) -> FleetPlan:
    site = next(site.id for site in inputs.sites if site.code == change.site)
    return _plan(change, "purchase", site, change.duty, change.quantity)


def _moved(inputs: Inputs, change: Move) -> Inputs:
    chosen = {site.id for site in inputs.sites if change.site in (None, site.code)}

    def mine(model: int, site: int) -> bool:
        return model == change.model_id and site in chosen

    assets: dict[tuple[int, str, int], int] = {}
    for (model, duty, site), count in inputs.assets.items():
        key = (model, change.duty if mine(model, site) else duty, site)
        assets[key] = assets.get(key, 0) + count
    moved = partial(_fleet_moved, model=change.model_id, duty=change.duty, sites=tuple(sorted(chosen)))
    return replace(
        inputs, assets=assets, life={part: moved(life) if change.model_id in life.models else life for part, life in inputs.life.items()}
    )


def _fleet_moved(life: PartLife, *, model: int, duty: str, sites: tuple[int, ...]) -> PartLife:
    """Life data of a part whose units in some machines run under another duty from today on; what was, stays."""
    key = key_of(("moved", life.fleet.key, model, duty, sites))
    return replace(life, fleet=Named(key, fetch=lambda: _moved_content(life.fleet.content, model, DUTIES.index(duty), sites)))


def _moved_content(fleet: PartFleet, model: int, duty: int, sites: tuple[int, ...]) -> PartFleet:
    def other(rows: Any) -> Any:
        mine = (rows.model == model) & np.isin(rows.site, sites)
        return replace(rows, duty=np.where(mine, duty, rows.duty))

    def followed(unit: Followed) -> Followed:
        mine = unit.row.model_id == model and unit.row.site_id in sites
        return replace(unit, row=unit.row._replace(duty=DUTIES[duty])) if mine else unit

    return PartFleet(other(fleet.serving), other(fleet.served), other(fleet.spans), tuple(followed(unit) for unit in fleet.followed))
