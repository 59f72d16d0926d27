"""Ages nobody knows, as counts by age: nothing is lost, what cannot be is not, and what is known of the end counts."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from almanac.core.life.age_spans import AgeSpans, ages_today, spread

DAY = 1 / 365.25


def spans(*rows: tuple[float, float, bool, float, float, float]) -> AgeSpans:
    low, high, first, watched, still, failed = zip(*rows, strict=True)
    return AgeSpans(*(np.array(column) for column in (low, high, first, watched, still, failed)))


@st.composite
def some(draw: st.DrawFn) -> AgeSpans:
    rows = []
    for _ in range(draw(st.integers(1, 6))):
        low = draw(st.floats(0.05, 3.0))
        still, failed = draw(st.sampled_from([(1.0, 0.0), (0.0, 1.0), (3.0, 2.0), (0.4, 0.6)]))
        rows.append((low, low + draw(st.floats(0.02, 5.0)), draw(st.booleans()), draw(st.floats(0.02, 4.0)), still, failed))
    return spans(*rows)


@settings(max_examples=80, deadline=None)
@given(some(), st.floats(0.6, 5.0), st.floats(0.0, 0.5), st.booleans())
def test_nothing_is_lost_and_every_age_is_possible(own: AgeSpans, shape: float, rate: float, seen: bool) -> None:
    found = spread(own, shape, rate, seen=seen)
    assert found.units == pytest.approx(own.units)
    assert found.left.sum() == pytest.approx(own.units)
    assert found.failures == pytest.approx(own.failed.sum())
    assert found.age[found.entered > 0].min() > own.low.min() - DAY
    assert found.age[found.left > 0].max() < (own.high + own.watched).max() + DAY
    if seen:
        assert found.exposure == pytest.approx(((own.still + own.failed) * own.watched).sum(), abs=2 * DAY * own.units)
        assert (found.at_risk() > -1e-9).all()


@settings(max_examples=60, deadline=None)
@given(some(), st.floats(0.6, 5.0), st.floats(0.0, 0.5))
def test_what_is_still_in_service_has_some_age(own: AgeSpans, shape: float, rate: float) -> None:
    ages, share = ages_today(own, shape, rate)
    assert share.sum(axis=1) == pytest.approx(np.ones(own.low.size))
    assert (ages >= (own.low + own.watched)[:, None] - 1e-9).all()
    assert (ages <= (own.high + own.watched)[:, None] + 1e-9).all()


def test_the_age_is_what_bayes_says_it_is() -> None:
    """A span without a machine's age, against the integral: uniform before, S(a + x) after."""
    shape, rate, low, high, watched = 3.0, 0.02, 0.5, 5.5, 1.5
    ages, share = ages_today(spans((low, high, False, watched, 1.0, 0.0)), shape, rate)

    def weight(age: float) -> float:
        return float(np.exp(-rate * (age + watched) ** shape))

    mean = quad(lambda a: (a + watched) * weight(a), low, high)[0] / quad(weight, low, high)[0]
    assert float((ages * share).sum()) == pytest.approx(mean, rel=2e-3)


def test_where_nothing_fails_the_first_part_is_still_in() -> None:
    ages, share = ages_today(spans((0.1, 6.0, True, 1.0, 1.0, 0.0)), 1.0, 0.0)
    assert float((ages * share).sum()) == pytest.approx(7.0)


def test_a_failure_speaks_for_an_old_part() -> None:
    young = spread(spans((0.1, 6.0, False, 0.5, 1.0, 0.0)), 3.0, 0.02)
    old = spread(spans((0.1, 6.0, False, 0.5, 0.0, 1.0)), 3.0, 0.02)
    assert (old.left * old.age).sum() > (young.left * young.age).sum() + 0.5
    assert (old.entered * old.age).sum() == pytest.approx((young.entered * young.age).sum())
