"""Pools that borrow from their kind: a published example, a second implementation, and the boundary cases."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings

from almanac.core.errors import ContractError
from almanac.core.life import shrinkage
from almanac.core.life.nodes import kind_nodes
from tests.reference import shrinkage as slow
from tests.strategies import pools

PUMP_FAILURES = [5, 1, 5, 14, 3, 19, 1, 1, 4, 22]
PUMP_HOURS = [94.320, 15.720, 62.880, 125.760, 5.240, 31.440, 1.048, 1.048, 2.096, 10.480]
"""Ten pumps, thousands of hours: Gaver & O'Muircheartaigh (1987), table 1."""


def test_published_pumps() -> None:
    prior = shrinkage.fit_prior(PUMP_FAILURES, PUMP_HOURS)
    assert prior.shape == pytest.approx(0.8223, abs=5e-4)
    assert prior.rate == pytest.approx(1.2590, abs=5e-4)
    after = shrinkage.posterior(prior, PUMP_FAILURES, PUMP_HOURS)
    assert after.mean[0] == pytest.approx((5 + prior.shape) / (94.320 + prior.rate))


def test_the_fit_agrees_with_a_general_optimiser() -> None:
    shape, rate = slow.best(PUMP_FAILURES, PUMP_HOURS)
    prior = shrinkage.fit_prior(PUMP_FAILURES, PUMP_HOURS)
    assert prior.shape == pytest.approx(shape, rel=1e-5)
    assert prior.rate == pytest.approx(rate, rel=1e-5)
    assert prior.loglik == pytest.approx(slow.loglik(prior.shape, prior.rate, PUMP_FAILURES, PUMP_HOURS), rel=1e-12)


@settings(max_examples=25, deadline=None)
@given(pools)
def test_no_other_prior_is_likelier(record: list[tuple[int, float]]) -> None:
    failures, exposure = zip(*record, strict=True)
    prior = shrinkage.fit_prior(failures, exposure)
    if prior.no_failures:
        assert (prior.shape, prior.rate) == (0.5, sum(exposure))
        return
    assert prior.loglik is not None
    for shape, rate in ((1.3, 1.0), (1 / 1.3, 1.0), (1.0, 1.3), (1.0, 1 / 1.3)):
        if prior.shape * shape <= shrinkage.LARGEST_SHAPE:
            other = slow.loglik(prior.shape * shape, prior.rate * rate, list(failures), list(exposure))
            assert other <= prior.loglik + 1e-7


@settings(max_examples=40, deadline=None)
@given(pools)
def test_a_posterior_mean_lies_between_the_pool_and_its_kind(record: list[tuple[int, float]]) -> None:
    failures, exposure = (np.array(column, dtype=float) for column in zip(*record, strict=True))
    prior = shrinkage.fit_prior(failures, exposure)
    after = shrinkage.posterior(prior, failures, exposure)
    if prior.no_failures:
        return
    own = failures / exposure
    low, high = np.minimum(own, prior.mean), np.maximum(own, prior.mean)
    assert (after.mean >= low * (1 - 1e-9) - 1e-12).all()
    assert (after.mean <= high * (1 + 1e-9) + 1e-12).all()


def test_pools_that_are_alike_are_pooled_and_it_is_said() -> None:
    prior = shrinkage.fit_prior([5, 5, 5], [100.0, 100.0, 100.0])
    assert prior.boundary
    assert prior.shape == pytest.approx(shrinkage.LARGEST_SHAPE)
    assert prior.mean == pytest.approx(0.05, rel=1e-4)


def test_one_pool_alone_is_pooled() -> None:
    assert shrinkage.fit_prior([1], [3.0]).boundary


def test_a_kind_without_failures_spends_its_exposure_once() -> None:
    prior = shrinkage.fit_prior([0, 0], [10.0, 20.0])
    after = shrinkage.posterior(prior, [0, 0], [10.0, 20.0])
    assert prior.no_failures
    assert (after.shape[0], after.rate[0], after.rate[1]) == (0.5, 30.0, 30.0)
    assert (after.mean > 0).all()


def test_scaling_time_scales_rates_only() -> None:
    years = shrinkage.fit_prior(PUMP_FAILURES, PUMP_HOURS)
    days = shrinkage.fit_prior(PUMP_FAILURES, [365.25 * time for time in PUMP_HOURS])
    assert days.shape == pytest.approx(years.shape, rel=1e-8)
    assert days.rate == pytest.approx(365.25 * years.rate, rel=1e-8)


def test_a_pool_without_exposure_changes_nothing() -> None:
    with_it = shrinkage.fit_prior([*PUMP_FAILURES, 0], [*PUMP_HOURS, 0.0])
    assert with_it.shape == pytest.approx(shrinkage.fit_prior(PUMP_FAILURES, PUMP_HOURS).shape)


def test_failures_without_exposure_contradict() -> None:
    with pytest.raises(ContractError, match=r"exposure\[1\]: failures without time in service"):
        shrinkage.fit_prior([1, 2], [3.0, 0.0])


def test_no_exposure_at_all_is_refused() -> None:
    with pytest.raises(ContractError, match="at least one pool"):
        shrinkage.fit_prior([0], [0.0])


@settings(max_examples=25, deadline=None)
@given(pools)
def test_nodes_are_a_distribution_over_priors(record: list[tuple[int, float]]) -> None:
    failures, exposure = zip(*record, strict=True)
    nodes = kind_nodes(failures, exposure)
    assert nodes.weight.sum() == pytest.approx(1.0)
    assert (nodes.shape > 0).all()
    assert (nodes.rate > 0).all()
    assert nodes.pooled == (sum(failures) == 0)


def test_nodes_widen_when_the_kind_has_little_to_say() -> None:
    """Three failures leave the kind's mean uncertain by a factor; three hundred do not. Plug-in values would hide that."""
    few, many = kind_nodes([1, 2, 0], [50.0] * 3), kind_nodes([100, 110, 95], [5000.0] * 3)

    def spread(nodes: object) -> float:
        mean = np.log(nodes.shape / nodes.rate)  # type: ignore[attr-defined]
        weight = nodes.weight  # type: ignore[attr-defined]
        return float(np.sqrt(weight @ (mean - weight @ mean) ** 2))

    assert spread(few) > 0.4
    assert spread(many) < 0.25
