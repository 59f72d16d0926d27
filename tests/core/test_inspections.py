"""Failures found at a look: Turnbull's curve, the exact Weibull likelihood, and what finds do to a kind's shared shape."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import optimize

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.life.hierarchy import PoolLikelihood, fit_shared_shape, log_marginal_of
from almanac.core.life.inspections import InspectedLikelihood, bent, lean, leaning, log_sinhc
from almanac.core.life.kind_likelihood import KindLikelihood, leaned, most_likely
from almanac.core.life.survival import kaplan_meier, nelson_aalen
from almanac.core.life.tenures import AgeCounts, age_counts, shared_out, together
from almanac.core.life.turnbull import cumulative_hazard, survival_steps
from almanac.core.life.weibull import fit_weibull
from tests.reference.visits import published

Numbers = NDArray[np.float64]


def looked_at(seed: int, *, units: int = 400, shape: float = 2.2, scale: float = 4.0, every: float = 1.0) -> tuple[Numbers, ...]:
    """Units observed from some age on, of which half are only looked at now and then: entry, exit, failed, looked."""
    random = np.random.default_rng(seed)
    entry = random.uniform(0.0, 2.0, units)
    life = scale * (random.exponential(1.0, units) + (entry / scale) ** shape) ** (1 / shape)
    end = entry + random.uniform(1.0, 4.0, units)
    failed = life <= end
    first = entry + random.uniform(0.0, every, units)
    look = first + (np.floor((life - first) / every) + 1) * every
    before = np.maximum(look - every, entry)
    at_look = (random.uniform(size=units) < 0.5) & failed & (look <= end)
    stop = np.where(at_look, look, np.minimum(life, end))
    looked = np.where(at_look, before, stop)
    return entry, stop, failed.astype(float), looked


def counts_of(rows: tuple[Numbers, ...]) -> AgeCounts:
    entry, stop, failed, looked = rows
    return age_counts(entry, stop, failed, looked=looked)


def by_hand(rows: tuple[Numbers, ...]) -> optimize.OptimizeResult:
    """Maximum of the likelihood written down row by row."""
    entry, stop, failed, looked = rows
    found = (failed > 0) & (looked < stop)
    exact = (failed > 0) & ~found

    def cost(place: Numbers) -> float:
        shape, scale = np.exp(place)
        entered, left, seen = (entry / scale) ** shape, (stop / scale) ** shape, (looked / scale) ** shape
        value = entered.sum() - left[~found].sum() - seen[found].sum()
        value += (np.log(shape / scale) + (shape - 1) * np.log(stop[exact] / scale)).sum()
        return -float(value + np.log(-np.expm1(seen[found] - left[found])).sum())

    return optimize.minimize(cost, np.log([1.5, 3.0]), method="Nelder-Mead", options={"xatol": 1e-10, "fatol": 1e-12, "maxiter": 4000})


def test_turnbull_agrees_with_the_published_curve() -> None:
    """Klein & Moeschberger (2003), example 5.1 (radiation only)."""
    steps = {step.age: step.survival for step in survival_steps(published())}
    wanted = {5: 0.954, 7: 0.920, 8: 0.832, 12: 0.761, 25: 0.668, 34: 0.586, 40: 0.467, 48: 0.0}
    for age, survival in wanted.items():
        assert steps[age] == pytest.approx(survival, abs=2e-3)


@pytest.mark.parametrize("seed", [1, 2, 3])
@pytest.mark.parametrize("every", [0.5, 2.0])
def test_the_fit_is_the_largest_likelihood(seed: int, every: float) -> None:
    rows = looked_at(seed, every=every)
    fit, hand = fit_weibull(counts_of(rows)), by_hand(rows)
    assert fit.loglik == pytest.approx(-hand.fun, rel=1e-9)
    assert (fit.shape, fit.scale) == pytest.approx(tuple(np.exp(hand.x)), rel=1e-5)


@pytest.mark.parametrize("seed", [1, 2])
def test_the_information_is_the_curvature(seed: int) -> None:
    rows = looked_at(seed, every=2.0)
    ages = counts_of(rows)
    fit, likelihood = fit_weibull(ages), InspectedLikelihood(ages)
    at = np.array([fit.shape, fit.scale / likelihood.unit])

    def value(place: Numbers) -> float:
        return likelihood.at(float(np.log(place[0])), float(np.log(place[1])))

    h = 1e-4
    step = np.eye(2) * h
    curve = [[-(value(at + i + j) - value(at + i - j) - value(at - i + j) + value(at - i - j)) / (4 * h * h) for j in step] for i in step]
    by_shape, by_scale, mixed = likelihood.information(*map(float, (at[0], np.log(at[1]))))
    np.testing.assert_allclose([[by_shape, mixed], [mixed, by_scale]], curve, rtol=2e-3, atol=1e-2)
    assert fit.shape_low is not None and fit.shape_high is not None and fit.se_shape is not None
    assert fit.shape_low < fit.shape < fit.shape_high
    assert (fit.shape_high - fit.shape_low) / 2 == pytest.approx(1.645 * fit.se_shape, rel=0.1)


def test_short_intervals_are_failures_of_known_age() -> None:
    entry, stop, failed, _ = looked_at(4)
    exact = fit_weibull(age_counts(entry, stop, failed))
    near = fit_weibull(age_counts(entry, stop, failed, looked=np.maximum(stop - 1e-5, entry)))
    assert (near.shape, near.scale) == pytest.approx((exact.shape, exact.scale), rel=1e-4)
    assert (near.se_shape, near.se_scale) == pytest.approx((exact.se_shape, exact.se_scale), rel=1e-3)


def test_taking_the_day_of_the_look_for_the_failure_is_worse() -> None:
    scales: dict[str, list[float]] = {"look": [], "between": []}
    for seed in range(12):
        entry, stop, failed, looked = looked_at(seed, every=2.0)
        scales["look"].append(fit_weibull(age_counts(entry, stop, failed)).scale)
        scales["between"].append(fit_weibull(age_counts(entry, stop, failed, looked=looked)).scale)
    assert abs(np.mean(scales["between"]) - 4.0) < 0.1
    assert np.mean(scales["look"]) > np.mean(scales["between"]) + 0.08


@given(st.integers(0, 10_000), st.sampled_from([0.3, 1.0, 3.0]))
@settings(max_examples=25, deadline=None)
def test_the_curve_is_a_survival_curve_near_the_truth(seed: int, every: float) -> None:
    entry, stop, failed, looked = looked_at(seed, every=every)
    ages = age_counts(entry, stop, failed, looked=looked)
    steps = survival_steps(ages)
    survival = np.array([step.survival for step in steps])
    assert (np.diff(survival) <= 1e-12).all() and survival.min() >= 0 and survival.max() <= 1
    assert sum(step.failed for step in steps) == pytest.approx(ages.failures, rel=1e-6)
    assert all(step.at_risk >= step.failed > 0 for step in steps)
    for step in steps:
        if step.low is not None and step.high is not None:
            assert 0 <= step.low <= step.survival <= step.high <= 1
    hazard = [value for _, value in cumulative_hazard(ages)]
    assert hazard == sorted(hazard)


def test_limits_of_a_curve_cover_the_truth() -> None:
    inside, tried = 0, 0
    for seed in range(60):
        entry, stop, failed, looked = looked_at(seed, every=1.0)
        step = [step for step in survival_steps(age_counts(entry, stop, failed, looked=looked)) if step.age <= 3.0][-1]
        assert step.low is not None and step.high is not None
        # The step of a find may lie anywhere in its stretch, so the truth is taken a little before and after.
        least, most = (np.exp(-((age / 4.0) ** 2.2)) for age in (step.age + 0.1, step.age - 0.1))
        inside += bool(step.low <= most and least <= step.high)
        tried += 1
    assert inside / tried > 0.8


def test_without_finds_the_ordinary_curves_are_drawn() -> None:
    entry, stop, failed, _ = looked_at(5)
    ages = age_counts(entry, stop, failed)
    assert survival_steps(ages) == kaplan_meier(ages)
    assert cumulative_hazard(ages) == nelson_aalen(ages)
    # Stretches that hold no other age change nothing: Turnbull's curve is then the product-limit one, and its limits Greenwood's.
    apart = np.sort(stop)
    near = np.array([max(entry[i], apart[max(np.searchsorted(apart, stop[i]) - 1, 0)]) for i in range(stop.size)])
    found = survival_steps(age_counts(entry, stop, failed, looked=np.where(near < stop, near, stop)))
    for one, other in zip(found, kaplan_meier(ages), strict=True):
        assert (one.age, one.survival) == pytest.approx((other.age, other.survival), abs=1e-6)
        if other.low is not None and other.high is not None:
            assert (one.low, one.high) == pytest.approx((other.low, other.high), abs=1e-4)


@given(st.floats(0.0, 30.0))
def test_the_lean_is_the_slope(half: float) -> None:
    step = 1e-4 * max(half, 1.0)
    at = np.array([half, abs(half - step), half + step])
    value = log_sinhc(at)
    if half > step:
        assert lean(at)[0] == pytest.approx((value[2] - value[1]) / (2 * step), rel=1e-4, abs=1e-6)
        slope = lean(at)
        assert bent(at)[0] == pytest.approx((slope[2] - slope[1]) / (2 * step), rel=1e-3, abs=1e-5)
    assert 0.0 <= lean(at)[0] < 1.0


@given(st.integers(0, 200), st.floats(-0.7, 1.2), st.floats(-3.0, 0.0), st.floats(-1.0, 4.0))
@settings(max_examples=25, deadline=None)
def test_the_gradient_of_the_marginal_knows_finds(seed: int, log_shape: float, log_mean: float, log_a: float) -> None:
    pools = [counts_of(rows) for rows in (looked_at(seed, units=40), looked_at(seed + 1, units=30))]
    likelihood = KindLikelihood(pools).paced(np.array([0.0, 0.3]))
    place = np.array([log_shape, log_mean, log_a])
    value, slope = likelihood.value_and_slope(place)
    for axis in range(3):
        step = np.eye(3)[axis] * 1e-6
        numeric = (likelihood.value_and_slope(place + step)[0] - likelihood.value_and_slope(place - step)[0]) / 2e-6
        assert slope[axis] == pytest.approx(numeric, rel=1e-4, abs=1e-4 + 1e-8 * abs(value))


def test_a_shared_shape_finds_the_truth_from_looks() -> None:
    pools = []
    for seed in range(10):
        rows = looked_at(seed, every=2.0, units=300)
        pools.append(counts_of(rows))
    shared = fit_shared_shape(pools)
    assert shared.shape == pytest.approx(2.2, abs=0.12)
    shape, rate = shared.posterior()
    assert np.mean(shape / rate) == pytest.approx(4.0**-2.2, rel=0.1)
    moved = leaned(pools)
    assert np.exp(most_likely(KindLikelihood(moved))[0]) == pytest.approx(shared.shape, rel=2e-3)
    for one, other in zip(moved, leaning(pools, shared.shape, shape / rate), strict=True):
        np.testing.assert_allclose(one.finds.early, other.finds.early, atol=2e-3)
    at = PoolLikelihood(moved).at(shared.shape)[0]
    assert log_marginal_of(moved, shared.shape, shared.prior_shape, shared.prior_rate) == pytest.approx(at, rel=1e-6)
    alone = [fit_weibull(together(pools)).shape, shared.shape]
    assert alone[0] == pytest.approx(alone[1], abs=0.06)


def test_finds_that_count_for_nothing_stay_where_they_are() -> None:
    """An open finding of a kind none of whose settled ones failed weighs nothing."""
    one = age_counts([0.0, 0.0], [4.0, 5.0], [1.0, 0.0], [0.0, 3.0], looked=[2.0, 5.0])
    assert leaned([one]) == [one]
    assert kaplan_meier(one) == []


def test_a_find_leans_to_where_it_was_likely() -> None:
    one = age_counts([0.0], [4.0], [1.0], looked=[2.0])
    assert one.finds.early.tolist() == [0.5]
    assert one.exposure == pytest.approx(3.0)
    (moved,) = leaning([one], 1.0, np.array([2.0]))
    # An exponential of rate 2 between 2 and 4 fails at 2 + 1/2 - 2 e^-4 / (1 - e^-4) on average.
    assert moved.exposure == pytest.approx(2 + 0.5 - 2 * np.exp(-4) / (1 - np.exp(-4)))
    assert moved.failures == 1.0
    with pytest.raises(ContractError, match="rate"):
        leaning([one], 1.0, np.array([1.0, 2.0]))
    with pytest.raises(ContractError, match="early"):
        shared_out(one, np.array([2.0]))


def test_counts_of_finds() -> None:
    ages = age_counts([0.0, 1.0, 0.0], [4.0, 4.0, 5.0], [1.0, 1.0, 0.0], [2.0, 1.0, 3.0], looked=[1.0, 4.0, 0.0])
    assert ages.failures == 3.0
    assert ages.finds.count.tolist() == [2.0]
    assert ages.exposure == pytest.approx(2 * 2.5 + 3.0 + 15.0)
    whole = together([ages, ages])
    assert (whole.failures, whole.exposure) == pytest.approx((6.0, 2 * ages.exposure))
    with pytest.raises(ContractError, match=r"looked\[0\].*after exit"):
        age_counts([0.0], [3.0], [1.0], looked=[4.0])
    with pytest.raises(ContractError, match="pools"):
        together([])


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        (([0.0] * 9, [2.0] * 9, [1.0] * 4 + [0.0] * 5, [0.0] * 4 + [2.0] * 5), "nothing of the shape"),
        (([0.0] * 9, [2.0] * 9, [1.0] * 4 + [0.0] * 5, [1.0] * 4 + [2.0] * 5), "runs away"),
    ],
)
def test_looks_that_tell_no_shape_say_so(rows: tuple[list[float], ...], words: str) -> None:
    entry, stop, failed, looked = rows
    ages = age_counts(entry, stop, failed, looked=looked)
    with pytest.raises(NoEstimate, match=words):
        fit_weibull(ages)
    assert survival_steps(ages)[-1].survival == pytest.approx(5 / 9)
