"""Days a record can mean: before or after them lies a slip of the hand."""

from __future__ import annotations

from datetime import date

EARLIEST, LATEST = date(1970, 1, 1), date(2199, 12, 31)


def beyond_reason(day: date) -> str | None:
    """What is wrong with a day outside every record's range; None for one inside."""
    if EARLIEST <= day <= LATEST:
        return None
    return f"a day between the years {EARLIEST.year} and {LATEST.year} was wanted, got {day.isoformat()}"
