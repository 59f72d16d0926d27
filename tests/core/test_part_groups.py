"""Shapes by part: against draws of the same posterior, against worlds of known truth, and what must not be mistaken for a shape."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.bench import worlds
from almanac.bench.truths import company_of
from almanac.core.errors import ContractError
from almanac.core.forecast.evidence import gathered
from almanac.core.forecast.forecast import learn
from almanac.core.forecast.kind_evidence import kind_evidence, of_groups
from almanac.core.forecast.part_groups import _three, level_evidence, part_groups
from almanac.core.forecast.posterior import Model, Posterior
from almanac.core.life.kind_likelihood import KindLikelihood
from almanac.core.life.tenures import AgeCounts, age_counts

FAR = st.floats(-1.2, 1.6)


def pool(
    chance: np.random.Generator, shape: float, scale: float, units: int = 60, years: float = 5.0, *, looked: bool = False
) -> AgeCounts:
    """Parts fitted at any time within some years; each second failure found at a check half a year later, where that is wanted."""
    watched, life = chance.uniform(0.5, years, units), scale * chance.weibull(shape, units)
    failed = life < watched
    ended = np.where(failed, life, watched)
    found = failed & (np.arange(units) % 2 == 1)
    seen, later = np.where(found, np.floor(life * 2) / 2, ended), np.where(found, np.ceil(life * 2) / 2, ended)
    return age_counts(np.zeros(units), later if looked else ended, failed, looked=seen if looked else None)


@settings(max_examples=25, deadline=None)
@given(log_shape=FAR, log_mean=st.floats(-4.0, 1.0), log_a=st.floats(-2.0, 4.0), looked=st.booleans(), seed=st.integers(0, 5))
def test_of_one_group_it_is_the_likelihood_of_the_kind(log_shape: float, log_mean: float, log_a: float, looked: bool, seed: int) -> None:
    """Between any two places it changes as the likelihood does that is worked out from the rows themselves, finds and paces included."""
    chance = np.random.default_rng(seed)
    counts = [pool(chance, 1.5, 8.0, looked=looked) for _ in range(3)]
    likelihood = KindLikelihood(counts).paced(np.array([0.0, 0.4, -0.3]))
    posterior = Posterior(kind_evidence(likelihood, counts, np.zeros(3, dtype=np.int64)), Model(1.6, drifts=False))

    def both(place: list[float]) -> tuple[float, float]:
        at = np.array([place])
        own = posterior.at(at)[0] - posterior._prior(at, at[:, 2], np.zeros(1))[0]
        return float(own), likelihood.value_and_slope(at[0])[0]

    here, there = both([log_shape, log_mean, log_a]), both([0.1, -1.0, 0.5])
    assert here[0] - there[0] == pytest.approx(here[1] - there[1], abs=2e-3 * max(1.0, abs(here[1] - there[1])))


@pytest.mark.parametrize("made", [worlds.one_defective, lambda chance: worlds.cohort(chance, 3.0, 30)])
def test_it_is_the_posterior_that_draws_give(made) -> None:  # type: ignore[no-untyped-def]
    world = made(np.random.default_rng([1, 2026]))
    company = company_of(world)
    evidence = gathered(company)
    found, drawn = part_groups(evidence, company.shape_median), learn(company, school="auto")
    own = drawn.log_shape[drawn.wear_out]
    assert [group.log_shape for group in found.of] == pytest.approx(own.mean(axis=0).tolist(), abs=0.06)
    assert [group.spread for group in found.of] == pytest.approx(own.std(axis=0).tolist(), rel=0.15)
    weight = 1 / (1 + np.exp(level_evidence(evidence) - found.log_evidence))
    assert weight == pytest.approx(drawn.weight_wear_out, abs=0.05)


def test_one_part_that_dies_early_leaves_the_others_alone() -> None:
    world = worlds.one_defective(np.random.default_rng([3, 2026]))
    found = part_groups(gathered(company_of(world)), 2.0)
    assert found.of[0].interval[1] < 1.0
    assert all(group.interval[0] > 1.2 for group in found.of[1:])
    assert found.apart > 0.3
    low, high = found.unseen.interval
    assert low < found.of[0].middle < found.of[1].middle < high  # of a part nobody has seen either may hold


def test_a_part_that_lasts_longer_is_not_taken_for_one_that_ages_otherwise() -> None:
    """Pools of one part have its level in common: six of them with few failures tell once that it lasts, and nothing of its shape."""
    chance = np.random.default_rng(4)
    scales = [6.0] * 5 + [13.0]
    counts = [pool(chance, 3.0, scale, years=4.0) for scale in scales for _ in range(6)]
    group = np.repeat(np.arange(6), 6)
    evidence = kind_evidence(KindLikelihood(counts), counts, group)
    found = part_groups(evidence, 2.0)
    assert evidence.failures[group == 5].sum() < 12
    assert found.of[5].interval[0] < 3.0 < found.of[5].interval[1]
    assert found.of[5].spread > 1.2 * found.of[0].spread


def test_parts_taken_whole_have_the_failures_and_the_years_of_their_pools() -> None:
    chance = np.random.default_rng(5)
    counts = [pool(chance, 1.5, 8.0) for _ in range(5)]
    group = np.array([0, 1, 0, 1, 1])
    evidence = kind_evidence(KindLikelihood(counts), counts, group)
    whole = of_groups(evidence)
    at = np.full((1, 5), 0.37)
    own = evidence.hazard(at, np.zeros(1))[0]
    assert whole.hazard(at[:, :2], np.zeros(1))[0] == pytest.approx([own[group == 0].sum(), own[group == 1].sum()], rel=1e-5)
    assert whole.failures.tolist() == [evidence.failures[group == 0].sum(), evidence.failures[group == 1].sum()]


@given(mean=FAR, spread=st.floats(0.02, 0.9), anchor=st.floats(-0.5, 0.5))
def test_three_shapes_have_the_mean_and_no_less_than_the_spread(mean: float, spread: float, anchor: float) -> None:
    at, weight = _three(mean, spread**2, anchor)
    assert weight.sum() == pytest.approx(1.0)
    assert (weight >= 0).all()
    assert float(weight @ at) == pytest.approx(mean, abs=1e-9)
    own = float(weight @ (at - mean) ** 2)
    # Between two steps the mean alone takes some spread.
    away, width = mean - at[1], at[2] - at[1]
    assert spread**2 - 1e-9 <= own <= max(spread**2, abs(away) * width - away**2) + 1e-9
    assert abs(away) <= 0.1 + 1e-9


def test_levels_follow_the_shape() -> None:
    """With steeper shapes a part of the same record has less behind it: failures expected of its units stay where the record has them."""
    chance = np.random.default_rng(6)
    counts = [pool(chance, 2.0, 6.0) for _ in range(3)]
    likelihood = KindLikelihood(counts)
    group = np.zeros(3, dtype=np.int64)
    own = part_groups(kind_evidence(likelihood, counts, group), 2.0).of[0]
    for shape in np.unique(own.shape):
        nodes = own.shape == shape
        weight = own.weight[nodes] / own.weight[nodes].sum()
        mean = float(weight @ (own.a[nodes] / own.b[nodes]))
        expected = mean * float(likelihood.hazard(float(shape))[0].sum()) * likelihood.unit**shape
        assert expected == pytest.approx(likelihood.failures.sum(), rel=0.25)


def test_nothing_to_learn_from_is_refused() -> None:
    counts = [age_counts([0.0], [1.0], [False])]
    evidence = kind_evidence(KindLikelihood(counts), counts, np.zeros(1, dtype=np.int64))
    with pytest.raises(ContractError, match="at least one failure"):
        part_groups(evidence, 2.0)
    with pytest.raises(ContractError, match="shape_median"):
        part_groups(evidence, 0.0)
    with pytest.raises(ContractError, match="group"):
        kind_evidence(KindLikelihood(counts), counts, np.zeros(2, dtype=np.int64))
