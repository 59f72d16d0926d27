"""Units followed by readings: the law of the day each crosses, and of how many do."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.life_tables import life_tables
from almanac.core.demand.trends import Trends, trends
from almanac.core.demand.wear_out import WearOut
from almanac.core.errors import ContractError
from almanac.core.life.wear import WearLine, crossing, wear_line
from almanac.core.life.wear_nodes import WearNodes

THRESHOLD = 0.7


def line_of(seed: int, *, fall: float = 0.3 / 1200, readings: int = 8, scatter: float = 0.01) -> WearLine:
    random = np.random.default_rng(seed)
    day = np.arange(readings) * 91.0
    return wear_line(day, 0.95 - fall * day + random.normal(0.0, scatter, readings))


def one(line: WearLine, today: float, leave: float = np.inf) -> Trends:
    return trends([0], [line], [today], [leave], threshold=THRESHOLD)


@given(st.integers(0, 200), st.integers(6, 12))
@settings(max_examples=30, deadline=None)
def test_the_probability_at_fiellers_limits_is_theirs(seed: int, readings: int) -> None:
    line = line_of(seed, readings=readings, scatter=0.004)
    limits = crossing(line, THRESHOLD, level=0.9)
    today = 91.0 * (readings - 1)
    below = one(line, today).below(np.array([[limits.low - today], [limits.day - today], [limits.high - today]]))[:, 0]
    np.testing.assert_allclose(below, [0.05, 0.5, 0.95], atol=1e-9)


@given(st.integers(0, 200), st.floats(0.0, 900.0), st.floats(1.0, 900.0))
@settings(max_examples=40, deadline=None)
def test_crossings_begin_today_rise_and_end_when_the_machine_goes(seed: int, today: float, leave: float) -> None:
    days = np.array([0.0, 30.0, 200.0, 800.0, 3000.0])
    chance = one(line_of(seed), today).crossed(days)[:, 0]
    assert chance[0] == 0.0
    assert (np.diff(chance) >= 0).all()
    assert chance[-1] > 0.99
    gone = one(line_of(seed), today, leave).crossed(days)[:, 0]
    at_leaving = one(line_of(seed), today).crossed([leave])[0, 0]
    np.testing.assert_allclose(gone, np.where(days < leave, chance, at_leaving), atol=1e-12)
    assert (gone <= chance + 1e-12).all()


def test_what_is_below_already_is_due_at_once() -> None:
    worn = one(line_of(3), 2500.0)
    assert worn.below(0.0)[0] > 0.999
    assert worn.crossed([0.0, 1.0])[:, 0].tolist() == [0.0, 1.0]


def test_readings_on_a_line_exactly_name_the_day() -> None:
    line = wear_line([0.0, 100.0, 200.0, 300.0], [1.0, 0.95, 0.90, 0.85])
    chance = one(line, 300.0).crossed([299.0, 301.0])[:, 0]
    assert chance[0] < 0.01
    assert chance[1] > 0.99


def test_followed_units_are_counted_as_independent_ones_beside_the_rest() -> None:
    nodes = WearNodes(np.ones(1), np.array([2.6]), np.array([4.0]), np.array([160.0]), np.array([[120.0]]))
    kind = life_tables(nodes, np.array([6.0]), oldest_years=8.0, horizon_days=400)
    nobody = age_groups(np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0))
    followed = trends([0, 0, 0], [line_of(seed) for seed in (1, 2, 3)], [637.0] * 3, [np.inf, np.inf, 300.0], threshold=THRESHOLD)
    window = np.array([[0.0, 365.0]])
    alone = WearOut(kind, np.array([0]), nobody, followed)
    chance = followed.crossed([365.0])[0]
    z = np.exp(-2j * np.pi * np.arange(4) / 4)
    found = np.fft.ifft(alone.generating(window, z)[0, 0]).real
    exact = np.array([1.0])
    for p in chance:
        exact = np.convolve(exact, [1 - p, p])
    np.testing.assert_allclose(found, exact, atol=1e-12)
    mean, variance = alone.moments(window)
    assert mean[0, 0] == pytest.approx(chance.sum())
    assert variance[0, 0] == pytest.approx((chance * (1 - chance)).sum())
    rest = age_groups(np.array([0]), np.array([3.0]), np.array([9.0]), np.zeros(1), np.full(1, np.inf))
    both, by_age = WearOut(kind, np.array([0]), rest, followed), WearOut(kind, np.array([0]), rest)
    assert both.mean_by_pool(window)[0, 0] == pytest.approx(by_age.mean_by_pool(window)[0, 0] + chance.sum())
    np.testing.assert_allclose(both.generating(window, z), by_age.generating(window, z) * alone.generating(window, z), atol=1e-12)


def test_chances_are_kept_by_simulated_packs() -> None:
    """Packs with a true line: the chance given for crossing within 200 days holds on average."""
    random = np.random.default_rng(11)
    said, came = [], []
    for _ in range(400):
        fall, day = random.uniform(0.2, 0.5) / 1000, np.arange(9) * 91.0
        line = wear_line(day, 1.0 - fall * day + random.normal(0.0, 0.008, day.size))
        crosses = 0.3 / fall
        if line.slope >= 0 or crosses <= day[-1]:
            continue
        said.append(float(one(line, day[-1]).crossed([200.0])[0, 0]))
        came.append(crosses <= day[-1] + 200.0)
    assert np.sum(came) == pytest.approx(np.sum(said), abs=3 * np.sqrt(np.sum(np.array(said) * (1 - np.array(said)))) + 3)
    assert stats.pearsonr(said, came).statistic > 0.8


def test_contracts() -> None:
    line = line_of(1)
    with pytest.raises(ContractError, match="pool, today"):
        trends([0, 1], [line], [0.0], [np.inf], threshold=THRESHOLD)
    with pytest.raises(ContractError, match=r"lines\[0\]"):
        trends([0], [wear_line([0.0, 1.0, 2.0], [0.8, 0.9, 1.0])], [2.0], [np.inf], threshold=THRESHOLD)
    with pytest.raises(ContractError, match="threshold"):
        trends([0], [line], [0.0], [np.inf], threshold=1.5)
