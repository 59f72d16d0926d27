"""What moves often is counted often."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.stock.counting import count_due_on, count_every

TODAY = date(2026, 11, 1)


@pytest.mark.parametrize(("moves", "days"), [(0, 365), (1, 180), (3, 180), (4, 90), (11, 90), (12, 30), (500, 30)])
def test_days_between_counts(moves: int, days: int) -> None:
    assert count_every(moves) == days


@given(st.integers(0, 200), st.integers(0, 200))
def test_more_moves_are_never_counted_less_often(one: int, other: int) -> None:
    assert count_every(max(one, other)) <= count_every(min(one, other))


def test_a_shelf_that_was_never_counted_is_due_and_another_when_its_days_are_over() -> None:
    assert count_due_on(None, 0, TODAY) == TODAY
    assert count_due_on(TODAY, 12, TODAY) == TODAY + timedelta(days=30)
