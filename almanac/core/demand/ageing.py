"""Spells in which parts age faster: calendar days to days of a part's own ageing."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError


@dataclass(frozen=True)
class Spell:
    """From one day after today until another, parts age so many times as fast."""

    from_day: int
    until_day: int
    factor: float


def own_days(spells: Iterable[Spell], *, horizon_days: int) -> checks.Floats:
    """(h + 1,) days of ageing until the end of each coming day; spells that overlap multiply.

    Parameters
    ----------
    spells : factors > 0, days in (from_day, until_day] · horizon_days : h, >= 1

    Raises
    ------
    ContractError : a factor of 0 or below, or a spell that ends before it begins

    References
    ----------
    Nelson (1990), Accelerated Testing, chapter 2 (an accelerated age).
    """
    days = int(checks.number("horizon_days", horizon_days, low=1.0))
    pace = np.ones(days)
    for spell in spells:
        factor = checks.positive("factor", spell.factor)
        if spell.until_day < spell.from_day:
            raise ContractError(f"until_day: a day from {spell.from_day} on was wanted, got {spell.until_day}")
        pace[max(spell.from_day, 0) : max(spell.until_day, 0)] *= factor
    return np.concatenate(([0.0], np.cumsum(pace)))


def ageing_exposure(cumulative: checks.Floats, own: checks.Floats) -> checks.Floats:
    """(p, h + 1) unit-years in service counted in own days.

    Parameters
    ----------
    cumulative : (p, h + 1) unit-years until each day · own : (h + 1,) own days until each

    Raises
    ------
    ContractError : sizes that differ
    """
    if own.size != cumulative.shape[1]:
        raise ContractError(f"own: {cumulative.shape[1]} days were wanted, got {own.size}")
    gained = np.diff(cumulative, axis=1) * np.diff(own)
    return np.concatenate((np.zeros((cumulative.shape[0], 1)), np.cumsum(gained, axis=1)), axis=1)
