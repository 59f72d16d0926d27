"""Keeping a part at all, and the last buy."""

from __future__ import annotations

from dataclasses import replace

import pytest
from scipy.stats import nbinom, poisson

from almanac.bench.steady import Steady
from almanac.core.errors import ContractError
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.path import Holding
from almanac.core.stock.policy import Policy
from almanac.core.stock.rates import doubted_rate, known_rate
from almanac.core.stock.shelf import Shelf
from almanac.core.stock.shelf_plan import later_levels, plan_shelf
from almanac.core.stock.stocked import LastBuy, last_buy, stocking


def test_not_keeping_costs_every_wait_and_keeping_costs_one() -> None:
    found = stocking(0.5, 20, 12.0, 8.0)
    assert (found.without, found.with_one, found.worth_it) == (120.0, 8.0, True)
    assert not stocking(0.01, 20, 12.0, 8.0).worth_it
    assert stocking(0.0, 20, 12.0, 8.0).without == 0.0
    with pytest.raises(ContractError, match="days"):
        stocking(1, -1, 1, 1)


def test_the_last_buy_suffices_with_its_chance() -> None:
    buy = last_buy(known_rate(0.02), 500, 0.95, 3)
    enough = int(poisson.ppf(0.95, 10))
    assert buy.expected == pytest.approx(10.0)
    assert (buy.enough, buy.quantity) == (enough, enough - 3)
    doubt = last_buy(doubted_rate(4.0, 200.0), 500, 0.95, 3)
    assert doubt.enough == int(nbinom.ppf(0.95, 4.0, 200.0 / 700.0)) > enough


def test_what_is_there_and_packs_count() -> None:
    assert last_buy(known_rate(0.02), 500, 0.95, 40).quantity == 0
    assert last_buy(known_rate(0.02), 500, 0.95, 3, pack=5).quantity % 5 == 0
    assert last_buy(known_rate(0.02), 500, 0.95, -2).quantity == last_buy(known_rate(0.02), 500, 0.95, 0).quantity + 2
    assert last_buy(known_rate(0.02), 0, 0.95, 1) == LastBuy(0.0, 0, 1, 0)
    with pytest.raises(ContractError, match="chance"):
        last_buy(known_rate(0.02), 500, 1.0, 3)


def test_one_place_that_keeps_none_orders_once_somebody_waits() -> None:
    policy = Policy(target=0.95, review_days=14, lead=lead_time([21], [1.0]))
    law = Steady(known_rate(6 / 365))
    kept = plan_shelf(law, Shelf(Holding(0)), policy, horizon_days=365)
    none = plan_shelf(law, Shelf(Holding(0)), replace(policy, stocked=False), horizon_days=365)
    waits = plan_shelf(law, Shelf(Holding(-1)), replace(policy, stocked=False), horizon_days=365)
    assert kept is not None
    assert none is not None
    assert waits is not None
    assert kept.order_at > 0
    assert (none.order_at, none.quantity) == (-1, 0)
    assert waits.quantity == 1
    assert later_levels(law, Shelf(Holding(0)), replace(policy, stocked=False), none, (91,)) == ()
