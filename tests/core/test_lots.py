"""Lots left on a shelf: against parts followed one by one, and by what must hold whatever comes and goes."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.stock.lots import LotMove, lots_left

DAY = date(2026, 1, 1)


def one_by_one(moves: list[LotMove]) -> list[tuple[date | None, int]]:
    """Every part followed by itself."""
    parts: list[date | None] = []
    owed = 0
    for move in moves:
        for _ in range(abs(move.quantity)):
            if move.quantity > 0:
                if owed:
                    owed -= 1
                else:
                    parts.append(move.expires_on)
            elif parts:
                good = [part for part in parts if part is None or part >= move.moved_on]
                parts.remove(min(good or parts, key=lambda part: part or date.min))
            else:
                owed += 1
    return sorted({(part, parts.count(part)) for part in parts}, key=lambda lot: lot[0] or date.min)


MOVES = st.lists(st.tuples(st.integers(0, 30), st.integers(-4, 6).filter(bool), st.none() | st.integers(-10, 60)), max_size=12)


@given(MOVES)
def test_lots_are_what_following_each_part_says(drawn: list[tuple[int, int, int | None]]) -> None:
    moves = [
        LotMove(DAY + timedelta(days=day), quantity, DAY + timedelta(days=last) if last is not None and quantity > 0 else None)
        for day, quantity, last in sorted(drawn, key=lambda row: row[0])
    ]
    left = lots_left(moves)
    assert left == one_by_one(moves)
    total = sum(move.quantity for move in moves)
    assert sum(count for _, count in left) >= max(total, 0)


def test_who_takes_a_part_leaves_the_expired_one_lying() -> None:
    old, good = DAY - timedelta(days=1), DAY + timedelta(days=90)
    moves = [LotMove(DAY, 6, old), LotMove(DAY, 3, good), LotMove(DAY, -2)]
    assert lots_left(moves) == [(old, 6), (good, 1)]
    assert lots_left([*moves, LotMove(DAY, -2)]) == [(old, 5)]


def test_what_came_later_was_not_taken_before() -> None:
    old, young = DAY + timedelta(days=5), DAY + timedelta(days=90)
    assert lots_left([LotMove(DAY, 4, young), LotMove(DAY, -3), LotMove(DAY + timedelta(days=1), 2, old)]) == [(old, 2), (young, 1)]


def test_days_out_of_order_are_a_bug_of_the_caller() -> None:
    with pytest.raises(ContractError, match="days in order"):
        lots_left([LotMove(DAY, 1), LotMove(DAY - timedelta(days=1), 1)])
