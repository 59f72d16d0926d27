"""Lots left on a shelf: against parts followed one by one, and by what must hold whatever comes and goes."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.stock.lots import LotMove, expired_in, lots_left, taken

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


def test_what_is_taken_from_a_lot_by_name_comes_out_of_that_one() -> None:
    first, second = DAY + timedelta(days=30), DAY + timedelta(days=90)
    came = [LotMove(DAY, 3, first), LotMove(DAY, 2, second)]
    assert lots_left([*came, LotMove(DAY, -1, second)]) == [(first, 3), (second, 1)]
    assert lots_left([*came, LotMove(DAY, -4, second)]) == [(first, 1)]  # what the lot does not hold comes out of the next
    assert lots_left([*came, LotMove(DAY, -1, DAY)]) == [(first, 2), (second, 2)]
    assert lots_left([*came, LotMove(DAY, -1)]) == [(first, 2), (second, 2)]


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


LOTS = st.lists(st.tuples(st.none() | st.integers(-20, 20), st.integers(1, 5)), max_size=8, unique_by=lambda lot: lot[0])


def on_days(lots: list[tuple[int | None, int]]) -> list[tuple[date | None, int]]:
    return [(None if day is None else DAY + timedelta(days=day), count) for day, count in lots]


@given(LOTS, st.integers(0, 30), st.booleans())
def test_what_is_taken_is_there_and_no_more_than_is_wanted(drawn: list[tuple[int | None, int]], wanted: int, expired_first: bool) -> None:
    lots = on_days(drawn)
    found = taken(lots, wanted, DAY, expired_first=expired_first)
    assert sum(count for _, count in found) == min(wanted, sum(count for _, count in lots))
    assert all(0 < count <= dict(lots)[day] for day, count in found)


@given(LOTS, st.integers(0, 30))
def test_an_expired_part_is_taken_last_or_where_asked_for_first(drawn: list[tuple[int | None, int]], wanted: int) -> None:
    lots = on_days(drawn)
    old, good = expired_in(lots, DAY), sum(count for _, count in lots) - expired_in(lots, DAY)
    assert expired_in(taken(lots, wanted, DAY), DAY) == min(max(wanted - good, 0), old)
    assert expired_in(taken(lots, wanted, DAY, expired_first=True), DAY) == min(wanted, old)


def test_what_went_because_it_had_expired_leaves_the_good_ones() -> None:
    old, good = DAY - timedelta(days=3), DAY + timedelta(days=90)
    came = [LotMove(DAY - timedelta(days=30), 2, old), LotMove(DAY - timedelta(days=20), 2, good)]
    assert lots_left([*came, LotMove(DAY, -2, for_expiry=True)]) == [(good, 2)]
    assert lots_left([*came, LotMove(DAY, -2)]) == [(old, 2)]


def test_of_unknown_age_nothing_is_known_to_have_expired() -> None:
    assert expired_in([(None, 4), (DAY, 2), (DAY - timedelta(days=1), 3)], DAY) == 3
