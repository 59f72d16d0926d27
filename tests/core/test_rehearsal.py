"""Policies played forward: they agree with what was worked out, nothing is lost or made, and every draw has its seed."""

from __future__ import annotations

import numpy as np
import pytest

from almanac.core.errors import ContractError
from almanac.core.network.evaluate import Curves
from almanac.core.network.nodes import Lane, Network
from almanac.core.rehearsal.figures import mean, share, shown
from almanac.core.rehearsal.plan import PlayedPolicies, Requests, Start, lead_table, steady
from almanac.core.rehearsal.play import Record, play
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.rates import known_rate
from almanac.core.stock.reorder import ReorderPolicy, service_of
from almanac.core.stock.review import review_demand

NONE = np.zeros((1, 0), dtype=np.int64)


def shelf(s: int, lot: int, *, review: int = 14, leads: tuple[list[int], list[float]] = ([21], [1.0])) -> PlayedPolicies:
    days, cumulative = lead_table([leads])
    return PlayedPolicies(np.array([s]), np.array([lot]), np.array([review]), NONE, NONE, NONE, days, cumulative)


def sites(s: int, lot: int, levels: list[int], lanes: list[tuple[int, int]]) -> PlayedPolicies:
    days, cumulative = lead_table([([21, 28], [0.6, 0.4])])
    lane, every = (np.array([values]) for values in zip(*lanes, strict=True))
    return PlayedPolicies(np.array([s]), np.array([lot]), np.array([14]), np.array([levels]), lane, every, days, cumulative)


def steadily(rates: list[float], runs: int) -> Requests:
    return Requests((0,), (np.repeat(np.array(rates)[None, :, None] / 365, runs, axis=2),))


def played(policies: PlayedPolicies, rates: list[float], *, runs: int = 300, years: int = 12, seed: int = 1) -> Record:
    return play(policies, steadily(rates, runs), steady(policies), days=365 * years, seed=seed, counts_from=365)


@pytest.mark.parametrize(("a_year", "s", "lot", "review"), [(3, 1, 1, 14), (20, 4, 4, 7), (0.5, 0, 1, 30)])
def test_one_shelf_gives_what_was_promised(a_year: float, s: int, lot: int, review: int) -> None:
    record = played(shelf(s, lot, review=review), [a_year])
    promised = service_of(review_demand(known_rate(a_year / 365), lead_time([21], [1.0]), review), ReorderPolicy(s, lot), review)
    found = shown(record, np.ones(1), np.zeros(1))
    assert found.fill is not None
    assert found.fill.value == pytest.approx(promised.fill, abs=4 * found.fill.error + 0.003)
    assert found.ready.value == pytest.approx(promised.ready, abs=4 * found.ready.error + 0.003)
    assert found.expected_waiting.value == pytest.approx(promised.expected_waiting, abs=4 * found.expected_waiting.error + 0.02)
    assert found.on_hand.value == pytest.approx(promised.expected_on_hand, abs=4 * found.on_hand.error + 0.03)
    assert found.orders_a_year.value == pytest.approx(promised.orders_a_year, abs=4 * found.orders_a_year.error + 0.02)


def test_a_depot_and_its_sites_give_what_was_promised() -> None:
    lanes = [(4, 7), (11, 14), (2, 7)]
    made = Network(
        np.ones(1), np.array([5 / 365]), np.array([[3, 1, 6]]) / 365, tuple(Lane(*lane) for lane in lanes),
        lead_time([21, 28], [0.6, 0.4]), 14.0, 2,
    )  # fmt: skip
    promised = Curves(made).figures(2, [1, 1, 2])
    record = played(sites(2, 2, [1, 1, 2], lanes), [5, 3, 1, 6])
    found = shown(record, np.ones(1), np.zeros(1))
    assert found.fill is not None
    assert found.fill.value == pytest.approx(promised.fill, abs=0.006)
    by_place = record.met.sum(axis=(0, 2)) / record.asked.sum(axis=(0, 2))
    assert by_place == pytest.approx([promised.depot.fill, *(site.fill for site in promised.sites)], abs=0.015)
    assert found.expected_waiting.value == pytest.approx(promised.expected_waiting, rel=0.08)
    assert found.on_hand.value == pytest.approx(promised.stock, abs=0.1)


def test_nothing_is_lost_and_nothing_is_made() -> None:
    """What came, less what was used, is what there is: orders of the game equal requests, but for what the position may hold."""
    policies = sites(3, 4, [2, 1], [(4, 7), (9, 14)])
    runs, days = 40, 365 * 6
    record = play(policies, steadily([6, 9, 4], runs), steady(policies), days=days, seed=4)
    used, ordered = record.asked.sum(axis=(0, 1)), record.ordered.sum(axis=0)
    assert np.all(ordered >= used - 4)
    assert np.all(ordered <= used + 4)
    assert np.all(record.met <= record.asked)


def test_a_place_that_holds_plenty_never_lets_anybody_wait() -> None:
    record = played(shelf(60, 1), [12], runs=20)
    found = shown(record, np.ones(1), np.zeros(1))
    assert found.fill is not None
    assert found.fill.value == 1.0
    assert found.expected_waiting.value == 0.0
    assert found.chance_of_waiting_a_year.value == 0.0


def test_the_first_day_is_where_parts_are() -> None:
    """Nothing on the shelf, one on its way: whoever asks before it comes waits."""
    policies = shelf(0, 1, review=1)
    start = Start(np.array([0]), np.zeros((1, 0), dtype=np.int64), arrivals=((30, 0, 1),))
    record = play(policies, steadily([0.0], 1), start, days=40, seed=1)
    assert int(record.ready[0, 0, 0]) == 10
    owed = Start(np.array([-2]), np.zeros((1, 0), dtype=np.int64))
    record = play(policies, steadily([0.0], 1), owed, days=60, seed=1)
    assert record.waiting[0, 0] == pytest.approx(2 * 22)
    assert record.ordered[0, 0] == 3


def test_a_boat_under_way_arrives_and_spare_parts_are_used_up_first() -> None:
    policies = sites(-1, 1, [1], [(5, 7)])
    start = Start(np.array([0]), np.array([[0]]), boats=((3, 0, 0, 1),))
    record = play(policies, steadily([0.0, 0.0], 3), start, days=20, seed=1)
    assert record.ready[0, 1].tolist() == [17, 17, 17]
    assert record.ordered.sum() == 0
    spare = Start(np.array([0]), np.array([[5]]))
    record = play(policies, steadily([0.0, 3.0], 50), spare, days=200, seed=1)
    asked = record.asked[0, 1]
    assert np.all(record.ordered[0] <= np.maximum(asked - 4, 0) + 1)


def test_the_same_seed_plays_the_same_game() -> None:
    one, other, another = (played(shelf(1, 1), [3], runs=20, years=3, seed=seed) for seed in (1, 1, 2))
    assert np.array_equal(one.asked, other.asked)
    assert np.array_equal(one.waiting, other.waiting)
    assert not np.array_equal(one.asked, another.asked)


def test_rates_may_change_on_a_day() -> None:
    runs = 200
    tables = Requests((0, 100), (np.zeros((1, 1, runs)), np.full((1, 1, runs), 0.1)))
    record = play(shelf(5, 1), tables, steady(shelf(5, 1)), days=200, seed=1)
    assert record.asked.mean() == pytest.approx(10.0, abs=0.7)


def test_errors_are_those_of_runs() -> None:
    values = np.array([1.0, 3.0, 2.0, 6.0])
    assert mean(values).error == pytest.approx(values.std(ddof=1) / 2)
    assert share(np.zeros(3), np.zeros(3)) is None
    even = share(np.full(50, 9), np.full(50, 10))
    assert even is not None
    assert (even.value, even.error) == (0.9, 0.0)


def test_tables_of_other_sizes_are_refused() -> None:
    with pytest.raises(ContractError, match="tables for 1 parts at 1 places"):
        play(shelf(1, 1), steadily([1, 2], 3), steady(shelf(1, 1)), days=10, seed=1)
    with pytest.raises(ContractError, match="counts_from"):
        play(shelf(1, 1), steadily([1], 3), steady(shelf(1, 1)), days=10, seed=1, counts_from=10)
    with pytest.raises(ContractError, match="from day 0 on"):
        Requests((3,), (np.zeros((1, 1, 1)),))


def test_a_game_can_be_stopped() -> None:
    class Stopped(Exception):
        pass

    def told(day: int, days: int) -> None:
        assert days == 100
        if day > 30:
            raise Stopped

    with pytest.raises(Stopped):
        play(shelf(1, 1), steadily([1], 3), steady(shelf(1, 1)), days=100, seed=1, told=told)
