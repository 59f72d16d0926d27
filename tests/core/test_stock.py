"""Stock levels, paths and order plans: definitions by brute force, published figures, and what must hold for all."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import ArrayLike
from scipy import stats

from almanac.core.checks import Floats
from almanac.core.demand.law import DemandLaw
from almanac.core.errors import ContractError
from almanac.core.stock import levels
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.order_day import chance_before_arrival
from almanac.core.stock.order_plan import State, plan_order, plan_year
from almanac.core.stock.path import Arrival, Holding, chance_below, path_quantiles
from almanac.core.stock.policy import Policy
from almanac.core.stock.quantity import Lot, expected_scrap, in_packs, order_size
from tests.strategies import holdings, laws, lead_times


@dataclass(frozen=True)
class PoissonLaw:
    """Demand at a known rate a day: the simplest law a path can have."""

    rate: float

    def pmf(self, start_days: ArrayLike, end_days: ArrayLike) -> Floats:
        mean = self.rate * (np.asarray(end_days, dtype=float) - np.asarray(start_days, dtype=float))
        return np.asarray(stats.poisson.pmf(np.arange(400)[None], mean[:, None]))

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> Floats:
        return self.pmf(start_days, end_days)[:, : most + 1]

    def sliding(self, start_day: int, end_days: ArrayLike, level: float) -> Floats:
        return self.reaching(np.full(np.size(end_days), start_day), end_days, level)

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> Floats:
        del level
        return self.pmf(start_days, end_days)

    def mean_parts(self, end_days: ArrayLike) -> Floats:
        return self.rate * np.asarray(end_days, dtype=float)

    def approximate_moments(self, end_days: ArrayLike) -> tuple[Floats, Floats]:
        return self.mean_parts(end_days), self.mean_parts(end_days)


THREE_WEEKS = lead_time([18, 21, 28], [0.25, 0.5, 0.25])


def policy(**changes: object) -> Policy:
    return replace(Policy(target=0.95, review_days=14, lead=THREE_WEEKS), **changes)  # type: ignore[arg-type]


class TestLevels:
    @pytest.mark.parametrize(("mean", "target", "level"), [(4.0, 0.95, 8), (1.0, 0.9, 2), (0.1, 0.9, 0), (10.0, 0.99, 18)])
    def test_poisson_levels_from_the_tables(self, mean: float, target: float, level: int) -> None:
        assert levels.cycle_service_level(levels.poisson_demand(mean).pmf, target) == level == stats.poisson.ppf(target, mean)

    def test_a_probability_just_under_the_target_is_not_rounded_up_to_it(self) -> None:
        pmf = np.array([0.9499999, 0.05, 1e-7])
        assert levels.cycle_service_level(pmf, 0.95) == 1
        assert levels.cycle_service_level(np.array([0.95, 0.05]), 0.95) == 0

    @given(st.floats(0.05, 60), st.integers(0, 80))
    def test_what_a_level_achieves(self, mean: float, level: int) -> None:
        found = levels.figures(levels.poisson_demand(mean), level)
        assert found.expected_on_hand - found.expected_backorders == pytest.approx(level - mean, abs=1e-8)
        assert found.cycle_service == pytest.approx(stats.poisson.cdf(level, mean), abs=1e-10)
        assert found.ready_rate == pytest.approx(stats.poisson.cdf(level - 1, mean), abs=1e-10)
        assert found.fill_rate == pytest.approx(found.ready_rate, abs=1e-10)

    @given(st.floats(0.1, 30), st.floats(1.01, 5), st.integers(0, 60))
    def test_a_gamma_mixed_fill_rate_is_palm_averaged_over_the_rate(self, mean: float, ratio: float, level: int) -> None:
        demand = levels.negative_binomial_demand(mean, ratio)
        found = levels.figures(demand, level)
        shape = mean / (ratio - 1)
        assert found.cycle_service == pytest.approx(stats.nbinom.cdf(level, shape, 1 / ratio), abs=1e-9)
        assert found.fill_rate == pytest.approx(stats.nbinom.cdf(level - 1, shape + 1, 1 / ratio), abs=1e-9)

    def test_a_plain_pmf_does_not_tell_a_fill_rate(self) -> None:
        demand = levels.given_demand([0.5, 0.5])
        assert levels.figures(demand, 1).fill_rate is None
        with pytest.raises(ContractError, match="fill rate"):
            levels.fill_rate_level(demand, 0.9)

    def test_the_fill_rate_level_is_the_smallest(self) -> None:
        demand = levels.poisson_demand(4.0)
        level = levels.fill_rate_level(demand, 0.95)
        assert levels.figures(demand, level).fill_rate >= 0.95 > levels.figures(demand, level - 1).fill_rate  # type: ignore[operator]

    def test_a_period_fill_rate_counts_what_the_review_period_adds(self) -> None:
        lead, review = stats.poisson.pmf(np.arange(60), 3.0), stats.poisson.pmf(np.arange(60), 2.0)
        chance = np.random.default_rng(3)
        before, during = chance.poisson(3.0, 400_000), chance.poisson(2.0, 400_000)
        missed = np.maximum(before + during - 6, 0) - np.maximum(before - 6, 0)
        assert levels.period_fill_rate(lead, review, 6) == pytest.approx(1 - missed.mean() / 2.0, abs=3e-3)

    def test_bad_demand_is_refused(self) -> None:
        with pytest.raises(ContractError, match="adding up to 1"):
            levels.given_demand([0.5, 0.4])
        with pytest.raises(ContractError, match=r"before 0\.95"):
            levels.cycle_service_level(np.array([0.5, 0.4]), 0.95)


class TestQuantity:
    @given(st.integers(-5, 50), st.integers(1, 8), st.integers(1, 12))
    def test_whole_packs_of_at_least_the_minimum(self, needed: int, pack: int, minimum: int) -> None:
        found = in_packs(needed, pack=pack, minimum_order=minimum)
        assert found % pack == 0
        assert found >= needed
        assert (found == 0) == (needed <= 0)
        if needed > 0:
            assert found >= minimum
            assert found - pack < max(needed, minimum)

    @given(st.integers(0, 40), st.integers(1, 6), st.integers(0, 30), st.integers(0, 60))
    def test_the_shelf_life_cap(self, needed: int, pack: int, held: int, life_demand: int) -> None:
        found = order_size(needed, pack=pack, minimum_order=pack, held=held, life_demand=life_demand)
        assert found.quantity <= found.in_packs
        assert found.quantity % pack == 0
        if found.quantity > pack:
            assert held + found.quantity <= max(1, life_demand)
        assert found.scrap == (max(0, held + found.quantity - max(1, life_demand)) if needed else 0)

    def test_a_pack_that_is_too_big_is_named_as_scrap(self) -> None:
        found = order_size(1, pack=4, minimum_order=4, held=0, life_demand=2)
        assert (found.quantity, found.cap, found.scrap) == (4, 2, 2)

    def test_first_in_first_out_scrap(self) -> None:
        lots = [Lot(3, 30), Lot(5, 200), Lot(2, None)]
        assert expected_scrap(lots, [1, 9, 0]) == 2
        assert expected_scrap(lots, [3, 8, 0]) == 0


class TestPath:
    @settings(max_examples=40, deadline=None)
    @given(st.floats(0.005, 0.4), holdings(), st.integers(0, 250))
    def test_the_chance_agrees_with_walking_day_by_day(self, rate: float, holding: Holding, day: int) -> None:
        found = float(chance_below(PoissonLaw(rate), holding, [day])[0])
        assert found == pytest.approx(_walk(rate, holding, day), abs=1e-7)

    def test_an_arrival_does_not_mend_what_fell_before_it(self) -> None:
        law, late = PoissonLaw(0.1), Holding(1, (Arrival(50, 30),))
        assert float(chance_below(law, late, [60])[0]) > 0.9
        assert float(chance_below(law, late, [60], since_day=50)[0]) < 0.01

    @settings(max_examples=15, deadline=None)
    @given(laws(), holdings(), st.integers(1, 300))
    def test_more_stock_never_raises_the_chance(self, law: DemandLaw, holding: Holding, day: int) -> None:
        more = replace(holding, available=holding.available + 3)
        assert float(chance_below(law, more, [day])[0]) <= float(chance_below(law, holding, [day])[0]) + 1e-9

    def test_stock_after_what_arrives_on_the_day(self) -> None:
        holding = Holding(5, (Arrival(10, 4),))
        assert path_quantiles(np.array([2, 3, 3]), holding, [9, 10, 11]).tolist() == [3, 6, 6]


def _walk(rate: float, holding: Holding, last: int) -> float:
    """Chance of ever being below the floor, day by day; what arrives on a day comes after that day's demand."""
    size = holding.available + holding.on_order + 2
    alive = np.zeros(max(size, 1))
    alive[0] = 1.0
    step = stats.poisson.pmf(np.arange(alive.size), rate)
    moments = {arrival.day for arrival in holding.arrivals if arrival.day < last} | {last}
    for day in range(last + 1):
        if day > 0:
            alive = np.convolve(alive, step)[: alive.size]
        if day in moments:
            alive[max(holding.slack_before(day) + 1, 0) :] = 0.0
    return 1.0 - float(alive.sum())


class TestOrderPlan:
    @settings(max_examples=30, deadline=None)
    @given(st.floats(0.01, 0.3), holdings(), lead_times(), st.sampled_from([0.8, 0.9, 0.95, 0.99]), st.sampled_from([7, 14, 30]))
    def test_the_order_day_is_the_last_good_one(self, rate: float, holding: Holding, lead: LeadTime, target: float, review: int) -> None:
        law, rule = PoissonLaw(rate), policy(lead=lead, target=target, review_days=review)
        plan = plan_order(law, holding, rule, horizon_days=365)
        good = chance_before_arrival(law, holding, lead, list(range(366))) <= 1 - target
        if not good[0]:
            assert (plan.state, plan.order_day, plan.late) == (State.SHORT, 0, True)
        elif good.all():
            assert (plan.state, plan.order_day) == (State.COVERED, None)
        else:
            last = int(np.flatnonzero(good)[-1])
            assert plan.order_day == last
            assert not plan.late
            wanted = State.SHORT if last == 0 else State.THIN if last <= review else State.COVERED
            assert plan.state is wanted

    def test_the_quantity_is_s_less_the_median_position_in_packs(self) -> None:
        law, holding = PoissonLaw(0.1), Holding(6, (Arrival(5, 2),))
        plan = plan_order(law, holding, policy(pack=4, minimum_order=4), horizon_days=365)
        assert plan.order_day is not None
        assert plan.level is not None
        assert plan.position is not None
        assert plan.size is not None
        cover = sum(
            w * stats.poisson.cdf(plan.level, 0.1 * (days + 14)) for days, w in zip(THREE_WEEKS.days, THREE_WEEKS.weight, strict=True)
        )
        less = sum(
            w * stats.poisson.cdf(plan.level - 1, 0.1 * (days + 14)) for days, w in zip(THREE_WEEKS.days, THREE_WEEKS.weight, strict=True)
        )
        assert cover >= 0.95 > less
        assert plan.position == 8 - stats.poisson.ppf(0.5, 0.1 * plan.order_day)
        assert plan.size.quantity == -(-max(plan.level - plan.position, 4) // 4) * 4

    def test_nothing_helps_while_the_order_on_its_way_is_too_late(self) -> None:
        plan = plan_order(PoissonLaw(0.1), Holding(0, (Arrival(20, 40),)), policy(), horizon_days=365)
        assert plan.late
        assert plan.size_quantity == 0

    def test_an_order_that_is_due_is_never_for_nothing(self) -> None:
        law = PoissonLaw(0.004)
        plan = plan_order(law, Holding(1), policy(pack=2, minimum_order=2), horizon_days=365)
        assert plan.order_day is not None
        assert plan.size_quantity >= 2

    @settings(max_examples=20, deadline=None)
    @given(laws(), holdings(), st.integers(1, 6))
    def test_more_stock_never_brings_the_order_day_forward(self, law: DemandLaw, holding: Holding, more: int) -> None:
        rule = policy()
        before = plan_order(law, holding, rule, horizon_days=365)
        after = plan_order(law, replace(holding, available=holding.available + more), rule, horizon_days=365)
        never = 10**6
        assert (after.order_day if after.order_day is not None else never) >= (before.order_day if before.order_day is not None else never)
        assert after.chance_if_today <= before.chance_if_today + 1e-9

    @settings(max_examples=20, deadline=None)
    @given(laws(), holdings())
    def test_a_higher_target_never_orders_later(self, law: DemandLaw, holding: Holding) -> None:
        days = [plan_order(law, holding, policy(target=target), horizon_days=365).order_day for target in (0.8, 0.95, 0.999)]
        filled = [day if day is not None else 10**6 for day in days]
        assert filled == sorted(filled, reverse=True)

    def test_the_year_keeps_the_median_above_the_floor(self) -> None:
        law, holding = PoissonLaw(0.15), Holding(7)
        orders = plan_year(law, holding, policy(pack=4, minimum_order=4), horizon_days=365)
        assert len(orders) > 5
        assert [order.day for order in orders] == sorted(order.day for order in orders)
        assert all(order.quantity % 4 == 0 for order in orders)
        arrivals = tuple(Arrival(order.arrives_day, order.quantity) for order in orders)
        days = np.arange(30, 360)
        median = stats.poisson.ppf(0.5, 0.15 * days).astype(np.int64)
        assert path_quantiles(median, Holding(7, arrivals), days).min() >= 0

    def test_no_demand_needs_no_order(self) -> None:
        plan = plan_order(PoissonLaw(0.0), Holding(0), policy(), horizon_days=365)
        assert (plan.state, plan.order_day, plan.size_quantity) == (State.COVERED, None, 0)

    def test_a_horizon_shorter_than_the_review_is_refused(self) -> None:
        with pytest.raises(ContractError, match="review period"):
            plan_order(PoissonLaw(0.1), Holding(1), policy(), horizon_days=7)


def test_lead_times_are_checked_and_sorted() -> None:
    lead = lead_time([21, 18], [0.75, 0.25])
    assert lead.days.tolist() == [18, 21]
    assert lead.median_days == 21
    assert lead.mean_days == pytest.approx(20.25)
    with pytest.raises(ContractError, match="adding up to 1"):
        lead_time([5, 6], [0.5, 0.4])


def test_a_late_shelf_with_enough_on_its_way_is_planned_from_its_arrival_on() -> None:
    # Nothing on hand and much due after the lead time: the gap until then no order closes, so none is planned for today.
    law, holding = PoissonLaw(0.2), Holding(0, (Arrival(40, 60),), 0)
    first = plan_order(law, holding, policy(), horizon_days=365)
    assert (first.state, first.late) == (State.SHORT, True)
    assert first.size is not None
    assert first.size.quantity == 0
    orders = plan_year(law, holding, policy(), horizon_days=365)
    assert orders
    assert all(order.quantity > 0 for order in orders)
    assert orders[0].day > 150  # 60 parts last some 300 days, less lead time, review and the spread
    assert plan_year(law, holding, policy(), horizon_days=100) == []
    assert plan_year(law, Holding(0, (), 0), policy(), horizon_days=365, most=1)[0].day == 0


@settings(max_examples=25)
@given(st.integers(0, 12), st.integers(0, 30), st.floats(0.02, 0.4))
def test_a_floor_only_lifts_the_whole_plan(floor: int, available: int, rate: float) -> None:
    law = PoissonLaw(rate)
    plain = plan_order(law, Holding(available), policy(), horizon_days=365)
    lifted = plan_order(law, Holding(available + floor, (), floor), policy(), horizon_days=365)
    assert (lifted.order_day, lifted.late, lifted.size_quantity) == (plain.order_day, plain.late, plain.size_quantity)
    assert lifted.chance_if_today == pytest.approx(plain.chance_if_today)
