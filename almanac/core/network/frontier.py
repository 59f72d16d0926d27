"""What money in stock buys of one part: the levels of least waiting for every sum, at one place or at a depot and its sites."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from almanac.core import checks
from almanac.core.network.evaluate import Curves
from almanac.core.network.nodes import Network
from almanac.core.stock.review import ReviewDemand, at

YEAR_DAYS = 365.0
ALL_SERVED, LEAST_GAIN = 0.9995, 1e-7
"""The depot's s is not raised beyond the fill that is as good as whole, nor a site's level for machine-days that nobody would notice."""


@dataclass(frozen=True)
class Point:
    """Levels, and what they give. stock : parts on hand and under way, on average · waiting : machine-days a year
    fill : share of all requests met at once
    """

    s: int
    levels: tuple[int, ...]
    stock: float
    waiting: float
    fill: float


def network_frontier(network: Network, empty: frozenset[int] = frozenset()) -> tuple[Point, ...]:
    """Levels of a depot and its sites that no others better, the least stock first.

    For every s of the depot the sites by marginal analysis, which is exact for waiting: it is convex in each site's level. Over all s
    the lower convex hull, of which every point is of least waiting for its stock (Everett 1963).

    Parameters
    ----------
    network : one part at a depot and its sites · empty : sites at which nothing is kept

    Returns
    -------
    tuple of Point : stock rising, waiting falling, each part less well spent than the one before

    References
    ----------
    Sherbrooke (2004), Optimal Inventory Modeling of Systems, sections 2.6 and 3.6; Everett (1963), Operations Research 11.
    """
    curves = Curves(network)
    found: list[Point] = []
    for s in range(-1, curves.size):
        found.extend(_with_depot_at(curves, s, empty))
        if curves.depot(s).fill > ALL_SERVED:
            break
    return hull(found)


def _with_depot_at(curves: Curves, s: int, empty: frozenset[int]) -> list[Point]:
    """The sites raised one part at a time, always where it prevents most waiting for the stock it adds."""
    network = curves.network
    sites = [curves.site(s, place, curves.enough(place)) for place in range(len(network.lanes))]
    depot = curves.depot(s)
    own, rates = float(network.weight @ network.depot), network.weight @ network.sites
    whole = own + float(rates.sum())
    under_way = sum(rate * (lane.days + lane.every / 2.0) for rate, lane in zip(rates, network.lanes, strict=True))
    waiting = depot.expected_waiting + sum(float(site.waiting[0]) for site in sites)
    stock = depot.on_hand + float(under_way) + sum(site.figures(0).on_hand for site in sites)
    gains = [(-np.diff(site.waiting), 1.0 + np.diff(site.short)) for site in sites]
    steps = sorted(
        (-gain / max(more, 1e-9), place, level, gain, more)
        for place, (gain_of, more_of) in enumerate(gains)
        for level, (gain, more) in enumerate(zip(gain_of.tolist(), more_of.tolist(), strict=True))
        if gain > LEAST_GAIN and place not in empty
    )
    met = own * depot.fill + sum(float(rate * site.fill[0]) for rate, site in zip(rates, sites, strict=True))
    levels = [0] * len(sites)
    found = [Point(s, tuple(levels), stock, waiting, met / whole if whole > 0 else 1.0)]
    for _, place, level, gain, more in steps:
        met += float(rates[place] * (sites[place].fill[level + 1] - sites[place].fill[level]))
        levels[place], stock, waiting = level + 1, stock + more, waiting - gain
        found.append(Point(s, tuple(levels), stock, waiting, met / whole))
    return found


def shelf_frontier(demand: ReviewDemand, lot: int) -> tuple[Point, ...]:
    """Reorder points of one place that no others better, the least stock first.

    Parameters
    ----------
    demand : around a review · lot : Q
    """
    found = []
    for s in range(-1, demand.both.size):
        found.append(shelf_point(demand, s, lot))
        if found[-1].fill > ALL_SERVED:
            break
    return hull(found)


def shelf_point(demand: ReviewDemand, s: int, lot: int) -> Point:
    """What a reorder point of one place gives, over its positions s + 1 ... s + Q."""
    positions = range(s + 1, s + lot + 1)
    stock, waiting, fill = (
        float(np.mean([of(y) for y in positions])) for of in (demand.on_hand, lambda y: at(demand.waiting, y), lambda y: at(demand.fill, y))
    )
    return Point(s, (), stock, YEAR_DAYS * waiting, fill)


def network_point(network: Network, s: int, levels: Sequence[int]) -> Point:
    """What levels of a depot and its sites give."""
    figures = Curves(network).figures(s, tuple(levels))
    return Point(s, tuple(levels), figures.stock, figures.expected_waiting, figures.fill)


def hull(points: Sequence[Point]) -> tuple[Point, ...]:
    """The lower convex hull of stock and waiting, from the least stock to the least waiting.

    Parameters
    ----------
    points : at least one
    """
    ordered = sorted(points, key=lambda point: (point.stock, point.waiting))
    found: list[Point] = []
    for point in ordered:
        if found and point.waiting >= found[-1].waiting - 1e-12:
            continue
        while len(found) > 1 and _slope(found[-2], found[-1]) >= _slope(found[-2], point):
            found.pop()
        found.append(point)
    return tuple(found)


def _slope(one: Point, other: Point) -> float:
    return (other.waiting - one.waiting) / max(other.stock - one.stock, 1e-12)


@dataclass(frozen=True)
class Curve:
    """What money buys over many parts, step by step, the best spent first.

    part, point : (n,) which part goes on to which of its points · money, waiting : (n + 1,) tied up and machine-days a year after so many
    steps, the first before any
    """

    part: list[int]
    point: list[int]
    money: list[float]
    waiting: list[float]


def company_curve(frontiers: Sequence[Sequence[Point]], prices: Sequence[float]) -> Curve:
    """All parts' frontiers as one curve, by marginal analysis: exact at every step of it, for each frontier is convex.

    Parameters
    ----------
    frontiers : of each part, as `hull` gives them · prices : of one of each, > 0

    Raises
    ------
    ContractError : a price that is not above 0

    References
    ----------
    Sherbrooke (2004), Optimal Inventory Modeling of Systems, section 2.6; Fox (1966), Management Science 13.
    """
    one = [checks.positive("price", price) for price in prices]
    steps = sorted(
        (_slope(before, after) / price, part, point + 1, (after.stock - before.stock) * price, after.waiting - before.waiting)
        for part, (points, price) in enumerate(zip(frontiers, one, strict=True))
        for point, (before, after) in enumerate(pairwise(points))
    )
    money = np.cumsum([sum(points[0].stock * price for points, price in zip(frontiers, one, strict=True)), *(step[3] for step in steps)])
    waiting = np.cumsum([sum(points[0].waiting for points in frontiers), *(step[4] for step in steps)])
    return Curve([step[1] for step in steps], [step[2] for step in steps], money.tolist(), waiting.tolist())


@dataclass(frozen=True)
class Chosen:
    """What a sum buys. points : of each part · money : that is tied up · waiting : machine-days a year
    bound : no levels of such frontiers lose fewer machine-days for that sum
    """

    points: tuple[int, ...]
    money: float
    waiting: float
    bound: float


def chosen_for(curve: Curve, parts: int, budget: float) -> Chosen:
    """The steps of a curve that a sum pays for; a step that no longer fits is skipped, with all that follow of its part.

    Parameters
    ----------
    curve : of so many parts · budget : money tied up on average, >= 0; below the first step nothing is kept

    Raises
    ------
    ContractError : a budget below 0
    """
    checks.number("budget", budget, low=0.0)
    at_part = [0] * parts
    left = budget - curve.money[0]
    waiting = curve.waiting[0]
    money = curve.money[0]
    for part, point, before, after, lost_before, lost_after in zip(
        curve.part, curve.point, curve.money[:-1], curve.money[1:], curve.waiting[:-1], curve.waiting[1:], strict=True
    ):
        cost = after - before
        if point != at_part[part] + 1 or cost > left + 1e-9:
            continue
        at_part[part] = point
        left -= cost
        money += cost
        waiting += lost_after - lost_before
    bound = float(np.interp(budget, curve.money, curve.waiting))
    return Chosen(tuple(at_part), money, waiting, min(bound, waiting))
