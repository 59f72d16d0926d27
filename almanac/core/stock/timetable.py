"""When a lane leaves: on weekdays, every so many days, or as the company's boats usually do; and what carries it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanac.core.errors import ContractError

WEEK = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


@dataclass(frozen=True)
class Timetable:
    """days : under way · every_days : between departures, None where nobody said · weekdays : 0 (Monday) to 6, before every_days

    carrier : the company's own word, such as boat or van
    """

    days: int
    every_days: int | None = None
    weekdays: tuple[int, ...] = ()
    carrier: str = "boat"

    def gap(self, usual: int) -> int:
        """Longest wait from one departure to the next, in days: what a promise has to reach over. usual : where nobody said"""
        if self.weekdays:
            return longest_gap(self.weekdays)
        return self.every_days or usual

    def next_on(self, today: date) -> date | None:
        """The next departure, today's too; None where only the days between are known, not which they are."""
        if not self.weekdays:
            return None
        return min(today + timedelta(days=(weekday - today.weekday()) % 7) for weekday in self.weekdays)

    @property
    def words(self) -> str:
        """Mon and Thu by van, 4 days; every 5 days by boat, 4 days; 4 days by boat."""
        under_way = "1 day" if self.days == 1 else f"{self.days} days"
        if self.weekdays:
            return f"{_listed([WEEK[day] for day in self.weekdays])} by {self.carrier}, {under_way}"
        if self.every_days:
            often = "every day" if self.every_days == 1 else f"every {self.every_days} days"
            return f"{often} by {self.carrier}, {under_way}"
        return f"{under_way} by {self.carrier}"


def longest_gap(weekdays: Sequence[int]) -> int:
    """Longest wait between two of these weekdays, 7 for a single one.

    Raises
    ------
    ContractError : no weekday, or one outside 0 to 6
    """
    days = sorted(set(weekdays))
    if not days or days[0] < 0 or days[-1] > 6:
        raise ContractError(f"weekdays: some of 0 (Monday) to 6 were wanted, got {list(weekdays)}")
    return max((later - day) % 7 or 7 for day, later in zip(days, [*days[1:], days[0]], strict=True))


def read_weekdays(text: str) -> tuple[int, ...]:
    """Weekdays as people write them: Mon Thu, monday and thursday, Mon;Thu; none for an empty text.

    Raises
    ------
    ContractError : a word that is no weekday
    """
    found = set()
    for word in text.replace(",", " ").replace(";", " ").replace("+", " ").split():
        if word.lower() == "and":
            continue
        day = next((place for place, name in enumerate(WEEK) if word.lower().startswith(name.lower())), None)
        if day is None:
            raise ContractError(f"weekdays such as Mon Thu were wanted, got {word!r}")
        found.add(day)
    return tuple(sorted(found))


def _listed(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
