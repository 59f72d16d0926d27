"""What the commands on policies, networks and rehearsals read alike: rates, lead times, lots, promises."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from almanac.calculator.inputs import JsonInput
from almanac.core.errors import ContractError
from almanac.core.network.nodes import Lane, Network, own_nodes, shared_nodes
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.rates import Rate, doubted_rate, known_rate
from almanac.core.stock.reorder import YEAR_DAYS, Measure, Promise, least_cost, order_quantity

MOST_DAYS = 36_500.0
ONE_DAY = LeadTime(np.array([1]), np.array([1.0]))


def read_rate(given: JsonInput, inside: dict[str, Any], at: str = "") -> Rate:
    """`rate` a day, or `posterior` with shape and rate."""
    if "posterior" in inside:
        shape, rate = read_gamma(given, inside.get("posterior"), f"{at}.posterior" if at else "posterior")
        return doubted_rate(shape, rate)
    per_day = given.number("rate", inside=inside, at=at, low=1e-9, high=1e6)
    return known_rate(per_day if math.isfinite(per_day) else 1.0)


def read_gamma(given: JsonInput, inside: Any, at: str) -> tuple[float, float]:
    """Shape and rate of a gamma, rates a day."""
    if not isinstance(inside, dict):
        given.fault(at, "an object with shape and rate was wanted")
        return 1.0, 1.0
    shape = given.number("shape", inside=inside, at=at, low=1e-3, high=1e9)
    rate = given.number("rate", inside=inside, at=at, low=1e-9, high=1e12)
    return (shape, rate) if math.isfinite(shape) and math.isfinite(rate) else (1.0, 1.0)


def read_lead(given: JsonInput, inside: dict[str, Any], at: str = "") -> LeadTime:
    """`lead`, a list of days with weights that add up to 1."""
    place = f"{at}.lead" if at else "lead"
    entries = given.objects("lead", inside=inside, at=at)
    days = [given.whole("days", inside=entry, at=f"{place}[{i}]", high=int(MOST_DAYS)) for i, entry in enumerate(entries)]
    only = 1.0 if len(entries) == 1 else None
    weights = [
        given.number("weight", inside=entry, at=f"{place}[{i}]", default=only, low=1e-12, high=1.0) for i, entry in enumerate(entries)
    ]
    if not entries or given.faults:
        return ONE_DAY
    try:
        return lead_time(days, weights)
    except ContractError as error:
        given.fault(place, str(error))
        return ONE_DAY


def read_lot(given: JsonInput, inside: dict[str, Any], demand_a_day: float, at: str = "") -> int:
    """Q from pack, minimum_order, order_cost, holding and price."""
    pack = given.whole("pack", inside=inside, at=at, default=1, low=1, high=10**6)
    minimum = given.whole("minimum_order", inside=inside, at=at, default=1, low=1, high=10**6)
    cost = given.number("order_cost", inside=inside, at=at, default=0.0, low=0.0, high=1e9)
    holding = given.number("holding", inside=inside, at=at, default=0.0, low=0.0, high=100.0)
    price = given.number("price", inside=inside, at=at, default=0.0, low=0.0, high=1e9)
    if given.faults:
        return 1
    try:
        return order_quantity(demand_a_day * YEAR_DAYS, pack=pack, minimum_order=minimum, order_cost=cost, holding_cost=holding * price)
    except ContractError as error:
        given.fault(f"{at}.order_cost" if at else "order_cost", str(error))
        return 1


def read_promise(given: JsonInput, inside: dict[str, Any], at: str = "") -> Promise:
    """`measure` and its `target`, or `waiting_cost` of least cost."""
    named = inside.get("measure", Measure.FILL.value)
    if named not in list(Measure):
        given.fault(f"{at}.measure" if at else "measure", f"one of {', '.join(Measure)} was wanted, got {named!r}")
        return Promise(Measure.FILL, 0.5)
    if named == Measure.LEAST_COST:
        waiting = given.number("waiting_cost", inside=inside, at=at, low=1e-12, high=1e12)
        holding = given.number("holding", inside=inside, at=at, low=1e-9, high=100.0)
        price = given.number("price", inside=inside, at=at, low=1e-9, high=1e9)
        return least_cost(waiting, holding * price) if not given.faults else Promise(Measure.FILL, 0.5)
    return Promise(Measure(named), read_target(given, inside, at))


def read_target(given: JsonInput, inside: dict[str, Any], at: str = "") -> float:
    """An aim above 0 and below 1: no stock serves everybody."""
    target = given.number("target", inside=inside, at=at, low=0.0, high=1.0)
    if target in (0.0, 1.0):
        given.fault(
            f"{at}.target" if at else "target", f"an aim above 0 and below 1 was wanted, got {target:g}: no stock meets every request"
        )
    return target if 0 < target < 1 else 0.5


def read_network(given: JsonInput, inside: dict[str, Any], at: str = "") -> tuple[Network, tuple[str, ...]]:
    """A depot and its sites, with their names."""
    prefix = f"{at}." if at else ""
    depot = inside.get("depot")
    if not isinstance(depot, dict):
        given.fault(f"{prefix}depot", "an object with lead and review_days was wanted")
        depot = {}
    sites = given.objects("sites", inside=inside, at=at)
    names = tuple(str(site.get("site", i + 1)) for i, site in enumerate(sites))
    if len(set(names)) != len(names):
        given.fault(f"{prefix}sites", "each site wants a name of its own")
    lanes = tuple(
        Lane(
            given.number("lane_days", inside=site, at=f"{prefix}sites[{i}]", low=0.0, high=MOST_DAYS),
            given.number("every_days", inside=site, at=f"{prefix}sites[{i}]", low=1e-3, high=MOST_DAYS),
        )
        for i, site in enumerate(sites)
    )
    lead = read_lead(given, depot, f"{prefix}depot")
    review = given.number("review_days", inside=depot, at=f"{prefix}depot", low=1e-3, high=MOST_DAYS)
    weight, rates = _rates(given, inside, depot, sites, prefix)
    if given.faults:
        return Network(np.ones(1), np.zeros(1), np.zeros((1, len(sites))), lanes, ONE_DAY, 1.0, 1), names
    costs = {**{key: inside[key] for key in ("holding", "price") if key in inside}, **depot}
    lot = read_lot(given, costs, float(weight @ rates.sum(axis=1)), f"{prefix}depot")
    return Network(weight, rates[:, 0], rates[:, 1:], lanes, lead, review, lot), names


def _rates(
    given: JsonInput, inside: dict[str, Any], depot: dict[str, Any], sites: list[dict[str, Any]], prefix: str
) -> tuple[np.ndarray, np.ndarray]:
    """(k,) weights and (k, 1 + j) rates a day, the depot's own first."""
    places = [depot, *sites]
    names = [f"{prefix}depot", *(f"{prefix}sites[{i}]" for i in range(len(sites)))]
    if "posterior" in inside:
        shape, rate = read_gamma(given, inside["posterior"], f"{prefix}posterior")
        units = [
            given.number("units", inside=place, at=name, default=0.0 if place is depot else None, low=0.0, high=1e9)
            for place, name in zip(places, names, strict=True)
        ]
        return shared_nodes(shape, rate, units) if not given.faults else (np.ones(1), np.zeros((1, len(places))))
    if any("posterior" in place for place in places):
        gammas = [
            read_gamma(given, place.get("posterior"), f"{name}.posterior")
            for place, name in zip(places, names, strict=True)
            if place is not depot or "posterior" in place
        ]
        if given.faults:
            return np.ones(1), np.zeros((1, len(places)))
        weight, rates = own_nodes(gammas)
        return weight, rates if "posterior" in depot else np.column_stack((np.zeros(weight.size), rates))
    known = [
        given.number("rate", inside=place, at=name, default=0.0 if place is depot else None, low=0.0, high=1e6)
        for place, name in zip(places, names, strict=True)
    ]
    return np.ones(1), np.array([known])
