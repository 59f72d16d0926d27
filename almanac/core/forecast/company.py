"""What is known of one kind of part in one company: tenures and units in service, by pool, in years of age."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Ages:
    """Ages (n,) in years, or spans of them where nobody knows: `age` is NaN there, and the age lies in [low, high].

    first : high is the age of the machine itself, so that its first part, if it is still in, is exactly that old
    """

    age: checks.Floats
    low: checks.Floats
    high: checks.Floats
    first: NDArray[np.bool_]

    @property
    def unknown(self) -> NDArray[np.bool_]:
        """(n,) where only a span is known."""
        return np.isnan(self.age)

    @staticmethod
    def known(age: checks.Floats) -> Ages:
        """Ages that are all known."""
        return Ages(age, age, age, np.zeros(age.size, dtype=bool))


@dataclass(frozen=True)
class Tenures:
    """Tenures (n,): pool, age at entry, years under watch, whether it failed, how many alike, and years before today it ended."""

    pool: Ints
    entry: Ages
    watched: checks.Floats
    failed: NDArray[np.bool_]
    count: checks.Floats
    ended: checks.Floats


@dataclass(frozen=True)
class InService:
    """Units in service today (n,): pool, age, how many alike."""

    pool: Ints
    age: Ages
    count: checks.Floats


@dataclass(frozen=True)
class Company:
    """One kind in one company.

    group : (p,) part group of each pool, from 0 on without a gap · shape_median : of the kind's prior on the Weibull shape
    half_life : years in which evidence loses half its weight, None where it does not grow old · trend : whether rates may drift
    """

    pools: int
    group: Ints
    tenures: Tenures
    in_service: InService
    shape_median: float
    half_life: float | None = None
    trend: bool = False

    def __post_init__(self) -> None:
        """Raises ContractError for pools out of range, groups that leave a gap, or a half-life of nothing."""
        if self.group.size != self.pools or not np.array_equal(np.unique(self.group), np.arange(int(self.group.max(initial=-1)) + 1)):
            raise ContractError(f"group: one of each of {self.pools} pools was wanted, counted from 0 without a gap")
        for name, pool in (("tenures", self.tenures.pool), ("in_service", self.in_service.pool)):
            if pool.size and not 0 <= int(pool.min()) <= int(pool.max()) < self.pools:
                raise ContractError(f"{name}: pools from 0 to {self.pools - 1} were wanted")
        if self.half_life is not None:
            checks.positive("half_life", self.half_life)

    @property
    def groups(self) -> int:
        """How many part groups there are."""
        return int(self.group.max(initial=-1)) + 1

    @property
    def failures(self) -> float:
        """Of all pools."""
        return float(self.tenures.count[self.tenures.failed].sum())
