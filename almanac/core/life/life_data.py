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
    age_span : all ages may be less by so many days, 0 where they are known · with_machine : they are if it came with its machine
    last_day : on which it was seen last, days on the calendar · made : day it was made, NOT_KNOWN · lot : a lot of its own, 0 for none
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
    age_span: Ints
    with_machine: Ints
    last_day: Ints
    made: Ints
    lot: Ints

    def of(self, part: int) -> Lives:
        """Those of one part."""
        own = self.part == part
        return Lives(*(getattr(self, name)[own] for name in self.__dataclass_fields__))


@dataclass(frozen=True)
class Outcomes:
    """Tenures by model, duty, site, lot and how they ended, with their wear-out exposure in days."""

    model: Ints
    duty: Ints
    site: Ints
    lot: Ints
    finding: Ints
    fresh: Ints
    early: Ints
    exposed: Ints
    tenures: Ints
    exposure_days: Ints


@dataclass(frozen=True)
class Serving:
    """Units in service by model, duty, site, lot and days until their machines retire (NOT_KNOWN: not planned)."""

    model: Ints
    duty: Ints
    site: Ints
    lot: Ints
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
    lot: Ints
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
    lot: Ints
    age_days: checks.Floats
    retire_day: checks.Floats
    units: Ints


@dataclass(frozen=True)
class Spanned:
    """Units under watch whose age at the beginning is only known to lie between two, days, and how they ended after `watched` days.

    first : the higher age is that of the machine, and of its first part · still : units that did not fail under watch
    """

    model: Ints
    duty: Ints
    site: Ints
    lot: Ints
    low: Ints
    high: Ints
    watched: Ints
    first: Ints
    still: Ints
    confirmed: Ints
    open: Ints


@dataclass(frozen=True)
class ServedSpans:
    """Units in service whose age when watching began is only known to lie between two, days; retire_day : mean, nan where not planned."""

    model: Ints
    duty: Ints
    site: Ints
    lot: Ints
    low: Ints
    high: Ints
    watched: Ints
    first: Ints
    retire_day: checks.Floats
    units: Ints


@dataclass(frozen=True)
class Found:
    """Units found failed at an age in days, and the age at which they were last seen in order."""

    model: Ints
    duty: Ints
    site: Ints
    lot: Ints
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
    spanned: Spanned
    served_spans: ServedSpans


def life_data(lives: Lives) -> LifeData:
    """Sum up the lives of one part.

    Parameters
    ----------
    lives : of one part

    Returns
    -------
    LifeData : rows in order of their columns; wear-out exposure begins after the days of dead on arrival. Units of which only a span of
    ages is known are counted in outcomes and serving, and by age in spanned and served_spans alone; what a check found of them
    counts as failed when it was found

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
    known = lives.age_span == 0
    found = (lives.good_age != NOT_KNOWN) & claim & ~early & (lives.exit_age - seen_good > 1) & known
    return LifeData(
        outcomes=_outcomes(lives, early, begins, np.where(found, (lives.exit_age - seen_good) // 2, 0)),
        serving=_serving(lives),
        at_risk=_at_risk(lives, begins, ~early & ~found, known),
        served=_served(lives, known),
        found=_found(lives, found, seen_good),
        spanned=_spanned(lives, claim & ~early, ~known),
        served_spans=_served_spans(lives, ~known),
    )


def _places(lives: Lives) -> tuple[Ints, Ints, Ints, Ints]:
    """What pools are made of beside the part."""
    return lives.model, lives.duty, lives.site, lives.lot


def _outcomes(lives: Lives, early: NDArray[np.bool_], begins: Ints, spared: Ints) -> Outcomes:
    exposed = lives.exit_age > begins
    columns = (*_places(lives), lives.finding, lives.fresh, early.astype(np.int64), exposed.astype(np.int64))
    days = np.maximum(lives.exit_age - begins, 0) - spared
    keys, (tenures, exposure) = summed(columns, (np.ones_like(days), days))
    return Outcomes(*(*keys, tenures, exposure))


def _serving(lives: Lives) -> Serving:
    own = lives.in_service == 1
    columns = tuple(column[own] for column in (*_places(lives), lives.retire_day))
    keys, (units,) = summed(columns, (np.ones(int(own.sum()), dtype=np.int64),))
    return Serving(*(*keys, units))


def _at_risk(lives: Lives, begins: Ints, counts: NDArray[np.bool_], known: NDArray[np.bool_]) -> AtRisk:
    own = (lives.exit_age > begins) & known
    columns = tuple(np.tile(column[own], 2) for column in _places(lives))
    day = np.concatenate((begins[own], lives.exit_age[own]))
    enters = np.repeat(np.array([1, 0]), int(own.sum()))
    none = np.zeros(int(own.sum()), dtype=np.int64)
    failed = [np.concatenate((none, (counts & (lives.finding == code))[own].astype(np.int64))) for code in (CONFIRMED, OPEN)]
    keys, sums = summed((*columns, day), (enters, 1 - enters, *failed))
    return AtRisk(*keys, *sums)


def _spanned(lives: Lives, failed: NDArray[np.bool_], unknown: NDArray[np.bool_]) -> Spanned:
    own = unknown & (lives.exit_age > lives.entry_age)
    ended = [(failed & (lives.finding == code))[own].astype(np.int64) for code in (CONFIRMED, OPEN)]
    ages, place = _span_ages(lives, own)
    keys, sums = summed((*(column[own] for column in _places(lives)), place), (1 - ended[0] - ended[1], *ended))
    return Spanned(*keys[:4], *ages[keys[4]].T, *sums)


def _span_ages(lives: Lives, own: NDArray[np.bool_]) -> tuple[Ints, Ints]:
    """(k, 4) lowest and highest age when watching began, days watched, and whether the machine's first part is possible; (n,) the row of
    each life.
    """
    high = lives.entry_age[own]
    low = np.maximum(high - lives.age_span[own], DEAD_ON_ARRIVAL_DAYS)
    rows = np.column_stack((low, np.maximum(high, low), lives.exit_age[own] - high, lives.with_machine[own]))
    ages, place = np.unique(rows, axis=0, return_inverse=True)
    return ages, place.ravel().astype(np.int64)


def _served_spans(lives: Lives, unknown: NDArray[np.bool_]) -> ServedSpans:
    own = (lives.in_service == 1) & unknown
    retire = lives.retire_day[own]
    planned = retire != NOT_KNOWN
    ages, place = _span_ages(lives, own)
    by = (*(column[own] for column in _places(lives)), place, np.where(planned, retire // BIN_DAYS, -1))
    keys, (units, days) = summed(by, (np.ones_like(retire), np.where(planned, retire, 0)))
    low, high, watched, first = ages[keys[4]].T
    retiring = np.where(keys[5] >= 0, days / np.maximum(units, 1), np.nan)
    return ServedSpans(*(*keys[:4], low, high, watched, first, retiring, units))


def _served(lives: Lives, known: NDArray[np.bool_]) -> Served:
    own = (lives.in_service == 1) & known
    age, retire = lives.exit_age[own], lives.retire_day[own]
    planned = retire != NOT_KNOWN
    by = (*(column[own] for column in _places(lives)), age // BIN_DAYS, np.where(planned, retire // BIN_DAYS, -1))
    keys, (units, ages, days) = summed(by, (np.ones_like(age), age, np.where(planned, retire, 0)))
    size = np.maximum(units, 1)
    return Served(*(*keys[:4], ages / size, np.where(keys[5] >= 0, days / size, np.nan), units))


def _found(lives: Lives, found: NDArray[np.bool_], seen_good: Ints) -> Found:
    columns = (*(column[found] for column in _places(lives)), seen_good[found], lives.exit_age[found])
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
