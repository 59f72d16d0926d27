"""A count as somebody could make it: a number, at least so many, about so many, or not known (rule U1)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from almanac.core.errors import ContractError

WRITTEN = re.compile(r"^\s*(?:(?P<sign>>=|≥|~|≈|at least\b|about\b)\s*)?(?P<number>\d{1,3})\s*$", re.IGNORECASE)
UNKNOWN_WORDS = ("?", "unknown", "not known")
AT_LEAST, ABOUT = (">=", "≥", "at least"), ("~", "≈", "about")


@dataclass(frozen=True)
class Count:
    """So many at least or about. number : >= 0 · least : there may be more · about : nobody counted, somebody saw

    Not known at all is "at least 0"; a sum with such a part is "at least" the rest, never the rest alone.
    """

    number: int
    least: bool = False
    about: bool = False

    @property
    def exact(self) -> bool:
        return not (self.least or self.about)

    @property
    def unknown(self) -> bool:
        return self.least and self.number == 0

    @property
    def words(self) -> str:
        """For people: 5, at least 3, about 8, at least about 11, an unknown number."""
        if self.unknown:
            return "an unknown number"
        return " ".join([*(["at least"] * self.least), *(["about"] * self.about), str(self.number)])

    @property
    def written(self) -> int | str:
        """As a page holds it: 5, ">=3", "~8", "?"."""
        if self.unknown:
            return "?"
        return self.number if self.exact else f"{'>=' if self.least else '~'}{self.number}"

    def __add__(self, other: Count) -> Count:
        return Count(self.number + other.number, self.least or other.least, self.about or other.about)

    def agrees(self, counted: int) -> bool:
        """Whether a number that was counted is what this says; "about" is within a quarter, at least within one."""
        if self.least:
            return counted >= self.number
        return abs(counted - self.number) <= (max(1, round(self.number / 4)) if self.about else 0)


NONE = Count(0)
UNKNOWN = Count(0, least=True)


def read_count(value: int | str | None) -> Count:
    """A count as a page holds it or a person writes it.

    Parameters
    ----------
    value : 5, ">=3", "at least 3", "~8", "about 8", "?", or nothing, which is not known

    Returns
    -------
    Count

    Raises
    ------
    ContractError : neither a whole number of 0 to 999 nor one of these
    """
    if value is None or (isinstance(value, str) and value.strip().lower() in UNKNOWN_WORDS):
        return UNKNOWN
    found = WRITTEN.match(str(value)) if not isinstance(value, bool) else None
    if found is None:
        raise ContractError(f"count: a number, >=3 (at least), ~8 (about) or ? was wanted, got {value!r}")
    sign = (found["sign"] or "").lower()
    return Count(int(found["number"]), sign in AT_LEAST, sign in ABOUT)


def total(counts: Iterable[Count]) -> Count:
    """The sum of counts; none is 0."""
    found = NONE
    for count in counts:
        found += count
    return found
