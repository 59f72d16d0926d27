"""`calc watch`: charts of failures against what was expected, and which of them speak."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from almanac.calculator.inputs import NumberTable
from almanac.core.life.alarms.cusum import Alarm, Chart, Watched, watch

MOST_CV = 2.0


def watched(path: str, *, ratio: float, periods_per_year: float, years_between_false_alarms: float) -> dict[str, Any]:
    """Charts by name, in the order of the file."""
    table = NumberTable(path, required=["chart", "period", "failures", "expected"])
    failures, expected = table.numbers("failures", low=0.0), table.numbers("expected", low=0.0)
    cv = table.numbers("cv", default=0.0, low=0.0, high=MOST_CV)
    names, periods = table.names("chart", "all"), table.names("period", "")
    for row, count, period in zip(table.rows, failures, periods, strict=True):
        if math.isfinite(count) and count != int(count):
            table.fault(row, "failures", f"a whole number was wanted, got {count:g}")
        if not period:
            table.fault(row, "period", "the name or number of a period was wanted")
    _check(table, names, periods, cv, expected)
    table.finish()
    charts: dict[str, list[int]] = {}
    for place, name in enumerate(names):
        charts.setdefault(name, []).append(place)
    for rows in charts.values():
        rows.sort(key=lambda place: _order(periods[place]))
    made = [Chart(failures[rows].astype(np.int64), expected[rows], float(cv[rows[0]])) for rows in charts.values()]
    found = watch(made, ratio=ratio, periods_per_year=periods_per_year, years_between_false_alarms=years_between_false_alarms)
    return {
        "ratio": ratio,
        "false_alarms_a_year": 1.0 / years_between_false_alarms,
        "charts": [_shown(name, [periods[place] for place in rows], one) for (name, rows), one in zip(charts.items(), found, strict=True)],
    }


def _check(table: NumberTable, names: list[str], periods: list[str], cv: Any, expected: Any) -> None:
    """A chart has each period once, and one cv; nothing can be watched where nothing is ever expected."""
    seen: set[tuple[str, str]] = set()
    known: dict[str, float] = {}
    total: dict[str, float] = {}
    for row, name, period, own, wanted in zip(table.rows, names, periods, cv, expected, strict=True):
        if (name, period) in seen:
            table.fault(row, "period", f"{name} has {period} twice")
        if known.setdefault(name, own) != own:
            table.fault(row, "cv", f"{name} has another cv in another line: one was wanted")
        seen.add((name, period))
        total[name] = total.get(name, 0.0) + wanted
    for name, whole in total.items():
        if whole == 0:
            table.faults.append(f"{table.path}: chart {name}: nothing is expected in any period, so nothing can be compared")


def _order(period: str) -> tuple[int, float, str]:
    """Numbers by size, other names as they are spelt (2026-03 comes before 2026-11)."""
    try:
        return 0, float(period), ""
    except ValueError:
        return 1, 0.0, period


def _shown(name: str, periods: list[str], found: Watched) -> dict[str, Any]:
    first = found.alarms[0] if found.alarms else None
    now = {
        "since": periods[found.since] if found.since < len(periods) else None,
        "observed": int(found.observed),
        "expected": found.expected,
    }
    return {
        "chart": name,
        "alarm": periods[first.period] if first else None,
        **(_alarm(first, periods) if first else now),
        "statistic": found.statistic,
        "limit": found.limit,
        "alarms": [{"period": periods[one.period], **_alarm(one, periods)} for one in found.alarms],
    }


def _alarm(alarm: Alarm, periods: list[str]) -> dict[str, Any]:
    return {"since": periods[alarm.since], "observed": int(alarm.observed), "expected": alarm.expected}
