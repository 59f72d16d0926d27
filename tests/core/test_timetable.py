"""When lanes leave, and the longest a site waits for the next departure."""

from __future__ import annotations

from datetime import date, timedelta
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanac.core.errors import ContractError
from almanac.core.stock.timetable import Timetable, longest_gap, read_weekdays

WEEKDAYS = st.sets(st.integers(0, 6), min_size=1).map(lambda days: tuple(sorted(days)))


@given(WEEKDAYS)
def test_the_longest_gap_is_the_longest_seen_over_two_weeks(weekdays: tuple[int, ...]) -> None:
    leaves = [day for day in range(21) if day % 7 in weekdays]
    assert longest_gap(weekdays) == max(later - day for day, later in pairwise(leaves))


@given(WEEKDAYS, st.dates(date(2026, 1, 1), date(2027, 12, 31)))
def test_the_next_departure_is_the_first_that_leaves(weekdays: tuple[int, ...], today: date) -> None:
    found = Timetable(4, weekdays=weekdays).next_on(today)
    assert found is not None
    assert found.weekday() in weekdays
    assert 0 <= (found - today).days < 7
    assert all((today + timedelta(days=day)).weekday() not in weekdays for day in range((found - today).days))


def test_where_only_the_days_between_are_known_no_day_is_named() -> None:
    assert Timetable(4, every_days=5).next_on(date(2026, 11, 1)) is None
    assert (Timetable(4, every_days=5).gap(7), Timetable(4).gap(7), Timetable(4, weekdays=(0, 3)).gap(9)) == (5, 7, 4)


@pytest.mark.parametrize(
    ("table", "words"),
    [
        (Timetable(4, weekdays=(0, 3), carrier="van"), "Mon and Thu by van, 4 days"),
        (Timetable(1, weekdays=(0, 2, 4)), "Mon, Wed and Fri by boat, 1 day"),
        (Timetable(4, every_days=5), "every 5 days by boat, 4 days"),
        (Timetable(4, every_days=1), "every day by boat, 4 days"),
        (Timetable(6, carrier="post"), "6 days by post"),
    ],
)
def test_words(table: Timetable, words: str) -> None:
    assert table.words == words


@pytest.mark.parametrize(
    ("text", "days"), [("Mon Thu", (0, 3)), ("thursday, monday", (0, 3)), ("Tue; Tue", (1,)), ("Mon and Fri", (0, 4)), ("", ())]
)
def test_weekdays_as_people_write_them(text: str, days: tuple[int, ...]) -> None:
    assert read_weekdays(text) == days


def test_what_is_no_weekday() -> None:
    with pytest.raises(ContractError, match="got 'someday'"):
        read_weekdays("Mon someday")
    for wrong in ([], [7], [-1]):
        with pytest.raises(ContractError):
            longest_gap(wrong)
