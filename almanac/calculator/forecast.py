"""`calc forecast`: failures of a kind in the coming years, one company a line."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from almanac.calculator.inputs import InputFaults, JsonInput, read_documents
from almanac.core.checks import Floats
from almanac.core.errors import ContractError, NoEstimate
from almanac.core.forecast.company import Ages, Company, InService, Ints, Tenures
from almanac.core.forecast.forecast import SCHOOLS, Forecast, forecast
from almanac.core.life.hierarchy import LOG_SHAPE_MEDIAN

QUANTILES = {"p05": 0.05, "p25": 0.25, "p50": 0.5, "p75": 0.75, "p95": 0.95}
SHORTEST_HALF_LIFE = 0.25
"""Years; evidence that loses half its weight faster than that says nothing of parts that live for years."""
MOST_UNITS = 1e9


def forecasts(path: str) -> Iterator[dict[str, Any]]:
    """An answer for each line; a file of one document has one."""
    return map(_one, read_documents(path))


def _one(given: JsonInput) -> dict[str, Any]:
    kind = _among(given, "kind", tuple(LOG_SHAPE_MEDIAN))
    school = _among(given, "school", SCHOOLS, default="auto")
    years = given.number("years", low=1e-3, high=100.0)
    half_life = given.number("half_life", low=SHORTEST_HALF_LIFE, high=1000.0) if given.has("half_life") else None
    trend = given.values.get("trend", False)
    if not isinstance(trend, bool):
        given.fault("trend", f"true or false was wanted, got {json.dumps(trend)}")
    company, names = _company(given, kind, half_life, bool(trend))
    given.finish()
    assert company is not None
    try:
        found = forecast(company, years, school=school)
    except (ContractError, NoEstimate) as error:
        raise InputFaults([f"{given.path}: {error}"]) from error
    return _shown(found, names, trend=bool(trend))


def _among(given: JsonInput, key: str, allowed: tuple[str, ...], *, default: str | None = None) -> str:
    value = given.values.get(key, default)
    if value not in allowed:
        given.fault(key, f"one of {', '.join(allowed)} was wanted, got {json.dumps(value)}")
        return allowed[0]
    return str(value)


@dataclass
class _Read:
    """Rows as they are read."""

    pool: list[str] = field(default_factory=list)
    age: list[float] = field(default_factory=list)
    low: list[float] = field(default_factory=list)
    high: list[float] = field(default_factory=list)
    first: list[bool] = field(default_factory=list)
    rest: list[tuple[float, ...]] = field(default_factory=list)

    def ages(self) -> Ages:
        return Ages(np.array(self.age, float), np.array(self.low, float), np.array(self.high, float), np.array(self.first, bool))


def _company(given: JsonInput, kind: str, half_life: float | None, trend: bool) -> tuple[Company | None, list[str]]:
    tenures, units = _tenures(given), _in_service(given)
    ended = _ended(given, len(tenures.pool), wanted=trend or half_life is not None)
    names = list(dict.fromkeys([*tenures.pool, *units.pool]))
    if not names:
        given.fault("tenures", "at least one was wanted")
    group = _groups(given, names)
    if given.faults:
        return None, names
    place = {name: row for row, name in enumerate(names)}

    def rows(of: list[str]) -> Ints:
        return np.array([place[name] for name in of], dtype=np.int64)

    rest = np.array(tenures.rest, dtype=np.float64).reshape(-1, 3)
    made = Company(
        pools=len(names),
        group=group,
        tenures=Tenures(rows(tenures.pool), tenures.ages(), rest[:, 0], rest[:, 1] > 0, rest[:, 2], ended),
        in_service=InService(rows(units.pool), units.ages(), np.array(units.rest, dtype=np.float64).reshape(-1)),
        shape_median=float(np.exp(LOG_SHAPE_MEDIAN[kind])),
        half_life=half_life,
        trend=trend,
    )
    return made, names


def _list(given: JsonInput, key: str, *, needed: bool = True) -> list[Any]:
    value = given.values.get(key)
    if value is None and not needed:
        return []
    if not isinstance(value, list):
        given.fault(key, "a list was wanted")
        return []
    return value


def _tenures(given: JsonInput) -> _Read:
    read = _Read()
    for i, row in enumerate(_list(given, "tenures")):
        at = f"tenures[{i}]"
        cells = _cells(given, row, at, 4, 8)
        if cells is None:
            continue
        name, entry, exit_, failed, count, low, high, first = cells
        entry = _figure(given, entry, f"{at}[1]", none=True)
        end, dead = _figure(given, exit_, f"{at}[2]"), _failed(given, failed, f"{at}[3]")
        number = _figure(given, 1 if count is None else count, f"{at}[4]", high=MOST_UNITS)
        if entry is not None and end is not None and end < entry:
            given.fault(f"{at}[2]", f"the exit ({end:g}) lies before the entry ({entry:g})")
        span = _span(given, at, entry, (low, high, first), 5)
        if end is None or dead is None or number is None or span is None:
            continue
        _append(read, name, entry, span, (end if entry is None else end - entry, dead, number))
    return read


def _in_service(given: JsonInput) -> _Read:
    read = _Read()
    for i, row in enumerate(_list(given, "in_service")):
        at = f"in_service[{i}]"
        cells = _cells(given, row, at, 2, 6)
        if cells is None:
            continue
        name, age, count, low, high, first = cells
        years = _figure(given, age, f"{at}[1]", none=True)
        number = _figure(given, 1 if count is None else count, f"{at}[2]", high=MOST_UNITS)
        span = _span(given, at, years, (low, high, first), 3)
        if number is not None and span is not None:
            _append(read, name, years, span, (number,))
    return read


def _append(read: _Read, name: str, age: float | None, span: tuple[float, float, bool], rest: tuple[float, ...]) -> None:
    read.pool.append(name)
    read.age.append(math.nan if age is None else age)
    read.low.append(span[0])
    read.high.append(span[1])
    read.first.append(span[2])
    read.rest.append(rest)


def _cells(given: JsonInput, row: Any, at: str, fewest: int, most: int) -> list[Any] | None:
    if not isinstance(row, list) or not fewest <= len(row) <= most:
        given.fault(at, f"a list of {fewest} to {most} values was wanted")
        return None
    if not isinstance(row[0], str) or not row[0]:
        given.fault(f"{at}[0]", "the name of a pool was wanted")
        return None
    return [*row, *[None] * (most - len(row))]


def _figure(given: JsonInput, value: Any, place: str, *, high: float = 1e4, none: bool = False) -> float | None:
    if value is None and none:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or not 0 <= value <= high:
        given.fault(place, f"a number from 0 to {high:g} was wanted, got {json.dumps(value)}")
        return None
    return float(value)


def _failed(given: JsonInput, value: Any, place: str) -> float | None:
    if isinstance(value, bool) or value not in (0, 1):
        given.fault(place, f"failed is 0 or 1, got {json.dumps(value)}")
        return None
    return float(value)


def _span(given: JsonInput, at: str, age: float | None, cells: tuple[Any, Any, Any], first_cell: int) -> tuple[float, float, bool] | None:
    """(low, high, first) of an age nobody knows; the age itself where it is known."""
    low, high, first = cells
    if age is not None:
        return age, age, False
    least = _figure(given, low, f"{at}[{first_cell}]")
    most = _figure(given, high, f"{at}[{first_cell + 1}]")
    if least is None or most is None:
        return None
    if most < least:
        given.fault(f"{at}[{first_cell + 1}]", f"the span ends ({most:g}) before it begins ({least:g})")
        return None
    if first not in (None, 0, 1):
        given.fault(f"{at}[{first_cell + 2}]", f"first is 0 or 1, got {json.dumps(first)}")
        return None
    return least, most, bool(first)


def _ended(given: JsonInput, tenures: int, *, wanted: bool) -> Floats:
    value = _list(given, "ended", needed=False)
    if not value and not wanted:
        return np.zeros(tenures)
    if len(value) != tenures:
        if not given.faults:
            given.fault("ended", f"years before the as-of day were wanted for each of {tenures} tenures, got {len(value)}")
        return np.zeros(tenures)
    return np.array([_figure(given, item, f"ended[{i}]") or 0.0 for i, item in enumerate(value)], dtype=np.float64)


def _groups(given: JsonInput, names: list[str]) -> Ints:
    """(p,) part group of each pool, counted from 0; each pool its own where none is given."""
    groups = given.values.get("groups")
    if groups is None:
        return np.arange(len(names), dtype=np.int64)
    if not isinstance(groups, dict) or not all(isinstance(value, str) for value in groups.values()):
        given.fault("groups", "an object of pool to group was wanted")
        return np.arange(len(names), dtype=np.int64)
    # A pool that is not named is a group of its own.
    of = [("named", groups[name]) if name in groups else ("own", name) for name in names]
    numbers = {key: number for number, key in enumerate(dict.fromkeys(of))}
    return np.array([numbers[key] for key in of], dtype=np.int64)


def _shown(found: Forecast, names: list[str], *, trend: bool) -> dict[str, Any]:
    learnt, whole = found.learnt, found.played.sum(axis=1)
    pools = [
        {"pool": name, "expected": float(found.expected[row]), **_quantiles(found.played[:, row], ("p05", "p50", "p95"))}
        for row, name in enumerate(names)
    ]
    shown = {
        "expected": float(found.expected.sum()),
        **_quantiles(whole, tuple(QUANTILES)),
        "pools": pools,
        "failures": learnt.evidence.total,
        "weight_wear_out": learnt.weight_wear_out,
        "shape": _spread(learnt.shapes()),
    }
    if trend:
        shown |= {"trend": _spread(learnt.trend), "weight_trend": learnt.weight_trend}
    return shown


def _quantiles(played: Floats, names: tuple[str, ...]) -> dict[str, int]:
    return {name: int(np.quantile(played, QUANTILES[name], method="inverted_cdf")) for name in names}


def _spread(values: Floats) -> dict[str, float] | None:
    if values.size == 0:
        return None
    return {name: float(np.quantile(values, level)) for name, level in (("p05", 0.05), ("p50", 0.5), ("p95", 0.95))}
