"""What a scenario may do to the fleet, and the outlook's inputs with it done."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date

from sqlalchemy.orm import Session

from almanac.core.demand.haste import Spell
from almanac.core.parts.kinds import FORECAST_KINDS, Duty
from almanac.services.errors import Fault, Refused
from almanac.services.outlook.inputs import Inputs, Weather
from almanac.store import catalog, evidence
from almanac.store.models import FleetPlan

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


Change = Retire | Buy | Move | Season


def with_changes(session: Session, inputs: Inputs, changes: list[Change]) -> Inputs:
    """The inputs with every change done in order.

    Raises
    ------
    Refused : a model, site, duty or kind that does not exist, a day that is over, or a number out of range; the place is named
    """
    faults = [fault for place, change in enumerate(changes) for fault in _faults(inputs, place, change)]
    if faults:
        raise Refused(*faults)
    models = {change.model_id for change in changes if not isinstance(change, Season)}
    assets = {**inputs.assets, **evidence.assets_in_service(session, models, as_of=inputs.clock.today)} if models else inputs.assets
    known = {row.model_id for row in inputs.service}
    bought = {change.model_id for change in changes if isinstance(change, Buy)} - known
    first = {**inputs.first_parts, **{model: catalog.first_listed_parts(session, model) for model in bought}}
    found = replace(inputs, assets=assets, first_parts=first)
    for change in changes:
        found = _done(found, change)
    return found


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
    on = getattr(change, "on", None)
    if on is not None and on <= inputs.clock.today and not isinstance(change, Season):
        found.append(Fault(f"{at}.on", f"a day after {inputs.clock.today.isoformat()} was wanted, got {on.isoformat()}"))
    quantity = getattr(change, "quantity", None)
    if quantity is not None and not 1 <= quantity <= MOST_MACHINES:
        found.append(Fault(f"{at}.quantity", f"from 1 to {MOST_MACHINES:,} machines were wanted, got {quantity}"))
    if isinstance(change, Season):
        found += _season_faults(at, change)
    return found


def _season_faults(at: str, change: Season) -> list[Fault]:
    found = []
    if not 0.1 <= change.factor <= 10:
        found.append(Fault(f"{at}.factor", f"a factor from 0.1 to 10 was wanted, got {change.factor:g}"))
    if change.until <= change.on:
        found.append(Fault(f"{at}.until", f"a day after {change.on.isoformat()} was wanted, got {change.until.isoformat()}"))
    if not change.kinds or not set(change.kinds) <= {kind.value for kind in FORECAST_KINDS}:
        found.append(Fault(f"{at}.kinds", f"some of {', '.join(FORECAST_KINDS)} were wanted"))
    return found


def _done(inputs: Inputs, change: Change) -> Inputs:
    if isinstance(change, Retire):
        return replace(inputs, plans=[*inputs.plans, *_retirements(inputs, change)])
    if isinstance(change, Buy):
        return replace(inputs, plans=[*inputs.plans, _purchase(inputs, change)])
    if isinstance(change, Move):
        return _moved(inputs, change)
    today = inputs.clock.today
    spell = Spell((change.on - today).days, (change.until - today).days, change.factor)
    return replace(inputs, weather=(*inputs.weather, *(Weather(kind, spell) for kind in change.kinds)))


def _retirements(inputs: Inputs, change: Retire) -> list[FleetPlan]:
    """A plan for each duty and site; fewer than all are spread over them by size."""
    code = {site.id: site.code for site in inputs.sites}
    own = {
        (duty, site): count
        for (model, duty, site), count in inputs.assets.items()
        if model == change.model_id and change.site in (None, code[site])
    }
    share = 1.0 if change.quantity is None else min(change.quantity / max(sum(own.values()), 1), 1.0)
    return [
        FleetPlan(action="retire", model_id=change.model_id, site_id=site, duty=duty, planned_on=change.on, quantity=count * share)
        for (duty, site), count in own.items()
    ]


def _purchase(inputs: Inputs, change: Buy) -> FleetPlan:
    site = next(site.id for site in inputs.sites if site.code == change.site)
    return FleetPlan(
        action="purchase", model_id=change.model_id, site_id=site, duty=change.duty, planned_on=change.on, quantity=change.quantity
    )


def _moved(inputs: Inputs, change: Move) -> Inputs:
    chosen = {site.id for site in inputs.sites if change.site in (None, site.code)}

    def mine(model: int, site: int) -> bool:
        return model == change.model_id and site in chosen

    assets: dict[tuple[int, str, int], int] = {}
    for (model, duty, site), count in inputs.assets.items():
        key = (model, change.duty if mine(model, site) else duty, site)
        assets[key] = assets.get(key, 0) + count
    served = [row._replace(duty=change.duty) if mine(row.model_id, row.site_id) else row for row in inputs.ages.served]
    return replace(
        inputs,
        assets=assets,
        service=[row._replace(duty=change.duty) if mine(row.model_id, row.site_id) else row for row in inputs.service],
        ages=replace(inputs.ages, served=served),
    )
