"""When a shelf should be counted again: what moves often is counted often."""

from __future__ import annotations

from datetime import date, timedelta

CLASSES = ((12, 30), (4, 90), (1, 180))
"""Moves in a year, and the days between counts they ask for; cycle counting by classes (Silver, Pyke & Thomas)."""
SELDOM = 365


def count_every(moves_a_year: int) -> int:
    """Days between counts of a shelf with so many moves in a year."""
    return next((days for least, days in CLASSES if moves_a_year >= least), SELDOM)


def count_due_on(last_counted: date | None, moves_a_year: int, today: date) -> date:
    """The day a shelf is due to be counted; one that was never counted is due today."""
    if last_counted is None:
        return today
    return last_counted + timedelta(days=count_every(moves_a_year))
