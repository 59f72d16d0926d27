"""Whole units shared out by size."""

from __future__ import annotations

from collections.abc import Sequence

from almanac.core import checks
from almanac.core.errors import ContractError


def apportioned(total: int, sizes: Sequence[float]) -> list[int]:
    """A whole number shared out in proportion to sizes, in whole numbers, by largest remainders; the earlier of equal ones first.

    Parameters
    ----------
    total : >= 0 · sizes : >= 0 each

    Returns
    -------
    list of int : adds up to the total, each its exact share rounded up or down

    Raises
    ------
    ContractError : a number below 0, or something to share and no size above 0

    References
    ----------
    Balinski & Young (2001), Fair Representation, chapter 3 (Hamilton's method).
    """
    weights = checks.vector("sizes", sizes, low=0.0)
    if total < 0 or (total > 0 and not weights.sum() > 0):
        raise ContractError(f"total: at least 0, and a size above 0 to share {total} by, was wanted")
    if total == 0:
        return [0] * weights.size
    exact = total * weights / weights.sum()
    found = [int(share + 1e-9) for share in exact]
    order = sorted(range(len(found)), key=lambda place: found[place] - exact[place])
    for place in order[: total - sum(found)]:
        found[place] += 1
    return found
