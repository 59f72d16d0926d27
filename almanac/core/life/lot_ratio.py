"""How much worse a lot is than the rest of its part group, by its own record alone once it was accepted as a pool of its own."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

WORTH = 0.5
"""Failures, and expected failures, by which a lot leans to being like the rest: half a failure, so that its own record rules."""


def lot_ratios(
    failures: checks.Floats, hazard: checks.Floats, level: tuple[ArrayLike, ArrayLike], group: NDArray[np.int64], lot: NDArray[np.int64]
) -> checks.Floats:
    """Ratio of a lot's failures to those its units would have had at the level of the rest of its part group.

    A lot does not borrow how far pools of the kind lie apart: it was accepted because it lies further. With D failures where the rest
    leads to expect e its ratio is (D + 1/2) / (e + 1/2), the posterior mean under a gamma of that size around 1.

    Parameters
    ----------
    failures, hazard : (p,) D and H of each pool · level : (a, b) of the gamma of a pool's level before its record, (p,) each or one for all
    group, lot : (p,) part group and lot of each pool, lot 0 for none

    Returns
    -------
    (p,) ratio, 1 for pools in no lot

    Raises
    ------
    ContractError : a level that is not above 0
    """
    a, b = (np.broadcast_to(np.asarray(one, dtype=np.float64), failures.shape) for one in level)
    if not ((a > 0).all() and (b > 0).all()):
        raise ContractError("level: numbers above 0 were wanted")
    found = np.ones(failures.size)
    for part, number in sorted({(int(part), int(number)) for part, number in zip(group, lot, strict=True) if number}):
        own, rest = (group == part) & (lot == number), (group == part) & (lot == 0)
        rate = (a[own][0] + failures[rest].sum()) / (b[own][0] + hazard[rest].sum())
        found[own] = (failures[own].sum() + WORTH) / (rate * hazard[own].sum() + WORTH)
    return found
