"""Followed units: how many cross the threshold in a window, from draws of the day each does."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.crossings import Crossings, crossings, joined
from almanac.core.demand.life_tables import life_tables
from almanac.core.demand.wear_out import WearOut
from almanac.core.errors import ContractError
from almanac.core.life.wear_nodes import WearNodes


def units_of(seed: int, count: int = 3, draws: int = 40) -> Crossings:
    days = np.random.default_rng(seed).gamma(2.0, 300.0, (draws, count))
    return crossings(np.arange(count), days, np.full(count, np.inf))


@given(st.integers(0, 500), st.floats(1.0, 900.0))
def test_chances_rise_from_nothing_and_end_when_the_machine_goes(seed: int, leave: float) -> None:
    units = units_of(seed)
    days = np.array([0, 1, 30, 90, 365, 1500, 1e6])
    found = units.crossed(days)
    assert found.shape == (7, 3)
    assert (found[0] == 0).all()
    assert (np.diff(found, axis=0) >= 0).all()
    assert (found[-1] == 1).all()
    gone = Crossings(units.pool, units.days, np.full(3, leave)).crossed(days)
    at_leaving = units.crossed([leave])
    np.testing.assert_allclose(gone, np.where(days[:, None] < leave, found, at_leaving))


def test_a_chance_is_the_share_of_draws() -> None:
    units = crossings([0], [[10.0], [20.0], [30.0], [400.0]], [np.inf])
    assert units.crossed([9, 10, 25, 365, 400])[:, 0].tolist() == [0.0, 0.25, 0.5, 0.75, 1.0]


def test_what_is_due_is_due_at_once_unless_its_machine_is_gone() -> None:
    assert crossings([0], np.zeros((5, 1)), [np.inf]).crossed([1]) == pytest.approx(1.0)
    assert crossings([0], np.zeros((5, 1)), [0.0]).crossed([1]) == pytest.approx(0.0)


def test_units_of_several_parts_stand_one_behind_the_other() -> None:
    one, other = units_of(1, 2), units_of(7, 3)
    both = joined([one, other])
    np.testing.assert_allclose(both.crossed([200, 365]), np.concatenate((one.crossed([200, 365]), other.crossed([200, 365])), axis=1))
    with pytest.raises(ContractError, match="as many draws"):
        joined([one, units_of(7, 3, draws=20)])


def test_followed_units_are_counted_as_independent_ones_beside_the_rest() -> None:
    nodes = WearNodes(np.ones(1), np.array([2.6]), np.array([4.0]), np.array([160.0]), np.array([[120.0]]))
    kind = life_tables(nodes, np.array([6.0]), oldest_years=8.0, horizon_days=400)
    nobody = age_groups(np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0))
    units = units_of(5)
    followed = Crossings(np.zeros(3, dtype=np.int64), units.days, np.array([np.inf, np.inf, 300.0]))
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


def test_what_cannot_be_is_refused() -> None:
    with pytest.raises(ContractError, match="as many units"):
        crossings([0, 1], [[1.0]], [np.inf, np.inf])
    with pytest.raises(ContractError, match="as many units"):
        crossings([0], [[1.0]], [np.inf, np.inf])
    for wrong in (-1.0, float("nan")):
        with pytest.raises(ContractError, match="none before today"):
            crossings([0], [[wrong]], [np.inf])
