"""A stated starting point weighs as much as a log of its size, and the log overrules it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.life.kind_likelihood import KindLikelihood, most_likely
from almanac.core.life.nodes import kind_nodes
from almanac.core.life.stated import Stated, stated_counts
from almanac.core.life.tenures import AgeCounts

RATES = st.floats(0.005, 2.0)


@given(RATES, st.floats(0.5, 50), st.one_of(st.none(), st.tuples(st.floats(0.5, 8), RATES)))
def test_it_counts_as_many_failures_as_it_is_worth_in_as_many_years_as_they_take(
    rate: float, worth: float, later: tuple[float, float] | None
) -> None:
    stated = Stated(rate, worth) if later is None else Stated(rate, worth, *later)
    counts = stated_counts(stated)
    assert counts.failures == pytest.approx(worth)
    assert counts.exposure == pytest.approx(stated.exposure_years)
    mean = rate if later is None else (rate + later[1]) / 2
    assert counts.failures / counts.exposure == pytest.approx(mean)
    assert (counts.at_risk()[1:] > 0).all()


def test_before_and_after_the_age_at_which_it_changes_each_rate_holds() -> None:
    counts = stated_counts(Stated(0.08, 5, 3.0, 0.15))
    units = counts.entered[0]
    young = counts.failed[counts.age <= 3.0].sum() / (units * 3.0)
    old = counts.failed[counts.age > 3.0].sum() / (units * 3.0)
    assert (young, old) == (pytest.approx(0.08), pytest.approx(0.15))


def test_a_rate_that_rises_is_believed_to_be_wear_out() -> None:
    flat = KindLikelihood([], stated_counts(Stated(0.08, 40)))
    rising = KindLikelihood([], stated_counts(Stated(0.03, 40, 3.0, 0.3)))
    assert np.exp(most_likely(flat)[0]) == pytest.approx(1.0, abs=0.1)
    assert np.exp(most_likely(rising)[0]) > 1.8


def seen(failures: int, years: float) -> AgeCounts:
    age = (np.arange(failures) + 0.5) / failures * 5.0
    whole = np.concatenate(([0.0], age, [5.0]))
    entered, left = np.zeros(whole.size), np.zeros(whole.size)
    entered[0], left[-1] = years / 5.0, years / 5.0
    return AgeCounts(whole, entered, left, np.concatenate(([0.0], np.ones(failures), [0.0])), 0)


@pytest.mark.parametrize(("failures", "low", "high"), [(1, 0.02, 0.08), (20, 0.015, 0.05), (400, 0.019, 0.024)])
def test_the_log_overrules_it_as_it_grows(failures: int, low: float, high: float) -> None:
    """The log says 2 of 100 a year, the belief 8, worth 5 failures."""
    likelihood = KindLikelihood([seen(failures, failures / 0.02)], stated_counts(Stated(0.08, 5)))
    shape, mean, a = np.exp(most_likely(likelihood, shape=1.0))
    rate = (a + failures) / (a / mean + likelihood.hazard(float(shape))[0][0]) / likelihood.unit
    assert low < rate < high


def test_without_a_log_the_mean_is_the_belief_as_wide_as_it_is_worth() -> None:
    """Gamma(n, T): its mean n / T and coefficient of variation 1 / sqrt(n), to the quadrature."""
    for worth in (2.0, 5.0, 30.0):
        nodes = kind_nodes([], [], (worth, worth / 0.08))
        level = nodes.shape / nodes.rate
        mean = float(nodes.weight @ level)
        spread = float(np.sqrt(nodes.weight @ (level - mean) ** 2)) / mean
        assert mean == pytest.approx(0.08, rel=0.15)
        assert spread == pytest.approx(1 / np.sqrt(worth), rel=0.3)


@given(st.floats(-1.5, 1.5), st.floats(-4, 1), st.floats(-1, 3))
def test_the_gradient_is_the_slope(log_shape: float, log_mean: float, log_a: float) -> None:
    likelihood = KindLikelihood([seen(7, 90.0), seen(2, 15.0)], stated_counts(Stated(0.08, 5, 3.0, 0.2)))
    place, step = np.array([log_shape, log_mean, log_a]), 1e-5
    slope = likelihood.value_and_slope(place)[1]
    for axis in range(3):
        move = np.eye(3)[axis] * step
        drawn = (likelihood.value_and_slope(place + move)[0] - likelihood.value_and_slope(place - move)[0]) / (2 * step)
        assert slope[axis] == pytest.approx(drawn, rel=1e-4, abs=1e-4)


@pytest.mark.parametrize("wrong", [(0.0, 5), (0.1, 0), (0.1, 5, 3.0), (0.1, 5, 0.0, 0.2), (0.1, 5, 3.0, -1.0)])
def test_what_cannot_be_believed_is_refused(wrong: tuple[float, ...]) -> None:
    with pytest.raises(ContractError):
        Stated(*wrong)
