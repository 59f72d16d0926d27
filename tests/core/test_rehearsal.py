"""Policies played forward: they agree with what was worked out, nothing is lost or made, and every draw has its seed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from almanac.core.errors import ContractError
from almanac.core.network.evaluate import Curves
from almanac.core.network.nodes import Lane, Network
from almanac.core.rehearsal.figures import mean, share, shown
from almanac.core.rehearsal.plan import PlayedPolicies, Requests, ShelfLives, Start, lead_table, steady
from almanac.core.rehearsal.play import Record, play
from almanac.core.rehearsal.rules import as_today, fixed_share, one_left
from almanac.core.rehearsal.table import NEVER, Expires, Kept, PartToPlay, changes_of, policies_of, requests_of, start_of
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


class TestExpiry:
    """What expires unused is lost, what was handed out is not, and no more is ordered than is used in time."""

    @staticmethod
    def lives(days: int, *, cap: int = 1000, pack: int = 1) -> ShelfLives:
        return ShelfLives(np.array([days]), np.array([cap]), np.array([pack]), np.array([pack]))

    def test_a_lot_nobody_asks_for_is_lost_after_its_last_day(self) -> None:
        policies = replace(shelf(-1, 1), lives=self.lives(0))
        start = Start(np.array([4]), np.zeros((1, 0), dtype=np.int64), lots=((10, 0, 3),))
        record = play(policies, steadily([0.0], 2), start, days=12, seed=1, watched=(10, 11, 12))
        assert record.stock[:, 0, 0].tolist() == [4, 4, 1]
        assert record.scrapped[0].tolist() == [3, 3]

    def test_what_was_handed_out_before_came_from_the_lot_that_expires_first(self) -> None:
        runs = 50
        policies = replace(shelf(-1, 1), lives=self.lives(0))
        start = Start(np.array([40]), np.zeros((1, 0), dtype=np.int64), lots=((99, 0, 5),))
        record = play(policies, steadily([10.0], runs), start, days=150, seed=3)
        early = play(policies, steadily([10.0], runs), start, days=100, seed=3)
        used = early.asked[0, 0]
        assert np.array_equal(record.scrapped[0], np.maximum(5 - used, 0))
        assert 0 < int((record.scrapped[0] > 0).sum()) < runs

    def test_what_comes_lives_for_its_days_and_what_is_kept_is_ordered_again(self) -> None:
        policies = replace(shelf(0, 1, review=1, leads=([5], [1.0])), lives=self.lives(50))
        start = Start(np.array([0]), np.zeros((1, 0), dtype=np.int64))
        record = play(policies, steadily([0.0], 1), start, days=366, seed=1)
        # On the shelf from day 6 to 56, then again: five days of lead and a review in between.
        assert int(record.scrapped[0, 0]) == 6
        assert int(record.ordered[0, 0]) == 7

    def test_a_site_that_loses_one_asks_for_another(self) -> None:
        policies = replace(sites(0, 1, [2], [(3, 7)]), lives=self.lives(0))
        start = Start(np.array([5]), np.array([[2]]), lots=((20, 0, 7),))
        record = play(policies, steadily([0.0, 0.0], 3), start, days=120, seed=1, watched=(22, 120))
        assert record.stock[0].max() <= 3  # two owed to the site, one for the depot: nothing else is left on any shelf
        assert record.stock[1].tolist() == [[3, 3, 3]]
        assert np.all(record.scrapped == 7)
        assert np.all(record.ready[0, 1] > 60)  # its own shelf is filled again

    @pytest.mark.parametrize(("cap", "pack", "ordered"), [(1000, 1, 6), (4, 1, 4), (4, 3, 3), (1, 3, 3)])
    def test_an_order_is_cut_to_what_is_used_in_time_but_for_the_smallest(self, cap: int, pack: int, ordered: int) -> None:
        policies = replace(shelf(5, pack, review=400), lives=self.lives(900, cap=cap, pack=pack), first_review=np.array([1]))
        start = Start(np.array([0]), np.zeros((1, 0), dtype=np.int64))
        assert int(play(policies, steadily([0.0], 1), start, days=10, seed=1).ordered[0, 0]) == ordered

    def test_the_last_day_of_what_came_is_counted_from_the_day_it_came(self) -> None:
        policies = replace(shelf(-1, 1), lives=self.lives(10), last_order=np.array([-1]))
        start = Start(np.array([0]), np.zeros((1, 0), dtype=np.int64), arrivals=((5, 0, 2),))
        record = play(policies, steadily([0.0], 1), start, days=20, seed=1, watched=(16, 17))
        assert record.stock[:, 0, 0].tolist() == [2, 0]  # there all day on day 15, ten days after it came; gone on day 16

    def test_whoever_waits_elsewhere_has_not_used_what_expires(self) -> None:
        policies = replace(sites(-1, 1, [3], [(3, 7)]), lives=self.lives(0), last_order=np.array([-1]))
        start = Start(np.array([-2]), np.array([[3]]), lots=((20, 0, 3),))
        record = play(policies, steadily([0.0, 0.0], 1), start, days=30, seed=1)
        assert int(record.scrapped[0, 0]) == 3

    def test_who_waited_at_first_took_from_what_came_first(self) -> None:
        policies = replace(shelf(-1, 1), lives=self.lives(0), last_order=np.array([-1]))
        nobody = np.zeros((1, 0), dtype=np.int64)
        start = Start(np.array([-2]), nobody, arrivals=((5, 0, 4), (25, 0, 2)), lots=((30, 0, 4), (90, 0, 2)))
        record = play(policies, steadily([0.0], 1), start, days=40, seed=1, watched=(40,))
        assert int(record.scrapped[0, 0]) == 2
        assert int(record.stock[0, 0, 0]) == 2  # of the second lot nothing is lost before its day

    def test_somebody_who_waits_has_taken_nothing(self) -> None:
        policies = replace(shelf(-1, 1), lives=self.lives(0))
        start = Start(np.array([-2]), np.zeros((1, 0), dtype=np.int64), arrivals=((5, 0, 4),), lots=((30, 0, 4),))
        record = play(policies, steadily([0.0], 1), start, days=40, seed=1)
        assert int(record.scrapped[0, 0]) == 2


def test_nothing_is_ordered_after_the_last_day_it_is_sold() -> None:
    policies = replace(shelf(3, 1, review=1), last_order=np.array([60]))
    record = play(policies, steadily([40.0], 30), steady(policies), days=365, seed=1)
    assert np.all(record.ordered_by_quarter[1:] == 0)
    assert np.all(record.ordered_by_quarter[0] > 0)
    assert record.waiting.min() > 0


def test_the_same_requests_come_whatever_is_done_about_them() -> None:
    little, much = shelf(0, 1), shelf(9, 3, review=7)
    one, other = (play(own, steadily([12.0], 40), steady(own), days=700, seed=5) for own in (little, much))
    assert np.array_equal(one.asked, other.asked)
    assert one.met.sum() < other.met.sum()


def test_each_part_counts_from_its_own_day_and_what_was_before_is_told_apart() -> None:
    days, cumulative = lead_table([([21], [1.0])] * 2)
    none = np.zeros((2, 0), dtype=np.int64)
    two = PlayedPolicies(np.array([2, 2]), np.array([1, 1]), np.array([7, 7]), none, none, none, days, cumulative)
    empty = Start(np.array([0, 0]), np.zeros((2, 0), dtype=np.int64))
    rates = Requests((0,), (np.full((2, 1, 60), 0.1),))
    whole = play(two, rates, empty, days=400, seed=2)
    parted = play(two, rates, empty, days=400, seed=2, counts_from=np.array([0, 100]))
    assert np.array_equal(parted.asked[0], whole.asked[0])
    assert np.array_equal(parted.asked[1].sum(axis=0) + parted.before_asked[1], whole.asked[1].sum(axis=0))
    assert np.array_equal(parted.met[1].sum(axis=0) + parted.before_met[1], whole.met[1].sum(axis=0))
    assert np.allclose(parted.waiting + parted.before_waiting, whole.waiting)
    assert parted.before_asked[0].max() == 0
    assert parted.days.tolist() == [400, 300]
    assert np.array_equal(parted.orders_by_quarter, whole.orders_by_quarter)
    assert np.array_equal(whole.ordered_by_quarter.sum(axis=0), whole.ordered)
    fill = shown(parted, np.ones(2), np.zeros(2), 1).fill
    assert fill is not None
    assert fill.value == pytest.approx(float(parted.met[1].sum() / parted.asked[1].sum()))


def test_years_in_which_anybody_waited_are_counted_once() -> None:
    """A shelf that nobody refills makes somebody wait in every year; the chance of a wait is one, and no more."""
    never = replace(shelf(-1, 1), last_order=np.array([-1]))
    record = play(never, steadily([50.0], 5), steady(never), days=3 * 365 + 40, seed=1, counts_from=np.array([40]))
    assert record.years_waited.tolist() == [[3] * 5]
    assert record.years_any.tolist() == [3] * 5
    assert shown(record, np.ones(1), np.zeros(1)).chance_of_waiting_a_year.value == pytest.approx(1.0)


class TestTable:
    """Parts put side by side play as each by itself would."""

    @staticmethod
    def part(**changes: object) -> PartToPlay:
        plain = PartToPlay(
            from_day=(0, 60), a_day=(0.05, 0.1), doubt=None, shares=(0.3,), lead=((14, 30), (0.7, 0.3)), review=7, lanes=((4, 7),),
            depot=3, sites=(1,), arrivals=((9, 2),), boats=((2, 0, 1),),
        )  # fmt: skip
        return replace(plain, **changes)  # type: ignore[arg-type]

    def test_days_and_places_are_each_parts_own(self) -> None:
        parts = [self.part(), self.part(from_day=(0, 30), a_day=(0.2, 0.0), shares=(0.0,), doubt=4.0)]
        requests = requests_of(parts, 500, 1)
        assert requests.from_day == (0, 30, 60)
        first, second, third = requests.rates
        assert first[0, :, 0].tolist() == pytest.approx([0.035, 0.015])
        assert second[0].tolist() == first[0].tolist()
        assert third[0, :, 0].tolist() == pytest.approx([0.07, 0.03])
        assert second[1].max() == 0
        assert first[1, 0].mean() == pytest.approx(0.2, rel=0.1)
        assert first[1, 0].std() == pytest.approx(0.1, rel=0.15)
        assert parts[0].helped_on == 14

    def test_what_is_kept_changes_on_its_days(self) -> None:
        kept = [Kept(2, 1, (1,), ((50, 4, (2,)),)), Kept(0, 5, (0,), ((80, 1, (3,)),))]
        changes = changes_of(kept)
        assert [(one.day, one.s.tolist(), one.level.tolist()) for one in changes] == [(50, [4, 0], [[2], [0]]), (80, [4, 1], [[2], [3]])]

    def test_what_stands_and_what_expires_is_told_by_row(self) -> None:
        parts = [self.part(), self.part(expires=Expires(700, 9, 2, 4, ((20, 3),)), last_order=12)]
        start = start_of(parts)
        assert start.arrivals == ((9, 0, 2), (9, 1, 2))
        assert start.boats == ((2, 0, 0, 1), (2, 1, 0, 1))
        assert start.lots == ((20, 1, 3),)
        policies = policies_of(parts, [Kept(2, 1, (1,)), Kept(0, 5, (0,))])
        assert policies.last_order is not None
        assert policies.last_order.tolist() == [NEVER, 12]
        assert policies.lives is not None
        assert (policies.lives.days.tolist(), policies.lives.least.tolist()) == ([0, 700], [1, 4])
        assert policies_of(parts[:1], [Kept(2, 1, (1,))]).lives is None


def test_rules_of_thumb_keep_what_they_say() -> None:
    assert one_left([0.3, 0.0], 2) == Kept(1, 2, (1, 0))
    assert fixed_share(0.02, 300, [0.5, 0.25], 1) == Kept(1, 1, (3, 1))
    assert fixed_share(0.02, 0, [0.5], 1) == Kept(-1, 1, (0,))
    assert as_today(3, 2, [2, -1], 1) == Kept(4, 1, (2, 0))
    assert as_today(0, 0, [], 1) == Kept(-1, 1, ())
