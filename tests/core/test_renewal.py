"""Renewals of parts that wear out: closed forms, simulation, and properties."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import stats

from almanac.core.demand.renewal import RenewalTable, WeibullLife, fleet, position_pmf, weibull_life, window_pmf
from almanac.core.errors import ContractError

INF = float("inf")


def test_a_shape_of_one_is_poisson_whatever_the_age() -> None:
    units = fleet([10, 4], [5.0, 0.0], [0.0, 0.5], [INF, 1.5])
    pmf = window_pmf(units, weibull_life(1.0, 8.0), [[0, 2], [1, 2]], replace=True)
    n = np.arange(pmf.shape[1])
    np.testing.assert_allclose(pmf[0], stats.poisson.pmf(n, (20 + 4) / 8), atol=1e-7)
    np.testing.assert_allclose(pmf[1], stats.poisson.pmf(n, (10 + 2) / 8), atol=1e-7)


def test_a_shape_of_two_and_no_replacement_is_binomial() -> None:
    units = fleet([30], [3.0], [0.0], [INF])
    pmf = window_pmf(units, weibull_life(2.0, 9.0), [[0, 4]], replace=False)[0]
    chance = 1 - np.exp((3 / 9) ** 2 - (7 / 9) ** 2)
    np.testing.assert_allclose(pmf[:31], stats.binom.pmf(np.arange(31), 30, chance), atol=1e-12)


def _simulated(age: float, life: WeibullLife, window: tuple[float, float], draws: int, seed: int) -> NDArray[np.int64]:
    """Failures in a window, position by position, as they happen."""
    chance = np.random.default_rng(seed)
    counts = np.zeros(draws, dtype=int)
    for draw in range(draws):
        left = life.scale * (chance.exponential() + (age / life.scale) ** life.shape) ** (1 / life.shape) - age
        while left <= window[1]:
            counts[draw] += left > window[0]
            left += life.scale * chance.weibull(life.shape)
    return counts


@pytest.mark.parametrize(
    ("shape", "scale", "age", "window"),
    [(2.5, 4.0, 2.0, (0.0, 6.0)), (2.5, 4.0, 2.0, (3.0, 6.0)), (0.7, 5.0, 0.0, (0.0, 4.0)), (4.0, 1.5, 0.3, (1.0, 3.5))],
)
def test_counts_of_one_position_are_those_of_a_simulation(shape: float, scale: float, age: float, window: tuple[float, float]) -> None:
    life = weibull_life(shape, scale)
    pmf = position_pmf(RenewalTable(life, window[1]), [age], window, replace=True)[0]
    drawn = _simulated(age, life, window, 40_000, 5)
    for count in range(5):
        expected = pmf[count] if count < pmf.size else 0.0
        assert np.mean(drawn == count) == pytest.approx(expected, abs=4 * np.sqrt(0.25 / 40_000))


def test_many_renewals_are_narrower_than_poisson() -> None:
    """Forty units with several renewals a year: the true spread is far narrower than that of a Poisson of the same mean."""
    units = fleet([40], [0.0], [0.0], [INF])
    pmf = window_pmf(units, weibull_life(3.0, 5.0), [[0, 12]], replace=True)[0]
    n = np.arange(pmf.size)
    mean = pmf @ n
    sd = np.sqrt(pmf @ n**2 - mean**2)
    assert mean > 80
    assert sd < 0.55 * np.sqrt(mean)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 5), st.floats(2, 30), st.floats(0, 20), st.floats(0.5, 6))
def test_windows_add_up_in_their_means_and_every_law_is_whole(shape: float, scale: float, age: float, time: float) -> None:
    life = weibull_life(shape, scale)
    units = fleet([3], [age], [0.0], [INF])
    half = time / 2
    rows = window_pmf(units, life, [[0, time], [0, half], [half, time]], replace=True)
    means = rows @ np.arange(rows.shape[1])
    assert rows.sum(axis=1) == pytest.approx(np.ones(3), abs=1e-9)
    # A part many lives old fails within days, where the table's steps are coarse.
    assert means[0] == pytest.approx(means[1] + means[2], rel=1e-5 if age <= 2 * scale else 2e-3, abs=1e-7)
    once = window_pmf(units, life, [[0, time]], replace=False)[0]
    assert once @ np.arange(once.size) == pytest.approx(3 * float(life.failed_by(np.array([time]), age)[0]), rel=1e-9)


def test_the_renewal_function_of_two_stages_has_its_closed_form() -> None:
    """Shape 1: M(t) = t / scale exactly; and a fresh part's first failures alone are F."""
    table = RenewalTable(weibull_life(1.0, 3.0), 9.0)
    assert table.renewals(np.array([3.0, 9.0])) == pytest.approx([1.0, 3.0], rel=1e-6)
    assert table.reached(1, np.array([4.0]))[0] == pytest.approx(1 - np.exp(-4 / 3), rel=1e-9)
    assert table.reached(2, np.array([4.0]))[0] == pytest.approx(stats.gamma.cdf(4 / 3, 2), rel=1e-6)


def test_positions_that_come_and_go() -> None:
    life = weibull_life(2.0, 6.0)
    never = window_pmf(fleet([5], [1.0], [3.0], [2.0]), life, [[0, 4]], replace=True)
    assert never[0].tolist() == [1.0]
    late = window_pmf(fleet([5], [0.0], [2.0], [INF]), life, [[0, 4]], replace=True)
    now = window_pmf(fleet([5], [0.0], [0.0], [2.0]), life, [[0, 4]], replace=True)
    np.testing.assert_allclose(late[0][:6], now[0][:6], atol=1e-7)
    with pytest.raises(ContractError, match="windows"):
        window_pmf(fleet([1], [0.0], [0.0], [INF]), life, [[2, 1]], replace=True)
    with pytest.raises(ContractError, match="retire_after"):
        fleet([1], [0.0], [0.0], [-1.0])


def test_a_million_positions_make_no_noise() -> None:
    """Binomial where nothing is replaced: mean and spread to six digits, nothing far from the mean."""
    units = fleet([1_000_000], [1.0], [0.0], [np.inf])
    (pmf,) = window_pmf(units, weibull_life(2.0, 10.0), [(0.0, 1.0)], replace=False)
    chance = -np.expm1(0.1**2 - 0.2**2)
    at = np.arange(pmf.size)
    mean = pmf @ at
    assert mean == pytest.approx(1e6 * chance, rel=1e-9)
    assert np.sqrt(pmf @ (at - mean) ** 2) == pytest.approx(np.sqrt(1e6 * chance * (1 - chance)), rel=1e-6)
    assert not pmf[: int(mean - 15 * 170)].any()
    assert pmf.size < 40_000
