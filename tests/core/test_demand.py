"""Laws of demand: closed forms, a second implementation by drawing parts, and what must hold for any of them."""

from __future__ import annotations

from datetime import date, timedelta
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from almanac.core.demand import counts
from almanac.core.demand.constant import GammaRate, positions, window_pmf
from almanac.core.demand.failure_rate import annualised_rate
from almanac.core.demand.in_service import cumulative_count, cumulative_exposure
from almanac.core.demand.law import DemandLaw, SideStream
from almanac.core.demand.months import month_steps
from almanac.core.errors import ContractError
from almanac.core.life.nodes import KindNodes
from tests.reference.draws import simulate
from tests.strategies import laws


def one_pool(*, again: float = 1e-12, side: tuple[SideStream, ...] = (), swaps: int = 0) -> DemandLaw:
    """A pool of 100 units with rate ~ Gamma(4 + 6, 50 + 90): one node, so closed forms apply."""
    days = np.arange(801)
    return DemandLaw(
        nodes=KindNodes(np.ones(1), np.array([4.0]), np.array([50.0])),
        failures=np.array([6.0]),
        exposure_years=np.array([90.0]),
        in_service=100 * days[None] / 365.25,
        side=side,
        dead_on_arrival=again,
        planned_swaps=np.where(days >= 10, float(swaps), 0.0),
        planned_fittings=np.zeros(801),
    )


def test_one_pool_is_negative_binomial() -> None:
    exposure = 100 * 180 / 365.25
    pmf = one_pool().pmf([0], [180])[0]
    closed = stats.nbinom.pmf(np.arange(pmf.size), 10.0, 140.0 / (140.0 + exposure))
    np.testing.assert_allclose(pmf, closed, atol=1e-12)


def test_a_rate_known_for_sure_would_be_poisson_and_an_uncertain_one_is_wider() -> None:
    pmf = one_pool().pmf([0], [365])
    mean, variance = counts.mean_and_variance(pmf)
    assert variance[0] > mean[0] * 1.5


def test_dead_on_arrival_compounds_every_draw() -> None:
    """Each draw takes 1 + geometric parts: convolve the closed form by hand."""
    again = 0.2
    plain, compound = one_pool().pmf([0], [90])[0], one_pool(again=again).pmf([0], [90])[0]
    size = 80
    each = np.concatenate([[0.0], (1 - again) * again ** np.arange(size - 1)])
    expected, power = np.zeros(size), np.eye(1, size)[0]
    for chance in plain[:40]:
        expected += chance * power
        power = np.convolve(power, each)[:size]
    np.testing.assert_allclose(compound[:40], expected[:40], atol=1e-9)


def test_events_in_pairs_use_two_parts() -> None:
    pair = one_pool(side=(SideStream("damage", 3.0, 40.0, batch=2),))
    mean, variance = counts.mean_and_variance(pair.pmf([0], [100]))
    exposure = 100 * 100 / 365.25
    wear, events = 10.0 / 140.0 * exposure, 3.0 / 40.0 * exposure
    assert mean[0] == pytest.approx(wear + 2 * events, rel=1e-9)
    spread = wear + 10.0 / 140.0**2 * exposure**2 + 4 * (events + 3.0 / 1600.0 * exposure**2)
    assert variance[0] == pytest.approx(spread, rel=1e-9)


def test_planned_swaps_are_certain() -> None:
    with_swaps, without = one_pool(swaps=7).pmf([0], [30])[0], one_pool().pmf([0], [30])[0]
    np.testing.assert_allclose(with_swaps[7 : 7 + 20], without[:20], atol=1e-9)
    assert with_swaps[:7].sum() == 0.0
    assert one_pool(swaps=7).pmf([12], [30])[0][:7].sum() > 0.5  # they were due before that window


@settings(max_examples=30, deadline=None)
@given(laws(), st.lists(st.integers(0, 700), min_size=1, max_size=4))
def test_the_distribution_is_one_and_its_mean_is_the_streams(law: DemandLaw, days: list[int]) -> None:
    pmf = law.pmf(np.zeros(len(days)), days)
    np.testing.assert_allclose(pmf.sum(axis=1), 1.0, atol=1e-9)
    mean, _ = counts.mean_and_variance(pmf)
    for day, found in zip(days, mean, strict=True):
        streams = law.means(0, day)
        assert found == pytest.approx(streams.total, rel=1e-7, abs=1e-7)
        assert streams.failing <= streams.total + 1e-12


@settings(max_examples=30, deadline=None)
@given(laws(), st.integers(0, 400), st.integers(0, 20))
def test_a_head_is_the_beginning_of_the_whole(law: DemandLaw, day: int, most: int) -> None:
    head, whole = law.head([0], [day], most)[0], law.pmf([0], [day])[0]
    padded = np.pad(whole, (0, max(0, most + 1 - whole.size)))
    np.testing.assert_allclose(head, padded[: most + 1], atol=1e-10)
    long = law.head([0], [day], 100)[0]
    np.testing.assert_allclose(long[: min(101, whole.size)], whole[:101], atol=1e-12)


@settings(max_examples=20, deadline=None)
@given(laws(), st.integers(1, 200), st.integers(1, 200))
def test_longer_windows_ask_for_more(law: DemandLaw, first: int, more: int) -> None:
    pmf = law.pmf([0, 0], [first, first + more])
    assert (np.cumsum(pmf[1]) <= np.cumsum(pmf[0]) + 1e-9).all()


@settings(max_examples=30, deadline=None)
@given(laws(), st.lists(st.integers(0, 900), min_size=1, max_size=4), st.sampled_from([0.05, 0.5, 0.95, 0.999]))
def test_quantiles_from_what_reaches_them_are_those_of_the_whole(law: DemandLaw, days: list[int], level: float) -> None:
    whole, enough = law.pmf(np.zeros(len(days)), days), law.reaching(np.zeros(len(days)), days, level)
    found, wanted = counts.quantile(enough, level), counts.quantile(whole, level)
    for row in np.flatnonzero(found != wanted):  # only where the level is met to the last digit, and rounding decides
        assert abs(np.cumsum(whole[row])[min(found[row], wanted[row])] - level) < 1e-12


def test_drawing_parts_one_by_one_gives_the_same_distribution() -> None:
    law = one_pool(again=0.05, side=(SideStream("damage", 2.0, 60.0), SideStream("damage", 1.0, 90.0, batch=2)), swaps=3)
    drawn = simulate(law, [60, 240], runs=6000, seed=11)
    pmf = law.pmf([0, 0], [60, 240])
    for window in range(2):
        seen = np.bincount(drawn[:, window], minlength=pmf.shape[1])[: pmf.shape[1]] / drawn.shape[0]
        assert np.abs(np.cumsum(seen) - np.cumsum(pmf[window])).max() < 0.03


def test_a_quantile_is_the_first_count_to_reach_its_level() -> None:
    pmf = np.array([[0.5, 0.3, 0.2], [0.05, 0.05, 0.9]])
    assert counts.quantile(pmf, 0.5).tolist() == [0, 2]
    assert counts.quantile(pmf, 0.51).tolist() == [1, 2]
    with pytest.raises(ContractError, match="ends at"):
        counts.quantile(np.array([[0.5, 0.4]]), 0.95)


def test_the_annualised_rate_of_one_pool_is_its_gamma() -> None:
    found = annualised_rate(one_pool())
    assert found is not None
    assert found.rate == pytest.approx(10 / 140)
    assert found.low == pytest.approx(stats.gamma.ppf(0.05, 10, scale=1 / 140), rel=1e-8)
    assert found.high == pytest.approx(stats.gamma.ppf(0.95, 10, scale=1 / 140), rel=1e-8)


@settings(max_examples=20, deadline=None)
@given(laws())
def test_the_annualised_rate_lies_in_its_interval(law: DemandLaw) -> None:
    found = annualised_rate(law)
    if law.in_service[:, -1].sum() == 0:
        assert found is None
        return
    assert found is not None
    assert 0 < found.low < found.high
    assert annualised_rate(law, level=0.5).high <= found.high  # type: ignore[union-attr]


@given(st.dates(date(2020, 1, 1), date(2032, 12, 31)), st.integers(1, 30))
def test_months_are_contiguous_and_of_their_true_length(as_of: date, months: int) -> None:
    steps = month_steps(as_of, months)
    assert len(steps) == months
    assert steps[0].from_day == 0
    for before, after in pairwise(steps):
        assert after.from_day == before.to_day
        assert after.first_on == before.last_on + timedelta(days=1)
    for step in steps:
        assert (step.last_on + timedelta(days=1)).day == 1
        assert as_of + timedelta(days=step.to_day) == step.last_on


def test_the_first_step_is_what_is_left_of_the_month_and_leap_years_count() -> None:
    steps = month_steps(date(2028, 1, 20), 3)
    assert [step.to_day - step.from_day for step in steps] == [11, 29, 31]
    assert month_steps(date(2027, 2, 28), 1)[0].last_on == date(2027, 3, 31)


@given(st.lists(st.tuples(st.integers(0, 2), st.integers(0, 60), st.integers(0, 9)), max_size=20))
def test_exposure_counts_every_unit_on_every_day(changes: list[tuple[int, int, int]]) -> None:
    row = [r for r, _, _ in changes] + [r for r, _, _ in changes]
    day = [d for _, d, _ in changes] + [d + 5 for _, d, _ in changes]
    size = [n for _, _, n in changes] + [-n for _, _, n in changes]
    table = cumulative_exposure(row, day, size, rows=3, horizon_days=50)
    for r in range(3):
        units = [sum(n for q, d, n in changes if q == r and d <= t < d + 5) for t in range(50)]
        np.testing.assert_allclose(table[r] * 365.25, np.concatenate([[0], np.cumsum(units)]), atol=1e-9)


def test_more_units_cannot_leave_than_are_there() -> None:
    with pytest.raises(ContractError, match="falls below zero"):
        cumulative_exposure([0, 0], [0, 3], [2.0, -3.0], rows=1, horizon_days=10)


def test_planned_parts_count_from_their_day() -> None:
    assert cumulative_count([3, 3, 0], [2, 1, 4], horizon_days=4).tolist() == [0, 4, 4, 7, 7]


class TestCalculatorCase:
    """Positions under a constant rate."""

    def test_known_rate_with_replacement_is_poisson(self) -> None:
        units = positions([10, 2], [0, 1.5], [np.inf, 2.5])
        pmf = window_pmf(units, GammaRate(np.inf, np.inf, known=0.1), [0, 0], [1, 3], replace=True)
        np.testing.assert_allclose(pmf[0], stats.poisson.pmf(np.arange(pmf.shape[1]), 1.0), atol=1e-12)
        np.testing.assert_allclose(pmf[1], stats.poisson.pmf(np.arange(pmf.shape[1]), 0.1 * (30 + 2)), atol=1e-12)

    def test_without_replacement_is_a_sum_of_binomials(self) -> None:
        units = positions([5, 3], [0, 0], [np.inf, 1.0])
        pmf = window_pmf(units, GammaRate(np.inf, np.inf, known=0.3), [0], [2], replace=False)[0]
        first = stats.binom.pmf(np.arange(6), 5, 1 - np.exp(-0.6))
        second = stats.binom.pmf(np.arange(4), 3, 1 - np.exp(-0.3))
        np.testing.assert_allclose(pmf[:9], np.convolve(first, second), atol=1e-12)

    def test_gamma_rate_without_replacement_is_a_mixture(self) -> None:
        units = positions([6], [0], [np.inf])
        pmf = window_pmf(units, GammaRate(2.0, 10.0), [0], [3], replace=False)[0]
        grid = np.linspace(1e-6, 6, 60001)
        mixture = [np.trapezoid(stats.binom.pmf(k, 6, 1 - np.exp(-3 * grid)) * stats.gamma.pdf(grid, 2, scale=0.1), grid) for k in range(7)]
        np.testing.assert_allclose(pmf[:7], mixture, atol=1e-6)

    def test_retired_before_it_started_never_serves(self) -> None:
        units = positions([4], [3.0], [2.0])
        assert window_pmf(units, GammaRate(2.0, 10.0), [0], [9], replace=True)[0][0] == pytest.approx(1.0)
