"""Stock levels, paths and what to do about a shelf: definitions by brute force, published figures, and what must hold for all."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import ArrayLike
from scipy import stats

from almanac.core.checks import Floats
from almanac.core.errors import ContractError
from almanac.core.stock import levels
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.path import Arrival, Holding, path_quantiles
from almanac.core.stock.policy import Policy
from almanac.core.stock.quantity import Lot, expected_scrap, in_packs, order_size
from almanac.core.stock.rates import known_rate
from almanac.core.stock.reorder import Measure, Promise, reorder_point
from almanac.core.stock.review import review_demand
from almanac.core.stock.shelf import Outpost, Risk, Shelf, ShelfPlan, ToDo, at_site
from almanac.core.stock.shelf_plan import later_levels, plan_shelf
from tests.strategies import lead_times


@dataclass(frozen=True)
class PoissonLaw:
    """Demand at a known rate a day: the simplest law a path can have."""

    rate: float

    def pmf(self, start_days: ArrayLike, end_days: ArrayLike) -> Floats:
        mean = self.rate * (np.asarray(end_days, dtype=float) - np.asarray(start_days, dtype=float))
        return np.asarray(stats.poisson.pmf(np.arange(400)[None], mean[:, None]))

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> Floats:
        return self.pmf(start_days, end_days)[:, : most + 1]

    def reaching(self, start_days: ArrayLike, end_days: ArrayLike, level: float) -> Floats:
        del level
        return self.pmf(start_days, end_days)

    def mean_parts(self, end_days: ArrayLike) -> Floats:
        return self.rate * np.asarray(end_days, dtype=float)


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
    def test_stock_after_what_arrives_on_the_day(self) -> None:
        holding = Holding(5, (Arrival(10, 4),))
        assert path_quantiles(np.array([2, 3, 3]), holding, [9, 10, 11]).tolist() == [3, 6, 6]


def test_lead_times_are_checked_and_sorted() -> None:
    lead = lead_time([21, 18], [0.75, 0.25])
    assert lead.days.tolist() == [18, 21]
    assert lead.median_days == 21
    assert lead.mean_days == pytest.approx(20.25)
    with pytest.raises(ContractError, match="adding up to 1"):
        lead_time([5, 6], [0.5, 0.4])


def planned(rate: float, holding: Holding, *, lots: tuple[Lot, ...] = (), posts: tuple[Outpost, ...] = (), **changes: object) -> ShelfPlan:
    found = plan_shelf(PoissonLaw(rate), Shelf(holding, lots, posts), policy(**changes), horizon_days=365)
    assert found is not None
    return found


def post(site: int, free: int, share: float, *, coming: int = 0) -> Outpost:
    return Outpost(site, free, coming, share, 4, 7)


class TestShelfPlan:
    @settings(max_examples=30, deadline=None)
    @given(st.floats(0.005, 0.3), st.integers(-3, 20), lead_times(), st.sampled_from([0.8, 0.95, 0.99]), st.sampled_from([7, 14, 30]))
    def test_an_order_is_due_exactly_at_the_reorder_point(
        self, rate: float, available: int, lead: LeadTime, target: float, review: int
    ) -> None:
        found = planned(rate, Holding(available), lead=lead, target=target, review_days=review)
        demand = review_demand(known_rate(rate), lead, review)
        s = reorder_point(demand, 1, Promise(Measure.FILL, target))
        assert abs(found.order_at - s) <= 1  # days are whole here: a shelf is looked at on evenings
        assert (found.quantity > 0) == (available <= found.order_at)
        assert found.fill >= target
        assert found.fill_less is None or found.fill_less < target

    def test_what_is_ordered_is_the_fewest_packs_that_bring_it_above(self) -> None:
        found = planned(0.1, Holding(1, (Arrival(5, 2),)), pack=4, minimum_order=4)
        assert found.lot == 4
        assert found.quantity == -(-(found.order_at + 1 - 3) // 4) * 4
        assert found.most == found.order_at + 4
        assert (found.todo, found.next_days) == (ToDo.ORDER, None)

    def test_when_nothing_breaks_the_day_of_the_next_order_does_not_jump(self) -> None:
        """It is a forecast, not a deadline: a shelf that is well stocked asks for nothing, and its likely day is a review's."""
        found = planned(0.1, Holding(30))
        assert found.todo is ToDo.NOTHING
        assert found.next_days is not None
        early, likely, late = found.next_days
        assert early is not None
        assert likely is not None
        assert late is not None
        assert early <= likely <= late
        assert {day % 14 for day in (early, likely, late)} == {0}
        parts = 30 - found.order_at
        assert stats.poisson.sf(parts - 1, 0.1 * likely) >= 0.5 > stats.poisson.sf(parts - 1, 0.1 * (likely - 14))
        soon = planned(0.1, Holding(found.order_at + 1))
        assert soon.todo is ToDo.LIKELY

    def test_an_empty_shelf_with_nothing_coming_is_never_fine(self) -> None:
        assert planned(1 / 1100, Holding(0)).risk is Risk.THIN
        assert planned(1 / 1100, Holding(3)).risk is Risk.FINE

    def test_nothing_to_do_may_stand_beside_waiting(self) -> None:
        found = planned(0.01, Holding(-1, (Arrival(9, 6),)))
        assert (found.todo, found.risk) == (ToDo.NOTHING, Risk.WAITING)
        assert (found.waiting.machines, found.waiting.help_day) == (1, 9)

    def test_a_lot_that_expires_too_soon_is_no_stock(self) -> None:
        soon, later = (Lot(6, 10),), (Lot(6, 400),)
        assert planned(0.02, Holding(6), lots=later).position == 6
        assert planned(0.02, Holding(6), lots=soon).position == 0
        assert planned(0.02, Holding(8), lots=(*soon, Lot(2, None))).position == 2

    def test_the_shelf_life_cap_wins_over_the_target(self) -> None:
        long, short = (planned(0.05, Holding(0), shelf_life_days=days) for days in (2000, 30))
        assert short.size is not None
        assert short.size.cap == max(1, int(stats.poisson.ppf(0.5, 0.05 * (21 + 30))))
        assert short.quantity < long.quantity

    def test_nothing_is_ordered_after_the_end_of_supply(self) -> None:
        found = planned(0.1, Holding(0), last_order_day=-1)
        assert (found.quantity, found.due_after_supply) == (0, 0)
        later = planned(0.1, Holding(30), last_order_day=20)
        assert later.due_after_supply == later.next_days[1]  # type: ignore[index]
        assert planned(0.1, Holding(30), last_order_day=360).due_after_supply is None

    def test_no_demand_has_no_plan(self) -> None:
        assert plan_shelf(PoissonLaw(0.0), Shelf(Holding(0)), policy(), horizon_days=365) is None

    def test_a_floor_is_never_gone_below(self) -> None:
        assert planned(0.001, Holding(9, (), 5)).order_at == 5

    def test_sites_are_kept_at_levels_and_loaded_from_the_depot(self) -> None:
        found = planned(0.1, Holding(14), posts=(post(1, 0, 0.3), post(2, 2, 0.2)))
        assert [site.site_id for site in found.sites] == [1, 2]
        assert found.order_at == found.depot_s + sum(site.level for site in found.sites)
        assert found.sites[0].load == found.sites[0].level >= 1
        assert found.sites[1].load == max(found.sites[1].level - 2, 0)
        assert found.todo in (ToDo.LOAD, ToDo.ORDER)
        assert found.fill >= 0.95
        assert min(site.fill for site in found.sites) >= 0.85

    def test_stock_in_the_wrong_place_spares_no_order(self) -> None:
        """Pooled in one figure it would serve everybody; the depot's own shelf is empty all the same."""
        spread = planned(0.1, Holding(14), posts=(post(1, 2, 0.3), post(2, 2, 0.2)))
        heaped = planned(0.1, Holding(14), posts=(post(1, 14, 0.3), post(2, 0, 0.2)))
        assert spread.quantity == 0
        assert heaped.quantity > 0
        assert heaped.risk is Risk.THIN

    def test_a_site_is_its_part_of_the_plan_for_all(self) -> None:
        whole = planned(0.1, Holding(14), posts=(post(1, 0, 0.3), post(2, 2, 0.2)))
        site = at_site(whole, 1)
        assert (site.most, site.position, site.quantity) == (whole.sites[0].level, 0, 0)
        assert site.todo is ToDo.LOAD
        depot = at_site(whole, None)
        assert (depot.order_at, depot.quantity) == (whole.depot_s, whole.quantity)

    def test_levels_follow_the_fleet(self) -> None:
        @dataclass(frozen=True)
        class Growing(PoissonLaw):
            def mean_parts(self, end_days: ArrayLike) -> Floats:
                days = np.asarray(end_days, dtype=float)
                return self.rate * (days + days**2 / 200)

        shelf, rule = Shelf(Holding(20), (), (post(1, 1, 0.4),)), policy()
        law = Growing(0.1)
        plan = plan_shelf(law, shelf, rule, horizon_days=365)
        assert plan is not None
        later = later_levels(law, shelf, rule, plan, (91, 273))
        totals = [one.depot_s + sum(one.levels) for one in later]
        assert plan.order_at <= totals[0] < totals[1]
        alone = later_levels(law, Shelf(Holding(20)), rule, plan, (273,))
        assert alone[0].levels == ()


@pytest.mark.parametrize(("free", "waiting"), [((-1, 2), 1), ((-2, -1), 3), ((0, 2), 0)])
def test_who_waits_at_a_site_waits_whatever_lies_elsewhere(free: tuple[int, int], waiting: int) -> None:
    shelf = Shelf(Holding(9 + sum(free)), (), (post(1, free[0], 0.2), post(2, free[1], 0.3)))
    found = plan_shelf(PoissonLaw(0.15), shelf, policy(), horizon_days=365)
    assert found is not None
    assert found.waiting.machines == waiting
    assert (found.risk == Risk.WAITING) is (waiting > 0)


def test_a_boat_under_way_counts_once_in_what_is_ordered() -> None:
    """Parts on their way to a site or there already: the same is ordered, whatever stands too high elsewhere."""
    full = Outpost(1, 30, 0, 0.2, 4, 7)
    there = Shelf(Holding(32), (), (full, Outpost(2, 2, 0, 0.3, 4, 7)))
    sails = Shelf(Holding(30, (Arrival(4, 2),)), (), (full, Outpost(2, 0, 2, 0.3, 4, 7)))
    law = PoissonLaw(0.15)
    plans = [plan_shelf(law, shelf, policy(), horizon_days=365) for shelf in (there, sails)]
    assert plans[0] is not None
    assert plans[1] is not None
    assert plans[0].quantity > 0
    assert (plans[0].quantity, plans[0].position) == (plans[1].quantity, plans[1].position)
