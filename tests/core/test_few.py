"""Parts that fail seldom: the promise is kept by the rate's own doubt, and silence is no rate of nothing."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.stock.few import Draws, Terms, plan_few
from almanac.core.stock.lead_time import lead_time
from almanac.core.stock.reorder import Measure, Promise

TERMS = Terms(lead_time([21], [1.0]), 14.0, Promise(Measure.FILL, 0.95))


def test_the_mean_is_that_of_the_gamma() -> None:
    plan = plan_few(Draws(3.0, 100 * 365.25, 40.0), TERMS)
    assert plan is not None
    assert plan.a_year == pytest.approx(40 * 3.5 / 100)
    assert plan.rate.rate == pytest.approx(0.03)


def test_where_no_place_served_nothing_is_said() -> None:
    assert plan_few(Draws(0.0, 0.0, 10.0), TERMS) is None
    assert plan_few(Draws(2.0, 500.0, 0.0), TERMS) is None
    with pytest.raises(ContractError):
        plan_few(Draws(-1.0, 500.0, 1.0), TERMS)


@settings(max_examples=40)
@given(st.floats(0, 30), st.floats(1e3, 1e6), st.floats(1, 2000))
def test_more_draws_never_keep_less(drawn: float, days: float, units: float) -> None:
    one, more = plan_few(Draws(drawn, days, units), TERMS), plan_few(Draws(drawn + 5, days, units), TERMS)
    assert one is not None
    assert more is not None
    assert more.policy.s >= one.policy.s >= 0
    assert one.fill >= 0.95 - 1e-9 or one.policy.s == 0


def test_played_with_rates_of_its_own_doubt_the_promise_is_kept() -> None:
    """Rates drawn from what is believed, each played for two hundred years: 95 of 100 requests are met at once."""
    rng = np.random.default_rng(7)
    draws = Draws(4.0, 200 * 365.25, 150.0)
    plan = plan_few(draws, TERMS)
    assert plan is not None
    met = asked = 0
    for _ in range(150):
        rate = rng.gamma(4.5, 1 / (200 * 365.25)) * 150
        one, of = _played(rng, rate, plan.policy.s, plan.policy.lot)
        met, asked = met + one, asked + of
    assert met / asked == pytest.approx(plan.fill, abs=0.02)
    assert met / asked > 0.94


def _played(rng: np.random.Generator, rate: float, s: int, lot: int) -> tuple[int, int]:
    """Requests met at once of all, over two hundred years of days; orders at reviews, backorders wait."""
    stock, met, asked = s + lot, 0, 0
    coming: list[tuple[int, int]] = []
    for day in range(200 * 365):
        stock += sum(quantity for at, quantity in coming if at == day)
        coming = [one for one in coming if one[0] > day]
        wanted = int(rng.poisson(rate))
        met += min(max(stock, 0), wanted)
        asked += wanted
        stock -= wanted
        if day % 14 == 13:
            position = stock + sum(quantity for _, quantity in coming)
            while position <= s:
                coming.append((day + 22, lot))
                position += lot
    return met, asked
