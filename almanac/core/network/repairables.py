"""A depot and bases that repair: backorders by METRIC, by two moments, and exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.stock.levels import Demand, negative_binomial_demand, poisson_demand
from almanac.core.stock.review import excess


class Method(StrEnum):
    """How what a base waits for is counted: its mean alone, its mean and variance, or its distribution."""

    EXACT = "exact"
    METRIC = "metric"
    TWO_MOMENT = "two-moment"


@dataclass(frozen=True)
class Base:
    """A base. rate : failures a day · repaired_here : share · repair_time, order_ship : days"""

    rate: float
    repaired_here: float
    repair_time: float
    order_ship: float

    @property
    def sent(self) -> float:
        """Failures a day that go to the depot."""
        return self.rate * (1.0 - self.repaired_here)


@dataclass(frozen=True)
class EchelonFigures:
    """What levels give. depot_demand : a day · pipeline : parts in repair or under way · delay : days a base's part waits at the depot"""

    depot_demand: float
    depot_pipeline: float
    depot_backorders: float
    delay: float
    pipelines: tuple[float, ...]
    backorders: tuple[float, ...]


def echelon_figures(
    bases: Sequence[Base], depot_repair: float, depot_level: int, levels: Sequence[int], method: Method = Method.EXACT
) -> EchelonFigures:
    """Expected backorders of a depot and its bases, one for one.

    Parameters
    ----------
    bases : at least one · depot_repair : days, >= 0 · depot_level : >= 0 · levels : of each base, >= 0 · method : how

    Raises
    ------
    ContractError : an argument outside its range

    References
    ----------
    Sherbrooke (1968), Operations Research 16 (METRIC); Graves (1985), Management Science 31 (two moments); Simon (1971), Operations
    Research 19 (exact).
    """
    if len(levels) != len(bases) or any(level < 0 for level in (*levels, depot_level)):
        raise ContractError(f"levels: one of at least 0 for the depot and each of {len(bases)} bases was wanted")
    demand = sum(base.sent for base in bases)
    repairing = poisson_demand(demand * checks.number("depot_repair", depot_repair, low=0.0))
    owed = _owed(repairing.pmf, depot_level)
    mean, variance = _moments(owed)
    delay = mean / demand if demand > 0 else 0.0
    found = [_base(base, level, demand, (owed, mean, variance), method) for base, level in zip(bases, levels, strict=True)]
    return EchelonFigures(
        demand, demand * depot_repair, mean, delay, tuple(pipeline for pipeline, _ in found), tuple(short for _, short in found)
    )


def _owed(pmf: checks.Floats, level: int) -> checks.Floats:
    """Probabilities of what is owed by a stock of a level."""
    if level >= pmf.size:
        return np.ones(1)
    return np.concatenate(([pmf[: level + 1].sum()], pmf[level + 1 :]))


def _moments(pmf: checks.Floats) -> tuple[float, float]:
    count = np.arange(pmf.size)
    mean = float(pmf @ count)
    return mean, float(pmf @ count**2) - mean**2


def _base(base: Base, level: int, demand: float, owed: tuple[checks.Floats, float, float], method: Method) -> tuple[float, float]:
    """(mean pipeline, expected backorders) of a base."""
    pmf, mean, variance = owed
    share = base.sent / demand if demand > 0 else 0.0
    own = base.rate * base.repaired_here * base.repair_time + base.sent * base.order_ship
    pipeline = own + share * mean
    if method == Method.EXACT:
        late = _split(pmf, share)
        whole = np.convolve(poisson_demand(own).pmf, late)
        return pipeline, _short(whole, level)
    spread = own + share**2 * variance + share * (1 - share) * mean
    if method == Method.TWO_MOMENT and pipeline > 0 and spread / pipeline > 1 + 1e-12:
        return pipeline, _short(negative_binomial_demand(pipeline, spread / pipeline).pmf, level)
    return pipeline, _short(_poisson(pipeline).pmf, level)


def _poisson(mean: float) -> Demand:
    return poisson_demand(mean)


def _short(pmf: checks.Floats, level: int) -> float:
    short = excess(pmf)
    return float(short[min(level, short.size - 1)])


def _split(pmf: checks.Floats, share: float) -> checks.Floats:
    """Probabilities of one base's share of what is owed: binomial."""
    if share >= 1.0:
        return pmf
    found = np.zeros(pmf.size)
    row = np.ones(1)
    for whole, chance in enumerate(pmf):
        found[: whole + 1] += chance * row
        row = np.convolve(row, [1.0 - share, share])
    return found
