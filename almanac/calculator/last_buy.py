"""`calc lastbuy`: how many of a discontinued part to buy for the rest of its machines' lives."""

from __future__ import annotations

from typing import Any

import numpy as np

from almanac.calculator.demand import read_case, windows_pmf
from almanac.calculator.inputs import JsonInput
from almanac.core.demand import counts
from almanac.core.demand.constant import GammaRate, positions, window_pmf

TARGETS = (0.5, 0.9, 0.95, 0.99)


def last_buy(path: str) -> dict[str, Any]:
    """Expected demand until the last step, and the quantity for each target."""
    given = JsonInput(path)
    targets = given.numbers(given.values["targets"], "targets", low=1e-9, high=1 - 1e-12) if given.has("targets") else list(TARGETS)
    pmf = _by_step(given) if given.has("units_by_step") else _by_units(given)
    mean, _ = counts.mean_and_variance(pmf)
    return {
        "expected": float(mean[0]),
        "quantity": [{"target": target, "quantity": int(counts.quantile(pmf, target)[0])} for target in targets],
    }


def _by_units(given: JsonInput) -> Any:
    number, units, law, replace = read_case(given)
    given.finish()
    return windows_pmf(units, law, np.array([[0.0, float(number)]]), replace=replace)


def _by_step(given: JsonInput) -> Any:
    """Units in service in each step, at a constant rate."""
    units = given.numbers(given.values["units_by_step"], "units_by_step", low=0.0)
    rate = _rate(given)
    given.finish()
    return window_pmf(positions([float(sum(units))], [0.0], [1.0]), rate, [0.0], [1.0], replace=True)


def _rate(given: JsonInput) -> GammaRate:
    if given.has("rate"):
        return GammaRate(float("inf"), float("inf"), known=given.number("rate", low=0.0))
    inside = given.values.get("posterior")
    if not isinstance(inside, dict):
        given.fault("rate", "rate, or posterior with shape and rate, was wanted")
        return GammaRate(1.0, 1.0)
    shape = given.number("shape", inside=inside, at="posterior", low=1e-12)
    return GammaRate(shape, given.number("rate", inside=inside, at="posterior", low=1e-300))
