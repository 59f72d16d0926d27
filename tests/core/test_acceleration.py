"""Duty and air as acceleration of age: paces found where they are, 1 where they cannot be told."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.life_tables import life_tables
from almanac.core.demand.wear_out import WearOut
from almanac.core.errors import ContractError
from almanac.core.life.acceleration import accelerations
from almanac.core.life.kind_likelihood import KindLikelihood, most_likely
from almanac.core.life.tenures import AgeCounts, age_counts
from almanac.core.life.wear_nodes import WearNodes

SHAPE = 2.2


def pools_with_paces(seed: int, paces: list[float], units: int = 120) -> list[AgeCounts]:
    """Pools alike but for how fast they age, watched for some years."""
    random = np.random.default_rng(seed)
    found = []
    for pace in paces:
        life = 5.0 / pace * random.exponential(1.0, units) ** (1.0 / SHAPE)
        until = random.uniform(0.5, 4.0, units)
        found.append(age_counts(np.zeros(units), np.minimum(life, until), (life <= until).astype(float)))
    return found


def named(paces: list[float]) -> dict[str, tuple[list[str], str]]:
    return {"duty": (["ordinary" if pace == 1.0 else "hard" for pace in paces], "ordinary")}


@pytest.mark.parametrize("seed", [1, 2, 3, 4])
def test_a_pace_is_found_within_its_limits(seed: int) -> None:
    paces = [1.0] * 8 + [1.8] * 8
    likelihood = KindLikelihood(pools_with_paces(seed, paces))
    found = accelerations(likelihood, most_likely(likelihood), named(paces))
    (hard,) = found.classes
    assert hard.taken
    assert hard.low is not None
    assert hard.high is not None
    assert hard.low < hard.pace < hard.high
    assert hard.pace == pytest.approx(1.8, rel=0.2)
    np.testing.assert_allclose(np.exp(found.log_pace), [1.0] * 8 + [hard.pace] * 8)


def test_no_difference_is_mostly_not_taken() -> None:
    paces = [1.0] * 10
    classes = {"air": (["office"] * 5 + ["dust"] * 5, "office")}
    taken = 0
    for seed in range(30):
        likelihood = KindLikelihood(pools_with_paces(seed, paces, units=40))
        taken += accelerations(likelihood, most_likely(likelihood), classes).classes[0].taken
    assert taken <= 5  # one in twenty, by the test


def test_too_few_failures_on_one_side_are_no_evidence() -> None:
    pools = [*pools_with_paces(5, [1.0] * 6), age_counts([0.0] * 9, [1.0] * 9, [1.0] * 7 + [0.0] * 2)]
    likelihood = KindLikelihood(pools)
    found = accelerations(likelihood, most_likely(likelihood), {"duty": (["day"] * 6 + ["night"], "day")})
    (night,) = found.classes
    assert (night.taken, night.pace, night.gain, night.failures) == (False, 1.0, None, 7.0)
    assert "7 failures here" in night.reason
    assert not found.log_pace.any()


def test_two_factors_are_told_apart() -> None:
    paces = [1.0, 2.0, 1.0, 2.0] * 4
    classes = {
        "duty": (["day", "night"] * 8, "day"),
        "air": (["clean", "clean", "dust", "dust"] * 4, "clean"),
    }
    likelihood = KindLikelihood(pools_with_paces(6, paces))
    found = {one.of_class: one for one in accelerations(likelihood, most_likely(likelihood), classes).classes}
    assert found["night"].taken
    assert found["night"].pace == pytest.approx(2.0, rel=0.2)
    assert not found["dust"].taken


def test_every_pool_needs_a_class() -> None:
    likelihood = KindLikelihood(pools_with_paces(1, [1.0, 1.0]))
    with pytest.raises(ContractError, match="duty names 1"):
        accelerations(likelihood, most_likely(likelihood), {"duty": (["day"], "day")})
    with pytest.raises(ContractError, match="log_pace"):
        likelihood.paced(np.zeros(3))


@given(st.floats(-1.5, 1.5), st.floats(-0.7, 1.2), st.integers(0, 20))
@settings(max_examples=25, deadline=None)
def test_a_pace_is_a_stretch_of_ages(log_pace: float, log_shape: float, seed: int) -> None:
    pools = pools_with_paces(seed, [1.0, 1.0], units=30)
    stretched = [pools[0], AgeCounts(pools[1].age * np.exp(log_pace), pools[1].entered, pools[1].left, pools[1].failed, 0)]
    plain, own = KindLikelihood(stretched), KindLikelihood(pools).paced(np.array([0.0, log_pace]))
    # In years on both sides: m is per common unit of age, and densities are per year of the calendar.
    at = np.array([log_shape, -2.0, 1.0])
    shift = np.exp(log_shape) * np.log([plain.unit, own.unit])
    by_age = plain.value_and_slope(at + np.array([0.0, shift[0], 0.0]))[0] + float(pools[1].failures) * log_pace
    assert own.value_and_slope(at + np.array([0.0, shift[1], 0.0]))[0] == pytest.approx(by_age, rel=1e-9)


@given(st.integers(0, 20), st.floats(-1.0, 1.0), st.floats(-0.5, 1.0))
@settings(max_examples=20, deadline=None)
def test_the_slope_by_pace_is_that_of_the_likelihood(seed: int, log_pace: float, log_shape: float) -> None:
    likelihood = KindLikelihood(pools_with_paces(seed, [1.0, 1.5], units=25))
    at, pace, step = np.array([log_shape, -1.0, 0.5]), np.array([0.0, log_pace]), np.array([0.0, 1e-6])
    slope = likelihood.paced(pace).slope_by_pace(at)[1]
    up, down = (likelihood.paced(pace + sign * step).value_and_slope(at)[0] for sign in (1, -1))
    assert slope == pytest.approx((up - down) / 2e-6, rel=1e-4, abs=1e-4)
    first = likelihood.paced(pace)
    for axis in range(3):
        move = np.eye(3)[axis] * 1e-6
        numeric = (first.value_and_slope(at + move)[0] - first.value_and_slope(at - move)[0]) / 2e-6
        assert first.value_and_slope(at)[1][axis] == pytest.approx(numeric, rel=1e-4, abs=1e-4)


def test_a_pool_that_ages_faster_fails_as_one_with_a_higher_level() -> None:
    nodes = WearNodes(np.ones(1), np.array([2.0]), np.array([4.0]), np.array([160.0]), np.array([[120.0, 120.0]]))
    failures, log_pace = np.array([6.0, 6.0]), np.array([0.0, np.log(2.0)])
    kind = life_tables(nodes, failures, oldest_years=8.0, horizon_days=400, log_pace=log_pace)
    means = [
        float(
            WearOut(kind, np.array([pool]), age_groups(np.array([0]), np.array([2.0]), np.ones(1), np.zeros(1), np.full(1, np.inf)))
            .mean_by_pool(np.array([[0.0, 10.0]]))
            .item()
        )
        for pool in (0, 1)
    ]
    assert means[1] == pytest.approx(4.0 * means[0], rel=0.03)
