"""`calc rehearse`: policies played forward, one company a line."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from almanac.calculator.inputs import InputFaults, JsonInput, read_documents
from almanac.calculator.shelf_inputs import (
    MOST_DAYS,
    read_lead,
    read_lot,
    read_network,
    read_promise,
    read_rate,
    read_target,
)
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.network.levels import FLOOR, Wanted, least_levels
from almanac.core.network.nodes import Network
from almanac.core.rehearsal.figures import Shown, shown
from almanac.core.rehearsal.plan import PlayedPolicies, Requests, lead_table, steady
from almanac.core.rehearsal.play import YEAR_DAYS, play
from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.rates import KnownRate
from almanac.core.stock.reorder import reorder_point
from almanac.core.stock.review import review_demand

MOST_CELLS = 5_000_000


@dataclass(frozen=True)
class Played:
    """One part of a rehearsal. rates : (1 + j, n) a day, by place and run"""

    name: str
    s: int
    lot: int
    review: int
    levels: tuple[int, ...]
    lanes: tuple[tuple[int, int], ...]
    lead: LeadTime
    rates: np.ndarray
    price: float
    order_cost: float


def rehearse(path: str) -> Iterator[dict[str, Any]]:
    """An answer for each line; a file of one document has one."""
    return map(_one, read_documents(path))


def _one(given: JsonInput) -> dict[str, Any]:
    years = given.number("years", low=0.01, high=1000.0)
    runs = given.whole("runs", low=1, high=100_000)
    seed = given.whole("seed", default=1)
    warm_up = given.number("warm_up_years", default=0.0, low=0.0, high=1000.0)
    entries = given.objects("parts")
    given.finish()
    draws = np.random.default_rng([seed, 1])
    try:
        parts = [_part(given, entry, f"parts[{i}]", runs, draws) for i, entry in enumerate(entries)]
        given.finish()
        return _play(given, parts, (years, warm_up), seed)
    except (ContractError, NoEstimate) as error:
        raise InputFaults([f"{given.path}: {error}"]) from error


def _part(given: JsonInput, entry: dict[str, Any], at: str, runs: int, draws: np.random.Generator) -> Played:
    name = str(entry.get("part", at))
    price = given.number("price", inside=entry, at=at, default=0.0, low=0.0, high=1e9)
    if "depot" in entry or "sites" in entry:
        depot = entry.get("depot")
        cost = given.number("order_cost", inside=depot if isinstance(depot, dict) else {}, at=f"{at}.depot", default=0.0, low=0.0)
        return _network(given, entry, at, name, (runs, draws, price, cost))
    cost = given.number("order_cost", inside=entry, at=at, default=0.0, low=0.0, high=1e9)
    rate, lead = read_rate(given, entry, at), read_lead(given, entry, at)
    review = given.whole("review_days", inside=entry, at=at, low=1, high=int(MOST_DAYS))
    if isinstance(own := entry.get("policy"), dict):
        s = given.whole("s", inside=own, at=f"{at}.policy", low=-1, high=10**6)
        lot = given.whole("Q", inside=own, at=f"{at}.policy", low=1, high=10**6)
    else:
        promise = read_promise(given, entry, at)
        lot = read_lot(given, entry, rate.mean_per_day, at) if not given.faults else 1
        given.finish()
        s = reorder_point(review_demand(rate, lead, review), lot, promise)
    known = isinstance(rate, KnownRate)
    drawn = np.full(runs, rate.mean_per_day) if known else draws.gamma(rate.shape, 1.0 / rate.rate, runs)  # type: ignore[union-attr]
    return Played(name, s, lot, review, (), (), lead, drawn[None], price, cost)


def _network(given: JsonInput, entry: dict[str, Any], at: str, name: str, of: tuple[int, np.random.Generator, float, float]) -> Played:
    runs, draws, price, cost = of
    made, names = read_network(given, entry, at)
    levels = _levels(given, entry, at, made, names)
    given.finish()
    s, lot, sites = levels
    review = given.whole("review_days", inside=entry.get("depot"), at=f"{at}.depot", low=1, high=int(MOST_DAYS))
    lanes = tuple(
        (
            given.whole("lane_days", inside=site, at=f"{at}.sites[{i}]", high=int(MOST_DAYS)),
            given.whole("every_days", inside=site, at=f"{at}.sites[{i}]", low=1, high=int(MOST_DAYS)),
        )
        for i, site in enumerate(entry["sites"])
    )
    return Played(name, s, lot, review, sites, lanes, made.lead, _drawn(entry, made, runs, draws), price, cost)


def _levels(given: JsonInput, entry: dict[str, Any], at: str, made: Network, names: tuple[str, ...]) -> tuple[int, int, tuple[int, ...]]:
    own = entry.get("policy")
    if isinstance(own, dict):
        depot = own.get("depot") if isinstance(own.get("depot"), dict) else {}
        s = given.whole("s", inside=depot, at=f"{at}.policy.depot", low=-1, high=10**6)
        lot = given.whole("Q", inside=depot, at=f"{at}.policy.depot", low=1, high=10**6)
        sites = own.get("sites")
        if isinstance(sites, dict):
            sites = [sites.get(name) for name in names]
        if isinstance(sites, list) and all(isinstance(item, dict) for item in sites):
            sites = [item.get("level") for item in sites]
        if not isinstance(sites, list) or len(sites) != len(names):
            given.fault(f"{at}.policy.sites", f"a level for each of {len(names)} sites was wanted")
            sites = []
        levels = tuple(
            given.whole("value", inside={"value": item}, at=f"{at}.policy.sites[{i}]", high=10**6) for i, item in enumerate(sites)
        )
        return s, lot, levels
    target = read_target(given, entry, at)
    floor = given.number("site_floor", inside=entry, at=at, default=min(FLOOR, target), low=0.0, high=1.0)
    given.finish()
    levels_, _ = least_levels(made, Wanted(target, floor, each=bool(entry.get("per_site", False))))
    return levels_.s, made.lot, levels_.sites


def _drawn(entry: dict[str, Any], made: Network, runs: int, draws: np.random.Generator) -> np.ndarray:
    """(1 + j, n) rates by run: known ones as they are, doubted ones drawn, one for all places where they share it."""
    places = [entry["depot"], *entry["sites"]]
    if "posterior" in entry:
        rate = draws.gamma(float(entry["posterior"]["shape"]), 1.0 / float(entry["posterior"]["rate"]), runs)
        return np.outer([float(place.get("units", 0.0)) for place in places], rate)
    if any("posterior" in place for place in places):
        gammas = [place.get("posterior") for place in places]
        rows = [draws.gamma(float(own["shape"]), 1.0 / float(own["rate"]), runs) if own else np.zeros(runs) for own in gammas]
        return np.stack(rows)
    known = np.concatenate((made.depot, made.sites[0]))
    return np.repeat(known[:, None], runs, axis=1)


def _play(given: JsonInput, parts: list[Played], times: tuple[float, float], seed: int) -> dict[str, Any]:
    years, warm_up = times
    runs = parts[0].rates.shape[1]
    sites = max(len(part.levels) for part in parts)
    if len(parts) * (1 + sites) * runs > MOST_CELLS:
        given.fault("runs", f"at most {MOST_CELLS:,} of parts x places x runs were wanted")
        given.finish()
    lead_days, cumulative = lead_table([(part.lead.days.tolist(), part.lead.weight.tolist()) for part in parts])

    def table(values: list[list[int]], fill: int) -> np.ndarray:
        return np.array([[*own, *[fill] * (sites - len(own))] for own in values], dtype=np.int64).reshape(len(parts), sites)

    policies = PlayedPolicies(
        s=np.array([part.s for part in parts], dtype=np.int64),
        lot=np.array([part.lot for part in parts], dtype=np.int64),
        review=np.array([part.review for part in parts], dtype=np.int64),
        level=table([list(part.levels) for part in parts], 0),
        lane=table([[days for days, _ in part.lanes] for part in parts], 0),
        every=table([[every for _, every in part.lanes] for part in parts], 1),
        lead_days=lead_days,
        lead_cumulative=cumulative,
    )
    rates = np.zeros((len(parts), 1 + sites, runs))
    for row, part in enumerate(parts):
        rates[row, : part.rates.shape[0]] = part.rates
    counts_from = round(warm_up * YEAR_DAYS)
    days = counts_from + max(round(years * YEAR_DAYS), 1)
    record = play(policies, Requests((0,), (rates,)), steady(policies), days=days, seed=seed, counts_from=counts_from)
    price, cost = np.array([part.price for part in parts]), np.array([part.order_cost for part in parts])
    own = [{"part": part.name, "policy": _policy(part), **_figures(shown(record, price, cost, row))} for row, part in enumerate(parts)]
    return {"parts": own, "all": _figures(shown(record, price, cost))}


def _policy(part: Played) -> dict[str, Any]:
    if not part.levels:
        return {"s": part.s, "Q": part.lot}
    return {"depot": {"s": part.s, "Q": part.lot}, "sites": list(part.levels)}


def _figures(found: Shown) -> dict[str, Any]:
    return {name: None if one is None else vars(one) for name, one in vars(found).items()}
