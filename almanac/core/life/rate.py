"""The constant-rate school: failures over time in service, with exact limits."""

from __future__ import annotations

from dataclasses import dataclass

from scipy.special import gammaincinv

from almanac.core import checks


@dataclass(frozen=True)
class RateEstimate:
    """Failures per unit of exposure with two-sided limits; `high` is infinite without exposure."""

    rate: float | None
    low: float
    high: float


def constant_rate(failures: float, exposure: float, *, level: float = 0.90) -> RateEstimate:
    """Rate of a Poisson count with exact limits: chi2(alpha/2; 2D)/2T and chi2(1 - alpha/2; 2D + 2)/2T.

    Parameters
    ----------
    failures : D, >= 0 (fractional where open findings count in part)
    exposure : T, unit-time in service, >= 0
    level : two-sided confidence, in (0, 1)

    Returns
    -------
    RateEstimate : zero failures give low = 0 and a positive high (rule: no failure is not a zero rate)

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Garwood (1936), Fiducial limits for the Poisson distribution, Biometrika 28.
    """
    count = checks.number("failures", failures, low=0.0)
    time = checks.number("exposure", exposure, low=0.0)
    tail = (1.0 - checks.probability("level", level)) / 2.0
    if time == 0.0:
        return RateEstimate(None, 0.0, float("inf"))
    low = float(gammaincinv(count, tail)) / time if count > 1e-9 else 0.0  # below, the limit is under the smallest number
    return RateEstimate(count / time, low, float(gammaincinv(count + 1.0, 1.0 - tail)) / time)
