"""What a chart is held against, lots that stand out, and what an accepted alarm does to lives."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.life.accepted import Discounted, OwnLot, accepted, since_of
from almanac.core.life.alarms.cusum import Chart
from almanac.core.life.alarms.expected import Levels, Nodes, Own, Watched, cells_by_month, charts_of
from almanac.core.life.alarms.history import History, history
from almanac.core.life.alarms.lots import lot_alarm, lot_tail, stand_out
from almanac.core.life.life_data import CONFIRMED, NOT_KNOWN, OPEN, Lives
from almanac.core.life.lot_ratio import lot_ratios

EDGES = [0, 31, 59, 90, 120]
SQUARE = Nodes(np.ones(1), np.array([2.0]), np.array([3.0]), np.array([5.0]))
ALIKE = np.zeros(2, dtype=np.int64)
ONE = Levels([SQUARE], ALIKE, np.zeros(2))


def watched(rows: list[tuple[int, int, int, int, float, float]]) -> Watched:
    cell, born, enter, leave = (np.array([row[place] for row in rows], dtype=np.int64) for place in range(4))
    return Watched(cell, born, enter, leave, np.array([row[4] for row in rows]), np.array([row[5] for row in rows]))


days = st.integers(-2000, 100)


@st.composite
def some_lives(draw: st.DrawFn) -> Watched:
    rows = []
    for _ in range(draw(st.integers(1, 12))):
        born = draw(days)
        enter = draw(st.integers(max(born, 0), 119))
        leave = draw(st.integers(enter + 1, 120))
        rows.append((draw(st.integers(0, 2)), born, enter, leave, float(draw(st.integers(1, 9))), float(draw(st.integers(0, 1)))))
    return watched(rows)


@given(some_lives())
def test_months_add_up_to_the_whole_life_and_lose_no_failure(lives: Watched) -> None:
    cells = cells_by_month(lives, np.array([0, 1, 1]), EDGES, ONE)
    grown = lives.units * (((lives.leave - lives.born) / 365.25) ** 2 - ((lives.enter - lives.born) / 365.25) ** 2)
    assert cells.hazard[2.0].sum(axis=1) == pytest.approx(np.bincount(lives.cell, grown, 3))
    assert cells.failed.sum(axis=1) == pytest.approx(np.bincount(lives.cell, lives.failed, 3))


def test_a_pool_that_ages_faster_has_so_much_more_behind_it() -> None:
    lives = watched([(0, 0, 0, 120, 1.0, 0.0), (1, 0, 0, 120, 1.0, 0.0)])
    paced = Levels([SQUARE], ALIKE, np.array([0.0, np.log(3.0)]))
    own = cells_by_month(lives, np.array([0, 1]), EDGES, paced).hazard[2.0]
    assert own[1] == pytest.approx(own[0] * 9)


def test_each_way_of_counting_the_own_record_is_worked_out_by_hand() -> None:
    """Two cells of one pool, the first is the chart: units of age 0, shape 2, H of the months by the squares of age in years."""
    lives = watched([(0, 0, 0, 60, 10.0, 4.0), (1, 0, 0, 120, 20.0, 2.0)])
    cells = cells_by_month(lives, np.array([0, 0]), EDGES, ONE)
    square = np.array([0, 31, 59, 60, 60]) ** 2 / 365.25**2
    risk, rest = 10 * np.diff(square), 20 * 120**2 / 365.25**2
    first = [np.array([0])]
    left_out = charts_of(cells, first, ONE, [Own.LEFT_OUT])[0]
    assert left_out.expected == pytest.approx((3 + 2) / (5 + rest) * risk)
    whole = charts_of(cells, first, ONE, [Own.WHOLE])[0]
    assert whole.expected == pytest.approx((3 + 2 + 4) / (5 + rest + risk.sum()) * risk)
    before = charts_of(cells, first, ONE, [Own.BEFORE])[0]
    gone = np.array([0, 10 * square[1], 10 * square[2], 10 * square[3]])
    assert before.expected == pytest.approx((3 + 2 + np.array([0, 0, 0, 4])) / (5 + rest + gone) * risk)
    assert left_out.failures.tolist() == [0, 0, 4, 0]
    assert left_out.cv == pytest.approx((3 + 2) ** -0.5)


def test_doubt_between_nodes_widens_a_chart() -> None:
    lives = watched([(0, 0, 0, 120, 10.0, 0.0)])
    nodes = Nodes(np.array([0.5, 0.5]), np.array([2.0, 2.0]), np.array([1e6, 1e6]), np.array([1e6, 0.5e6]))
    two = Levels([nodes], ALIKE[:1], np.zeros(1))
    cells = cells_by_month(lives, np.array([0]), EDGES, two)
    chart = charts_of(cells, [np.array([0])], two, [Own.LEFT_OUT])[0]
    assert chart.cv == pytest.approx(0.5 / 1.5, rel=1e-3)  # levels 1 and 2, each as likely


def test_part_groups_of_one_chart_are_each_held_against_their_own_shape() -> None:
    """A site with one part of shape 2 and one that fails at one rate: what is expected of it is what is expected of each."""
    lives = watched([(0, 0, 0, 120, 10.0, 1.0), (1, 0, 0, 120, 30.0, 2.0)])
    level = Nodes(np.ones(1), np.ones(1), np.array([2.0]), np.array([7.0]))
    both = Levels([SQUARE, level], np.array([0, 1]), np.zeros(2))
    cells = cells_by_month(lives, np.array([0, 1]), EDGES, both)
    assert cells.hazard[1.0][0].sum() == 0  # nobody asks how the first would live at one rate
    site, first, second = charts_of(cells, [np.array([0, 1]), np.array([0]), np.array([1])], both, [Own.LEFT_OUT] * 3)
    assert first.expected == pytest.approx(3 / 5 * 10 * np.diff(np.square([0, 31, 59, 90, 120])) / 365.25**2)
    assert second.expected == pytest.approx(2 / 7 * 30 * np.diff(EDGES) / 365.25)
    assert site.expected == pytest.approx(first.expected + second.expected)
    doubt = first.cv * first.expected.sum() + second.cv * second.expected.sum()
    assert site.cv == pytest.approx(doubt / site.expected.sum())


def test_edges_and_pools_are_checked() -> None:
    lives = watched([(1, 0, 0, 60, 1.0, 0.0)])
    with pytest.raises(ContractError, match="cell"):
        cells_by_month(lives, np.array([0]), EDGES, ONE)
    with pytest.raises(ContractError, match="edges"):
        cells_by_month(lives, np.array([0, 1]), [0, 30, 30], ONE)


@given(st.integers(1, 30), st.floats(0.05, 20.0), st.floats(0.05, 1.5))
def test_a_tail_is_that_of_a_count_whose_mean_is_gamma(failed: int, expected: float, cv: float) -> None:
    size = cv**-2
    levels = np.random.default_rng(1).gamma(size, expected / size, 40_000)
    below = np.zeros_like(levels)
    term = np.exp(-levels)
    for count in range(failed):
        below += term
        term = term * levels / (count + 1)
    played = 1.0 - below
    error = 5 * played.std() / len(levels) ** 0.5 + 1e-3
    assert lot_tail(failed, expected, cv) == pytest.approx(played.mean(), abs=error)


def test_a_tail_of_a_sure_expectation_is_poisson_and_a_part_of_a_failure_is_none() -> None:
    assert lot_tail(2, 1.0, 0.0) == pytest.approx(1 - 2 * np.exp(-1.0))
    assert lot_tail(2.9, 1.0, 0.0) == lot_tail(2, 1.0, 0.0)
    assert lot_tail(0.9, 1.0, 0.3) == 1.0
    assert lot_tail(1, 0.0, 0.3) == 0.0


def test_false_discoveries_are_held_as_published() -> None:
    """Fifteen probabilities of Benjamini & Hochberg (1995), section 3.2: at 5% the first four are named."""
    told = [0.0001, 0.0004, 0.0019, 0.0095, 0.0201, 0.0278, 0.0298, 0.0344, 0.0459, 0.3240, 0.4262, 0.5719, 0.6528, 0.7590, 1.0]
    mixed = np.random.default_rng(3).permutation(15)
    found = stand_out(np.array(told)[mixed], 0.05)
    assert sorted(np.array(told)[mixed][found]) == told[:4]
    assert not stand_out([]).any()
    assert stand_out([0.049], 0.05).tolist() == [True]
    assert stand_out([0.051], 0.05).tolist() == [False]


def test_a_lot_speaks_in_the_month_that_makes_it_too_unlikely_and_never_of_two() -> None:
    failures, expected = np.array([0, 1, 0, 1, 0, 1, 3]), np.array([0, 0.02, 0.02, 0.02, 0.02, 0.02, 0.02])
    alarm = lot_alarm(Chart(failures, expected, 0.1), 1e-3)
    assert alarm is not None
    assert (alarm.period, alarm.since, alarm.observed) == (5, 1, 3)
    assert alarm.expected == pytest.approx(0.1)
    assert lot_alarm(Chart(failures[:5], expected[:5], 0.1), 1e-3) is None
    assert lot_alarm(Chart(failures[:5], expected[:5] / 1000, 0.1), 1e-3) is None  # two are two, however seldom
    assert lot_alarm(Chart(np.array([3.0]), np.array([3.0]), 0.1), 1e-3) is None


@given(st.floats(0, 40), st.floats(0.01, 30))
def test_a_lot_is_held_against_its_own_group_alone(failed: float, risk: float) -> None:
    failures, hazard = np.array([12.0, failed, 50.0]), np.array([10.0, risk, 1.0])
    ratio = lot_ratios(failures, hazard, (1e4, 1e4 / 1.2), np.array([7, 7, 8]), np.array([0, 3, 0]))
    assert ratio[[0, 2]].tolist() == [1.0, 1.0]
    assert ratio[1] == pytest.approx((failed + 0.5) / (1.2 * risk + 0.5), rel=1e-2)


def test_another_lot_is_no_part_of_the_rest() -> None:
    """Both lots are ten times as bad as the rest: neither looks better for the other."""
    ratio = lot_ratios(np.array([10.0, 20.0, 10.0]), np.array([1.0, 2.0, 10.0]), (1.0, 1.0), np.zeros(3, int), np.array([4, 5, 0]))
    assert ratio == pytest.approx([10.5 / 1.5, 20.5 / 2.5, 1.0])


def test_pools_of_a_lot_share_one_ratio() -> None:
    ratio = lot_ratios(np.array([5.0, 1.0, 10.0]), np.array([1.0, 3.0, 10.0]), (1e6, 1e6), np.zeros(3, int), np.array([4, 4, 0]))
    assert ratio[0] == ratio[1] == pytest.approx(6.5 / 4.5, rel=1e-4)


LIFE = {
    "part": 7, "model": 1, "duty": 0, "site": 2, "finding": 0, "fresh": 1, "entry_age": 0, "exit_age": 400, "age_days": 400,
    "good_age": NOT_KNOWN, "in_service": 1, "retire_day": NOT_KNOWN, "age_span": 0, "with_machine": 1, "last_day": 1000,
    "made": 500, "lot": 0,
}  # fmt: skip


def lives(*several: dict[str, int]) -> Lives:
    rows = [{**LIFE, **one} for one in several]
    return Lives(*(np.array([row[name] for row in rows], dtype=np.int64) for name in LIFE))


def test_evidence_from_before_the_day_is_left_out_and_what_goes_on_comes_under_watch_then() -> None:
    given_ = lives({}, {"last_day": 900}, {"last_day": 901, "exit_age": 50, "age_days": 50}, {"site": 3})
    found = accepted(given_, [Discounted(7, 900, sites=(2,))])
    assert found.last_day.tolist() == [1000, 901, 1000]
    assert found.entry_age.tolist() == [300, 49, 0]  # 400 days old on day 1000 is 300 on day 900
    assert found.fresh.tolist() == [0, 0, 1]
    young = accepted(lives({"exit_age": 50, "age_days": 50}), [Discounted(7, 900)])
    assert (young.entry_age.tolist(), young.fresh.tolist()) == ([0], [1])  # fitted after it: nothing of it is left out


def test_of_two_days_the_later_holds_and_others_are_left_alone() -> None:
    decided = [Discounted(7, 800), Discounted(7, 900, model=1, duty=0), Discounted(7, 950, model=2), Discounted(8, 990)]
    assert accepted(lives({}), decided).entry_age.tolist() == accepted(lives({}), decided[::-1]).entry_age.tolist() == [300]
    assert accepted(lives({}), [Discounted(7, 900, duty=1)]).entry_age.tolist() == [0]
    assert accepted(lives({"duty": 1}), [Discounted(7, 900, duty=1)]).entry_age.tolist() == [300]
    assert since_of(decided, 7, 1, 0, 2) == 900
    assert since_of(decided, 7, 1, 1, 2) == 800
    assert since_of(decided, 9, 1, 0, 2) is None
    assert since_of([Discounted(7, 5, sites=(3,))], 7, 1, 0, 2) is None


def test_a_lot_of_its_own_is_told_apart_and_nothing_else_changes() -> None:
    found = accepted(lives({}, {"made": 501}, {"part": 8}), [OwnLot(7, 500, 500)])
    assert found.lot.tolist() == [500, 0, 0]
    assert found.entry_age.tolist() == [0, 0, 0]
    assert accepted(lives({}), []).lot.tolist() == [0]


def test_lives_on_the_calendar_begin_after_the_days_of_dead_on_arrival() -> None:
    found = history(
        lives(
            {"finding": CONFIRMED, "in_service": 0},
            {"finding": OPEN, "in_service": 0},
            {"finding": CONFIRMED, "in_service": 0, "exit_age": 9, "age_days": 9},
            {"age_span": 100, "entry_age": 200},
            {"finding": CONFIRMED, "entry_age": 300, "age_days": 9, "last_day": 2000},  # an old part, dead in its new machine at once
        )
    )
    assert found.confirmed.tolist().pop() == 0
    found = History(*(column[:-1] for column in vars(found).values()))
    assert found.born.tolist() == [600, 650]  # of a span its middle
    assert found.enter.tolist() == [614, 800]
    assert (found.units.tolist(), found.confirmed.tolist(), found.open.tolist()) == ([2, 1], [1, 0], [1, 0])
