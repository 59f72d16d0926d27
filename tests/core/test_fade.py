"""Packs that fade, against populations whose truth is known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.life.fade.curves import Paths
from almanac.core.life.fade.forecast import fade, follow, learn
from almanac.core.life.fade.own_line import own_lines
from almanac.core.life.fade.packs import Packs, packs
from almanac.core.life.fade.population import START_SD, Population
from almanac.core.life.fade.serving import serving

THRESHOLD = 0.7


def fleet(seed: int, units: int, *, scatter: float, knee: bool = False, dated: bool = True, most: int = 12) -> tuple[Packs, np.ndarray]:
    """Packs of which none has crossed yet, and the days until each will."""
    chance = np.random.default_rng(seed)
    many = units * 5
    start, fall = 1 + 0.01 * chance.normal(size=many), np.exp(chance.normal(np.log(0.09), 0.3, many))
    bend, steeper = ((start - 0.85) / fall, 4.0) if knee else (np.full(many, np.inf), 1.0)
    straight = (start - THRESHOLD) / fall
    crosses = np.where(straight <= bend, straight, np.minimum(bend, 1e9) + (straight - np.minimum(bend, 1e9)) / steeper)
    now = chance.uniform(0.5, 4.0, many)
    there = np.flatnonzero(crosses > now)[:units]
    number = chance.integers(3, most + 1, units)
    of = np.repeat(np.arange(units), number)
    year = chance.uniform(0.02, 1.0, of.size) * now[there][of]
    late = np.maximum(year - np.minimum(bend, 1e9)[there][of], 0.0)
    share = start[there][of] - fall[there][of] * (year + (steeper - 1) * late) + scatter * chance.normal(size=of.size)
    begin = np.zeros(units) if dated else np.array([year[of == unit].min() for unit in range(units)])
    made = packs(of, year - begin[of], share, now[there] - begin, np.full(units, dated))
    return made, (crosses - now)[there] * 365.25


@settings(max_examples=60, deadline=None)
@given(fall=st.floats(0.02, 0.5), knee=st.floats(0.1, 9.0), steeper=st.floats(1.0, 12.0), before=st.floats(0.0, 3.0))
def test_a_curve_is_at_the_threshold_when_it_crosses(fall: float, knee: float, steeper: float, before: float) -> None:
    path = Paths(np.ones(1), np.array([fall]), np.array([knee]), steeper, np.array([before]))
    day = float(path.crossing(THRESHOLD)[0])
    if day > 0:
        at = Packs(np.zeros(2, np.int64), np.array([day * 0.999, day]), np.ones(2), np.array([day]), np.ones(1, bool))
        just_before, then = path.at(at)
        assert then == pytest.approx(THRESHOLD, abs=1e-9)
        assert just_before > THRESHOLD


@pytest.mark.parametrize(
    "shared",
    [
        Population("straight", fall=np.log(0.1), fall_sd=0.3, before=0.3),
        Population("level", fall=np.log(0.09), fall_sd=0.25, steeper=np.log(4), level=0.86, before=-0.5),
        Population("knee", fall=np.log(0.09), fall_sd=0.25, steeper=np.log(4), knee=np.log(2), knee_sd=0.3, together=-0.4),
    ],
    ids=lambda one: one.curve,
)
def test_how_many_are_still_there_is_what_drawing_them_gives(shared: Population) -> None:
    chance = np.random.default_rng(1)
    first, second, third = chance.normal(size=(3, 300_000))
    log_knee = shared.knee + shared.knee_sd * (shared.together * first + np.sqrt(1 - shared.together**2) * second)
    paths = shared.paths(1 + START_SD * third, shared.fall + shared.fall_sd * first, log_knee, np.zeros(first.size))
    crosses, before = paths.crossing(THRESHOLD), chance.exponential(np.exp(shared.before), first.size)
    for now in (0.5, 1.5, 3.0):
        dated, undated = (np.exp(shared.log_there(serving(one_unit(now, known)), THRESHOLD, 0.0)) for known in (True, False))
        assert dated == pytest.approx((crosses > now).mean(), abs=0.006)
        assert undated == pytest.approx((crosses > now + before).mean(), abs=0.012)


def one_unit(now: float, dated: bool) -> Packs:
    return packs([0], [0.0], [1.0], [now], [dated])


def test_many_units_are_drawn_together_in_a_few_ages() -> None:
    shared = Population("knee", fall=np.log(0.09), fall_sd=0.25, steeper=np.log(4), knee=np.log(2), knee_sd=0.3, together=-0.4)
    now, dated = np.random.default_rng(3).uniform(0.2, 4.5, 120), np.arange(120) % 3 > 0
    units = packs(np.arange(120), np.zeros(120), np.ones(120), now, dated)
    each = [shared.log_there(serving(one_unit(*own)), THRESHOLD, 0.04) for own in zip(now, dated, strict=True)]
    assert shared.log_there(serving(units), THRESHOLD, 0.04) == pytest.approx(sum(each), abs=0.05)


@pytest.mark.parametrize(
    ("knee", "scatter", "dated", "most"),
    [(False, 0.03, True, 12), (False, 0.03, True, 3), (True, 0.02, True, 12), (False, 0.02, False, 12)],
)
def test_crossings_come_as_often_as_expected_and_in_their_days(knee: bool, scatter: float, dated: bool, most: int) -> None:
    made, real = fleet(5, 80 if dated else 50, scatter=scatter, knee=knee, dated=dated, most=most)
    (found,) = fade([made], THRESHOLD)
    assert found.expected(365) / (real <= 365).sum() == pytest.approx(1.0, abs=0.35)
    low, high = found.days(0.05), found.days(0.95)
    assert np.mean((low <= real) & (real <= high)) > 0.75
    assert found.learnt.weight["straight"] == pytest.approx(0.0 if knee else 1.0, abs=0.3)


def test_a_part_group_borrows_from_its_kind() -> None:
    whole, _ = fleet(6, 25, scatter=0.02)
    one = packs([0, 0], [0.2, 0.5], [0.98, 0.95], [0.6], [True])
    alone, beside = fade([one], THRESHOLD)[0], fade([whole, one], THRESHOLD)[1]
    spread = [float(np.log(found.days(0.95)[0] / found.days(0.05)[0])) for found in (alone, beside)]
    assert spread[1] < spread[0]


def test_nobody_can_be_told_from_nothing() -> None:
    with pytest.raises(ContractError, match="unit"):
        packs([0, 2], [0.1, 0.2], [1.0, 1.0], [1.0, 1.0, 1.0], [True] * 3)
    with pytest.raises(ContractError, match="now"):
        packs([0], [2.0], [0.9], [1.0], [True])
    made, _ = fleet(7, 5, scatter=0.01)
    with pytest.raises(ContractError, match="threshold"):
        fade([made], 1.2)


def falling(falls: list[float], *, seed: int = 3, ago: float = 2.0) -> Packs:
    """Packs that fall straight from new, read every quarter; the last one began to fall by 0.27 a year eight months ago."""
    chance = np.random.default_rng(seed)
    unit, year, share = [], [], []
    for place, fall in enumerate(falls):
        for at in np.arange(0.25, ago + 0.01, 0.25):
            unit.append(place)
            year.append(at)
            share.append(1.0 - fall * at + 0.008 * chance.normal())
    odd = len(falls)
    for at, read in ((ago - 0.66, 0.889), (ago - 0.44, 0.822), (ago - 0.22, 0.769), (ago, 0.711)):
        unit.append(odd)
        year.append(at)
        share.append(read)
    return packs(unit, year, share, np.full(odd + 1, ago), np.ones(odd + 1, dtype=bool))


def test_a_unit_that_fades_like_none_of_its_group_is_seen() -> None:
    """What is learnt of the others promises it a year or more; its own readings say weeks, and they are believed."""
    ago, falls = 3.7, list(np.random.default_rng(8).normal(0.045, 0.006, 30))
    own = falling(falls, ago=ago)
    learnt = learn([own.some(np.arange(30))], 0.7)[0]
    found = follow(own, learnt, 0.7)
    assert found.chance(180.0)[-1] > 0.9
    others = follow(own.some(np.arange(30)), learnt, 0.7)
    assert found.chance(365.0)[:-1] == pytest.approx(others.chance(365.0), abs=0.12)
    assert found.chance(365.0)[:-1].mean() < 0.1


def test_two_readings_make_no_line_of_their_own() -> None:
    own = packs([0, 0, 1, 1, 1], [1.0, 1.5, 1.0, 1.25, 1.5], [0.9, 0.75, 0.9, 0.83, 0.76], [1.5, 1.5], [True, True])
    told, crosses = own_lines(own, float(np.log(0.06)), float(np.log(0.01)), 0.7, draws=200, seed=1)
    assert told[0] == -np.inf
    assert np.isfinite(told[1])
    assert (crosses[:, 1] > 1.5).all()
    assert np.median(crosses[:, 1]) == pytest.approx(1.5 + 0.06 / 0.28, abs=0.05)
