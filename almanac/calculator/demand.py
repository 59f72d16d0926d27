"""`calc demand`: failures of a fleet over coming steps, under a constant rate or a Weibull life, known or not."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.polynomial.hermite_e import hermegauss

from almanac.calculator.inputs import JsonInput, NumberTable
from almanac.core.checks import Floats
from almanac.core.demand import counts
from almanac.core.demand.constant import GammaRate, positions
from almanac.core.demand.constant import window_pmf as constant_pmf
from almanac.core.demand.renewal import WeibullLife, fleet, weibull_life, window_pmf

QUANTILES = {"p05": 0.05, "p50": 0.5, "p95": 0.95}
SHOWN_TAIL = 1e-12
MOST_STEPS = 1000
NODES = 11
"""In each direction of the normal over (log scale, log shape)."""


@dataclass(frozen=True)
class Units:
    """Positions as the file lists them: count, age of the part in each, start and retirement, in steps."""

    count: Floats
    age: Floats
    start: Floats
    retire: Floats


@dataclass(frozen=True)
class UncertainLife:
    """A Weibull life whose logarithms of scale and shape are normal."""

    mean: Floats
    covariance: Floats


Law = GammaRate | WeibullLife | UncertainLife


def demand(path: str) -> dict[str, Any]:
    """Distribution of failures by step and over all steps."""
    given = JsonInput(path)
    number, units, law, replace = read_case(given)
    given.finish()
    edges = np.arange(number + 1, dtype=float)
    windows = np.column_stack((np.append(edges[:-1], 0.0), np.append(edges[1:], float(number))))
    laws = windows_pmf(units, law, windows, replace=replace)
    by_step, whole = laws[:-1], laws[-1:]
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


def read_case(given: JsonInput) -> tuple[int, Units, Law, bool]:
    """Steps, units, law and whether parts are replaced; faults are gathered in `given`."""
    steps = given.number("steps", low=1, high=MOST_STEPS)
    if math.isfinite(steps) and steps != int(steps):
        given.fault("steps", f"a whole number was wanted, got {steps:g}")
    units = _units(given)
    law = _law(given)
    replace = given.values.get("replace", True)
    if not isinstance(replace, bool):
        given.fault("replace", "true or false was wanted")
    return (int(steps) if math.isfinite(steps) else 1), units, law, replace is not False


def windows_pmf(units: Units, law: Law, windows: Floats, *, replace: bool) -> Floats:
    """(w, n) distribution of failures in each window of steps, under a law that may be uncertain."""
    if isinstance(law, GammaRate):
        held = positions(units.count, units.start, units.retire)
        return constant_pmf(held, law, windows[:, 0], windows[:, 1], replace=replace)
    held_ages = fleet(units.count, units.age, units.start, units.retire)
    if isinstance(law, WeibullLife):
        return window_pmf(held_ages, law, windows, replace=replace)
    lives, weights = _nodes(law)
    rows = [weight * window_pmf(held_ages, life, windows, replace=replace) for life, weight in zip(lives, weights, strict=True)]
    longest = max(row.shape[1] for row in rows)
    return np.asarray(sum(np.pad(row, ((0, 0), (0, longest - row.shape[1]))) for row in rows))


def _nodes(law: UncertainLife) -> tuple[list[WeibullLife], Floats]:
    """Gauss-Hermite nodes of the normal over (log scale, log shape)."""
    values, vectors = np.linalg.eigh(law.covariance)
    root = vectors * np.sqrt(np.maximum(values, 0.0))
    place, weight = hermegauss(NODES)
    standard = np.array([(u, v) for u in place for v in place])
    share = np.outer(weight, weight).ravel()
    kept = share > share.sum() * 1e-10
    points = law.mean + standard[kept] @ root.T
    lives = [weibull_life(float(np.exp(shape)), float(np.exp(scale))) for scale, shape in points]
    return lives, share[kept] / share[kept].sum()


def _trimmed(pmf: np.ndarray[Any, Any]) -> list[float]:
    """Up to where less than so much follows."""
    after = np.cumsum(pmf[::-1])[::-1]
    kept = np.flatnonzero(after >= SHOWN_TAIL)
    return [float(value) for value in pmf[: int(kept[-1]) + 1]] if kept.size else [1.0]


def _units(given: JsonInput) -> Units:
    if given.has("units_file"):
        table = NumberTable(str(given.values["units_file"]), required=["age"])
        age = table.numbers("age", low=0.0)
        count = table.numbers("count", default=1.0, low=0.0)
        start, retire = table.numbers("start_after", default=0.0, low=0.0), table.numbers("retire_after", default=math.inf, low=0.0)
        table.finish()
        return Units(count, age, start, retire)
    rows = given.values.get("units")
    if not isinstance(rows, list) or not rows:
        given.fault("units", "a list of units, or units_file, was wanted")
        return Units(*(np.empty(0) for _ in range(4)))
    found = np.array([_unit(given, row, f"units[{i}]") for i, row in enumerate(rows)])
    return Units(*found.T)


def _unit(given: JsonInput, row: Any, place: str) -> tuple[float, float, float, float]:
    """Count, age, start and retirement of one entry."""
    return (
        given.number("count", inside=row, at=place, default=1.0, low=0.0),
        given.number("age", inside=row, at=place, low=0.0),
        given.number("start_after", inside=row, at=place, default=0.0, low=0.0),
        given.number("retire_after", inside=row, at=place, default=math.inf, low=0.0),
    )


def _law(given: JsonInput) -> Law:
    if given.has("life"):
        shape = given.number("shape", inside=given.values["life"], at="life", low=1e-6, high=1e4)
        scale = given.number("scale", inside=given.values["life"], at="life", low=1e-300)
        if shape == 1.0:
            return GammaRate(math.inf, math.inf, known=1.0 / scale)
        return WeibullLife(shape, scale)
    if given.has("posterior"):
        inside = given.values["posterior"]
        if isinstance(inside, dict) and "log_scale" in inside:
            return _uncertain(given, inside)
        shape = given.number("shape", inside=inside, at="posterior", low=1e-12)
        return GammaRate(shape, given.number("rate", inside=inside, at="posterior", low=1e-300))
    given.fault("life", "life with shape and scale, or posterior with shape and rate, was wanted")
    return GammaRate(1.0, 1.0)


def _uncertain(given: JsonInput, inside: dict[str, Any]) -> UncertainLife:
    mean = [given.number(name, inside=inside, at="posterior", low=-700, high=700) for name in ("log_scale", "log_shape")]
    rows = inside.get("covariance")
    if not isinstance(rows, list) or len(rows) != 2 or any(not isinstance(row, list) or len(row) != 2 for row in rows):
        given.fault("posterior.covariance", "two rows of two numbers were wanted")
        return UncertainLife(np.array(mean), np.eye(2))
    matrix = np.array([given.numbers(row, f"posterior.covariance[{i}]") for i, row in enumerate(rows)])
    if np.isfinite(matrix).all() and (abs(matrix[0, 1] - matrix[1, 0]) > 1e-9 or np.linalg.eigvalsh(matrix).min() < -1e-12):
        given.fault("posterior.covariance", "a symmetric matrix without negative variances was wanted")
    return UncertainLife(np.array(mean), matrix)
