"""Demand of a list of positions under a constant rate, known or gamma-distributed: the calculator's case."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import roots_genlaguerre

from almanac.core import checks
from almanac.core.demand import counts
from almanac.core.errors import ContractError

QUADRATURE = 80


@dataclass(frozen=True)
class Positions:
    """count : (u,) positions alike · start, retire : (u,) steps after which they enter and leave service, retire may be inf."""

    count: checks.Floats
    start: checks.Floats
    retire: checks.Floats


@dataclass(frozen=True)
class GammaRate:
    """Failures per position and step: Gamma(shape, rate), shared by all positions. A known rate has an infinite shape."""

    shape: float
    rate: float
    known: float | None = None

    @property
    def mean(self) -> float:
        return self.known if self.known is not None else self.shape / self.rate


def positions(count: ArrayLike, start: ArrayLike, retire: ArrayLike) -> Positions:
    """Checked positions; retire before start means never in service.

    Raises
    ------
    ContractError : a negative count or start, or sizes that differ
    """
    number = checks.vector("count", count, low=0.0)
    begin = checks.vector("start_after", start, low=0.0, size=number.size)
    end = np.asarray(retire, dtype=np.float64)
    if end.shape != number.shape or np.isnan(end).any() or (end < 0).any():
        raise ContractError("retire_after: times of at least 0, one for each row, were wanted")
    return Positions(number, begin, end)


def window_pmf(units: Positions, rate: GammaRate, starts: ArrayLike, ends: ArrayLike, *, replace: bool) -> checks.Floats:
    """Exact distribution of failures in each window of time.

    With replacement a position's failures are Poisson given the rate; without, it fails once at most. A gamma rate is
    shared by all positions: the count is negative binomial, or a mixture of binomials summed by Gauss-Laguerre quadrature.

    Parameters
    ----------
    units : Positions · rate : known or gamma
    starts, ends : (w,) times in steps, 0 <= start <= end
    replace : whether a failed part is replaced at once

    Returns
    -------
    (w, n) probabilities of 0 .. n-1

    Raises
    ------
    ContractError : an argument is outside the ranges above

    References
    ----------
    Johnson, Kemp & Kotz (2005), Univariate Discrete Distributions, sections 5.3 and 10.4.
    """
    begin = checks.vector("starts", starts, low=0.0)
    end = checks.vector("ends", ends, low=0.0, size=begin.size)
    served = _in_service(units, begin)
    until = _in_service(units, end)
    if replace:
        return _with_replacement((until - served) @ units.count, rate)
    return _without_replacement(units.count, served, until, rate)


def _in_service(units: Positions, time: checks.Floats) -> checks.Floats:
    """(w, u) time in service until each moment."""
    stop = np.minimum(time[:, None], units.retire[None])
    return np.asarray(np.maximum(stop - units.start[None], 0.0))


def _with_replacement(exposure: checks.Floats, rate: GammaRate) -> checks.Floats:
    spread = exposure * rate.mean + (0.0 if rate.known is not None else exposure**2 * rate.shape / rate.rate**2)
    size = counts.grid_size(float((exposure * rate.mean).max(initial=0.0)), float(spread.max(initial=0.0)))
    while True:
        unity = np.exp(-2j * np.pi * np.arange(size // 2 + 1) / size)
        lift = exposure[:, None] * (unity[None] - 1.0)
        transform = np.exp(lift * rate.known) if rate.known is not None else np.exp(-rate.shape * np.log1p(-lift / rate.rate))
        pmf = np.maximum(np.fft.irfft(transform, n=size, axis=-1), 0.0)
        if all(counts.tail_is_negligible(row) for row in pmf) or size >= counts.LARGEST_GRID:
            return pmf
        size *= 2


def _without_replacement(count: checks.Floats, served: checks.Floats, until: checks.Floats, rate: GammaRate) -> checks.Floats:
    values, weight = _rate_nodes(rate)
    size = 1 << int(np.ceil(np.log2(count.sum() + 2)))
    unity = np.exp(-2j * np.pi * np.arange(size // 2 + 1) / size)
    pmf = np.zeros((served.shape[0], size))
    for value, share in zip(values, weight, strict=True):
        chance = np.exp(-value * served) - np.exp(-value * until)
        with np.errstate(divide="ignore"):
            log_each = np.log(1.0 + chance[:, :, None] * (unity[None, None] - 1.0))
        pmf += share * np.fft.irfft(np.exp(np.einsum("u,wuz->wz", count, log_each)), n=size, axis=-1)
    return np.maximum(pmf, 0.0)


def _rate_nodes(rate: GammaRate) -> tuple[checks.Floats, checks.Floats]:
    if rate.known is not None:
        return np.array([rate.known]), np.ones(1)
    place, weight = roots_genlaguerre(QUADRATURE, rate.shape - 1.0)
    kept = weight > weight.max() * 1e-18
    return place[kept] / rate.rate, weight[kept] / weight[kept].sum()
