"""A company's tenures as sufficient statistics: failures, and cumulative exposure H of each pool by shape and calendar."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from almanac.core import checks
from almanac.core.forecast.company import Company, Ints, Tenures
from almanac.core.forecast.spans import possible_ages, weights, weights_after

HALF_A_DAY = 0.5 / 365.25
"""Age at which a failure at age zero counts."""
TREND_YEARS, TREND_STEP = 3.0, 0.5
"""A drift is looked for in so many years before today, in steps of so many."""
OLD_STEP = 0.125
"""Evidence grows old in steps of this share of its half-life."""
SHAPES = (float(np.log(0.05)), float(np.log(40.0)))
STEPS = 72
NOTHING = -690.0
"""Log H where nothing was at risk."""
GRID = np.linspace(*SHAPES, STEPS + 1)


@dataclass(frozen=True)
class Rows:
    """Stretches of tenures: pool, calendar bin, ages between which it was watched, units, and failures at the end.

    begin, end : (n,) years of age · units : (n,) · failures : (n,) at `end`
    """

    pool: Ints
    bin: Ints
    begin: checks.Floats
    end: checks.Floats
    units: checks.Floats
    failures: checks.Floats


@dataclass(frozen=True)
class Evidence:
    """What the likelihood of a kind needs; ages are over `unit`, the oldest age at risk.

    failures : (p,) · log_age : (g,) sum of log age over failures of a part group · drift : sum over failures of years before today
    log_h, slope : (p, c, s) log H of each pool in each calendar bin on the grid of log shapes, and its derivative
    since : (c,) years before today of each bin, at most 0
    finds : (g,) of the failures, those a check found, which have no age · gaps, gap_slope : (g, s) what they say of the shape in its place
    believed : log-likelihood of what is stated of the kind, at (n,) log shapes and log means
    """

    unit: float
    group: Ints
    failures: checks.Floats
    log_age: checks.Floats
    drift: float
    since: checks.Floats
    log_h: checks.Floats
    slope: checks.Floats
    finds: checks.Floats | None = None
    gaps: checks.Floats | None = None
    gap_slope: checks.Floats | None = None
    believed: Callable[[checks.Floats, checks.Floats], checks.Floats] | None = None

    @property
    def total(self) -> float:
        """Failures of the kind."""
        return float(self.failures.sum())

    def hazard(self, log_shape: checks.Floats, trend: checks.Floats) -> checks.Floats:
        """(n, p) H of each pool at shapes (n, p) and trends (n,) a year, ages over the unit: Hermite's cubic in log H."""
        left, t = _place(log_shape)
        pools = np.arange(self.failures.size)[None]
        before, after = self.log_h[pools, :, left], self.log_h[pools, :, left + 1]
        value = _cubic(t[..., None], (before, after), (self.slope[pools, :, left], self.slope[pools, :, left + 1]))
        return np.asarray(np.exp(value + trend[:, None, None] * self.since).sum(axis=-1))

    def of_ages(self, log_shape: checks.Floats) -> checks.Floats:
        """(n, g) what the ages of each part group's failures say of its shape (n, g)."""
        failures = np.bincount(self.group, self.failures, self.log_age.size)
        aged = failures if self.finds is None else failures - self.finds
        value = log_shape * aged + (np.exp(log_shape) - 1.0) * self.log_age
        if self.gaps is None or self.gap_slope is None:
            return np.asarray(value)
        left, t = _place(log_shape)
        groups = np.arange(self.log_age.size)[None]
        ends = (self.gaps[groups, left], self.gaps[groups, left + 1])
        return np.asarray(value + _cubic(t, ends, (self.gap_slope[groups, left], self.gap_slope[groups, left + 1])))


def _place(log_shape: checks.Floats) -> tuple[Ints, checks.Floats]:
    """Cell of the grid, and where in it from 0 to 1."""
    place = np.clip((log_shape - GRID[0]) / (GRID[1] - GRID[0]), 0.0, STEPS - 1e-9)
    left = place.astype(np.int64)
    return left, place - left


def _cubic(t: checks.Floats, value: tuple[checks.Floats, checks.Floats], slope: tuple[checks.Floats, checks.Floats]) -> checks.Floats:
    """Hermite's cubic between two points of the grid."""
    (before, after), (rising, falling) = value, slope
    whole = before * (1 + 2 * t) * (1 - t) ** 2 + after * t**2 * (3 - 2 * t)
    return np.asarray(whole + (GRID[1] - GRID[0]) * (rising * t * (1 - t) ** 2 + falling * t**2 * (t - 1)))


def gathered(company: Company, *, shape: checks.Floats | None = None, rate: checks.Floats | None = None) -> Evidence:
    """Evidence of a company.

    Parameters
    ----------
    company : of one kind · shape, rate : (p,) of each pool, rate per year^shape, by which unknown ages are weighted; without them
        every age of a span is as likely as another

    Returns
    -------
    Evidence : an unknown age enters mixed over what it may be, weighted by survival to it before and after what was seen

    References
    ----------
    Ibrahim & Chen (2000), Statistical Science 15, on evidence that grows old (the power likelihood).
    """
    rows = _in_calendar(_rows(company, shape, rate), company)
    unit = float(rows.end.max(initial=0.0)) or 1.0
    end, begin = rows.end / unit, rows.begin / unit
    failed = rows.failures > 0
    log_age = np.log(np.maximum(end[failed], HALF_A_DAY / unit))
    weight = rows.failures[failed]
    since = _since(company)
    log_h, slope = _table(rows, begin, end, company.pools, since.size)
    return Evidence(
        unit,
        company.group,
        np.bincount(rows.pool[failed], weight, company.pools).astype(np.float64),
        np.bincount(company.group[rows.pool[failed]], weight * log_age, company.groups).astype(np.float64),
        float(weight @ since[rows.bin[failed]]),
        since,
        log_h,
        slope,
    )


@dataclass(frozen=True)
class _Spell:
    """Tenures with an age: those of unknown age as several, weighted. extra : units that the entry's weight lacks (see `_unknown`)."""

    pool: Ints
    entry: checks.Floats
    watched: checks.Floats
    failed: checks.Floats
    units: checks.Floats
    ended: checks.Floats
    extra: checks.Floats


def _rows(company: Company, shape: checks.Floats | None, rate: checks.Floats | None) -> _Spell:
    tenures = company.tenures
    unknown = tenures.entry.unknown
    known = _Spell(
        tenures.pool[~unknown],
        tenures.entry.age[~unknown],
        tenures.watched[~unknown],
        tenures.failed[~unknown].astype(np.float64),
        tenures.count[~unknown],
        tenures.ended[~unknown],
        np.zeros(int((~unknown).sum())),
    )
    if not unknown.any():
        return known
    spread = _unknown(tenures, np.ones(company.pools) if shape is None else shape, np.zeros(company.pools) if rate is None else rate)
    return _Spell(*(np.concatenate((getattr(known, name), getattr(spread, name))) for name in _Spell.__annotations__))


def _unknown(tenures: Tenures, shape: checks.Floats, rate: checks.Floats) -> _Spell:
    """Tenures of unknown age as weighted ones.

    The likelihood of one is sum base f(a + x) / sum base S(a). Its slope weighs what follows a by how likely a is after the end was
    seen, and having survived to a by how likely it was before: the difference is `extra`.
    """
    of = tenures.entry.unknown
    own = possible_ages(tenures.entry, shape[tenures.pool], rate[tenures.pool])
    beta, level = shape[tenures.pool[of]], rate[tenures.pool[of]]
    failed = tenures.failed[of].astype(np.float64)
    after = weights_after(own, beta, level, tenures.watched[of], failed)
    before = weights(own, beta, level)
    count, ages = tenures.count[of][:, None], own.age.shape[1]

    def each(values: checks.Floats) -> checks.Floats:
        return np.repeat(values, ages)

    return _Spell(
        np.repeat(tenures.pool[of], ages),
        own.age.ravel(),
        each(tenures.watched[of]),
        each(failed),
        (count * after).ravel(),
        each(tenures.ended[of]),
        (count * (after - before)).ravel(),
    )


def _since(company: Company) -> checks.Floats:
    if not company.trend:
        return np.zeros(1)
    return np.concatenate(([-TREND_YEARS], np.arange(-TREND_YEARS, 0.0, TREND_STEP) + TREND_STEP / 2))


def _edges(company: Company, oldest: float) -> checks.Floats:
    """Calendar days, years before today, between which evidence weighs the same and drifts the same."""
    edges = {-np.inf, 0.0}
    if company.trend:
        edges |= set(np.arange(-TREND_YEARS, 0.0, TREND_STEP).tolist())
    if company.half_life is not None:
        step = company.half_life * OLD_STEP
        edges |= set((-step * np.arange(1, min(int(np.ceil(oldest / step)) + 1, 400))).tolist())
    return np.array(sorted(edges))


def _in_calendar(spell: _Spell, company: Company) -> Rows:
    """Each tenure cut where the calendar bends, weighted by how old the evidence is; failures on the last piece."""
    start, stop = -(spell.ended + spell.watched), -spell.ended
    oldest = float(-start.min(initial=0.0))
    edges = _edges(company, oldest)
    since = _since(company)
    parts: list[tuple[Ints, Ints, checks.Floats, checks.Floats, checks.Floats, checks.Floats]] = []
    for left, right in pairwise(edges.tolist()):
        begin, end = np.maximum(start, left), np.minimum(stop, right)
        # What ends on an edge ends in the piece before it, save what never lasted at all.
        ends_here = (stop > left) & (stop <= right)
        here = (end > begin) | ends_here
        if not here.any():
            continue
        middle = (max(left, -oldest) + right) / 2
        weight = 1.0 if company.half_life is None else float(2.0 ** (middle / company.half_life))
        place = int(np.argmin(np.abs(since - np.clip(middle, -TREND_YEARS, 0.0)))) if since.size > 1 else 0
        if since.size > 1 and right <= -TREND_YEARS:
            place = 0
        pool, age = spell.pool[here], spell.entry[here]
        ages = age + (begin - start)[here], age + np.maximum(end - start, 0.0)[here]
        units = weight * spell.units[here]
        failing = weight * np.where(ends_here, spell.units * spell.failed, 0.0)[here]
        parts.append((pool, np.full(pool.size, place), *ages, units, failing))
        first = (spell.extra != 0) & (start >= left) & (start < right)
        if first.any():  # what survival to an unknown age weighs more or less than what came after it
            none = np.zeros(int(first.sum()))
            parts.append((spell.pool[first], np.full(none.size, place), none, spell.entry[first], weight * spell.extra[first], none))
    return Rows(*(np.concatenate(column) for column in zip(*parts, strict=True))) if parts else _no_rows()


def _no_rows() -> Rows:
    none, whole = np.empty(0), np.empty(0, dtype=np.int64)
    return Rows(whole, whole, none, none, none, none)


def _table(rows: Rows, begin: checks.Floats, end: checks.Floats, pools: int, bins: int) -> tuple[checks.Floats, checks.Floats]:
    """(p, c, s) log H on the grid of log shapes and its derivative by the log shape."""
    key = rows.pool * bins + rows.bin
    age, units, where = np.concatenate((end, begin)), np.concatenate((rows.units, -rows.units)), np.concatenate((key, key))
    kept = (age > 0) & (units != 0)
    log_age, units, where = np.log(age[kept]), units[kept], where[kept]
    total, by_shape = np.zeros((STEPS + 1, pools * bins)), np.zeros((STEPS + 1, pools * bins))
    for place, shape in enumerate(np.exp(GRID)):
        power = units * np.exp(shape * log_age)
        total[place] = np.bincount(where, power, pools * bins)
        by_shape[place] = np.bincount(where, shape * power * log_age, pools * bins)
    some = total > 1e-290
    log_h = np.where(some, np.log(np.where(some, total, 1.0)), NOTHING)
    slope = np.where(some, by_shape / np.where(some, total, 1.0), 0.0)
    return log_h.T.reshape(pools, bins, -1), slope.T.reshape(pools, bins, -1)
