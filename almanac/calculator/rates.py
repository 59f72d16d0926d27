"""`calc rates`: exact limits and shrunk rates of pools from their failures and exposure."""

from __future__ import annotations

from typing import Any

import numpy as np
from scipy.special import gammaincinv

from almanac.calculator.inputs import InputFaults, NumberTable
from almanac.core.errors import ContractError
from almanac.core.life.rate import constant_rate
from almanac.core.life.shrinkage import GammaPrior, count_loglik, fit_prior, posterior


def rates(path: str, *, level: float, prior_shape: float | None, prior_rate: float | None) -> dict[str, Any]:
    """Exact limits and shrunk rates of pools from their failures and exposure."""
    table = NumberTable(path, required=["pool", "failures", "exposure"])
    names = table.names("pool", "")
    failures, exposure = table.numbers("failures", low=0.0), table.numbers("exposure", low=0.0)
    for row, count, time in zip(table.rows, failures, exposure, strict=True):
        if time == 0 and count > 0:
            table.fault(row, "exposure", "failures without exposure: give the time in service they happened in")
    table.finish()
    if (prior_shape is None) != (prior_rate is None):
        raise InputFaults(["--prior-shape and --prior-rate go together: give both or neither"])
    prior = _prior(path, failures, exposure, prior_shape, prior_rate)
    return {
        "prior": {"shape": prior.shape, "rate": prior.rate, "loglik": prior.loglik, "boundary": prior.boundary},
        "pooled_rate": float(failures.sum() / exposure.sum()) if exposure.sum() > 0 else None,
        "pools": _pools(names, failures, exposure, prior, level),
    }


def _prior(path: str, failures: Any, exposure: Any, shape: float | None, rate: float | None) -> GammaPrior:
    try:
        if shape is not None and rate is not None:
            return GammaPrior(shape, rate, count_loglik(shape, rate, failures, exposure))
        return fit_prior(failures, exposure)
    except ContractError as error:
        raise InputFaults([f"{path}: {error}"]) from error


def _pools(names: list[str], failures: Any, exposure: Any, prior: GammaPrior, level: float) -> list[dict[str, Any]]:
    after = posterior(prior, failures, exposure)
    tail = (1 - level) / 2
    low, high = gammaincinv(after.shape, tail) / after.rate, gammaincinv(after.shape, 1 - tail) / after.rate
    found = []
    for i, name in enumerate(names):
        own = constant_rate(failures[i], exposure[i], level=level)
        shrunk = {
            "shape": after.shape[i],
            "rate": after.rate[i],
            "mean": after.mean[i],
            "sd": float(np.sqrt(after.shape[i])) / after.rate[i],
        }
        found.append(
            {
                "pool": name,
                "failures": failures[i],
                "exposure": exposure[i],
                "rate": own.rate,
                "low": own.low,
                "high": own.high if own.rate is not None else None,
                "posterior": {**shrunk, "low": low[i], "high": high[i]},
            }
        )
    return found
