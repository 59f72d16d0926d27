"""Wear-out in the forecast: the kind's likelihood, its nodes, tables of lives, and the law of demand that comes of them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import integrate, stats

from almanac.core.demand import counts
from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.in_service import cumulative_exposure
from almanac.core.demand.law import DemandLaw, SideStream
from almanac.core.demand.life_table import LifeTable, log_series
from almanac.core.demand.life_tables import LifeTables, gamma_points, life_tables
from almanac.core.demand.renewal import fleet, weibull_life, window_pmf
from almanac.core.demand.time_line import knot_days
from almanac.core.demand.wear_law import WearLaw, wear_law
from almanac.core.demand.wear_out import WearOut
from almanac.core.errors import ContractError
from almanac.core.life.hierarchy import fit_shared_shape
from almanac.core.life.kind_likelihood import KindLikelihood, most_likely
from almanac.core.life.nodes import KindNodes
from almanac.core.life.tenures import AgeCounts, age_counts
from almanac.core.life.wear_nodes import WearNodes, kind_penalty, wear_nodes

YEAR = 365.25


def drawn_pools(seed: int, pools: int = 8, units: int = 150, shape: float = 2.4) -> list[AgeCounts]:
    """Lives of some pools whose levels differ, observed from different ages until about four years."""
    random = np.random.default_rng(seed)
    found = []
    for level in random.gamma(6.0, 0.02 / 6.0, pools):
        life = (random.exponential(1.0, units) / level) ** (1.0 / shape)
        entry = random.uniform(0.0, 1.5, units)
        seen = life > entry
        end = entry + random.uniform(0.5, 3.0, units)
        found.append(age_counts(entry[seen], np.minimum(life, end)[seen], (life <= end)[seen].astype(float)))
    return found


@given(
    st.integers(0, 50),
    st.floats(-1.0, 1.5),
    st.floats(-6.0, -1.0),
    st.floats(-1.0, 4.0),
)
@settings(max_examples=30, deadline=None)
def test_the_gradient_is_that_of_the_likelihood(seed: int, log_shape: float, log_mean: float, log_a: float) -> None:
    likelihood = KindLikelihood(drawn_pools(seed, pools=3, units=40))
    place = np.array([log_shape, log_mean, log_a])
    value, slope = likelihood.value_and_slope(place)
    for axis in range(3):
        step = np.eye(3)[axis] * 1e-6
        numeric = (likelihood.value_and_slope(place + step)[0] - likelihood.value_and_slope(place - step)[0]) / 2e-6
        assert slope[axis] == pytest.approx(numeric, rel=1e-4, abs=1e-4 + 1e-8 * abs(value))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_search_finds_what_the_one_dimension_at_a_time_finds(seed: int) -> None:
    pools = drawn_pools(seed)
    slow = fit_shared_shape(pools)
    fast = most_likely(KindLikelihood(pools))
    assert np.exp(fast[0]) == pytest.approx(slow.shape, rel=1e-4)


def test_a_shape_may_be_held() -> None:
    likelihood = KindLikelihood(drawn_pools(4))
    held, free = most_likely(likelihood, shape=1.0), most_likely(likelihood)
    assert held[0] == 0.0
    assert likelihood.value_and_slope(held)[0] < likelihood.value_and_slope(free)[0]


def test_a_kind_without_failures_has_no_maximum() -> None:
    still = [age_counts([0.0, 0.1], [2.0, 3.0], [0.0, 0.0])]
    with pytest.raises(ContractError, match="failure"):
        most_likely(KindLikelihood(still))
    with pytest.raises(ContractError, match="kind"):
        kind_penalty("gasket")
    with pytest.raises(ContractError, match="pools"):
        KindLikelihood([])


def test_nodes_are_a_law_around_the_truth() -> None:
    nodes = wear_nodes(KindLikelihood(drawn_pools(5, pools=20)), "fan")
    assert nodes.weight.sum() == pytest.approx(1.0)
    assert np.unique(nodes.shape).size <= 3
    assert nodes.shape.min() < 2.4 < nodes.shape.max() * 1.15
    level = nodes.weight @ (nodes.a / nodes.b)
    assert 0.01 < level < 0.04


@given(st.floats(0.3, 400.0), st.integers(1, 24))
@settings(max_examples=40, deadline=None)
def test_gamma_points_have_the_moments_of_a_gamma(shape: float, points: int) -> None:
    value, weight = gamma_points(np.array([shape]), points)
    assert weight.sum() == pytest.approx(1.0)
    assert (weight * value).sum() == pytest.approx(shape, rel=1e-8)
    if points > 1:
        assert (weight * value**2).sum() == pytest.approx(shape * (shape + 1), rel=1e-8)


def test_the_log_of_a_series_undoes_its_exponential() -> None:
    given_series = np.array([0.3, -0.2, 0.05])
    y = 0.4
    whole = np.exp(given_series @ y ** np.arange(1, 4))
    taylor = np.zeros(12)
    for n in range(1, 13):  # n b_n = sum of k c_k b_(n - k)
        taylor[n - 1] = sum(k * given_series[k - 1] * (taylor[n - k - 1] if n > k else 1.0) for k in range(1, min(n, 3) + 1)) / n
    assert 1 + taylor @ y ** np.arange(1, 13) == pytest.approx(whole, abs=1e-8)
    np.testing.assert_allclose(log_series(taylor, 6), [0.3, -0.2, 0.05, 0, 0, 0], atol=1e-14)
    with pytest.raises(ContractError, match="terms"):
        log_series(taylor, 0)


@pytest.mark.parametrize("shape", [0.7, 1.0, 1.9, 3.2])
def test_a_table_has_the_moments_of_exact_renewals(shape: float) -> None:
    level = np.array([0.02, 0.1, 0.4])
    table = LifeTable(np.array([shape]), np.log(level)[None], np.array([1, 15, *range(30, 361, 30), 420]) / YEAR, 8.0)
    for row, lam in enumerate(level):
        life = weibull_life(shape, lam ** (-1.0 / shape))
        for age in (0.2, 2.0, 6.5):
            for start, end in ((0.0, 270 / YEAR), (0.0, 1 / YEAR), (60 / YEAR, 200 / YEAR)):
                exact = window_pmf(fleet([1], [age], [0.0], [np.inf]), life, [(start, end)], replace=True)[0]
                mean = float(exact @ np.arange(exact.size))
                found = (table.at_ages(np.array([age])) @ table.between(start, end)[:, row])[0]
                # A part that would fail within days is not where in a knot it was replaced: later windows of such parts are coarser.
                assert found.sum() == pytest.approx(mean, rel=6e-3 if start == 0 else 4e-2, abs=1e-7)
    with pytest.raises(ContractError, match="knots"):
        LifeTable(np.array([shape]), np.log(level)[None], np.array([0.0, 1.0]), 8.0)


def one_node(shape: float, a: float, b: float, hazard: list[float]) -> WearNodes:
    return WearNodes(np.ones(1), np.array([shape]), np.array([a]), np.array([b]), np.array([hazard]))


def small_kind(horizon: int = 400) -> LifeTables:
    return life_tables(one_node(2.6, 4.0, 160.0, [120.0, 0.0]), np.array([6.0, 0.0]), oldest_years=8.0, horizon_days=horizon)


def slow_mixture(
    window: tuple[int, int], age: list[float], units: list[int], shape: float, alpha: float, rate: float
) -> NDArray[np.float64]:
    """One pool's law by brute force: the exact law given lambda, over a fine grid of its gamma."""
    probability = (np.arange(160) + 0.5) / 160
    whole = np.zeros(200)
    for level in stats.gamma.ppf(probability, alpha, scale=1.0 / rate):
        life = weibull_life(shape, float(level) ** (-1.0 / shape))
        pmf = window_pmf(
            fleet(units, age, [0.0] * len(age), [np.inf] * len(age)), life, [(window[0] / YEAR, window[1] / YEAR)], replace=True
        )[0]
        whole[: pmf.size] += pmf[:200] / 160
    return whole


@pytest.mark.parametrize("days", [30, 89, 100, 120, 365])
@pytest.mark.parametrize("age", [2.5, 5.08])
def test_a_single_unit_has_no_noise_of_a_cut_series(days: int, age: float) -> None:
    one = age_groups(np.zeros(1, dtype=np.int64), np.array([age]), np.ones(1), np.zeros(1), np.full(1, np.inf))
    z = np.exp(-2j * np.pi * np.arange(64) / 64)
    found = np.fft.ifft(WearOut(small_kind(), np.zeros(1, dtype=np.int64), one).generating(np.array([(0, days)]), z)[0, 0]).real
    exact = slow_mixture((0, days), [age], [1], 2.6, 10.0, 280.0)
    assert np.abs(found - exact[:64]).max() < 4e-4  # the grid of 160 levels is that coarse
    assert np.abs(found[4:]).max() < 1e-5


@pytest.mark.parametrize("window", [(0, 20), (0, 200), (0, 365), (30, 120)])
@pytest.mark.parametrize("pool", [0, 1])
def test_the_law_is_that_of_a_slow_mixture(window: tuple[int, int], pool: int) -> None:
    kind, age, units = small_kind(), [0.3, 2.1, 4.4], [12, 9, 6]
    wear = WearOut(
        kind, np.array([pool]), age_groups(np.zeros(3, dtype=np.int64), np.array(age), np.array(units), np.zeros(3), np.full(3, np.inf))
    )
    z = np.exp(-2j * np.pi * np.arange(256) / 256)
    found = np.fft.ifft(wear.generating(np.array([window]), z)[0, 0]).real
    alpha, rate = (4.0 + 6.0, 160.0 + 120.0) if pool == 0 else (4.0, 160.0)
    exact = slow_mixture(window, age, units, 2.6, alpha, rate)
    assert np.abs(np.cumsum(found)[:200] - np.cumsum(exact)).max() < 3e-3  # the grid of 160 levels is that coarse
    mean, variance = wear.moments(np.array([window]))
    assert mean[0, 0] == pytest.approx(found @ np.arange(256), rel=1e-4)
    assert variance[0, 0] == pytest.approx(found @ np.arange(256) ** 2 - mean[0, 0] ** 2, rel=2e-3)


def law_of(rows: int = 30, *, near: int = 400, leave: float = np.inf, seed: int = 7) -> WearLaw:
    """Two pools, one with a record, with side streams and dead-on-arrival parts."""
    random = np.random.default_rng(seed)
    pool, age = random.integers(0, 2, rows), random.uniform(0.1, 6.0, rows)
    gone = np.where(random.uniform(size=rows) < 0.3, leave, np.inf)
    kind = small_kind()
    change = [(int(p), 0, 1) for p in pool] + [(int(p), int(g), -1) for p, g in zip(pool, gone, strict=True) if np.isfinite(g)]
    row, day, size = zip(*change, strict=True) if change else ((0,), (0,), (0,))
    constant = DemandLaw(
        nodes=KindNodes(np.ones(1), np.ones(1), np.ones(1)),
        failures=np.array([6.0, 0.0]),
        exposure_years=np.array([100.0, 0.0]),
        in_service=cumulative_exposure(list(row), list(day), list(size), rows=2, horizon_days=500),
        side=(SideStream("damage", 2.5, 400.0), SideStream("no_fault_draw", 1.5, 400.0)),
        dead_on_arrival=0.01,
        planned_swaps=np.concatenate((np.zeros(200), np.full(301, 2.0))),
        planned_fittings=np.zeros(501),
    )
    positions = age_groups(pool.astype(np.int64), age, np.ones(rows), np.zeros(rows), gone)
    return wear_law(constant, WearOut(kind, np.array([0, 1]), positions), near_days=near)


def test_the_time_line_is_the_exact_law() -> None:
    near, exact = law_of(leave=150.0), law_of(leave=150.0, near=0)
    days = [1, 9, 40, 77, 149, 151, 199, 201, 300, 365]
    line, whole = near.pmf(np.zeros(10), days), exact.pmf(np.zeros(10), days)
    width = max(line.shape[1], whole.shape[1])
    for one, other in zip(line, whole, strict=True):
        apart = np.cumsum(np.pad(one, (0, width - one.size))) - np.cumsum(np.pad(other, (0, width - other.size)))
        assert np.abs(apart).max() < 6e-4
    mean, _ = counts.mean_and_variance(whole)
    np.testing.assert_allclose(near.mean_parts(days), mean, rtol=2e-3, atol=1e-3)
    np.testing.assert_allclose(exact.stream_means(np.zeros(10), days)["planned"], [0.0] * 7 + [2.0] * 3)


@given(st.integers(0, 1000), st.integers(1, 40))
@settings(max_examples=12, deadline=None)
def test_months_add_up_and_laws_are_whole(seed: int, rows: int) -> None:
    law = law_of(rows, leave=120.0, seed=seed)
    edges = np.array([0, 30, 61, 91, 180, 365])
    parts = law.stream_means(edges[:-1], edges[1:])
    year = law.means(0, 365)
    assert sum(parts[name].sum() for name in parts) == pytest.approx(year.total, rel=1e-9)
    pmf = law.pmf(edges[:-1], edges[1:])
    np.testing.assert_allclose(pmf.sum(axis=1), 1.0, atol=1e-6)
    assert (pmf > -1e-12).all()
    mean, _ = counts.mean_and_variance(pmf)
    np.testing.assert_allclose(mean, np.sum(list(parts.values()), axis=0), rtol=6e-3, atol=1e-6)
    rising = np.cumsum(law.pmf(np.zeros(4), [30, 90, 200, 365]), axis=1)
    assert (np.diff(rising, axis=0) < 2e-4).all()  # days between knots are interpolated


def test_older_fleets_fail_more() -> None:
    kind = small_kind()
    means = []
    for age in (0.5, 2.0, 4.0, 6.0):
        wear = WearOut(
            kind, np.array([0]), age_groups(np.array([0]), np.array([age]), np.array([50.0]), np.array([0.0]), np.array([np.inf]))
        )
        means.append(float(wear.mean_by_pool(np.array([[0, 365]]))[0, 0]))
    assert means == sorted(means)
    level = (4.0 + 6.0) / (160.0 + 120.0)  # with rare replacements a year's failures are lambda ((x + 1)^beta - x^beta)
    expected, _ = integrate.quad(lambda x: 50 * level * 2.6 * x**1.6, 0.5, 0.5 + 365 / YEAR)
    assert means[0] == pytest.approx(expected, rel=0.06)


def test_an_empty_fleet_draws_nothing() -> None:
    kind = small_kind()
    none = age_groups(np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0), np.zeros(0), np.zeros(0))
    wear = WearOut(kind, np.array([0]), none)
    assert wear.mean_by_pool(np.array([[0, 365]])).tolist() == [[0.0]]
    np.testing.assert_allclose(wear.generating(np.array([[0, 365]]), np.exp(1j * np.arange(4))), 1.0)


def test_who_enters_later_counts_from_then() -> None:
    kind = small_kind()
    new = np.array([14 / YEAR])
    later = WearOut(kind, np.array([0]), age_groups(np.array([0]), new, np.array([20.0]), np.array([100.0]), np.array([np.inf])))
    now = WearOut(kind, np.array([0]), age_groups(np.array([0]), new, np.array([20.0]), np.array([0.0]), np.array([np.inf])))
    assert later.mean_by_pool(np.array([[0, 90]]))[0, 0] == 0.0
    found, wanted = later.mean_by_pool(np.array([[0, 300]])), now.mean_by_pool(np.array([[0, 200]]))
    assert found[0, 0] == pytest.approx(wanted[0, 0], rel=1e-6)


def test_contracts() -> None:
    with pytest.raises(ContractError, match="leave"):
        age_groups(np.array([0]), np.array([1.0]), np.array([1.0]), np.array([0.0]), np.array([np.nan]))
    with pytest.raises(ContractError, match="end_day"):
        knot_days(1.0, 0)
    with pytest.raises(ContractError, match="near_days"):
        law_of(near=-1)
    assert knot_days(4.0, 400)[-1] == 400
    assert set(knot_days(4.0, 400)) <= set(knot_days(900.0, 400)) | {400}


@given(st.floats(0.4, 4.0), st.floats(0.15, 3.0), st.floats(1e-3, 1.0), st.integers(0, 1))
@settings(max_examples=15, deadline=None)
def test_hardly_a_record_still_gives_a_law_of_ordinary_length(shape: float, a: float, mean: float, failures: int) -> None:
    kind = life_tables(one_node(shape, a, a / mean, [2.0]), np.array([float(failures)]), oldest_years=6.0, horizon_days=1100)
    longest = float(kind.table.knots[-1])
    levels, weight, _ = kind.levels(12, np.array([0, -1]))
    assert (levels ** (1.0 / shape) * longest <= 40.0 + 1e-9).all()
    np.testing.assert_allclose(weight.sum(axis=-1), 1.0)
    positions = age_groups(np.array([0, 1]), np.array([0.5, 3.0]), np.array([4.0, 2.0]), np.zeros(2), np.full(2, np.inf))
    wear = WearOut(kind, np.array([0, -1]), positions)
    size = 512
    used = np.exp(-2j * np.pi * np.arange(size) / size)
    value = wear.generating(np.array([[0.0, 365.0]]), used)
    assert (np.abs(value) <= 1.0 + 1e-9).all()
    pmf = np.fft.ifft(value[0, 0]).real
    assert pmf.sum() == pytest.approx(1.0)
    assert pmf.min() > -1e-3
    assert (wear.moments(np.array([[0.0, 365.0]]))[1] > 0).all()


def test_a_few_windows_and_many_are_summed_alike() -> None:
    positions = law_of(leave=150.0).wear.positions
    days = np.arange(1, 13) * 30.0
    many = WearOut(small_kind(), np.array([0, 1]), positions)
    together = many.moments(np.column_stack((np.zeros(12), days)))[0][:, 0]
    alone = [float(WearOut(small_kind(), np.array([0, 1]), positions).moments(np.array([[0.0, day]]))[0][0, 0]) for day in days]
    np.testing.assert_allclose(together, alone, rtol=1e-10)


def test_a_longer_grid_is_not_taken_for_noise() -> None:
    law = law_of(2, leave=120.0, seed=1)
    assert law.pmf([91], [180]).shape[1] <= 256
    assert law.pmf([91], [180]).sum() == pytest.approx(1.0, abs=1e-9)
