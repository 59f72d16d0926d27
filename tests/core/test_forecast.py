"""The forecast of a kind against companies whose truth is known, and its pieces against what is worked out by hand."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.errors import ContractError, NoEstimate
from almanac.core.forecast.company import Ages, Company, InService, Tenures
from almanac.core.forecast.evidence import gathered
from almanac.core.forecast.forecast import forecast, learn
from almanac.core.forecast.posterior import Model, Posterior
from almanac.core.forecast.predict import Cells, Levels, first_failures, play
from almanac.core.forecast.spans import possible_ages, weights

Rows = list[tuple[float, ...]]


def company(tenures: Rows, units: Rows, *, pools: int = 1, one_group: bool = False, median: float = 2.0, **more: float | bool) -> Company:
    """tenures : pool, entry, exit, failed, ended; units : pool, age."""
    rows, there = np.array(tenures, float), np.array(units, float).reshape(-1, 2)
    group = np.zeros(pools, np.int64) if one_group else np.arange(pools)
    watched = rows[:, 2] - rows[:, 1]
    made = Tenures(rows[:, 0].astype(np.int64), Ages.known(rows[:, 1]), watched, rows[:, 3] > 0, np.ones(len(rows)), rows[:, 4])
    held = InService(there[:, 0].astype(np.int64), Ages.known(there[:, 1]), np.ones(len(there)))
    return Company(pools, group, made, held, median, **more)  # type: ignore[arg-type]


def lived(chance: np.random.Generator, shape: float, scale: float, fitted: np.ndarray, *, pool: int = 0) -> tuple[Rows, Rows, int]:
    """Positions filled so many years ago and ever since: tenures, units in service, and failures of the year to come."""
    tenures: Rows = []
    units: Rows = []
    coming = 0
    for since in fitted:
        day = -since
        while True:
            end = day + scale * chance.weibull(shape)
            if end >= 0:
                break
            tenures.append((pool, 0.0, end - day, 1, -end))
            day = end
        tenures.append((pool, 0.0, -day, 0, 0.0))
        units.append((pool, -day))
        while end < 1.0:
            coming += 1
            end += scale * chance.weibull(shape)
    return tenures, units, coming


@settings(max_examples=40, deadline=None)
@given(shape=st.floats(0.1, 12.0), trend=st.floats(-0.4, 0.4), seed=st.integers(0, 9))
def test_cumulative_exposure_is_what_adding_up_gives(shape: float, trend: float, seed: int) -> None:
    chance = np.random.default_rng(seed)
    entry = chance.uniform(0, 3, 12)
    lasted, ago = chance.uniform(0.1, 5, 12), chance.uniform(0, 4, 12)
    rows: Rows = [(i % 2, entry[i], entry[i] + lasted[i], i % 3 == 0, ago[i]) for i in range(12)]
    made = company(rows, [(0, 1.0)], pools=2, trend=True)
    evidence = gathered(made)
    found = evidence.hazard(np.full((1, 2), np.log(shape)), np.array([trend]))[0]
    wanted = np.zeros(2)
    for pool, begin, end, _, ended in rows:
        for left, right in pairwise([-50.0, *np.arange(-3.0, 0.25, 0.5).tolist()]):
            low, high = max(-(ended + end - begin), left), min(-ended, right)
            if high > low:
                ages = end + low + ended, end + high + ended
                middle = max((left + right) / 2, -3.0)
                wanted[int(pool)] += np.exp(trend * middle) * ((ages[1] / evidence.unit) ** shape - (ages[0] / evidence.unit) ** shape)
    assert found == pytest.approx(wanted, rel=2e-5)


def test_evidence_that_grows_old_weighs_less_by_its_day() -> None:
    rows: Rows = [(0, 0.0, 1.0, 1, 0.0), (0, 0.0, 1.0, 1, 4.0)]
    assert gathered(company(rows, [(0, 1.0)])).total == 2
    aged = gathered(replace(company(rows, [(0, 1.0)]), half_life=4.0))
    assert aged.total == pytest.approx(1.0 + 0.5, rel=0.07)


def test_one_maximum_is_the_weibull_fit() -> None:
    chance = np.random.default_rng(3)
    tenures, units, _ = lived(chance, 2.5, 4.0, chance.uniform(1, 6, 400))
    posterior = Posterior(gathered(company(tenures, units)), Model(2.5, drifts=False))
    assert np.exp(posterior.best()[0]) == pytest.approx(2.5, rel=0.12)


def test_schools_are_averaged_not_chosen() -> None:
    chance = np.random.default_rng(4)
    tenures, units, _ = lived(chance, 3.0, 6.0, chance.uniform(3.5, 4.5, 150))
    made = company(tenures, units)
    both = learn(made, school="auto")
    assert 0.7 < both.weight_wear_out < 1.0
    assert learn(made, school="constant").weight_wear_out == 0.0
    worn, flat, mixed = (forecast(made, 1.0, school=school).expected.sum() for school in ("wear-out", "constant", "auto"))
    assert flat < mixed < worn
    assert mixed == pytest.approx(both.weight_wear_out * worn + (1 - both.weight_wear_out) * flat, rel=0.1)


def test_parts_that_fail_at_random_are_not_made_to_wear() -> None:
    chance = np.random.default_rng(5)
    tenures, units, _ = lived(chance, 1.0, 8.0, chance.uniform(0, 6, 300))
    assert learn(company(tenures, units), school="auto").weight_wear_out < 0.4


def test_one_defective_model_leaves_the_good_ones_their_shape() -> None:
    chance = np.random.default_rng(6)
    tenures: Rows = []
    units: Rows = []
    for pool, (shape, scale) in enumerate([(0.7, 6.0), (3.5, 6.0), (3.5, 6.0), (3.5, 6.0)]):
        more, there, _ = lived(chance, shape, scale, chance.uniform(1, 5, 150), pool=pool)
        tenures += more
        units += there
    shapes = np.exp(np.median(learn(company(tenures, units, pools=4), school="wear-out").log_shape, axis=0))
    assert shapes[0] < 1.1
    assert min(shapes[1:]) > 2.3


def test_a_rate_that_moves_is_seen_and_one_that_stands_is_left_alone() -> None:
    chance = np.random.default_rng(7)

    def spells(rise: float) -> Rows:
        """A thousand units a year under watch for eight years, new every year, failing at a rate that moves in the last three."""
        rows: Rows = []
        for year in range(8):
            rate = 0.12 * np.exp(rise * np.clip(-(7.5 - year) + 3.0, 0.0, 3.0))
            dead = chance.exponential(1 / rate, 800)
            rows += [(0, 0.0, min(life, 1.0), life < 1.0, 7 - year + 1 - min(life, 1.0)) for life in dead]
        return rows

    units: Rows = [(0, 0.5)] * 800
    still = learn(company(spells(0.0), units, median=1.0, trend=True), school="constant")
    rising = learn(company(spells(0.3), units, median=1.0, trend=True), school="constant")
    assert still.weight_trend < 0.6
    assert rising.weight_trend > 0.95
    assert np.median(rising.trend) == pytest.approx(0.3, abs=0.12)
    moved, held = (forecast(replace(company(spells(0.3), units, median=1.0), trend=on), 1.0).expected.sum() for on in (True, False))
    assert moved > 1.2 * held


@pytest.mark.parametrize("shape", [0.8, 3.0])
def test_ages_nobody_knows_do_not_bend_the_shape(shape: float) -> None:
    """Two in five of the parts that were there when the log began are of unknown age: taken for their machines' age they would."""
    chance = np.random.default_rng(8)
    pool, entry, low, high, watched, failed = [], [], [], [], [], []
    for _ in range(500):
        machine, unknown = chance.uniform(4, 10), chance.random() < 0.4
        day = -machine
        while day < 0:
            end = day + 5.0 * chance.weibull(shape)
            if end > -3.0:
                begin, hidden = max(day, -3.0), unknown and day < -3.0
                pool.append(0)
                entry.append(np.nan if hidden else begin - day)
                low.append(0.0 if hidden else begin - day)
                high.append(machine - 3.0 if hidden else begin - day)
                watched.append(min(end, 0.0) - begin)
                failed.append(end < 0)
            day = end
    first = np.isnan(entry)
    ages = Ages(np.array(entry), np.array(low), np.array(high), first)
    rows = Tenures(np.zeros(len(pool), np.int64), ages, np.array(watched), np.array(failed), np.ones(len(pool)), np.zeros(len(pool)))
    units = InService(np.zeros(1, np.int64), Ages.known(np.ones(1)), np.ones(1))
    found = learn(Company(1, np.zeros(1, np.int64), rows, units, 2.0), school="wear-out")
    assert np.median(found.shapes()) == pytest.approx(shape, rel=0.1)
    taken = replace(rows, entry=Ages.known(np.where(first, ages.high, ages.age)))
    wrong = learn(Company(1, np.zeros(1, np.int64), taken, units, 2.0), school="wear-out")
    if shape > 1:
        assert np.median(wrong.shapes()) < 0.93 * shape


def test_a_machines_first_part_may_still_be_in_it() -> None:
    ages = Ages(np.array([np.nan]), np.zeros(1), np.array([6.0]), np.array([True]))
    slow = possible_ages(ages, np.array([3.0]), np.array([0.001]))
    assert weights(slow, np.array([3.0]), np.array([0.001]))[0, -1] > 0.8  # hardly any has failed: it is the first
    assert slow.age[0, -1] == 6.0
    fast = possible_ages(ages, np.array([3.0]), np.array([0.2]))
    assert weights(fast, np.array([3.0]), np.array([0.2]))[0, -1] < 1e-6


def test_what_replaced_a_part_fails_too() -> None:
    """Positions of early-life parts over three years, against positions played one by one."""
    levels = Levels(np.full((4000, 1), 0.6), np.full((4000, 1), 0.8))
    cells = Cells(np.zeros(1, np.int64), np.zeros(1), np.array([10.0]))
    played, again = play(levels, cells, 3.0, 1, seed=1)
    chance = np.random.default_rng(2)
    seen = 0
    for _ in range(20_000):
        day = chance.weibull(0.6) / 0.8 ** (1 / 0.6)
        while day < 3.0:
            seen += 1
            day += chance.weibull(0.6) / 0.8 ** (1 / 0.6)
    assert played.mean() / 10 == pytest.approx(seen / 20_000, rel=0.03)
    assert (played - again).mean() / 10 == pytest.approx(first_failures(levels, cells, 3.0)[0, 0], rel=0.02)


def test_intervals_hold_for_parts_that_age_together() -> None:
    chance = np.random.default_rng(9)
    held = 0
    for _ in range(30):
        tenures, units, coming = lived(chance, 3.0, 9.0, chance.uniform(3.5, 4.5, 120))
        if not any(row[3] for row in tenures):
            continue
        low, high = np.quantile(forecast(company(tenures, units), 1.0).played.sum(axis=1), [0.05, 0.95])
        held += low <= coming <= high
    assert held >= 23


def test_no_failure_is_never_a_rate_of_zero_and_no_time_no_estimate() -> None:
    found = forecast(company([(0, 0.0, 2.0, 0, 0.0)] * 50, [(0, 2.0)] * 50), 1.0)
    assert found.expected.sum() == pytest.approx(50 * 0.5 / 100, rel=0.1)
    with pytest.raises(NoEstimate):
        forecast(company([(0, 1.0, 1.0, 0, 0.0)], [(0, 2.0)]), 1.0)
    with pytest.raises(ContractError):
        forecast(company([(0, 0.0, 1.0, 0, 0.0)], [(0, 2.0)]), 1.0, school="guess")


def test_the_same_company_has_the_same_forecast() -> None:
    chance = np.random.default_rng(10)
    tenures, units, _ = lived(chance, 2.0, 4.0, chance.uniform(1, 6, 40))
    one, other = (forecast(company(tenures, units), 1.0) for _ in range(2))
    assert np.array_equal(one.played, other.played)
    assert one.expected.sum() == pytest.approx(one.played.sum(axis=1).mean(), rel=0.03)


def test_many_part_groups_are_no_harder_than_one() -> None:
    """Each of forty pools its own group: draws stay many, and what is expected is what a common shape expects."""
    chance = np.random.default_rng(11)
    tenures: Rows = []
    units: Rows = []
    for pool in range(40):
        more, there, _ = lived(chance, 2.5, 7.0, chance.uniform(2, 5, 15), pool=pool)
        tenures += more
        units += there
    apart = forecast(company(tenures, units, pools=40), 1.0)
    together = forecast(company(tenures, units, pools=40, one_group=True), 1.0)
    assert np.unique(apart.learnt.log_mean).size > 800
    assert apart.expected.sum() == pytest.approx(together.expected.sum(), rel=0.15)


def test_shapes_of_groups_are_integrated_out_as_on_a_grid() -> None:
    """Two groups: the integral over z at one place of what they share, against a fine grid."""
    chance = np.random.default_rng(12)
    tenures, units, _ = lived(chance, 0.8, 6.0, chance.uniform(1, 5, 80))
    more, there, _ = lived(chance, 3.0, 5.0, chance.uniform(1, 5, 80), pool=1)
    posterior = Posterior(gathered(company(tenures + more, units + there, pools=2)), Model(2.0, drifts=False))
    place = np.array([[0.4, np.log(0.5), -1.0, 0.7]])
    own = posterior.parts(place)
    z = np.linspace(-6, 6, 2001)
    rows = tuple(np.repeat(one, z.size) for one in own)
    height = posterior._of_groups(0.4 + 0.5 * np.repeat(z[:, None], 2, axis=1), rows) - 0.5 * z[:, None] ** 2  # type: ignore[arg-type]
    top = height.max(axis=0)
    grid = top + np.log(np.exp(height - top).sum(axis=0) * (z[1] - z[0]) / np.sqrt(2 * np.pi))
    value, shapes, shares = posterior.integrated(place, 7)
    prior = posterior._prior(place, own[1], own[2])
    assert value[0] - prior[0] == pytest.approx(grid.sum(), abs=0.01)
    mean = (np.exp(height - top) * (0.4 + 0.5 * z[:, None])).sum(axis=0) / np.exp(height - top).sum(axis=0)
    assert (shapes * shares).sum(axis=-1)[0] == pytest.approx(mean, abs=0.01)
