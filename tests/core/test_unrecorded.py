"""Units in machines nobody recorded: between the fewest and the most seen in machines alike, and by their mean."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.demand.unrecorded import Spread, spread_units
from almanac.core.errors import ContractError

HELD = st.dictionaries(st.integers(1, 6), st.integers(1, 200), max_size=4)


@given(st.integers(0, 500), HELD, st.integers(0, 300), st.floats(0, 1), st.booleans())
def test_the_expected_lies_in_the_range(machines: int, held: dict[int, int], others: int, share: float, sure: bool) -> None:
    of_machines = sum(held.values()) + others
    found = spread_units(machines, held, of_machines, share=share if not sure else 1.0, sure=sure)
    assert 0.0 <= found.low <= found.expected * (1 + 1e-12)
    assert found.expected <= found.high * (1 + 1e-12)


@given(st.integers(1, 50), st.integers(1, 6), st.integers(1, 100))
def test_machines_all_alike_leave_no_doubt(machines: int, units: int, of_machines: int) -> None:
    found = spread_units(machines, {units: of_machines}, of_machines)
    assert found == Spread(machines * units, machines * units, machines * units)


def test_known_shares_spread_what_is_not_known() -> None:
    # 30 machines hold one module and 10 hold two: 1.25 each.
    assert spread_units(8, {1: 30, 2: 10}, 40) == Spread(8.0, 10.0, 16.0)
    # 20 of 80 have the large pack; the rest has another part.
    assert spread_units(8, {1: 20}, 80) == Spread(0.0, 2.0, 8.0)
    # A second fan that a quarter of the machines with known options have.
    assert spread_units(8, {1: 40}, 40, share=0.25, sure=False) == Spread(0.0, 2.0, 8.0)
    assert spread_units(8, {}, 40) == Spread()


def test_spreads_add_up_and_scale() -> None:
    total = Spread(1, 2, 3) + Spread(0, 0.5, 4)
    assert total == Spread(1, 2.5, 7)
    assert total.times(0.1).high == pytest.approx(0.7)


@pytest.mark.parametrize(
    ("machines", "held", "of_machines", "share"), [(-1, {1: 1}, 1, 1.0), (1, {1: 3}, 2, 1.0), (1, {0: 3}, 3, 1.0), (1, {1: 3}, 3, 1.5)]
)
def test_counts_that_cannot_be_are_refused(machines: int, held: dict[int, int], of_machines: int, share: float) -> None:
    with pytest.raises(ContractError, match=r"machines|share"):
        spread_units(machines, held, of_machines, share=share)
