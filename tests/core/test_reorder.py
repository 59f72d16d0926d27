"""Reorder points keep their promise, one part less breaks it; closed forms, and shelves played one event after another."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.stock.due import chance_of_waiting, next_order
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.rates import count_size, doubted_rate, gamma_nodes, known_rate
from almanac.core.stock.reorder import (
    Measure,
    Promise,
    ReorderPolicy,
    cycle_service,
    least_cost,
    order_quantity,
    reorder_point,
    service_of,
)
from almanac.core.stock.review import excess, review_demand
from tests.reference.shelves import one_shelf

YEAR = 365.0
FILL95 = Promise(Measure.FILL, 0.95)
GRID = [(0.5, 60, 30, 1), (3, 21, 14, 1), (12, 30, 7, 2), (20, 14, 1, 4), (60, 20, 14, 10)]
"""Requests a year, lead, review, lot."""


@pytest.mark.parametrize(("a_year", "lead", "review", "lot"), GRID)
def test_the_promise_is_kept_when_played_and_missed_with_one_part_less(a_year: float, lead: int, review: int, lot: int) -> None:
    leads = [(lead, 0.7), (lead + 9, 0.3)]
    rate, days = known_rate(a_year / YEAR), lead_time(*zip(*leads, strict=True))
    demand = review_demand(rate, days, review)
    s = reorder_point(demand, lot, FILL95)
    years = 60_000 / a_year
    for point in (s, s - 1):
        if point < 0:
            continue
        promised = service_of(demand, ReorderPolicy(point, lot), review)
        seen = one_shelf(a_year / YEAR, leads, review, point, lot, years=years, seed=7)
        error = 4 * np.sqrt(promised.fill * (1 - promised.fill) / seen.requests) + 0.002
        assert seen.fill == pytest.approx(promised.fill, abs=error)
        assert seen.waiting == pytest.approx(promised.expected_waiting, rel=0.12, abs=0.1)
        assert seen.orders == pytest.approx(promised.orders_a_year, rel=0.03)
        assert (promised.fill >= 0.95) == (point == s)


def test_a_doubted_rate_is_the_mean_over_rates_drawn() -> None:
    """The ratio of the means over the nodes, not the mean of the ratios."""
    shape, scale, lead = 2.0, 400.0, lead_time([30], [1.0])
    doubted = review_demand(doubted_rate(shape, scale), lead, 14.0)
    values, weights = gamma_nodes(shape, scale, 40)
    short = sum(
        weight * (demand.short_after[3] - demand.short_before[3])
        for value, weight in zip(values, weights, strict=True)
        for demand in [review_demand(known_rate(float(value)), lead, 14.0)]
    )
    assert 1 - doubted.fill[3] == pytest.approx(float(short / (weights @ values * 14.0)), rel=1e-6)


@given(st.floats(0.2, 60), st.integers(1, 90), st.integers(1, 30), st.integers(1, 10), st.sampled_from(list(Measure)))
@settings(max_examples=60)
def test_higher_aims_longer_leads_and_more_requests_never_lower_s(
    a_year: float, lead: int, review: int, lot: int, measure: Measure
) -> None:
    def point(target: float = 0.9, *, more: float = 1.0, later: int = 0) -> int:
        demand = review_demand(known_rate(a_year * more / YEAR), lead_time([lead + later], [1.0]), review)
        return reorder_point(demand, lot, Promise(measure, target))

    base = point()
    assert base >= 0
    assert point(0.97) >= base
    if measure != Measure.CYCLE:  # the position at an order may lie lower where more is asked for between reviews
        assert point(more=1.5) >= base
        assert point(later=10) >= base


@given(st.floats(0.2, 60), st.integers(1, 90), st.integers(1, 30), st.integers(0, 40))
@settings(max_examples=60)
def test_one_part_more_never_serves_less(a_year: float, lead: int, review: int, position: int) -> None:
    demand = review_demand(doubted_rate(3.0, 3.0 * YEAR / a_year), lead_time([lead], [1.0]), review)
    for values in (demand.fill, demand.ready, demand.nobody_waits):
        assert np.all(np.diff(values) >= -1e-12)
    assert np.all(np.diff(demand.waiting) <= 1e-12)
    assert demand.fill[0] == pytest.approx(0.0, abs=1e-9)
    assert demand.on_hand(position) >= -1e-9


def test_without_reviews_between_the_fill_is_palms() -> None:
    """R to 0 and Poisson: fill(y) = P(D(L) <= y - 1); a gamma rate of shape a: the same with a + 1."""
    lead = lead_time([40], [1.0])
    close = review_demand(known_rate(0.05), lead, 1e-3)
    assert close.fill[:6] == pytest.approx(stats.poisson.cdf(np.arange(-1, 5), 2.0), abs=1e-4)
    doubted = review_demand(doubted_rate(1.5, 60.0), lead, 1e-3)
    assert doubted.fill[:6] == pytest.approx(stats.nbinom.cdf(np.arange(-1, 5), 2.5, 60 / 100), abs=1e-4)


def test_days_with_one_on_the_shelf_are_requests_met_where_the_rate_is_known() -> None:
    demand = review_demand(known_rate(0.08), lead_time([21, 30], [0.5, 0.5]), 14)
    assert demand.ready[:20] == pytest.approx(demand.fill[:20], abs=1e-9)


def test_cycle_service_counts_orders_not_reviews() -> None:
    """Brute force over every way the position can fall between two reviews."""
    rate, review, lead = 0.2, 7.0, 10.0
    demand = review_demand(known_rate(rate), lead_time([int(lead)], [1.0]), review)
    s, lot = 3, 2
    kept = orders = 0.0
    for y in (4, 5):
        for used in range(40):
            chance = stats.poisson.pmf(used, rate * review)
            if y - used <= s:
                orders += chance
                kept += chance * stats.poisson.cdf(y - used, rate * lead)
    assert cycle_service(demand, s, lot) == pytest.approx(kept / orders, rel=1e-9)


def test_the_least_cost_is_the_least() -> None:
    waiting, holding, review, lead = 4.0, 120.0, 14, 21
    demand = review_demand(known_rate(10 / YEAR), lead_time([lead], [1.0]), review)
    s = reorder_point(demand, 1, least_cost(waiting, holding))

    def cost(point: int) -> float:
        service = service_of(demand, ReorderPolicy(point, 1), review)
        return waiting * service.expected_waiting + holding * service.expected_on_hand

    assert min(range(15), key=cost) == s


@pytest.mark.parametrize(
    ("arguments", "lot"),
    [
        ({"pack": 4}, 4),
        ({"pack": 4, "minimum_order": 5}, 8),
        ({"order_cost": 25.0, "holding_cost": 12.0}, 10),
        ({"order_cost": 25.0, "holding_cost": 12.0, "pack": 6}, 12),
        ({"order_cost": 0.01, "holding_cost": 12.0, "minimum_order": 3}, 3),
    ],
)
def test_a_lot_is_whole_packs_of_least_cost(arguments: dict[str, float], lot: int) -> None:
    assert order_quantity(24.0, **arguments) == lot  # type: ignore[arg-type]
    with pytest.raises(ContractError, match="no lot is large enough"):
        order_quantity(24.0, order_cost=5.0)


def test_the_next_order_is_due_when_its_day_says_so() -> None:
    rate, lead, review = known_rate(6 / YEAR), lead_time([21], [1.0]), 14
    policy = ReorderPolicy(1, 2)
    today = next_order(rate, policy, lead, review, 1)
    assert today.due
    assert today.quantity == 2
    assert next_order(rate, policy, lead, review, -4).quantity == 6
    later = next_order(rate, policy, lead, review, 3)
    assert not later.due
    assert later.days is not None
    early, middle, late = later.days
    assert early is not None
    assert middle is not None
    assert late is not None
    for day, level in ((early, 0.05), (middle, 0.5), (late, 0.95)):
        assert day % review == 0
        assert stats.poisson.sf(1, 6 / YEAR * day) >= level
        assert stats.poisson.sf(1, 6 / YEAR * (day - review)) < level


def test_the_risk_until_the_next_parts_is_that_of_shelves_played() -> None:
    rate, review, lead, position = 20 / YEAR, 14, 25, 6
    policy = ReorderPolicy(2, 3)
    draws = np.random.default_rng(3)
    waits = 0
    for _ in range(20_000):
        left = position
        while left > policy.s:
            left -= draws.poisson(rate * review)
        waits += draws.poisson(rate * lead) > left
    found = chance_of_waiting(known_rate(rate), policy, lead_time([lead], [1.0]), review, position)
    assert found == pytest.approx(waits / 20_000, abs=0.012)


def test_counts_are_whole() -> None:
    rate = doubted_rate(0.4, 30.0)
    pmf = rate.pmf([120.0], count_size(rate, 120.0))[0]
    assert pmf.sum() == pytest.approx(1.0, abs=1e-11)
    assert pmf[:50] == pytest.approx(stats.nbinom.pmf(np.arange(50), 0.4, 30 / 150), rel=1e-9)
    short = excess(pmf)
    assert short[0] == pytest.approx(0.4 / 30 * 120, rel=1e-9)


def test_what_cannot_be_promised_is_said() -> None:
    demand = review_demand(known_rate(0.1), lead_time([10], [1.0]), 7)
    for target in (0.0, 1.0, 1.2):
        with pytest.raises(ContractError, match="target"):
            reorder_point(demand, 1, Promise(Measure.FILL, target))
    cut = replace(demand, lead=demand.lead[:3], both=demand.both[:3], within=demand.within[:3])
    with pytest.raises(NoEstimate, match="no stock meets"):
        reorder_point(cut, 1, Promise(Measure.READY, 1 - 1e-9))
