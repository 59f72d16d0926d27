"""Counts in the thousands, slow series, and mixtures that lie far apart: exact all the same."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from scipy import stats

from almanac.core.checks import Floats
from almanac.core.demand import counts
from almanac.core.demand.counts import GammaPieces


def pieces(shape: list[list[float]], rate: list[list[float]], exposure: list[list[float]], batch: list[int] | None = None) -> GammaPieces:
    return GammaPieces(np.array(shape), np.array(rate), np.array(exposure), np.array(batch or [1] * len(shape[0])))


def found(drawn: GammaPieces, *, again: float = 1e-13, weight: list[float] | None = None, fittings: float = 0.0) -> Floats:
    weights = np.array(weight or [1.0])
    return counts.probabilities(drawn, again, weights, np.full(drawn.exposure.shape[0], fittings))


@pytest.mark.parametrize(("shape", "exposure"), [(400.0, 60_000.0), (30_000.0, 6_000.0), (3.0, 900.0), (0.5, 40.0)])
def test_means_from_tens_to_thousands_are_negative_binomial(shape: float, exposure: float) -> None:
    pmf = found(pieces([[shape]], [[shape / 0.1]], [[exposure]]))[0]
    closed = stats.nbinom.pmf(np.arange(pmf.size), shape, (shape / 0.1) / (shape / 0.1 + exposure))
    np.testing.assert_allclose(pmf, closed, atol=2e-12)
    assert pmf.sum() == pytest.approx(1.0, abs=1e-9)


def test_a_short_and_a_long_window_do_not_spoil_one_another() -> None:
    pmf = found(pieces([[50.0]], [[500.0]], [[0.0], [2.0], [80_000.0]]))
    assert pmf[0, 0] == pytest.approx(1.0)
    for row, exposure in ((1, 2.0), (2, 80_000.0)):
        closed = stats.nbinom.pmf(np.arange(pmf.shape[1]), 50.0, 500.0 / (500.0 + exposure))
        np.testing.assert_allclose(pmf[row], closed, atol=2e-12)


def test_a_rate_almost_unknown_makes_a_slow_series_and_the_same_answer() -> None:
    """With q = 0.995 the power series needs thousands of terms; the logarithm is taken directly instead."""
    pmf = found(pieces([[0.7, 4.0]], [[1.0, 50.0]], [[199.0, 30.0]]))[0]
    first = stats.nbinom.pmf(np.arange(pmf.size), 0.7, 1.0 / 200.0)
    second = stats.nbinom.pmf(np.arange(pmf.size), 4.0, 50.0 / 80.0)
    np.testing.assert_allclose(pmf[:3000], np.convolve(first, second)[:3000], atol=1e-10)


def test_nodes_far_apart_leave_two_humps() -> None:
    drawn = pieces([[9000.0], [9000.0]], [[90_000.0], [45_000.0]], [[10_000.0]])
    pmf = found(drawn, weight=[0.25, 0.75])[0]
    n = np.arange(pmf.size)
    low, high = (stats.nbinom.pmf(n, 9000.0, rate / (rate + 10_000.0)) for rate in (90_000.0, 45_000.0))
    np.testing.assert_allclose(pmf, 0.25 * low + 0.75 * high, atol=2e-12)
    assert pmf[1400:1600].max() < pmf.max() / 50


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 400), st.floats(5, 4000), st.floats(0.1, 3000), st.sampled_from([1, 2]), st.floats(0.001, 0.2), st.floats(0, 60))
def test_moments_are_those_of_the_pieces(shape: float, rate: float, exposure: float, batch: int, again: float, fittings: float) -> None:
    pmf = found(pieces([[shape]], [[rate]], [[exposure]], [batch]), again=again, fittings=fittings)
    mean, _ = counts.mean_and_variance(pmf)
    wanted = (batch * shape / rate * exposure + fittings * again) / (1 - again)
    assume(wanted < counts.LARGEST_GRID / 4)  # more parts than a grid has cells are no stock of any company
    assert mean[0] == pytest.approx(wanted, rel=1e-6, abs=1e-8)
    assert pmf.min() >= 0


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5, 60), st.floats(5, 400), st.floats(0.1, 200), st.sampled_from([1, 2]), st.floats(0.001, 0.2))
@example(27.0, 21.0, 81.0, 2, 0.0625)  # a transform that dies out and rises again
def test_the_recursion_and_the_transform_agree(shape: float, rate: float, exposure: float, batch: int, again: float) -> None:
    drawn = pieces([[shape]], [[rate]], [[exposure]], [batch])
    head = counts.first_probabilities(np.ones(1), *counts.negative_binomial_series(drawn, again, 40), 41)[0]
    whole = found(drawn, again=again)[0]
    np.testing.assert_allclose(head, np.pad(whole, (0, 41))[:41], atol=1e-11)
