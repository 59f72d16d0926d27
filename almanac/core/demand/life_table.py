"""Failures of one position, tabulated: by the age of its part, by the level lambda of its life, and by the length of a window.

For one shape beta, S(x) = exp(-lambda x^beta). A table is made once for a kind and serves all its pools: what a pool asks of it
is a weighted sum over ages. G(z) = 1 + sum_j B_j (z - 1)^j, with B_j the binomial moments E[C(N, j)].
"""

from __future__ import annotations

from functools import cached_property
from math import comb

import numpy as np
from numpy.polynomial.legendre import leggauss
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.demand.renewal import RenewalTable, WeibullLife
from almanac.core.errors import ContractError

TERMS = 14
"""Of the series of log G: enough where a position fails in the window with a chance of 0.4 at most."""
AGES = 56
POINTS = 14
"""Of the quadrature over the moment of the first failure."""
NEGLIGIBLE = 1e-11
MOST_FAILURES = 60
SPARE_AGE_YEARS = 0.05
"""The grid of ages reaches a little past the oldest, so that interpolation has neighbours."""


class LifeTable:
    """Binomial moments on a grid of windows (0, t], levels and ages, and of any window (s, t] from them."""

    def __init__(self, shape: float, log_level: checks.Floats, knots: checks.Floats, oldest: float) -> None:
        """Fill the table.

        Parameters
        ----------
        shape : beta > 0 · log_level : (l,) logarithms of lambda, per year^beta, rising · knots : (t,) years, rising, first > 0
        oldest : largest age that is asked for, years, windows included

        Raises
        ------
        ContractError : an argument outside its range
        """
        self.shape = checks.positive("shape", shape)
        self.log_level = checks.vector("log_level", log_level)
        self.knots = checks.vector("knots", knots, low=0.0)
        if self.knots.size == 0 or self.knots[0] <= 0 or (np.diff(self.knots) <= 0).any():
            raise ContractError("knots: rising times above 0 were wanted")
        top = checks.positive("oldest", oldest) + SPARE_AGE_YEARS
        self.ages = top * np.linspace(0.0, 1.0, AGES) ** 2.2
        self.level = np.exp(self.log_level)
        stretch = self.level ** (1.0 / self.shape)
        fresh = RenewalTable(WeibullLife(self.shape, 1.0), float(stretch[-1] * self.knots[-1]))
        self.moments = _binomial(self._reached(fresh, stretch))
        self._series = log_series(self.moments, TERMS)

    def _reached(self, fresh: RenewalTable, stretch: checks.Floats) -> list[checks.Floats]:
        """P(N >= k) for k = 1, 2, ..., (t, l, u) each, until negligible."""
        time, age, level = self.knots[:, None, None], self.ages[None, None], self.level[None, :, None]
        first = -np.expm1(-level * ((age + time) ** self.shape - age**self.shape))
        place, weight = leggauss(POINTS)
        # s = t x^2 puts points close to 0, where the density of a young part of falling hazard rises without limit.
        x = (place + 1) / 2
        moment = time[..., None] * x**2
        density = level[..., None] * self.shape * (age[..., None] + moment) ** (self.shape - 1)
        alive = np.exp(-level[..., None] * ((age[..., None] + moment) ** self.shape - age[..., None] ** self.shape))
        share = density * alive * (time[..., None] * x) * weight
        left = stretch[None, :, None] * (self.knots[:, None, None] * (1 - x**2))
        found = [first]
        for k in range(1, MOST_FAILURES):
            again = np.einsum("tluq,tlq->tlu", share, fresh.reached(k, left))
            if float(again.max()) < NEGLIGIBLE:
                break
            found.append(np.minimum(again, found[-1]))
        return found

    def at_ages(self, age: checks.Floats) -> checks.Floats:
        """(n, u) weights that turn values on the grid of ages into values at other ages: cubic Lagrange over four neighbours."""
        near, weights = self._neighbours(age)
        out = np.zeros((age.size, self.ages.size))
        np.put_along_axis(out, near, weights, axis=1)
        return out

    def _neighbours(self, age: checks.Floats) -> tuple[NDArray[np.int64], checks.Floats]:
        """(n, 4) places on the grid of ages and their weights."""
        near = np.clip(np.searchsorted(self.ages, age) - 2, 0, self.ages.size - 4)[:, None] + np.arange(4)
        away = age[:, None] - self.ages[near]
        others = np.array([[1, 2, 3], [0, 2, 3], [0, 1, 3], [0, 1, 2]])
        return near, away[:, others].prod(axis=-1) * self._denominator[near[:, 0]]

    @cached_property
    def _denominator(self) -> checks.Floats:
        """(u - 3, 4) factors of the Lagrange weights that depend on the grid alone."""
        points = self.ages[np.arange(self.ages.size - 3)[:, None] + np.arange(4)]
        gaps = points[:, :, None] - points[:, None, :] + np.eye(4)
        return np.asarray(1.0 / gaps.prod(axis=-1))

    def _older(self, table: checks.Floats, age: checks.Floats) -> checks.Floats:
        """(l, n, j) a table of ages (l, u, j) at other ages."""
        near, weights = self._neighbours(age)
        return np.asarray(np.matmul(weights[:, None, :], table[:, near])[..., 0, :])

    def until(self, time: float) -> checks.Floats:
        """(l, u, j) binomial moments of the window (0, time], interpolated per unit of time between knots."""
        return self._at(self.moments, time)

    def series(self, start: float, end: float) -> checks.Floats:
        """(l, u, TERMS) coefficients of y, y^2, ... of log G, y = z - 1, of the window (start, end] by the age at time 0."""
        return log_series(self.between(start, end), TERMS) if start > 0 else self._at(self._series, end)

    def knot_series(self, knot: int) -> checks.Floats:
        """(l, u, TERMS) coefficients of the window until a knot."""
        return np.asarray(self._series[knot])

    def knots_of(self, time: float) -> list[tuple[int, float]]:
        """Knots and shares that make up a window (0, time]: per unit of time, what happens changes evenly from knot to knot."""
        if time <= 0:
            return []
        place = min(max(int(self.knots.searchsorted(time)), 1), max(self.knots.size - 1, 1))
        if time <= self.knots[0] or self.knots.size == 1:
            return [(0, time / self.knots[0])]
        low, high = self.knots[place - 1], self.knots[place]
        share = (time - low) / (high - low)
        return [(knot, part) for knot, part in ((place - 1, (1 - share) * time / low), (place, share * time / high)) if part > 0]

    def _at(self, table: checks.Floats, time: float) -> checks.Floats:
        found = [share * table[knot] for knot, share in self.knots_of(time)]
        return np.asarray(found[0] + found[1] if len(found) == 2 else found[0] if found else np.zeros(table.shape[1:]))

    def between(self, start: float, end: float) -> checks.Floats:
        """(l, u, j) binomial moments of the window (start, end] by the age at time 0.

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
        alive = np.exp(-self.level[:, None] * (older[None] ** self.shape - self.ages[None] ** self.shape))
        kept = alive[..., None] * self._older(ahead, inside)
        return np.asarray(kept + self._replaced(start, ahead))

    def _replaced(self, start: float, ahead: checks.Floats) -> checks.Floats:
        """The same for parts fitted before `start` and alive then: the renewals of each stretch, put at its middle."""
        edges = np.concatenate(([0.0], self.knots[self.knots < start], [start]))
        fitted = np.diff([self.until(time)[..., 0] for time in edges], axis=0)
        age = start - (edges[:-1] + edges[1:]) / 2
        alive = np.exp(-self.level[:, None] * age[None] ** self.shape)
        then = alive[..., None] * self._older(ahead, age)
        return np.asarray(np.matmul(fitted.transpose(1, 2, 0), then))


def _binomial(reached: list[checks.Floats]) -> checks.Floats:
    """(t, l, u, j) E[C(N, j)] = sum over k >= j of C(k-1, j-1) P(N >= k)."""
    count = len(reached)
    weights = np.array([[float(comb(k - 1, j - 1)) if k >= j else 0.0 for k in range(1, count + 1)] for j in range(1, count + 1)])
    return np.asarray(np.einsum("jk,ktlu->tluj", weights, np.array(reached)))


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
