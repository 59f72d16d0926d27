"""Minutes of a step: stated, or estimated from what is to be undone and marked as such (rule U2)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

ONE_FIGURE = (0.7, 1.6)
"""Low and high of a single figure, as shares of it."""
WIDE = (0.4, 2.5)
"""Low and high of an estimate, as shares of what the table says."""


@dataclass(frozen=True)
class Minutes:
    """Low, likely and high minutes of one step or of several. estimated : likely minutes of it that nobody gave"""

    low: float
    likely: float
    high: float
    estimated: float = 0.0

    @property
    def mean(self) -> float:
        """(a + 4m + b) / 6, as in the three-point estimate."""
        return (self.low + 4 * self.likely + self.high) / 6

    def __add__(self, other: Minutes) -> Minutes:
        return Minutes(self.low + other.low, self.likely + other.likely, self.high + other.high, self.estimated + other.estimated)


def stated_minutes(value: Any) -> Minutes | None:
    """Minutes as a page holds them: {low, likely, high}, one figure, or nothing.

    Raises
    ------
    KeyError, TypeError : something else
    """
    if value is None:
        return None
    if isinstance(value, int | float):
        return Minutes(value * ONE_FIGURE[0], float(value), value * ONE_FIGURE[1])
    return Minutes(value["low"], value["likely"], value["high"])


def summed(minutes: Iterable[Minutes]) -> Minutes:
    """The sum; none takes none."""
    found = Minutes(0.0, 0.0, 0.0)
    for item in minutes:
        found += item
    return found
