"""Windows by the day they begin: exact on chosen days, mixed in between, and the same whatever was asked before."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanac.core.checks import Floats
from almanac.core.demand.sliding import days_around, exact_days
from almanac.core.demand.wear_law import WearLaw
from tests.core.test_wear_batch import apart
from tests.core.test_wear_out import law_of

LAW = law_of(40, leave=150.0)
"""Units of one pool leave on day 150, and two swaps are due on day 200."""


OFF = 1.5e-3
"""The worst of some thousand windows is 0.0011, in the days before a third of the units leave; of the demo's it is 0.0004."""


def exact(law: WearLaw, start: int, end: int) -> Floats:
    return np.asarray(law.pmf([start], [end])[0])


@given(st.integers(1, 360), st.integers(1, 120))
@settings(max_examples=60, deadline=None)
def test_what_is_mixed_is_what_would_be_worked_out(start: int, length: int) -> None:
    assert apart(LAW.sliding(start, [start + length], 0.9)[0], exact(LAW, start, start + length)) < OFF


@pytest.mark.parametrize("start", [139, 149, 150, 151, 198, 199, 200, 201])
@pytest.mark.parametrize("length", [10, 50])
def test_days_on_which_units_leave_or_swaps_are_due_are_exact_on_both_sides(start: int, length: int) -> None:
    found = LAW.sliding(start, [start + length], 0.9)[0]
    assert apart(found, exact(LAW, start, start + length)) < OFF
    swaps = 2 if start < 200 <= start + length else 0
    assert found[:swaps].sum() == 0.0
    assert found[swaps] > 0.0


@given(st.lists(st.tuples(st.integers(1, 300), st.integers(5, 90)), min_size=2, max_size=6))
@settings(max_examples=12, deadline=None)
def test_the_answer_does_not_depend_on_what_was_asked_before(windows: list[tuple[int, int]]) -> None:
    one, other = law_of(12, leave=90.0), law_of(12, leave=90.0)
    first = [one.sliding(start, [start + length], 0.9)[0] for start, length in windows]
    last = [other.sliding(start, [start + length], 0.9)[0] for start, length in reversed(windows)]
    for found, again in zip(first, reversed(last), strict=True):
        assert apart(found, again) < 1e-12


def test_windows_of_several_lengths_from_one_day_are_those_asked_one_by_one() -> None:
    ends = [80, 61, 200]
    together = LAW.sliding(47, ends, 0.9)
    for row, end in zip(together, ends, strict=True):
        assert apart(row, LAW.sliding(47, [end], 0.9)[0]) == 0.0


def test_today_and_laws_without_a_time_line_are_exact() -> None:
    law = law_of(6, near=0)
    assert apart(law.sliding(33, [77], 0.9)[0], exact(law, 33, 77)) == 0.0
    assert apart(LAW.sliding(0, [40], 0.9)[0], LAW.pmf([0], [40])[0]) == 0.0


def test_past_the_reach_of_the_time_line_windows_are_exact() -> None:
    assert LAW.windows_around(450, 460) == {(450, 460): 1.0}
    assert LAW.windows_around(390, 499) == {(390, 499): 1.0}  # the next exact day's window would end past the law's own horizon


@given(st.integers(1, 200), st.integers(1, 14), st.integers(1, 400), st.lists(st.integers(0, 420), max_size=5))
def test_exact_days_hold_both_edges_of_every_event(length: int, every: int, last: int, events: list[int]) -> None:
    jumps = np.array(sorted(set(events)), dtype=np.int64)
    days = exact_days(length, every, last, bends=np.zeros(0, dtype=np.int64), jumps=jumps, also=np.zeros(0, dtype=np.int64))
    assert (np.diff(days) > 0).all()
    assert (np.diff(days) <= every).all()
    for event in events:
        wanted = {event - 1, event, event - 1 - length, event - length}
        assert {day for day in wanted if 1 <= day <= last} <= set(days.tolist())


@given(st.lists(st.integers(1, 100), min_size=1, max_size=8, unique=True), st.integers(1, 110))
def test_the_days_around_one_make_it_up(days: list[int], day: int) -> None:
    around = days_around(np.array(sorted(days)), day)
    assert sum(share for _, share in around) == pytest.approx(1.0)
    assert all(share > 0 for _, share in around)
    assert sum(share * other for other, share in around) == pytest.approx(day)
    if len(around) == 2:
        assert {other for other, _ in around} <= set(days)
