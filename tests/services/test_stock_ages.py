"""Ages of parts that move: the oldest first, and nothing lost between what came and what did not."""

from __future__ import annotations

from collections import Counter
from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from almanac.services.stores.ages import Ages, first_of

DAY = date(2026, 1, 1)
AGES = st.lists(st.tuples(st.none() | st.integers(0, 900), st.integers(1, 6)), max_size=6)


def days(drawn: list[tuple[int | None, int]]) -> Ages:
    return [(None if ago is None else DAY - timedelta(days=ago), count) for ago, count in drawn]


def parts(ages: Ages) -> Counter[date | None]:
    found: Counter[date | None] = Counter()
    for made_on, count in ages:
        found[made_on] += count
    return found


@given(AGES, st.integers(0, 40))
def test_what_came_and_what_did_not_are_all_that_was_packed(drawn: list[tuple[int | None, int]], quantity: int) -> None:
    packed = days(drawn)
    came, lost = first_of(packed, quantity)
    assert parts(came) + parts(lost) == parts(packed)
    assert sum(parts(came).values()) == min(quantity, sum(parts(packed).values()))
    assert all(count > 0 for _, count in [*came, *lost])


@given(AGES, st.integers(0, 40))
def test_the_oldest_are_taken_to_have_come(drawn: list[tuple[int | None, int]], quantity: int) -> None:
    came, lost = first_of(days(drawn), quantity)
    if came and lost:
        assert max(made_on or date.min for made_on, _ in came) <= min(made_on or date.min for made_on, _ in lost)
