"""`calc fade`: when each pack crosses a threshold, from all packs' readings together."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np

from almanac.calculator.inputs import InputFaults, NumberTable
from almanac.core.life.fade.forecast import DAYS_PER_YEAR, Faded, fade
from almanac.core.life.fade.packs import Packs, packs
from almanac.core.life.wear import shares_of
from almanac.exchange.tables import Row

SOON, YEAR = 180, 365
JUMP = 0.1
"""A share that rises by so much between two readings is another pack's, or another gauge's."""


def fades(path: str, *, threshold: float, as_of: str | None, days: float) -> dict[str, Any]:
    """Readings of packs to the days on which each crosses."""
    table = NumberTable(path, required=["unit", "date", "full", "design"])
    full, design = table.numbers("full", low=0.0), table.numbers("design", low=0.0)
    dates = [_day(table, row, "date") for row in table.rows]
    fitted = [_day(table, row, "fitted_on", empty=True) for row in table.rows]
    for row, made, have in zip(table.rows, design, full, strict=True):
        if made == 0:
            table.fault(row, "design", "a capacity above 0 was wanted, got 0")
        elif have > 2 * made:
            table.fault(row, "full", f"{have:g} is more than twice the design capacity {made:g}: are the columns in one unit?")
        elif have == 0:
            table.fault(row, "full", "a capacity above 0 was wanted, got 0: a pack that holds nothing has failed, it does not fade")
    table.finish()
    now = _as_of(path, as_of, [day for day in dates if day is not None])
    columns = zip(
        table.rows, table.names("unit", "all"), table.names("group", ""), dates, fitted, shares_of(full, design), design, strict=True
    )
    units = _gathered(
        table, [_Line(row, name, group, day, since, *figures) for row, name, group, day, since, *figures in columns if day], now
    )
    table.finish()
    groups: dict[str, list[_Unit]] = defaultdict(list)
    for unit in units:
        if unit.days:
            groups[unit.group].append(unit)
    if not groups:
        raise InputFaults([f"{path}: no reading on or before {now.isoformat()}"])
    found = dict(zip(groups, fade([_packs(own, now) for own in groups.values()], threshold), strict=True))
    shown = {unit.name: row for name, own in groups.items() for unit, row in zip(own, _rows(own, found[name], threshold), strict=True)}
    return {
        "threshold": threshold,
        "as_of": now.isoformat(),
        "days": days,
        "expected": sum(own.expected(days) for own in found.values()),
        "groups": [_group(name, own, len(groups[name]), days) for name, own in found.items()],
        "units": [shown.get(unit.name) or unit.unread(now) for unit in units],
    }


class _Unit:
    """One pack as the file has it."""

    def __init__(self, name: str, group: str, fitted: date | None) -> None:
        self.name, self.group, self.fitted = name, group, fitted
        self.days: list[date] = []
        self.shares: list[float] = []
        self.notes: list[str] = []

    def unread(self, now: date) -> dict[str, Any]:
        note = f"no reading on or before {now.isoformat()}"
        return {"unit": self.name, "group": self.group, "readings": 0, "p_crossed": None, "day": None, "notes": [note]}


def _day(table: NumberTable, row: Any, column: str, *, empty: bool = False) -> date | None:
    cell = row.cells.get(column, "")
    if empty and not cell:
        return None
    try:
        return date.fromisoformat(cell)
    except ValueError:
        table.fault(row, column, f"a date such as 2026-12-04 was wanted, got {cell!r}")
        return None


def _as_of(path: str, given: str | None, dates: list[date]) -> date:
    if given is None:
        return max(dates)
    try:
        return date.fromisoformat(given)
    except ValueError as error:
        raise InputFaults([f"{path}: --as-of: a date such as 2026-12-04 was wanted, got {given!r}"]) from error


@dataclass
class _Line:
    """One line of the file."""

    row: Row
    name: str
    group: str
    day: date
    fitted: date | None
    share: float
    design: float


def _gathered(table: NumberTable, lines: list[_Line], now: date) -> list[_Unit]:
    """Units with their readings in order; what is odd about them is noted, nothing is dropped in silence."""
    units: dict[str, _Unit] = {}
    made: dict[str, set[float]] = defaultdict(set)
    for line in sorted(lines, key=lambda one: one.day):
        unit = units.setdefault(line.name, _Unit(line.name, line.group, line.fitted))
        _same_unit(table, unit, line)
        made[line.name].add(line.design)
        if line.day > now:
            unit.notes.append(f"a reading of {line.day.isoformat()}, after the as-of day, is left out")
            continue
        unit.notes += _odd(unit, line)
        unit.days.append(line.day)
        unit.shares.append(line.share)
    for name, capacities in made.items():
        if len(capacities) > 1:
            units[name].notes.append("its design capacity differs from reading to reading: another pack's?")
    return list(units.values())


def _same_unit(table: NumberTable, unit: _Unit, line: _Line) -> None:
    if unit.group != line.group or (line.fitted is not None and unit.fitted not in (None, line.fitted)):
        table.fault(line.row, "unit", f"{line.name} has another group or day of fitting in another line: one of each was wanted")
    unit.fitted = unit.fitted or line.fitted
    if unit.fitted is not None and line.day < unit.fitted:
        table.fault(line.row, "date", f"{line.name} was read on {line.day.isoformat()}, before it was fitted on {unit.fitted.isoformat()}")


def _odd(unit: _Unit, line: _Line) -> list[str]:
    """What a person should look at in a reading that is used all the same."""
    found, day = [], line.day.isoformat()
    if unit.days and line.day == unit.days[-1]:
        found.append(f"two readings on {day}: both are used")
    if unit.shares and line.share > unit.shares[-1] + JUMP:
        found.append(f"rises from {unit.shares[-1]:.0%} to {line.share:.0%} on {day}: another pack, or another gauge?")
    if line.share > 1.0 + JUMP / 2:
        found.append(f"{line.share:.0%} of the design capacity on {day}")
    return found


def _packs(units: list[_Unit], now: date) -> Packs:
    starts = [unit.fitted or unit.days[0] for unit in units]
    of = np.repeat(np.arange(len(units)), [len(unit.days) for unit in units])
    years = [(day - start).days / DAYS_PER_YEAR for unit, start in zip(units, starts, strict=True) for day in unit.days]
    shares = [share for unit in units for share in unit.shares]
    ends = [(now - start).days / DAYS_PER_YEAR for start in starts]
    return packs(of, years, shares, ends, [unit.fitted is not None for unit in units])


def _rows(units: list[_Unit], found: Faded, threshold: float) -> list[dict[str, Any]]:
    soon, year = found.chance(SOON), found.chance(YEAR)
    days = {name: found.days(level) for name, level in (("p05", 0.05), ("p50", 0.5), ("p95", 0.95))}
    rows = []
    for place, unit in enumerate(units):
        if unit.shares[0] < threshold:
            unit.notes.append(f"its first reading, {unit.shares[0]:.0%}, is below the threshold: it is due already")
        rows.append(
            {
                "unit": unit.name,
                "group": unit.group,
                "readings": len(unit.days),
                "p_crossed": {str(SOON): float(soon[place]), str(YEAR): float(year[place])},
                "day": {name: float(value[place]) for name, value in days.items()},
                "notes": unit.notes,
            }
        )
    return rows


def _group(name: str, found: Faded, units: int, days: float) -> dict[str, Any]:
    weight = found.learnt.weight
    best = found.learnt.mean(max(weight, key=lambda curve: weight[curve]))
    knee = best.curve != "straight"
    return {
        "group": name,
        "units": units,
        "expected": found.expected(days),
        "weight": dict(weight),
        "fall_per_year": float(np.exp(best.fall)),
        "scatter": float(np.exp(best.scatter)),
        "steeper": float(np.exp(best.steeper)) if knee else None,
        "knee_level": best.level if best.curve == "level" else None,
        "knee_year": float(np.exp(best.knee)) if best.curve == "knee" else None,
    }
