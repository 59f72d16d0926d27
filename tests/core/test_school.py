"""Schools averaged: their weights against marginal likelihoods worked out on a grid, and what is said of them."""

from __future__ import annotations

import numpy as np
import pytest

from almanac.core.errors import ContractError
from almanac.core.forecast.kind_evidence import kind_evidence
from almanac.core.forecast.part_groups import level_evidence, part_groups
from almanac.core.life.hierarchy import LOG_SHAPE_MEDIAN, LOG_SHAPE_SD
from almanac.core.life.kind_likelihood import KindLikelihood
from almanac.core.life.nodes import LOG_SHAPE_MEDIAN as LOG_A_MEDIAN
from almanac.core.life.nodes import LOG_SHAPE_SD as LOG_A_SD
from almanac.core.life.school import averaged_school
from almanac.core.life.tenures import AgeCounts, age_counts
from almanac.core.life.wear_nodes import averaged, level_nodes, wear_nodes


def counts_of(shape: float, *, pools: int = 3, units: int = 60, seed: int = 1) -> list[AgeCounts]:
    """Parts that age together for four years, of which about a sixth fail."""
    chance = np.random.default_rng(seed)
    found = []
    for _ in range(pools):
        scale = 4.0 / 0.18 ** (1 / shape) * np.exp(0.2 * chance.normal())
        life = scale * chance.weibull(shape, units)
        found.append(age_counts(np.zeros(units), np.minimum(life, 4.0), life < 4.0))
    return found


def lives(shape: float, *, pools: int = 3) -> KindLikelihood:
    return KindLikelihood(counts_of(shape, pools=pools))


def weight_of(counts: list[AgeCounts], kind: str) -> float:
    """How much wear-out carries where all pools are of one part."""
    evidence = kind_evidence(KindLikelihood(counts), counts, np.zeros(len(counts), dtype=np.int64))
    found = part_groups(evidence, float(np.exp(LOG_SHAPE_MEDIAN[kind])))
    return float(1 / (1 + np.exp(level_evidence(evidence) - found.log_evidence)))


def on_a_grid(likelihood: KindLikelihood, kind: str) -> float:
    """Weight of the wear-out school: both marginal likelihoods added up over a grid of (log beta, log m, log a)."""
    log_a = np.linspace(LOG_A_MEDIAN - 4.5, LOG_A_MEDIAN + 4.5, 25)

    def at(log_shape: float) -> float:
        middle = likelihood.crude_mean(log_shape)
        log_m = np.linspace(middle - 3.0, middle + 3.0, 61)
        value = np.array([[likelihood.value_and_slope(np.array([log_shape, m, a]))[0] for m in log_m] for a in log_a])
        value -= 0.5 * ((log_a[:, None] - LOG_A_MEDIAN) / LOG_A_SD) ** 2
        return float(value.max() + np.log(np.exp(value - value.max()).sum() * (log_m[1] - log_m[0]) * (log_a[1] - log_a[0])))

    shapes = np.linspace(LOG_SHAPE_MEDIAN[kind] - 2.4, LOG_SHAPE_MEDIAN[kind] + 2.1, 31)
    prior = -0.5 * ((shapes - LOG_SHAPE_MEDIAN[kind]) / LOG_SHAPE_SD) ** 2 - np.log(LOG_SHAPE_SD * np.sqrt(2 * np.pi))
    worn = np.array([at(shape) for shape in shapes]) + prior
    wear = worn.max() + np.log(np.exp(worn - worn.max()).sum() * (shapes[1] - shapes[0]))
    return float(1 / (1 + np.exp(at(0.0) - wear)))


@pytest.mark.parametrize(("shape", "kind"), [(1.0, "battery"), (1.7, "fan"), (3.0, "battery"), (0.6, "memory")])
def test_weights_are_those_of_the_marginal_likelihoods(shape: float, kind: str) -> None:
    counts = counts_of(shape, pools=1, units=180)
    assert weight_of(counts, kind) == pytest.approx(on_a_grid(KindLikelihood(counts), kind), abs=0.05)


def test_few_failures_decide_little_and_many_decide() -> None:
    weights = [weight_of(counts_of(3.0, units=units), "fan") for units in (8, 400)]
    assert 0.2 < weights[0] < 0.95
    assert weights[1] > 0.999


def test_nodes_of_both_keep_their_shares() -> None:
    likelihood = lives(1.6)
    wear, level = wear_nodes(likelihood, "fan"), level_nodes(likelihood, "fan")
    both = averaged(wear, level, 0.7)
    assert (level.shape == 1.0).all()
    assert both.weight.sum() == pytest.approx(1.0)
    assert both.weight[both.shape == 1.0].sum() == pytest.approx(0.3, abs=0.01)
    assert both.hazard.shape == (both.weight.size, 3)
    assert both.weight @ (both.a / both.b) == pytest.approx(
        0.7 * wear.weight @ (wear.a / wear.b) + 0.3 * level.weight @ (level.a / level.b), rel=0.05
    )


def test_what_is_negligible_is_left_out_and_the_rest_is_said() -> None:
    assert (averaged_school(0.01, 2.0).wear_out, averaged_school(0.99, 2.0).wear_out) == (0.0, 1.0)
    both = averaged_school(0.83, 2.1)
    assert both.averaged
    assert "carries 83%" in both.reason
    assert "17%" in both.reason
    assert averaged_school(0.9, 0.6).early_life
    assert averaged_school(0.3, 2.0).name == "constant"
    with pytest.raises(ContractError):
        averaged_school(1.2, 2.0)
