"""The Weibull life, Kaplan-Meier and the shared shape: published answers, slow second opinions, and degenerate data."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from almanac.core.checks import Floats
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.life.hierarchy import fit_shared_shape, log_marginal_of
from almanac.core.life.school import choose_school
from almanac.core.life.survival import kaplan_meier, nelson_aalen
from almanac.core.life.tenures import AgeCounts, age_counts
from almanac.core.life.weibull import fit_weibull
from almanac.core.life.weibull_likelihood import WeibullLikelihood

BEARINGS = [
    17.88, 28.92, 33.00, 41.52, 42.12, 45.60, 48.40, 51.84, 51.96, 54.12, 55.56, 67.80, 68.64, 68.64, 68.88, 84.12, 93.12, 98.64, 105.12,
    105.84, 127.92, 128.04, 173.40,
]  # fmt: skip
"""Millions of revolutions to failure of 23 ball bearings: Lieblein & Zelen (1956), Journal of Research NBS 57."""
REMISSION = "6 6 6 6+ 7 9+ 10 10+ 11+ 13 16 17+ 19+ 20+ 22 23 25+ 32+ 32+ 34+ 35+"
"""Weeks in remission of 21 treated patients: Freireich et al. (1963); the textbook example of the product limit."""


def _remission() -> AgeCounts:
    words = REMISSION.split()
    ages = [float(word.rstrip("+")) for word in words]
    return age_counts(np.zeros(len(ages)), ages, [0.0 if word.endswith("+") else 1.0 for word in words])


def _whole(failures: list[float]) -> AgeCounts:
    return age_counts(np.zeros(len(failures)), failures, np.ones(len(failures)))


def test_the_bearings_have_their_published_shape_and_scale() -> None:
    fit = fit_weibull(_whole(BEARINGS), level=0.95)
    assert fit.shape == pytest.approx(2.1018, abs=2e-3)
    assert fit.scale == pytest.approx(81.88, abs=0.05)
    assert fit.loglik == pytest.approx(-113.69, abs=0.01)
    assert fit.shape_low is not None
    assert fit.shape_high is not None
    assert [fit.shape_low, fit.shape_high] == pytest.approx([1.52, 2.79], abs=0.05)


def test_the_product_limit_of_the_textbook() -> None:
    steps = kaplan_meier(_remission(), level=0.95)
    assert [step.age for step in steps] == [6, 7, 10, 13, 16, 22, 23]
    assert [step.survival for step in steps] == pytest.approx([0.857, 0.807, 0.753, 0.690, 0.627, 0.538, 0.448], abs=5e-4)
    assert [steps[0].low, steps[0].high] == pytest.approx([0.620, 0.952], abs=2e-3)
    hazard = dict(nelson_aalen(_remission()))
    assert hazard[23.0] == pytest.approx(3 / 21 + 1 / 17 + 1 / 15 + 1 / 12 + 1 / 11 + 1 / 7 + 1 / 6)


def test_everything_failed_at_once_and_nothing_failed_have_no_limits() -> None:
    (only,) = kaplan_meier(_whole([5.0, 5.0]))
    assert (only.survival, only.low, only.high) == (0.0, None, None)
    assert kaplan_meier(age_counts([0.0], [3.0], [0.0])) == []


Lives = tuple[Floats, Floats, Floats]


@st.composite
def lives(draw: st.DrawFn) -> Lives:
    """Tenures with delayed entry and censoring, at least two failures apart and a later survivor."""
    size = draw(st.integers(3, 25))
    entry = np.array(draw(st.lists(st.sampled_from([0.0, 0.0, 1.0, 5.0, 20.0]), min_size=size, max_size=size)))
    spent = np.array(draw(st.lists(st.floats(0.5, 60), min_size=size, max_size=size)))
    failed = np.array(draw(st.lists(st.sampled_from([0.0, 1.0]), min_size=size, max_size=size)))
    failed[:2], failed[-1] = 1.0, 0.0
    entry[:2] = 0.0
    spent[-1] = 200.0
    return entry, entry + spent, failed


def _slow_loglik(shape: float, scale: float, life: Lives) -> float:
    """The likelihood tenure by tenure, as it is written in the books."""
    entry, stop, failed = life
    value = 0.0
    for start, end, event in zip(entry, stop, failed, strict=True):
        value -= (end / scale) ** shape - (start / scale) ** shape
        if event:
            value += np.log(shape / scale) + (shape - 1) * np.log(end / scale)
    return float(value)


@settings(max_examples=60, deadline=None)
@given(lives())
def test_the_fit_is_the_maximum_of_the_likelihood_tenure_by_tenure(life: Lives) -> None:
    try:
        fit = fit_weibull(age_counts(*life))
    except NoEstimate:
        return
    assert fit.loglik == pytest.approx(_slow_loglik(fit.shape, fit.scale, life), rel=1e-9, abs=1e-9)
    for by in (0.999, 1.001):
        assert _slow_loglik(fit.shape * by, fit.scale, life) <= fit.loglik + 1e-9
        assert _slow_loglik(fit.shape, fit.scale * by, life) <= fit.loglik + 1e-9


@settings(max_examples=25, deadline=None)
@given(lives(), st.floats(0.01, 400))
def test_the_unit_of_age_changes_nothing_but_the_scale(life: Lives, factor: float) -> None:
    try:
        fit = fit_weibull(age_counts(*life))
    except NoEstimate:
        return
    scaled = fit_weibull(age_counts(life[0] * factor, life[1] * factor, life[2]))
    assert scaled.shape == pytest.approx(fit.shape, rel=1e-7)
    assert scaled.scale == pytest.approx(fit.scale * factor, rel=1e-7)


def test_profile_limits_and_errors_agree_with_a_slow_search() -> None:
    life = (np.zeros(len(BEARINGS)), np.array(BEARINGS), np.ones(len(BEARINGS)))
    fit = fit_weibull(age_counts(*life), level=0.90)
    drop = 2.705543454 / 2

    def best_at_scale(scale: float) -> float:
        return -float(minimize(lambda p: -_slow_loglik(np.exp(p[0]), scale, life), [np.log(2.0)], method="Nelder-Mead").fun)

    def best_at_shape(shape: float) -> float:
        return -float(minimize(lambda p: -_slow_loglik(shape, np.exp(p[0]), life), [np.log(80.0)], method="Nelder-Mead").fun)

    for limit in (fit.scale_low, fit.scale_high):
        assert limit is not None
        assert best_at_scale(limit) == pytest.approx(fit.loglik - drop, abs=1e-5)
    for limit in (fit.shape_low, fit.shape_high):
        assert limit is not None
        assert best_at_shape(limit) == pytest.approx(fit.loglik - drop, abs=1e-5)
    step = 1e-4

    def at(i: float, j: float) -> float:
        return _slow_loglik(fit.shape * (1 + i * step), fit.scale * (1 + j * step), life)

    curve = np.array(
        [
            [(at(1, 0) - 2 * at(0, 0) + at(-1, 0)), (at(1, 1) - at(1, -1) - at(-1, 1) + at(-1, -1)) / 4],
            [(at(1, 1) - at(1, -1) - at(-1, 1) + at(-1, -1)) / 4, (at(0, 1) - 2 * at(0, 0) + at(0, -1))],
        ]
    )
    size = np.array([fit.shape * step, fit.scale * step])
    spread = np.sqrt(np.diag(np.linalg.inv(-curve / np.outer(size, size))))
    assert [fit.se_shape, fit.se_scale] == pytest.approx(spread.tolist(), rel=1e-3)


def test_leaving_out_the_entry_ages_makes_old_parts_look_immortal() -> None:
    """Parts older than the log are only seen from the day it began: forgetting that biases the life upwards."""
    chance = np.random.default_rng(7)
    age = 1000 * chance.weibull(2.5, 4000)
    began = chance.uniform(0, 1200, 4000)  # age at which the log began for each
    seen = age > began
    entry, stop = began[seen], age[seen]
    with_entry = fit_weibull(age_counts(entry, stop, np.ones(stop.size)))
    without = fit_weibull(age_counts(np.zeros(stop.size), stop, np.ones(stop.size)))
    assert with_entry.scale == pytest.approx(1000, rel=0.04)
    assert with_entry.shape == pytest.approx(2.5, rel=0.06)
    assert without.scale > 1080


@pytest.mark.parametrize(
    ("life", "words"),
    [
        (([0.0], [5.0], [0.0]), "no failure"),
        (([0.0, 0.0], [5.0, 5.0], [1.0, 1.0]), "every failure lies at the largest age"),
        (([0.0, 0.0], [5.0, 3.0], [1.0, 0.0]), "every failure lies at the largest age"),
        (([10.0, 10.0, 10.0], [10.5, 30.0, 80.0], [1.0, 0.0, 0.0]), "as the shape falls to 0"),
    ],
)
def test_degenerate_data_have_a_reason_and_never_a_crash(life: tuple[list[float], list[float], list[float]], words: str) -> None:
    with pytest.raises(NoEstimate, match=words):
        fit_weibull(age_counts(*life))


def test_one_failure_below_a_survivor_has_an_estimate() -> None:
    fit = fit_weibull(age_counts([0.0] * 5, [3.0, 9.0, 9.0, 9.0, 9.0], [1.0, 0, 0, 0, 0]))
    assert fit.shape > 0
    assert fit.shape_low is not None


def _pools() -> list[AgeCounts]:
    chance = np.random.default_rng(3)
    pools = []
    for scale in (900.0, 1400.0, 1100.0, 2500.0):
        age = scale * chance.weibull(2.0, 120)
        stop = np.minimum(age, chance.uniform(300, 900, 120))
        pools.append(age_counts(np.zeros(120), stop, (age <= stop).astype(float)))
    return pools


def test_the_shared_shape_maximises_the_marginal() -> None:
    pools = _pools()
    kind = fit_shared_shape(pools)
    assert kind.shape == pytest.approx(2.0, abs=0.35)
    best = log_marginal_of(pools, kind.shape, kind.prior_shape, kind.prior_rate)
    assert kind.loglik == pytest.approx(best, rel=1e-9)
    for name in ("shape", "a", "b"):
        for by in (0.97, 1.03):
            moved = {"shape": kind.shape, "a": kind.prior_shape, "b": kind.prior_rate}
            moved[name] *= by
            assert log_marginal_of(pools, **moved) <= best + 1e-7
    after = kind.posterior()
    own = kind.failures / kind.hazard
    prior_mean = kind.prior_shape / kind.prior_rate
    shrunk = after[0] / after[1]
    assert np.all((shrunk - own) * (prior_mean - own) >= -1e-15)  # every pool moves towards its kind


def test_alike_pools_are_pooled_and_a_kind_without_failures_is_never_zero() -> None:
    alike = [age_counts(np.zeros(50), np.full(50, 400.0 + i), np.r_[np.ones(5), np.zeros(45)]) for i in range(3)]
    alike = [age_counts(np.zeros(50), np.r_[np.full(5, 200.0), np.full(45, 400.0)], np.r_[np.ones(5), np.zeros(45)])] * 3
    assert fit_shared_shape(alike).boundary
    none = fit_shared_shape([age_counts([0.0], [100.0], [0.0])], kind="fan")
    assert none.no_failures
    assert (none.posterior()[0] / none.posterior()[1] > 0).all()
    with pytest.raises(NoEstimate, match="no unit was at risk"):
        fit_shared_shape([age_counts([], [], [])])
    with pytest.raises(ContractError, match="kind"):
        fit_shared_shape([age_counts([0.0], [1.0], [0.0])], kind="hinge")


def test_two_early_failures_among_a_thousand_survivors_do_not_make_a_shape_of_nine() -> None:
    pool = age_counts(np.zeros(1002), np.r_[[690.0, 699.0], np.full(1000, 700.0)], np.r_[[1.0, 1.0], np.zeros(1000)])
    wild = fit_weibull(pool).shape
    assert wild > 9
    assert fit_shared_shape([pool], kind="memory").shape < 3


def test_eight_failures_of_parts_that_wear_out_do_not_make_a_shape_of_two() -> None:
    chance = np.random.default_rng(4)
    shapes = []
    for _ in range(20):
        life = 10.0 * chance.weibull(3.5, 100)
        end = np.sort(life)[7] + 1e-9
        pool = age_counts(np.zeros(100), np.minimum(life, end), (life <= end).astype(float))
        shapes.append(fit_shared_shape([pool], kind="battery").shape)
    assert np.median(shapes) > 2.5


def test_the_school_is_chosen_with_its_reason() -> None:
    assert choose_school(7, shape=3.0, gain=10.0).name == "constant"
    assert choose_school(8, shape=3.0, gain=1.9).name == "constant"
    worn = choose_school(8, shape=3.0, gain=1.93)
    assert (worn.name, worn.early_life) == ("wear-out", False)
    assert choose_school(30, shape=0.6, gain=5.0).early_life
    assert "no shape" in choose_school(0, shape=None, gain=None).reason


def test_the_profile_is_exponential_at_a_shape_of_one() -> None:
    counts = _whole(BEARINGS)
    total = sum(BEARINGS)
    assert WeibullLikelihood(counts).profile(0.0) == pytest.approx(23 * np.log(23 / total) - 23)
