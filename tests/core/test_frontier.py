"""What money buys: against every combination of levels there is, and against the evaluation that stands on its own."""

from __future__ import annotations

from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.network.evaluate import Curves
from almanac.core.network.frontier import (
    Curve,
    Point,
    chosen_for,
    company_curve,
    hull,
    network_frontier,
    network_point,
    shelf_frontier,
    shelf_point,
)
from almanac.core.network.levels import most_for
from almanac.core.network.nodes import Lane, Network
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.rates import doubted_rate, known_rate
from almanac.core.stock.reorder import ReorderPolicy, service_of
from almanac.core.stock.review import review_demand

LEAD = lead_time([21, 34], [0.8, 0.2])


def network(a_year: list[float], lot: int = 1, *, shape: float | None = None) -> Network:
    values, weight = doubted_rate(shape, shape).nodes() if shape else (np.ones(1), np.ones(1))
    rates = np.array(a_year) / 365
    lanes = tuple(Lane(4.0 + 3 * place, 7.0) for place in range(len(a_year) - 1))
    return Network(weight, values * rates[0], values[:, None] * rates[None, 1:], lanes, LEAD, 14.0, lot)


def slopes(points: tuple[Point, ...]) -> list[float]:
    return [(b.waiting - a.waiting) / (b.stock - a.stock) for a, b in pairwise(points)]


@pytest.mark.parametrize(("a_year", "lot", "shape"), [([3, 2, 5], 1, None), ([0, 6, 1], 2, None), ([4, 1, 2], 1, 5.0)])
def test_no_levels_lose_less_for_their_stock(a_year: list[float], lot: int, shape: float | None) -> None:
    made = network(a_year, lot, shape=shape)
    points = network_frontier(made)
    curves = Curves(made)
    stock, waiting = np.array([one.stock for one in points]), np.array([one.waiting for one in points])
    for s, *levels in product(range(-1, 4), range(4), range(4)):
        figures = curves.figures(s, levels)
        if stock[0] <= figures.stock <= stock[-1]:
            assert figures.expected_waiting >= np.interp(figures.stock, stock, waiting) - 1e-6


def test_every_point_is_what_its_levels_give() -> None:
    made = network([3, 2, 5], 2, shape=6.0)
    for point in network_frontier(made):
        again = network_point(made, point.s, point.levels)
        assert (again.stock, again.waiting, again.fill) == pytest.approx((point.stock, point.waiting, point.fill), rel=1e-7, abs=1e-7)


def test_stock_rises_waiting_falls_and_each_part_is_less_well_spent() -> None:
    points = network_frontier(network([3, 2, 5]))
    assert points[0].s == -1
    assert points[0].levels == (0, 0)
    assert all(a.stock < b.stock and a.waiting > b.waiting for a, b in pairwise(points))
    found = slopes(points)
    assert found == sorted(found)
    assert points[-1].fill > 0.999


def test_a_budget_for_one_part_buys_no_less_than_the_frontier_at_a_point() -> None:
    """The other way to spend one part's money, walked level by level, agrees at the points of the hull."""
    made = network([3, 2, 5])
    for point in network_frontier(made)[2:8]:
        bought = most_for(made, 10.0, 10.0 * point.stock + 1e-6)
        assert bought.figures.expected_waiting == pytest.approx(point.waiting, rel=1e-6)


def test_a_site_that_is_bought_for_when_needed_keeps_nothing() -> None:
    points = network_frontier(network([3, 2, 5]), frozenset({1}))
    assert {point.levels[1] for point in points} == {0}
    assert max(point.levels[0] for point in points) > 1
    assert points[-1].waiting > network_frontier(network([3, 2, 5]))[-1].waiting + 1


def test_one_place_gives_what_its_reorder_point_gives() -> None:
    demand = review_demand(known_rate(8 / 365), LEAD, 14)
    for point in shelf_frontier(demand, 2):
        if point.s < 0:
            continue
        service = service_of(demand, ReorderPolicy(point.s, 2), 14)
        assert (point.fill, point.waiting, point.stock) == pytest.approx((service.fill, service.expected_waiting, service.expected_on_hand))
    assert shelf_point(demand, -1, 1).fill == 0.0


@given(st.lists(st.tuples(st.integers(0, 400), st.integers(0, 1000)), min_size=1, max_size=30))
def test_the_hull_lies_below_every_point(pairs: list[tuple[int, int]]) -> None:
    points = [Point(0, (), stock, waiting, 0.5) for stock, waiting in pairs]
    found = hull(points)
    stock, waiting = np.array([one.stock for one in found]), np.array([one.waiting for one in found])
    assert np.all(np.diff(waiting) < 0)
    for point in points:
        inside = stock[0] <= point.stock <= stock[-1]
        found_slopes = slopes(found)
        assert all(a <= b + 1e-9 for a, b in pairwise(found_slopes))
        least = float(np.interp(point.stock, stock, waiting)) if inside else float(waiting[-1])
        assert point.waiting >= least - 1e-6 * max(least, 1.0)


FRONTIERS = [
    (Point(-1, (), 0.0, 100.0, 0.0), Point(0, (), 1.0, 40.0, 0.6), Point(1, (), 2.0, 20.0, 0.8)),
    (Point(-1, (), 0.5, 30.0, 0.0), Point(0, (), 1.5, 5.0, 0.9)),
]
PRICES = [10.0, 4.0]


def test_the_company_s_curve_takes_the_best_spent_step_first() -> None:
    curve = company_curve(FRONTIERS, PRICES)
    assert curve == Curve([1, 0, 0], [1, 1, 2], [2.0, 6.0, 16.0, 26.0], [130.0, 105.0, 45.0, 25.0])


@pytest.mark.parametrize(
    ("budget", "points", "waiting"),
    [(0, (0, 0), 130.0), (6, (0, 1), 105.0), (15, (0, 1), 105.0), (12, (0, 1), 105.0), (16, (1, 1), 45.0), (1000, (2, 1), 25.0)],
)
def test_a_sum_buys_the_steps_it_pays_for(budget: float, points: tuple[int, ...], waiting: float) -> None:
    chosen = chosen_for(company_curve(FRONTIERS, PRICES), 2, budget)
    assert (chosen.points, chosen.waiting) == (points, waiting)
    assert chosen.bound <= chosen.waiting
    assert chosen.money <= max(budget, 2.0)


def test_a_step_that_no_longer_fits_is_skipped_and_cheaper_ones_go_on() -> None:
    cheap = (Point(-1, (), 0.0, 10.0, 0.0), Point(0, (), 1.0, 9.0, 0.5))
    curve = company_curve([FRONTIERS[0], cheap], [10.0, 2.0])
    chosen = chosen_for(curve, 2, 9.0)
    assert chosen.points == (0, 1)
    assert chosen.bound == pytest.approx(110.0 - 9.0 * 6.0)


def test_what_follows_a_step_that_was_skipped_is_skipped_too() -> None:
    dear = (Point(-1, (), 0.0, 100.0, 0.0), Point(0, (), 10.0, 10.0, 0.9), Point(1, (), 11.0, 5.0, 0.95))
    chosen = chosen_for(company_curve([dear], [1.0]), 1, 5.0)
    assert (chosen.points, chosen.money, chosen.waiting) == ((0,), 0.0, 100.0)


@given(st.floats(0, 40))
def test_no_choice_betters_the_bound(budget: float) -> None:
    chosen = chosen_for(company_curve(FRONTIERS, PRICES), 2, budget)
    for picked in product(range(3), range(2)):
        points = [points[place] for points, place in zip(FRONTIERS, picked, strict=True)]
        if sum(point.stock * price for point, price in zip(points, PRICES, strict=True)) <= budget:
            assert sum(point.waiting for point in points) >= chosen.bound - 1e-9


def test_what_cannot_be_is_refused() -> None:
    with pytest.raises(ContractError, match="price"):
        company_curve(FRONTIERS, [10.0, 0.0])
    with pytest.raises(ContractError, match="budget"):
        chosen_for(company_curve(FRONTIERS, PRICES), 2, -1.0)
