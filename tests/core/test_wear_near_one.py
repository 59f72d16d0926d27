"""Generating functions asked for close to z = 1 only, as those of many parts are: series serve where positions alone would be exact."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from almanac.core.checks import Floats
from almanac.core.demand import counts, wear_single
from almanac.core.demand.age_groups import age_groups
from almanac.core.demand.wear_law import Failing
from almanac.core.demand.wear_out import WearOut, all_of
from tests.core.test_wear_out import small_kind

KIND = small_kind(500)


def on_the_circle(angle: float, points: int = 9) -> NDArray[np.complex128]:
    return np.asarray(np.exp(-1j * np.linspace(0.0, angle, points)))


@given(st.integers(0, 2000), st.floats(0.0, 1.0), st.floats(0.01, np.pi), st.integers(0, 99))
@settings(max_examples=60)
def test_many_events_by_power_sums_are_their_product(events: int, most: float, angle: float, seed: int) -> None:
    chance = np.random.default_rng(seed).uniform(0.0, most, events)
    z = on_the_circle(angle)
    exact = np.prod(1.0 + chance[:, None] * (z - 1.0), axis=0)
    np.testing.assert_allclose(all_of(chance, z), exact, atol=2e-6)


def test_no_event_at_all_is_certain_to_be_none() -> None:
    np.testing.assert_array_equal(all_of(np.zeros(0), on_the_circle(1.0)), 1.0)


def fleet(units: float) -> WearOut:
    """Old parts, most of which will fail within the year, and young ones."""
    age, pool = np.array([0.3, 5.0, 5.5, 5.9, 4.0]), np.array([0, 0, 0, 1, 1])
    return WearOut(KIND, np.array([0, 1]), age_groups(pool, age, np.full(5, units), np.zeros(5), np.full(5, np.inf)))


def law(wear: WearOut) -> Floats:
    """(w, n) cumulative probabilities of its failures in a year, and in nine months of it."""
    nothing = counts.GammaPieces(np.ones((1, 0)), np.ones((1, 0)), np.zeros((2, 0)), np.zeros(0, dtype=np.int64))
    failing = Failing(wear, np.array([[0.0, 365.0], [20.0, 300.0]]))
    return np.asarray(np.cumsum(counts.probabilities(nothing, 0.0, wear.node_weight, np.zeros(2), failing), axis=1))


@pytest.mark.parametrize("units", [1.0, 3.0, 30.0, 400.0, 2000.0])
def test_laws_are_the_same_as_with_every_likely_position_taken_alone(monkeypatch: pytest.MonkeyPatch, units: float) -> None:
    found = law(fleet(units))
    monkeypatch.setattr(wear_single, "LEFT_OUT", -1.0)
    alone = law(fleet(units))
    size = min(found.shape[1], alone.shape[1])
    assert np.abs(found[:, :size] - alone[:, :size]).max() < 3e-4
    assert found[:, -1] == pytest.approx([1.0, 1.0], abs=1e-9)


def test_of_many_parts_none_is_taken_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    def refused(*_: object) -> None:
        raise AssertionError("a position was taken alone")

    monkeypatch.setattr(wear_single.SinglePositions, "__init__", refused)
    fleet(2000.0).generating(np.array([[0.0, 365.0]]), on_the_circle(0.08))
    with pytest.raises(AssertionError, match="alone"):
        fleet(2.0).generating(np.array([[0.0, 365.0]]), on_the_circle(3.0))
