"""Argument checks: what passes, and that a refusal names the argument, the place and the value."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core import checks
from almanac.core.errors import ContractError


@given(st.lists(st.floats(-5, 5), max_size=20))
def test_a_vector_within_its_range_passes_unchanged(values: list[float]) -> None:
    np.testing.assert_array_equal(checks.vector("x", values, low=-5, high=5), np.array(values, dtype=float))


@given(st.lists(st.floats(0, 1), min_size=1, max_size=20), st.data())
def test_the_first_offender_is_named_by_its_place(values: list[float], data: st.DataObject) -> None:
    place = data.draw(st.integers(0, len(values) - 1))
    values[place] = 2.5
    with pytest.raises(ContractError, match=rf"^x\[{place}\]: a finite number in \[0, 1\] was wanted, got 2\.5$"):
        checks.vector("x", values, low=0, high=1)


@pytest.mark.parametrize("value", [float("nan"), float("inf"), -float("inf")])
def test_what_is_not_finite_is_refused_everywhere(value: float) -> None:
    for check in (checks.positive, checks.number):
        with pytest.raises(ContractError, match="x: a finite number"):
            check("x", value)
    with pytest.raises(ContractError, match=r"x\[0\]"):
        checks.vector("x", [value])
    with pytest.raises(ContractError, match="x: a probability"):
        checks.probability("x", value)


def test_sizes_and_dimensions() -> None:
    with pytest.raises(ContractError, match="x: 3 values were wanted, got 2"):
        checks.vector("x", [1, 2], size=3)
    with pytest.raises(ContractError, match="got 0 dimensions"):
        checks.vector("x", 4)


@pytest.mark.parametrize("value", [0.0, 1.0, -0.1, 1.1])
def test_a_probability_is_strictly_inside(value: float) -> None:
    with pytest.raises(ContractError, match="above 0 and below 1"):
        checks.probability("target", value)


def test_numbers() -> None:
    assert checks.positive("x", 3) == 3.0
    assert checks.number("x", 3, low=3) == 3.0
    assert checks.probability("x", 0.5) == 0.5
    with pytest.raises(ContractError, match="above 0 was wanted, got 0"):
        checks.positive("x", 0)
    with pytest.raises(ContractError, match=r"in \[4, inf\] was wanted, got 3"):
        checks.number("x", 3, low=4)
