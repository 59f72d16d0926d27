"""The last day to order: the same for a target whichever targets were asked for before it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import ArrayLike

from almanac.core.checks import Floats
from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.order_day import OrderChances, chance_before_arrival
from almanac.core.stock.order_plan import plan_order, plan_year
from almanac.core.stock.path import Arrival, Holding
from tests.core.test_stock import PoissonLaw, policy
from tests.strategies import holdings, lead_times

TARGETS = [0.8, 0.9, 0.95, 0.99]


@dataclass(frozen=True)
class Counting(PoissonLaw):
    """A law that writes down the days it was asked about."""

    asked: list[int] = field(default_factory=list)

    def head(self, start_days: ArrayLike, end_days: ArrayLike, most: int) -> Floats:
        self.asked.extend(np.asarray(end_days).tolist())
        return super().head(start_days, end_days, most)


@given(st.floats(0.005, 0.3), holdings(), lead_times(), st.permutations(TARGETS), st.integers(0, 200))
@settings(max_examples=30, deadline=None)
def test_a_target_has_one_order_day_whatever_was_asked_before(
    rate: float, holding: Holding, lead: LeadTime, targets: list[float], horizon: int
) -> None:
    kept = OrderChances(PoissonLaw(rate), holding, lead)
    chances = chance_before_arrival(PoissonLaw(rate), holding, lead, list(range(horizon + 1)))
    for target in targets:
        found = kept.last_day(target, horizon)
        good = np.flatnonzero(chances <= 1.0 - target)
        if chances[0] > 1.0 - target:
            assert (found.day, found.late) == (0, True)
            assert found.chance_if_today == pytest.approx(chances[0])
        else:
            assert found.day == (None if good[-1] == horizon else good[-1])
            assert not found.late


def test_days_that_are_known_are_not_asked_for_again() -> None:
    law = Counting(0.1)
    kept = OrderChances(law, Holding(8, (Arrival(30, 2),)), lead_time([14], [1.0]))
    first = kept.last_day(0.95, 365)
    asked = len(law.asked)
    assert kept.last_day(0.95, 365) == first
    assert len(law.asked) == asked
    near = kept.last_day(0.94, 365)
    assert near.day is not None
    assert first.day is not None
    assert near.day >= first.day
    assert len(law.asked) - asked <= 12


@pytest.mark.parametrize("target", [0.0, 1.0, 1.5])
def test_a_target_is_a_probability(target: float) -> None:
    with pytest.raises(ContractError, match="target"):
        OrderChances(PoissonLaw(0.1), Holding(1), lead_time([1], [1.0])).last_day(target, 30)


def test_days_before_today_are_refused() -> None:
    with pytest.raises(ContractError, match="horizon_days"):
        OrderChances(PoissonLaw(0.1), Holding(1), lead_time([1], [1.0])).last_day(0.9, -1)


def test_windows_an_order_is_sized_by() -> None:
    rule = policy(lead=lead_time([10, 20], [0.5, 0.5]), review_days=7, shelf_life_days=100)
    assert rule.windows(5) == [(5, 22), (5, 32), (5, 115)]
    assert policy(lead=lead_time([10], [1.0]), review_days=7).windows(0) == [(0, 17)]
    assert rule.lead.median_days == 10


class TestHolding:
    @given(holdings(), st.lists(st.integers(0, 400), min_size=1, max_size=6))
    def test_what_arrived_is_the_sum_of_what_was_due(self, holding: Holding, days: list[int]) -> None:
        wanted = [sum(one.quantity for one in holding.arrivals if one.day <= day) for day in days]
        assert holding.arrived_by(days).tolist() == wanted
        before = [sum(one.quantity for one in holding.arrivals if one.day < day) for day in days]
        assert holding.slack_before(days).tolist() == [holding.available + some - holding.floor for some in before]


def test_a_far_arrival_is_never_asked_about() -> None:
    law, far = Counting(0.1), Holding(8, (Arrival(30, 2), Arrival(2_900_000, 5)))
    chances = OrderChances(law, far, lead_time([14], [1.0])).on([0, 20, 40])
    assert max(law.asked) <= 54
    near = Holding(8, (Arrival(30, 2),))
    assert chances == OrderChances(PoissonLaw(0.1), near, lead_time([14], [1.0])).on([0, 20, 40])


@pytest.mark.parametrize("last_order_day", [-1, 0, 10, 60])
def test_nothing_is_ordered_after_the_end_of_supply(last_order_day: int) -> None:
    law, holding = PoissonLaw(0.2), Holding(9)
    open_ended = plan_order(law, holding, policy(), horizon_days=365)
    ended = plan_order(law, holding, policy(last_order_day=last_order_day), horizon_days=365)
    assert open_ended.order_day is not None
    if open_ended.order_day <= last_order_day:
        assert ended == open_ended
    else:
        assert (ended.order_day, ended.size, ended.due_after_supply) == (None, None, open_ended.order_day)
        assert ended.state is open_ended.state
    year = plan_year(law, holding, policy(last_order_day=last_order_day), horizon_days=365)
    assert all(order.day <= last_order_day for order in year)
    assert [order for order in plan_year(law, holding, policy(), horizon_days=365) if order.day <= last_order_day][: len(year)] == year
