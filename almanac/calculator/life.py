"""`calc life`: exposure, constant rate, Weibull, survival steps and the kind's shared shape from tenures."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.special import gammaincinv

from almanac.calculator.inputs import InputFaults, NumberTable
from almanac.core.errors import NoEstimate
from almanac.core.life.hierarchy import PoolLikelihood, SharedShape, fit_shared_shape
from almanac.core.life.inspections import leaning, likelihood_of
from almanac.core.life.rate import constant_rate
from almanac.core.life.school import School, choose_school
from almanac.core.life.tenures import AgeCounts, age_counts, together
from almanac.core.life.turnbull import cumulative_hazard, survival_steps
from almanac.core.life.weibull import WeibullFit, fit_weibull


def life(path: str, *, level: float, pooling: str = "none", kind: str | None = None, at: tuple[float, ...] = ()) -> dict[str, Any]:
    """Everything the tenures of a file say of how parts die, by pool."""
    names, tenures = _read(path)
    pools = {name: age_counts(*(column[mine] for column in tenures)) for name, mine in _places(names).items()}
    fits = {name: _fit(ages, level) for name, ages in pools.items()}
    shared = _shared(path, list(pools.values()), kind) if pooling == "kind" else None
    school = _school(list(pools.values()), fits, shared)
    answer: dict[str, Any] = {"pools": []}
    for place, (name, ages) in enumerate(pools.items()):
        fit, reason = fits[name]
        row = _pool(name, ages, fit, reason, level, at) | {"preferred": school.name, "reason": school.reason}
        if shared is not None:
            row["posterior"] = _posterior(shared, place, level)
        answer["pools"].append(row)
    if shared is not None:
        answer["kind"] = {
            "shape": shared.shape,
            "prior_shape": shared.prior_shape,
            "prior_rate": shared.prior_rate,
            "loglik": None if shared.no_failures else shared.loglik,
            "boundary": shared.boundary,
        }
    return answer


def read_ages(text: str | None) -> tuple[float, ...]:
    """Ages separated by commas; raises InputFaults naming what is no age."""
    found, faults = [], []
    for piece in (text or "").split(","):
        if not piece.strip():
            continue
        try:
            age = float(piece)
        except ValueError:
            age = -1.0
        if not 0 <= age < float("inf"):
            faults.append(f"--at: an age of at least 0 was wanted, got {piece.strip()!r}")
        found.append(age)
    if faults:
        raise InputFaults(faults)
    return tuple(found)


def _read(path: str) -> tuple[list[str], tuple[Any, ...]]:
    table = NumberTable(path, required=["exit", "failed"])
    entry, exit_ = table.numbers("entry", default=0.0, low=0.0), table.numbers("exit", low=0.0)
    failed, count = table.numbers("failed", low=0.0, high=1.0), table.numbers("count", default=1.0, low=0.0)
    # Empty where the age of the failure is known; otherwise the age at the last look that saw the unit in order.
    looked = table.numbers("looked", default=np.inf, low=0.0)
    for row, start, stop, event, seen in zip(table.rows, entry, exit_, failed, looked, strict=True):
        if np.isfinite(seen) and seen > stop:
            table.fault(row, "looked", f"{seen:g} is after exit {stop:g}: what was seen in order later had not failed")
        if stop < start:
            table.fault(row, "exit", f"{stop:g} is before entry {start:g}: a unit leaves after it enters")
        if event not in (0.0, 1.0) and not np.isnan(event):
            table.fault(row, "failed", f"0 or 1 was wanted, got {event:g}")
    table.finish()
    return table.names("pool", "all"), (entry, exit_, failed, count, np.minimum(looked, exit_))


def _places(names: list[str]) -> dict[str, Any]:
    array = np.array(names)
    return {name: array == name for name in dict.fromkeys(names)}


def _fit(ages: AgeCounts, level: float) -> tuple[WeibullFit | None, str | None]:
    try:
        return fit_weibull(ages, level=level), None
    except NoEstimate as reason:
        return None, str(reason)


def _shared(path: str, pools: list[AgeCounts], kind: str | None) -> SharedShape:
    try:
        return fit_shared_shape(pools, kind=kind)
    except NoEstimate as reason:
        raise InputFaults([f"{path}: {reason}"]) from reason


def _school(pools: list[AgeCounts], fits: dict[str, tuple[WeibullFit | None, str | None]], shared: SharedShape | None) -> School:
    """The school of the kind: by its shared shape, or by the one pool's own; several pools without pooling are taken as one."""
    failures = float(sum(ages.failures for ages in pools))
    if shared is not None and not shared.no_failures:
        at_one = fit_at_one(pools, shared)
        return choose_school(failures, shape=shared.shape, gain=shared.loglik - at_one)
    if len(pools) > 1:
        whole = together(pools)
        fit, _ = _fit(whole, 0.9)
        return choose_school(failures, shape=fit.shape if fit else None, gain=_gain(whole, fit))
    ((fit, _),) = fits.values()
    return choose_school(failures, shape=fit.shape if fit else None, gain=_gain(pools[0], fit))


def fit_at_one(pools: list[AgeCounts], shared: SharedShape) -> float:
    """The marginal at a shape of 1, for the likelihood ratio of the kind; finds lie where they do in the fit it is held against."""
    shape, rate = shared.posterior()
    return PoolLikelihood(leaning(pools, shared.shape, shape / rate)).at(1.0)[0]


def _gain(ages: AgeCounts, fit: WeibullFit | None) -> float | None:
    return fit.loglik - likelihood_of(ages).profile(0.0) if fit else None


def _pool(name: str, ages: AgeCounts, fit: WeibullFit | None, reason: str | None, level: float, at: tuple[float, ...]) -> dict[str, Any]:
    estimate = constant_rate(ages.failures, ages.exposure, level=level)
    steps = survival_steps(ages, level=level)
    return {
        "pool": name,
        "units": ages.units,
        "failures": ages.failures,
        "dropped": ages.dropped,
        "exposure": ages.exposure,
        "constant": {"rate": estimate.rate, "low": estimate.low, "high": estimate.high if estimate.rate is not None else None},
        "weibull": _weibull(fit) if fit else None,
        "weibull_reason": reason,
        "survival": [
            {"age": step.age, "at_risk": step.at_risk, "survival": step.survival, "low": step.low, "high": step.high} for step in steps
        ],
        "cumulative_hazard": [{"age": age, "value": value} for age, value in cumulative_hazard(ages)],
        "at": [
            {
                "age": age,
                "survival": next((step.survival for step in reversed(steps) if step.age <= age), 1.0),
                "weibull_survival": fit.survival(age) if fit else None,
            }
            for age in at
        ],
    }


def _weibull(fit: WeibullFit) -> dict[str, Any]:
    names = ("shape", "scale", "loglik", "shape_low", "shape_high", "scale_low", "scale_high", "se_shape", "se_scale")
    return {name: getattr(fit, name) for name in names}


def _posterior(shared: SharedShape, place: int, level: float) -> dict[str, Any]:
    shape, rate = (array[place] for array in shared.posterior())
    tail = (1 - level) / 2
    return {
        "shape": shape,
        "rate": rate,
        "mean": shape / rate,
        "low": float(gammaincinv(shape, tail)) / rate,
        "high": float(gammaincinv(shape, 1 - tail)) / rate,
    }
