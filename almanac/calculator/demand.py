"""`calc demand` under a constant rate."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from almanac.calculator.inputs import JsonInput, NumberTable
from almanac.core.demand import counts
from almanac.core.demand.constant import GammaRate, Positions, positions, window_pmf

QUANTILES = {"p05": 0.05, "p50": 0.5, "p95": 0.95}
SHOWN_TAIL = 1e-15
MOST_STEPS = 1000


def demand(path: str) -> dict[str, Any]:
    """Distribution of failures by step and over all steps."""
    given = JsonInput(path)
    steps = given.number("steps", low=1, high=MOST_STEPS)
    if math.isfinite(steps) and steps != int(steps):
        given.fault("steps", f"a whole number was wanted, got {steps:g}")
    units = _units(given)
    rate = _rate(given)
    replace = given.values.get("replace", True)
    if not isinstance(replace, bool):
        given.fault("replace", "true or false was wanted")
    given.finish()
    number = int(steps)
    edges = np.arange(number + 1, dtype=float)
    by_step = window_pmf(units, rate, edges[:-1], edges[1:], replace=replace)
    whole = window_pmf(units, rate, [0.0], [float(number)], replace=replace)
    mean, variance = counts.mean_and_variance(whole)
    expected, _ = counts.mean_and_variance(by_step)
    quantiles = {name: counts.quantile(by_step, level) for name, level in QUANTILES.items()}
    total = {name: int(counts.quantile(whole, level)[0]) for name, level in {**QUANTILES, "p99": 0.99}.items()}
    return {
        "steps": [
            {"step": i + 1, "expected": float(expected[i]), **{name: int(values[i]) for name, values in quantiles.items()}}
            for i in range(number)
        ],
        "total": {"expected": float(mean[0]), "sd": math.sqrt(max(float(variance[0]), 0.0)), **total},
        "pmf": _trimmed(whole[0]),
    }


def _trimmed(pmf: np.ndarray[Any, Any]) -> list[float]:
    kept = np.flatnonzero(pmf > SHOWN_TAIL)
    return [float(value) for value in pmf[: int(kept[-1]) + 1]] if kept.size else [1.0]


def _units(given: JsonInput) -> Positions:
    if given.has("units_file"):
        table = NumberTable(str(given.values["units_file"]), required=["age"])
        table.numbers("age", low=0.0)
        count = table.numbers("count", default=1.0, low=0.0)
        start, retire = table.numbers("start_after", default=0.0, low=0.0), table.numbers("retire_after", default=math.inf, low=0.0)
        table.finish()
        return positions(count, start, retire)
    rows = given.values.get("units")
    if not isinstance(rows, list) or not rows:
        given.fault("units", "a list of units, or units_file, was wanted")
        return positions([], [], [])
    found = [_unit(given, row, f"units[{i}]") for i, row in enumerate(rows)]
    given.finish()
    number, begin, end = zip(*found, strict=True)
    return positions(number, begin, end)


def _unit(given: JsonInput, row: Any, place: str) -> tuple[float, float, float]:
    """Count, start and retirement of one entry. Its age is checked, though a constant rate does not depend on it."""
    given.number("age", inside=row, at=place, low=0.0)
    return (
        given.number("count", inside=row, at=place, default=1.0, low=0.0),
        given.number("start_after", inside=row, at=place, default=0.0, low=0.0),
        given.number("retire_after", inside=row, at=place, default=math.inf, low=0.0),
    )


def _rate(given: JsonInput) -> GammaRate:
    if given.has("life"):
        shape = given.number("shape", inside=given.values["life"], at="life", low=0.0)
        scale = given.number("scale", inside=given.values["life"], at="life", low=1e-300)
        if not math.isnan(shape) and shape != 1.0:
            given.fault("life.shape", f"this version computes a constant rate, shape 1, got {shape:g}")
        return GammaRate(math.inf, math.inf, known=1.0 / scale)
    if given.has("posterior"):
        inside = given.values["posterior"]
        if isinstance(inside, dict) and "log_scale" in inside:
            given.fault("posterior", "this version takes shape and rate of a gamma on a constant rate, not log_scale and log_shape")
            return GammaRate(1.0, 1.0)
        shape = given.number("shape", inside=inside, at="posterior", low=1e-12)
        return GammaRate(shape, given.number("rate", inside=inside, at="posterior", low=1e-300))
    given.fault("life", "life with shape and scale, or posterior with shape and rate, was wanted")
    return GammaRate(1.0, 1.0)
