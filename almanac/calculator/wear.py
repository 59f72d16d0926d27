"""`calc wear`: each unit's wear line, and the day it crosses the threshold."""

from __future__ import annotations

import math
from datetime import date, timedelta
from typing import Any

import numpy as np

from almanac.calculator.inputs import NumberTable
from almanac.core.errors import NoEstimate
from almanac.core.life.wear import WearLine, crossing, shares_of, wear_line

FARTHEST_DAYS = 3_000_000


def wear(path: str, *, threshold: float, level: float) -> dict[str, Any]:
    """Readings of packs to wear lines, by unit."""
    table = NumberTable(path, required=["unit", "date", "full", "design"])
    full, design = table.numbers("full", low=0.0), table.numbers("design", low=0.0)
    days = [_day(table, row) for row in table.rows]
    for row, made, have in zip(table.rows, design, full, strict=True):
        if made == 0:
            table.fault(row, "design", "a capacity above 0 was wanted, got 0")
        elif have > 2 * made:
            table.fault(row, "full", f"{have:g} is more than twice the design capacity {made:g}: are the columns in one unit?")
    table.finish()
    names = table.names("unit", "all")
    shares = shares_of(full, design)
    units = []
    for name in dict.fromkeys(names):
        mine = np.array([other == name for other in names])
        dates = [day for day, own in zip(days, mine, strict=True) if own and day is not None]
        units.append(_unit(name, dates, shares[mine], threshold, level))
    return {"threshold": threshold, "level": level, "units": units}


def _day(table: NumberTable, row: Any) -> date | None:
    try:
        return date.fromisoformat(row.cells.get("date", ""))
    except ValueError:
        table.fault(row, "date", f"a date such as 2026-12-04 was wanted, got {row.cells.get('date', '')!r}")
        return None


def _unit(name: str, dates: list[date], shares: Any, threshold: float, level: float) -> dict[str, Any]:
    first = min(dates)
    row: dict[str, Any] = {"unit": name, "readings": len(dates), "first": first.isoformat()}
    empty = {"intercept": None, "slope": None, "se_slope": None, "sigma": None, "crosses": None}
    try:
        line = wear_line([(day - first).days for day in dates], shares)
    except NoEstimate as reason:
        return row | empty | {"reason": str(reason)}
    row |= {"intercept": line.intercept, "slope": line.slope, "se_slope": line.se_slope, "sigma": line.sigma}
    return row | _crosses(line, first, threshold, level)


def _crosses(line: WearLine, first: date, threshold: float, level: float) -> dict[str, Any]:
    try:
        found = crossing(line, threshold, level=level)
    except NoEstimate as reason:
        return {"crosses": None, "reason": str(reason)}
    if abs(found.day) > FARTHEST_DAYS:
        return {"crosses": None, "reason": "the line falls so slowly that it crosses after thousands of years"}
    try:
        when = (first + timedelta(days=math.floor(found.day))).isoformat()
    except OverflowError:
        return {"crosses": None, "reason": "the line falls so slowly that the calendar ends before it crosses"}
    return {
        "crosses": {"day": found.day, "date": when, "se_day": found.se_day, "low": found.low, "high": found.high},
        "reason": None,
    }
