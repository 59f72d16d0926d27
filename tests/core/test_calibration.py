"""Scores of count forecasts."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from almanac.core.calibration.scores import coverage, pit_histogram, plain_coverage, score
from almanac.core.checks import Floats
from almanac.core.errors import ContractError


def poisson(mean: float, size: int = 400) -> Floats:
    return np.asarray(stats.poisson.pmf(np.arange(size), mean))


def test_the_score_of_a_certain_forecast_is_the_absolute_error() -> None:
    certain = np.eye(12)[4]
    assert score(certain, 4).crps == 0.0
    assert score(certain, 9).crps == pytest.approx(5.0)
    assert score(certain, 30).crps == pytest.approx(26.0)


def test_the_score_of_a_poisson_has_its_closed_form() -> None:
    """CRPS = (y - m)(2F(y) - 1) + 2m f([y]) - m e^(-2m)(I0(2m) + I1(2m)) for a count y (Wei & Held 2014, appendix)."""
    from scipy.special import ive

    for mean, seen in ((0.7, 0), (3.0, 5), (20.0, 11)):
        below, at = stats.poisson.cdf(seen, mean), stats.poisson.pmf(seen, mean)
        closed = (seen - mean) * (2 * below - 1) + 2 * mean * at - mean * (ive(0, 2 * mean) + ive(1, 2 * mean))
        assert score(poisson(mean), seen).crps == pytest.approx(closed, rel=1e-9)


@given(st.floats(0.05, 30.0), st.floats(0.1, 0.95))
@settings(max_examples=40, deadline=None)
def test_a_right_forecast_covers_what_it_says_exactly(mean: float, level: float) -> None:
    """Weighted by the law itself, the coverage spread over jumps is the level, however small the mean."""
    law = poisson(mean)
    kept = [n for n in range(120) if law[n] > 1e-14]
    share = [coverage([score(law, n)], level) for n in kept]
    assert float(np.dot(law[kept], share)) == pytest.approx(level, abs=1e-9)
    bins = np.array([pit_histogram([score(law, n)]) for n in kept])
    np.testing.assert_allclose(law[kept] @ bins, 0.1, atol=1e-9)


def test_a_closed_interval_of_a_small_count_covers_too_much() -> None:
    law = poisson(1.0)
    assert sum(law[n] for n in range(40) if score(law, n).inside) == pytest.approx(0.981, abs=1e-3)


def test_a_bias_shows_in_the_histogram_and_in_the_coverage() -> None:
    random = np.random.default_rng(3)
    high = [score(poisson(20.0), int(n)) for n in random.poisson(30.0, 300)]
    assert coverage(high, 0.9) < 0.5
    assert pit_histogram(high)[-1] > 0.6
    assert pit_histogram(high).sum() == pytest.approx(1.0)


def test_plain_coverage_counts_large_means_only() -> None:
    assert plain_coverage([score(poisson(3.0), 3)]) is None
    assert plain_coverage([score(poisson(60.0), 61), score(poisson(60.0), 120), score(poisson(3.0), 3)]) == (2, 0.5)


def test_contracts() -> None:
    with pytest.raises(ContractError, match="add up"):
        score([0.2, 0.2], 0)
    with pytest.raises(ContractError, match="seen"):
        score([1.0], -1)
    with pytest.raises(ContractError, match="at least one"):
        coverage([], 0.9)
    with pytest.raises(ContractError, match="level"):
        coverage([score([1.0], 0)], 1.5)
