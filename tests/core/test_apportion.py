"""Whole units shared out: nothing lost, and never further than one from the exact share."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.apportion import apportioned
from almanac.core.errors import ContractError


@given(st.integers(0, 5000), st.lists(st.floats(0.0, 1000.0), min_size=1, max_size=12).filter(lambda sizes: sum(sizes) > 0.01))
def test_shares_add_up_and_keep_their_quota(total: int, sizes: list[float]) -> None:
    found = apportioned(total, sizes)
    assert sum(found) == total
    for share, size in zip(found, sizes, strict=True):
        assert abs(share - total * size / sum(sizes)) < 1.0 + 1e-6


def test_the_largest_remainders_are_served_first() -> None:
    assert apportioned(10, [1.0, 1.0, 1.0]) == [4, 3, 3]
    assert apportioned(100, [21878, 9713, 4167, 3252, 1065]) == [55, 24, 10, 8, 3]
    assert apportioned(7, [2.0, 0.0, 5.0]) == [2, 0, 5]
    assert apportioned(0, [0.0, 0.0]) == [0, 0]


@pytest.mark.parametrize(("total", "sizes"), [(-1, [1.0]), (3, [0.0]), (3, []), (3, [-1.0, 2.0])])
def test_nothing_to_share_by_is_refused(total: int, sizes: list[float]) -> None:
    with pytest.raises(ContractError):
        apportioned(total, sizes)
