"""How many units of a pool are in service on each coming day, from retirements and purchases."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from almanac.core import checks
from almanac.core.errors import ContractError

DAYS_PER_YEAR = 365.25


def cumulative_exposure(row: ArrayLike, day: ArrayLike, change: ArrayLike, *, rows: int, horizon_days: int) -> checks.Floats:
    """Unit-years in service from day 0 until each day, per row.

    Parameters
    ----------
    row : (n,) which row a change belongs to, in [0, rows)
    day : (n,) day of the change; 0 or earlier means already so on day 0, past the horizon has no effect
    change : (n,) units added (positive) or withdrawn (negative) at the start of that day
    rows, horizon_days : size of the answer, >= 0

    Returns
    -------
    (rows, horizon_days + 1) unit-years; column t is the exposure of the first t days

    Raises
    ------
    ContractError : a row outside its range, or a row whose units fall below zero
    """
    which = checks.vector("row", row, low=0.0, high=max(rows - 1, 0)).astype(np.int64)
    when = np.maximum(checks.vector("day", day, size=which.size), 0.0).astype(np.int64)
    size = checks.vector("change", change, size=which.size)
    kept = when < horizon_days
    flat = np.bincount(which[kept] * horizon_days + when[kept], size[kept], minlength=rows * horizon_days)
    units = np.cumsum(flat.reshape(rows, horizon_days), axis=1)
    if (units < -1e-9).any():
        raise ContractError(f"change: row {int(np.argmin(units.min(axis=1)))} falls below zero units")
    exposure = np.zeros((rows, horizon_days + 1))
    np.cumsum(units, axis=1, out=exposure[:, 1:])
    return exposure / DAYS_PER_YEAR


def cumulative_count(day: ArrayLike, quantity: ArrayLike, *, horizon_days: int) -> checks.Floats:
    """Parts that become due until each day, (horizon_days + 1,): what is planned on a day counts from that day on.

    Parameters
    ----------
    day, quantity : (n,) planned days (0 or earlier is due on day 1) and parts, >= 0

    Returns
    -------
    (horizon_days + 1,) cumulative parts; column t counts the days 1 .. t

    Raises
    ------
    ContractError : a negative quantity
    """
    when = np.maximum(checks.vector("day", day), 1.0).astype(np.int64)
    size = checks.vector("quantity", quantity, low=0.0, size=when.size)
    kept = when <= horizon_days
    return np.cumsum(np.bincount(when[kept], size[kept], minlength=horizon_days + 1)).astype(float)
