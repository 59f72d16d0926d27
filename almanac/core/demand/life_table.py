"""Failures of one position, tabulated: by the age of its part, by the level lambda of its life, and by the length of a window.

For a shape beta, S(x) = exp(-lambda x^beta). A table is made once for a kind and serves all its pools: what a pool asks of it
is a weighted sum over ages. G(z) = 1 + (z - 1) sum_k P(N >= k) z^(k-1), which loses no digits however many failures there are;
its logarithm is a series in z - 1 through the binomial moments E[C(N, j)], for positions that fail seldom.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable
from functools import cached_property
from math import comb

import numpy as np
from numpy.polynomial.legendre import leggauss
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand.renewal import RenewalTable, WeibullLife
from almanac.core.errors import ContractError

TERMS = 10
"""Of the series of log G: with LIKELY and the points of lambda, cumulative probabilities are off by less than 1e-5."""
AGES = 56
POINTS = 14
"""Of the quadrature over the moment of the first failure."""
NEGLIGIBLE = 1e-11
MOST_FAILURES = 60
SPARE_AGE_YEARS = 0.05
"""The grid of ages reaches a little past the oldest, so that interpolation has neighbours."""


MOST_WINDOWS = 160
"""Later windows that are kept; then all are dropped."""
Windows = dict[int, checks.Floats]


class LifeTable:
    """P(N >= k), k = 1, 2, ..., on a grid of windows (0, t], ages and levels, and of any window (s, t] from them.

    Several shapes lie one behind the other, each with as many levels: row m of a table is one shape at one level.
    """

    def __init__(self, shapes: checks.Floats, log_level: checks.Floats, knots: checks.Floats, oldest: float) -> None:
        """Fill the table.

        Parameters
        ----------
        shapes : (s,) beta > 0 · log_level : (s, l) logarithms of lambda, per year^beta, rising · knots : (t,) years, rising, first > 0
        oldest : largest age that is asked for, years, windows included

        Raises
        ------
        ContractError : an argument outside its range
        """
        self.shapes = np.array([checks.positive("shapes", shape) for shape in shapes])
        self.log_level = np.array([checks.vector("log_level", row) for row in log_level])
        self.knots = checks.vector("knots", knots, low=0.0)
        if self.knots.size == 0 or self.knots[0] <= 0 or (np.diff(self.knots) <= 0).any():
            raise ContractError("knots: rising times above 0 were wanted")
        top = checks.positive("oldest", oldest) + SPARE_AGE_YEARS
        self.ages = top * np.linspace(0.0, 1.0, AGES) ** 2.2
        self.level = np.exp(self.log_level).ravel()
        self.shape = np.repeat(self.shapes, self.log_level.shape[1])
        found = [np.stack(self._reached(shape, np.exp(row)), axis=-1) for shape, row in zip(self.shapes, self.log_level, strict=True)]
        longest = max(reached.shape[-1] for reached in found)
        padded = [np.pad(reached, ((0, 0), (0, 0), (0, 0), (0, longest - reached.shape[-1]))) for reached in found]
        self.reached = np.ascontiguousarray(np.concatenate(padded, axis=2))
        self.log_g = np.ascontiguousarray(log_series(_binomial(self.reached, TERMS), TERMS))
        self._later_series: Windows = {}
        self._later_reached: Windows = {}

    def _reached(self, shape: float, level: checks.Floats) -> list[checks.Floats]:
        """P(N >= k) for k = 1, 2, ..., (t, u, l) each, until negligible."""
        stretch = level ** (1.0 / shape)
        fresh = RenewalTable(WeibullLife(float(shape), 1.0), float(stretch[-1] * self.knots[-1]))
        time, age, rate = self.knots[:, None, None], self.ages[None, :, None], level[None, None, :]
        first = -np.expm1(-rate * ((age + time) ** shape - age**shape))
        place, weight = leggauss(POINTS)
        # s = t x^2 puts points close to 0, where the density of a young part of falling hazard rises without limit.
        x = (place + 1) / 2
        moment = time[..., None] * x**2
        grown = (age[..., None] + moment) ** (shape - 1)
        alive = np.exp(-rate[..., None] * (grown * (age[..., None] + moment) - age[..., None] ** shape))
        share = rate[..., None] * shape * grown * alive * (time[..., None] * x) * weight
        left = stretch[None, :, None] * (self.knots[:, None, None] * (1 - x**2))
        found = [first]
        for k in range(1, MOST_FAILURES):
            again = np.einsum("tulq,tlq->tul", share, fresh.reached(k, left))
            if float(again.max()) < NEGLIGIBLE:
                break
            found.append(np.minimum(again, found[-1]))
        return found

    def neighbours(self, age: checks.Floats) -> tuple[NDArray[np.int64], checks.Floats]:
        """(n, 4) places on the grid of ages and their weights: cubic Lagrange over four neighbours."""
        near = np.clip(np.searchsorted(self.ages, age) - 2, 0, self.ages.size - 4)[:, None] + np.arange(4)
        away = age[:, None] - self.ages[near]
        others = np.array([[1, 2, 3], [0, 2, 3], [0, 1, 3], [0, 1, 2]])
        return near, away[:, others].prod(axis=-1) * self._denominator[near[:, 0]]

    def at_ages(self, age: checks.Floats) -> checks.Floats:
        """(n, u) weights that turn values on the grid of ages into values at other ages."""
        near, weights = self.neighbours(age)
        out = np.zeros((age.size, self.ages.size))
        np.put_along_axis(out, near, weights, axis=1)
        return out

    @cached_property
    def _denominator(self) -> checks.Floats:
        """(u - 3, 4) factors of the Lagrange weights that depend on the grid alone."""
        points = self.ages[np.arange(self.ages.size - 3)[:, None] + np.arange(4)]
        gaps = points[:, :, None] - points[:, None, :] + np.eye(4)
        return np.asarray(1.0 / gaps.prod(axis=-1))

    def _older(self, table: checks.Floats, age: checks.Floats) -> checks.Floats:
        """(n, m, j) a table of ages (u, m, j) at other ages."""
        near, weights = self.neighbours(age)
        flat = table.reshape(self.ages.size, -1)
        return np.asarray(np.matmul(weights[:, None, :], flat[near])[:, 0].reshape(-1, *table.shape[1:]))

    def until(self, time: float) -> checks.Floats:
        """(u, m, k) P(N >= k) of the window (0, time], interpolated per unit of time between knots."""
        return self._at(self.reached, time)

    def corners_of(self, start: checks.Floats, length: checks.Floats) -> tuple[NDArray[np.int64], checks.Floats]:
        """(n, 4) kept windows between which windows from `start` > 0 of some length lie, and their shares.

        What happens changes evenly with the start of a window, and per unit of time with its length.
        """
        high = np.minimum(np.searchsorted(self.knots, start), self.knots.size - 1)
        low = np.where(high > 0, self.knots[high - 1], 0.0)
        late = np.minimum((start - low) / (self.knots[high] - low), 1.0)
        knots, shares = self.knots_of(length)
        begins = np.stack((high, high + 1), axis=1)
        corner = begins[:, :, None] * self.knots.size + knots[:, None]
        share = np.stack((1.0 - late, late), axis=1)[:, :, None] * shares[:, None]
        return corner.reshape(-1, 4), share.reshape(-1, 4)

    def series_at(self, corner: int) -> checks.Floats:
        """(u, m, TERMS) coefficients of y, y^2, ... of log G, y = z - 1, by the age at time 0, of a window that is kept."""
        start, length = divmod(corner, self.knots.size)
        if start == 0:
            return np.asarray(self.log_g[length])
        return self._kept(
            self._later_series, corner, lambda: np.ascontiguousarray(log_series(_binomial(self.reached_at(corner), TERMS), TERMS))
        )

    def reached_at(self, corner: int) -> checks.Floats:
        """(u, m, k) P(N >= k) of a window that is kept."""
        start, length = divmod(corner, self.knots.size)
        if start == 0:
            return np.asarray(self.reached[length])
        begin = float(self.knots[start - 1])
        return self._kept(self._later_reached, corner, lambda: self.between(begin, begin + float(self.knots[length])))

    @staticmethod
    def _kept(known: Windows, key: int, work_out: Callable[[], checks.Floats]) -> checks.Floats:
        found = known.get(key)
        if found is None:
            if len(known) >= MOST_WINDOWS:
                known.clear()
            found = known[key] = work_out()
        return found

    def knots_of(self, time: checks.Floats) -> tuple[NDArray[np.int64], checks.Floats]:
        """(n, 2) knots and shares that make up windows (0, time]: per unit of time, what happens changes evenly from knot to knot."""
        last = self.knots.size - 1
        high = np.minimum(np.searchsorted(self.knots, time), last)
        low = high - (time > self.knots[0])
        begin, end = self.knots[low], self.knots[high]
        share = np.where(high > low, (time - begin) / np.where(high > low, end - begin, 1.0), 1.0)
        return np.array([low, high]).T, np.array([(1 - share) * time / begin, share * time / end]).T

    def knots_at(self, time: float) -> list[tuple[int, float]]:
        """The same for one window, shares of nothing left out."""
        high = min(bisect_left(self._times, time), len(self._times) - 1)
        low = high - 1 if high > 0 and time > self._times[0] else high
        if low == high:
            return [(high, time / self._times[high])] if time > 0 else []
        share = (time - self._times[low]) / (self._times[high] - self._times[low])
        both = ((low, (1 - share) * time / self._times[low]), (high, share * time / self._times[high]))
        return [(knot, part) for knot, part in both if part > 0]

    @cached_property
    def _times(self) -> list[float]:
        return [float(time) for time in self.knots]

    def _at(self, table: checks.Floats, time: float) -> checks.Floats:
        found = [share * table[knot] for knot, share in self.knots_at(time)]
        return np.asarray(found[0] + found[1] if len(found) == 2 else found[0] if found else np.zeros(table.shape[1:]))

    def between(self, start: float, end: float) -> checks.Floats:
        """(u, m, k) P(N >= k) of the window (start, end] by the age at time 0.

        At `start` a position holds its first part, older by then, or a replacement of some age; from there on it is a window (0, t].

        References
        ----------
        Cox (1962), Renewal Theory, chapter 5 (the age of the part in use).
        """
        ahead = self.until(end - start)
        if start <= 0:
            return ahead
        older = self.ages + start
        inside = np.minimum(older, self.ages[-1])
        alive = np.exp(-self.level * (older[:, None] ** self.shape - self.ages[:, None] ** self.shape))
        return np.asarray(alive[..., None] * self._older(ahead, inside) + self._replaced(start, ahead))

    def _replaced(self, start: float, ahead: checks.Floats) -> checks.Floats:
        """The same for parts fitted before `start` and alive then: the renewals of each stretch, put at its middle."""
        edges = np.concatenate(([0.0], self.knots[self.knots < start], [start]))
        fitted = np.diff([self.until(time).sum(axis=-1) for time in edges], axis=0)
        age = start - (edges[:-1] + edges[1:]) / 2
        alive = np.exp(-self.level * age[:, None] ** self.shape)
        then = alive[..., None] * self._older(ahead, age)
        whole = np.matmul(fitted.transpose(2, 1, 0), then.transpose(1, 0, 2))
        return np.asarray(whole.transpose(1, 0, 2))


def _binomial(reached: checks.Floats, most: int) -> checks.Floats:
    """(..., j) E[C(N, j)] = sum over k >= j of C(k-1, j-1) P(N >= k), for j up to `most`."""
    count = reached.shape[-1]
    weights = np.array([[float(comb(k - 1, j - 1)) for j in range(1, min(most, count) + 1)] for k in range(1, count + 1)])
    return np.asarray(reached @ weights)


def log_series(moments: checks.Floats, terms: int) -> checks.Floats:
    """Coefficients of y, y^2, ... of log(1 + sum_j B_j y^j).

    Parameters
    ----------
    moments : (..., j) binomial moments · terms : how many coefficients, >= 1

    Returns
    -------
    (..., terms)

    Raises
    ------
    ContractError : terms below 1
    """
    if terms < 1:
        raise ContractError(f"terms: at least 1 was wanted, got {terms}")
    given = moments.shape[-1]
    binomial = np.ascontiguousarray(np.moveaxis(moments, -1, 0))
    # With c_i the coefficients: n c_n = n B_n - sum over i of i c_i B_(n - i), and B is zero past what is given.
    scaled = np.zeros((terms, *moments.shape[:-1]))
    for n in range(1, terms + 1):
        if n <= given:
            scaled[n - 1] = n * binomial[n - 1]
        first = max(1, n - given)
        if first < n:
            scaled[n - 1] -= np.einsum("i...,i...->...", scaled[first - 1 : n - 1], binomial[: n - first][::-1])
    scaled /= np.arange(1, terms + 1).reshape(-1, *[1] * (moments.ndim - 1))
    return np.moveaxis(scaled, 0, -1)
