"""Life data of one part: every life on record summed up by pool, outcome and whole day of age, as columns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import prod
from typing import Any

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS, Finding
from almanac.core.parts.kinds import Duty

Ints = NDArray[np.int64]
DUTIES: tuple[str, ...] = tuple(sorted(Duty))
"""A duty's code is its place here, so that codes sort as names do."""
FINDINGS: tuple[Finding | None, ...] = (None, *Finding)
"""A finding's code is its place here."""
CONFIRMED, OPEN = FINDINGS.index(Finding.CONFIRMED), FINDINGS.index(Finding.OPEN)
NOT_KNOWN = -(2**31)
"""An age or a day that is not known."""
BIN_DAYS = 30
"""Units in service are put together by so many days of age and of the time until their machine retires, each group at its means."""


@dataclass(frozen=True)
class Lives:
    """Lives of parts one by one, (n,) columns of whole numbers; ages in days.

    part, model, site : ids · duty, finding : codes · fresh : began new, under observation
    entry_age, exit_age : ages between which it was observed · age_days : since it was fitted into this machine
    good_age : last age at which it was seen in order · retire_day : days until its machine retires; both may be NOT_KNOWN
    """

    part: Ints
    model: Ints
    duty: Ints
    site: Ints
    finding: Ints
    fresh: Ints
    entry_age: Ints
    exit_age: Ints
    age_days: Ints
    good_age: Ints
    in_service: Ints
    retire_day: Ints

    def of(self, part: int) -> Lives:
        """Those of one part."""
        own = self.part == part
        return Lives(*(getattr(self, name)[own] for name in self.__dataclass_fields__))


@dataclass(frozen=True)
class Outcomes:
    """Tenures by model, duty, site and how they ended, with their wear-out exposure in days."""

    model: Ints
    duty: Ints
    site: Ints
    finding: Ints
    fresh: Ints
    early: Ints
    exposed: Ints
    tenures: Ints
    exposure_days: Ints


@dataclass(frozen=True)
class Serving:
    """Units in service by model, duty, site and days until their machines retire (NOT_KNOWN: not planned)."""

    model: Ints
    duty: Ints
    site: Ints
    retire_day: Ints
    units: Ints


@dataclass(frozen=True)
class AtRisk:
    """Units that begin and end being at risk at an age in days, and how many of those that end failed.

    A failure that was found at a look leaves at the age it was found at, as anything else; it is no failure here.
    """

    model: Ints
    duty: Ints
    site: Ints
    day: Ints
    entered: Ints
    gone: Ints
    confirmed: Ints
    open: Ints


@dataclass(frozen=True)
class Served:
    """Units in service alike: mean age in days, and mean days until their machines retire (nan: not planned)."""

    model: Ints
    duty: Ints
    site: Ints
    age_days: checks.Floats
    retire_day: checks.Floats
    units: Ints


@dataclass(frozen=True)
class Found:
    """Units found failed at an age in days, and the age at which they were last seen in order."""

    model: Ints
    duty: Ints
    site: Ints
    seen_good: Ints
    day: Ints
    confirmed: Ints
    open: Ints


@dataclass(frozen=True)
class LifeData:
    """Life data of one part."""

    outcomes: Outcomes
    serving: Serving
    at_risk: AtRisk
    served: Served
    found: Found


def life_data(lives: Lives) -> LifeData:
    """Sum up the lives of one part.

    Parameters
    ----------
    lives : of one part

    Returns
    -------
    LifeData : rows in order of their columns; wear-out exposure begins after the days of dead on arrival

    Raises
    ------
    ContractError : lives of more than one part
    """
    if lives.part.size and (lives.part != lives.part[0]).any():
        raise ContractError("lives: those of one part were wanted, got several")
    early = lives.age_days <= DEAD_ON_ARRIVAL_DAYS
    begins = np.maximum(lives.entry_age, DEAD_ON_ARRIVAL_DAYS)
    seen_good = np.maximum(begins, lives.good_age)
    claim = np.isin(lives.finding, (CONFIRMED, OPEN))
    found = (lives.good_age != NOT_KNOWN) & claim & ~early & (lives.exit_age - seen_good > 1)
    return LifeData(
        outcomes=_outcomes(lives, early, begins, np.where(found, (lives.exit_age - seen_good) // 2, 0)),
        serving=_serving(lives),
        at_risk=_at_risk(lives, begins, ~early & ~found),
        served=_served(lives),
        found=_found(lives, found, seen_good),
    )


def _outcomes(lives: Lives, early: NDArray[np.bool_], begins: Ints, spared: Ints) -> Outcomes:
    exposed = lives.exit_age > begins
    columns = (lives.model, lives.duty, lives.site, lives.finding, lives.fresh, early.astype(np.int64), exposed.astype(np.int64))
    days = np.maximum(lives.exit_age - begins, 0) - spared
    keys, (tenures, exposure) = summed(columns, (np.ones_like(days), days))
    model, duty, site, finding, fresh, is_early, is_exposed = keys
    return Outcomes(model, duty, site, finding, fresh, is_early, is_exposed, tenures, exposure)


def _serving(lives: Lives) -> Serving:
    own = lives.in_service == 1
    columns = tuple(column[own] for column in (lives.model, lives.duty, lives.site, lives.retire_day))
    keys, (units,) = summed(columns, (np.ones(int(own.sum()), dtype=np.int64),))
    model, duty, site, retire_day = keys
    return Serving(model, duty, site, retire_day, units)


def _at_risk(lives: Lives, begins: Ints, counts: NDArray[np.bool_]) -> AtRisk:
    own = lives.exit_age > begins
    columns = tuple(np.tile(column[own], 2) for column in (lives.model, lives.duty, lives.site))
    day = np.concatenate((begins[own], lives.exit_age[own]))
    enters = np.repeat(np.array([1, 0]), int(own.sum()))
    none = np.zeros(int(own.sum()), dtype=np.int64)
    failed = [np.concatenate((none, (counts & (lives.finding == code))[own].astype(np.int64))) for code in (CONFIRMED, OPEN)]
    keys, sums = summed((*columns, day), (enters, 1 - enters, *failed))
    return AtRisk(*keys, *sums)


def _served(lives: Lives) -> Served:
    own = lives.in_service == 1
    model, duty, site, age, retire = (column[own] for column in (lives.model, lives.duty, lives.site, lives.exit_age, lives.retire_day))
    planned = retire != NOT_KNOWN
    by = (model, duty, site, age // BIN_DAYS, np.where(planned, retire // BIN_DAYS, -1))
    keys, (units, ages, days) = summed(by, (np.ones_like(age), age, np.where(planned, retire, 0)))
    size = np.maximum(units, 1)
    of_model, of_duty, of_site, _, _ = keys
    return Served(of_model, of_duty, of_site, ages / size, np.where(keys[4] >= 0, days / size, np.nan), units)


def _found(lives: Lives, found: NDArray[np.bool_], seen_good: Ints) -> Found:
    columns = (lives.model[found], lives.duty[found], lives.site[found], seen_good[found], lives.exit_age[found])
    claims = tuple((lives.finding[found] == code).astype(np.int64) for code in (CONFIRMED, OPEN))
    keys, sums = summed(columns, claims)
    return Found(*keys, *sums)


def summed(columns: Sequence[Ints], amounts: Sequence[Ints]) -> tuple[Any, Any]:
    """Amounts added up over rows that are alike in every column.

    Parameters
    ----------
    columns : (n,) each, whole numbers · amounts : (n,) each

    Returns
    -------
    columns, amounts : (m,) each, a row for each combination that occurs, in order of the columns

    Raises
    ------
    ContractError : numbers that lie too far apart to be put together
    """
    if columns[0].size == 0:
        return [np.empty(0, dtype=np.int64) for _ in columns], [np.empty(0, dtype=np.int64) for _ in amounts]
    low = [int(column.min()) for column in columns]
    span = [int(column.max()) - least + 1 for column, least in zip(columns, low, strict=True)]
    if prod(span) >= 2**62:
        raise ContractError(f"columns: {prod(span)} combinations are more than can be told apart")
    code = np.zeros(columns[0].size, dtype=np.int64)
    for column, least, size in zip(columns, low, span, strict=True):
        code = code * size + (column - least)
    distinct, place = np.unique(code, return_inverse=True)
    keys: list[Ints] = []
    for least, size in zip(reversed(low), reversed(span), strict=True):
        distinct, own = np.divmod(distinct, size)
        keys.insert(0, own + least)
    return keys, [np.bincount(place, amount, keys[0].size).astype(np.int64) for amount in amounts]
