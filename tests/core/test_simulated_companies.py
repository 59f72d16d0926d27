"""Companies with known truth: what the core says of them has to hold as often as it says it does."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from almanac.core.checks import Floats
from almanac.core.demand import counts
from almanac.core.demand.law import DemandLaw
from almanac.core.life.findings import dead_on_arrival_probability, settled_share
from almanac.core.life.nodes import KindNodes, kind_nodes
from almanac.core.life.shrinkage import fit_prior
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.path import Holding
from almanac.core.stock.policy import Policy
from almanac.core.stock.shelf import Shelf
from almanac.core.stock.shelf_plan import plan_shelf
from tests.reference.draws import simulate

HORIZON = 500


def company(seed: int, pools: int = 8) -> tuple[Floats, Floats, Floats, Floats]:
    """True rates of the pools, what was seen of them, and the units in service next."""
    chance = np.random.default_rng(seed)
    rates = chance.gamma(3.0, 0.02, pools)
    exposure = chance.uniform(20.0, 300.0, pools)
    failures = chance.poisson(rates * exposure).astype(float)
    units = chance.integers(5, 60, pools).astype(float)
    return rates, failures, exposure, units


def law_of(failures: Floats, exposure: Floats, units: Floats) -> DemandLaw:
    return DemandLaw(
        nodes=kind_nodes(failures, exposure),
        failures=failures,
        exposure_years=exposure,
        in_service=units[:, None] * np.arange(HORIZON + 1)[None] / 365.25,
        side=(),
        dead_on_arrival=1e-12,
        planned_swaps=np.zeros(HORIZON + 1),
        planned_fittings=np.zeros(HORIZON + 1),
    )


def randomised_pit(pmf: Floats, seen: int, chance: np.random.Generator) -> float:
    """Where a count falls in its forecast, spread evenly over the jump it sits on: uniform if the forecast is right."""
    below = float(pmf[:seen].sum())
    return below + float(pmf[seen] if seen < pmf.size else 0.0) * float(chance.random())


def test_ninety_per_cent_intervals_hold_nine_times_in_ten() -> None:
    """Over 400 companies with pools of their own, hyperparameters estimated each time."""
    chance, inside = np.random.default_rng(99), 0
    for seed in range(400):
        rates, failures, exposure, units = company(seed)
        if failures.sum() == 0:
            continue
        pmf = law_of(failures, exposure, units).pmf([0], [365])[0]
        seen = int(np.random.default_rng(seed + 10_000).poisson(rates @ units * 365 / 365.25))
        inside += 0.05 < randomised_pit(pmf, seen, chance) < 0.95
    assert 0.86 <= inside / 400 <= 0.94


def test_plug_in_values_alone_would_be_too_narrow() -> None:
    """With few failures the kind's own mean is uncertain: the carried nodes widen the forecast of new machines."""
    failures, exposure = np.array([1.0, 0.0, 2.0, 0.0]), np.full(4, 40.0)
    law = law_of(failures, exposure, np.array([0.0, 0.0, 0.0, 300.0]))
    middle = fit_prior(failures, exposure)
    plug_in = replace(law, nodes=KindNodes(np.ones(1), np.array([middle.shape]), np.array([middle.rate])))
    _, carried = counts.mean_and_variance(law.pmf([0], [365]))
    _, narrow = counts.mean_and_variance(plug_in.pmf([0], [365]))
    assert carried[0] > 1.1 * narrow[0]


def test_a_reorder_point_under_an_exact_law_meets_the_aim() -> None:
    """Draw the demand of lead time and review part by part, and serve it from every position that may stand there."""
    _, failures, exposure, units = company(11)
    law, lead = law_of(failures, exposure, units), lead_time([10, 20, 30], [0.3, 0.4, 0.3])
    policy = Policy(target=0.9, review_days=14, lead=lead)
    plan = plan_shelf(law, Shelf(Holding(12)), policy, horizon_days=365)
    assert plan is not None
    days = sorted({*(int(day) for day in lead.days), *(int(day) + 14 for day in lead.days)})
    drawn = simulate(law, days, runs=8000, seed=8)
    at = {day: drawn[:, place] for place, day in enumerate(days)}
    missed = asked = 0.0
    for day, weight in zip(lead.days.tolist(), lead.weight, strict=True):
        for position in range(plan.order_at + 1, plan.most + 1):
            before, after = at[day], at[day + 14]
            missed += weight * float((np.maximum(after - position, 0) - np.maximum(before - position, 0)).mean())
            asked += weight * float((after - before).mean())
    assert 1 - missed / asked == pytest.approx(plan.fill, abs=0.015)
    assert plan.fill >= 0.9


def test_the_settled_share_and_dead_on_arrival_find_the_truth() -> None:
    chance = np.random.default_rng(2)
    confirmed = int(chance.binomial(800, 0.8))
    assert settled_share(confirmed, 800).share == pytest.approx(0.8, abs=0.05)
    dead = int(chance.binomial(5000, 0.01))
    assert dead_on_arrival_probability(dead, 5000) == pytest.approx(0.01, abs=0.005)
