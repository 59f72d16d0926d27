"""The gamma-Poisson marginal written out with scipy.stats, and maximised by a general optimiser."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy import optimize, stats


def loglik(shape: float, rate: float, failures: Sequence[float], exposure: Sequence[float]) -> float:
    """Sum of negative-binomial log probabilities, term by term."""
    return float(sum(stats.nbinom.logpmf(d, shape, rate / (rate + t)) for d, t in zip(failures, exposure, strict=True)))


def best(failures: Sequence[float], exposure: Sequence[float]) -> tuple[float, float]:
    """Shape and rate that maximise it, from several starts."""
    mean = sum(failures) / sum(exposure)
    found = [
        optimize.minimize(
            lambda x: -loglik(float(np.exp(x[0])), float(np.exp(x[0] - x[1])), failures, exposure),
            [start, np.log(mean)],
            method="Nelder-Mead",
            bounds=[(np.log(1e-3), np.log(1e4)), (None, None)],
            options={"xatol": 1e-9, "fatol": 1e-12, "maxiter": 5000},
        )
        for start in (-2.0, 0.0, 2.0, 6.0)
    ]
    top = min(found, key=lambda result: float(result.fun)).x
    return float(np.exp(top[0])), float(np.exp(top[0] - top[1]))
