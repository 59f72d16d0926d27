"""Followed units: when their lines fall to the threshold, and how many do in a window."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.demand.trends import Trends, joined, trends
from almanac.core.errors import ContractError
from almanac.core.life.wear import WearLine, wear_line

THRESHOLD = 0.7


def line_of(seed: int, *, fall: float = 0.0004, noise: float = 0.01) -> WearLine:
    """A line through seven readings, sixty days apart, of a unit that loses `fall` of its share a day."""
    random = np.random.default_rng(seed)
    days = np.arange(7) * 60.0
    return wear_line(days, 1.0 - fall * days + noise * random.standard_normal(7))


def units_of(seed: int, count: int = 3, **shape: float) -> Trends:
    lines = [line_of(seed + place, **shape) for place in range(count)]
    return trends(np.arange(count), lines, np.full(count, 370.0), np.full(count, np.inf), threshold=THRESHOLD)


@given(st.integers(0, 500), st.floats(0.0004, 0.001), st.floats(0.001, 0.02))
def test_chances_rise_from_nothing_and_stay_chances(seed: int, fall: float, noise: float) -> None:
    units = units_of(seed, fall=fall, noise=noise)
    days = np.array([0, 1, 30, 90, 365, 1500])
    found = units.crossed(days)
    assert found.shape == (6, 3)
    assert (found[0] == 0).all()
    assert (np.diff(found, axis=0) >= -1e-12).all()
    assert ((found >= 0) & (found <= 1)).all()


@given(st.integers(0, 500))
def test_a_quieter_line_is_surer_of_its_day(seed: int) -> None:
    loud, quiet = units_of(seed, 1, noise=0.02), units_of(seed, 1, noise=0.0005)
    days = np.arange(0, 3000, 5)

    def spread(units: Trends) -> float:
        chance = units.crossed(days)[:, 0]
        return float(
            days[np.searchsorted(chance, 0.9).clip(max=days.size - 1)] - days[np.searchsorted(chance, 0.1).clip(max=days.size - 1)]
        )

    assert spread(quiet) < spread(loud)


def test_a_line_without_scatter_crosses_on_its_day() -> None:
    days = np.arange(7) * 60.0
    exact = trends([0], [wear_line(days, 1.0 - 0.0005 * days)], [400.0], [np.inf], threshold=THRESHOLD)
    crossing = (1.0 - THRESHOLD) / 0.0005 - 400.0  # 200 days from now
    before, after = exact.crossed([crossing - 2, crossing + 2])[:, 0]
    assert before < 0.01
    assert after > 0.99


def test_a_machine_that_retires_first_takes_its_unit_along() -> None:
    line = line_of(3)
    stays, goes = (trends([0], [line], [370.0], [leave], threshold=THRESHOLD) for leave in (np.inf, 120.0))
    np.testing.assert_allclose(goes.crossed([60, 120]), stays.crossed([60, 120]))
    np.testing.assert_allclose(goes.crossed([500]), stays.crossed([120]))


def test_a_unit_that_is_past_the_threshold_is_due_at_once() -> None:
    worn = trends([0], [line_of(1, noise=0.001)], [2000.0], [np.inf], threshold=THRESHOLD)
    assert worn.crossed([1]) == pytest.approx(1.0)
    gone = trends([0], [line_of(1, noise=0.001)], [2000.0], [0.0], threshold=THRESHOLD)
    assert gone.crossed([1]) == pytest.approx(0.0)


def test_what_cannot_be_is_refused() -> None:
    line = line_of(1)
    with pytest.raises(ContractError, match="of each"):
        trends([0, 1], [line], [1.0], [np.inf], threshold=THRESHOLD)
    with pytest.raises(ContractError, match="falls"):
        trends([0], [wear_line([0.0, 10.0, 20.0], [0.8, 0.9, 1.0])], [1.0], [np.inf], threshold=THRESHOLD)
    with pytest.raises(ContractError, match="threshold"):
        trends([0], [line], [1.0], [np.inf], threshold=1.0)


def test_units_of_several_parts_stand_one_behind_the_other() -> None:
    one, other = units_of(1, 2), units_of(7, 3)
    both = joined([one, other])
    np.testing.assert_allclose(both.crossed([200]), np.concatenate((one.crossed([200]), other.crossed([200])), axis=1))
