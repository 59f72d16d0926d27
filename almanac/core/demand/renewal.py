"""Failures of positions whose parts wear out: renewals in continuous time, as small exact distributions.

A part that fails is replaced at once by a fresh one, which may fail in the same step. P(N(t) >= k) is the k-fold convolution of
the life; each convolution is a trapezoid on the one before against exact increments of F, with cells halved until nothing moves.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import CubicSpline

from almanac.core import checks
from almanac.core.errors import ContractError

FIRST_CELLS = 64
"""AgeGroups a step at first."""
MOST_CELLS = 4096
NOTHING_MOVES = 1e-6
NEGLIGIBLE = 1e-15
MOST_RENEWALS = 2000
MOST_PLACES = 1024
"""Places in a window at which a part may fail, closest where parts that die early do: at the window's ends."""
TAIL, NOISE, FEW = 1e-12, 1e-15, 64


@dataclass(frozen=True)
class WeibullLife:
    """S(x) = exp(-(x / scale)^shape), ages in steps."""

    shape: float
    scale: float

    def hazard(self, age: checks.Floats) -> checks.Floats:
        """Cumulative hazard (x / scale)^shape."""
        return np.asarray((np.maximum(age, 0.0) / self.scale) ** self.shape)

    def failed_by(self, age: checks.Floats, since: float = 0.0) -> checks.Floats:
        """P(fails by `since` + age | alive at `since`), exact for tiny values too."""
        return np.asarray(-np.expm1(self.hazard(np.array(since)) - self.hazard(since + age)))


def weibull_life(shape: float, scale: float) -> WeibullLife:
    """A checked life.

    Raises
    ------
    ContractError : a shape or scale not above 0
    """
    return WeibullLife(checks.positive("shape", shape), checks.positive("scale", scale))


class RenewalTable:
    """Of a fresh part, up to a horizon: P(N(t) >= k) for each k, and the renewal function M(t), at any t."""

    def __init__(self, life: WeibullLife, horizon: float) -> None:
        self.life = life
        self.horizon = checks.positive("horizon", horizon)
        cells = FIRST_CELLS * max(1, int(np.ceil(horizon)))
        at_least = _at_least(life, self.horizon, cells)
        while True:
            finer = _at_least(life, self.horizon, cells * 2)
            rows = max(len(at_least), len(finer))
            moved = np.abs(_padded(finer, rows)[:, ::2] - _padded(at_least, rows)).max(initial=0.0)
            cells, at_least = cells * 2, finer
            if moved < NOTHING_MOVES or cells >= MOST_CELLS * max(1, int(np.ceil(horizon))):
                break
        self.time = np.linspace(0.0, self.horizon, cells + 1)
        self.at_least = at_least
        self._splines = [CubicSpline(self.time, row) for row in at_least]
        self.renewals = CubicSpline(self.time, at_least.sum(axis=0))

    def reached(self, k: int, time: checks.Floats) -> checks.Floats:
        """P(N(t) >= k) of a fresh part; 1 for k = 0, 0 for negative times with k > 0."""
        if k == 0:
            return np.where(time >= 0, 1.0, 0.0)
        if k > len(self._splines):
            return np.zeros_like(time)
        return np.where(time > 0, np.clip(self._splines[k - 1](np.clip(time, 0.0, self.horizon)), 0.0, 1.0), 0.0)

    @property
    def most(self) -> int:
        """Largest k with a probability that is not negligible."""
        return len(self._splines)


def _convolved(one: checks.Floats, other: checks.Floats) -> checks.Floats:
    """The first terms of a convolution, as many as `one` has, by FFT."""
    size = 1 << int(np.ceil(np.log2(one.size + other.size)))
    return np.asarray(np.fft.irfft(np.fft.rfft(one, size) * np.fft.rfft(other, size), size)[: one.size])


def _padded(table: checks.Floats, rows: int) -> checks.Floats:
    return np.vstack([table, np.zeros((rows - table.shape[0], table.shape[1]))])


def _at_least(life: WeibullLife, horizon: float, cells: int) -> checks.Floats:
    """(k, cells + 1) P(N(t) >= k) for k = 1, 2, ... on a grid, until negligible at the horizon."""
    time = np.linspace(0.0, horizon, cells + 1)
    first = life.failed_by(time)
    gained = np.diff(first)
    rows = [first]
    while rows[-1][-1] > NEGLIGIBLE and len(rows) < MOST_RENEWALS:
        middle = (rows[-1][:-1] + rows[-1][1:]) / 2
        following = np.concatenate(([0.0], _convolved(middle, gained)))
        rows.append(np.clip(following, 0.0, rows[-1]))
    return np.array(rows)


@dataclass(frozen=True)
class Fleet:
    """Positions alike, by row: how many, the age of the part in each when it enters service, and when it enters and leaves."""

    count: checks.Floats
    age: checks.Floats
    start: checks.Floats
    retire: checks.Floats


def fleet(count: ArrayLike, age: ArrayLike, start: ArrayLike, retire: ArrayLike) -> Fleet:
    """Checked positions, equal rows put together.

    Parameters
    ----------
    count : (u,) positions, >= 0 · age : (u,) steps, >= 0 · start, retire : (u,) steps from now, retire may be inf

    Returns
    -------
    Fleet

    Raises
    ------
    ContractError : an argument outside its range, or sizes that differ
    """
    number = checks.vector("count", count, low=0.0)
    old = checks.vector("age", age, low=0.0, size=number.size)
    begin = checks.vector("start_after", start, low=0.0, size=number.size)
    end = np.asarray(retire, dtype=np.float64)
    if end.shape != number.shape or np.isnan(end).any() or (end < 0).any():
        raise ContractError("retire_after: times of at least 0, one for each row, were wanted")
    kept = (number > 0) & (end > begin)
    rows = np.column_stack((old, begin, end))[kept]
    if rows.shape[0] == 0:
        empty = np.empty(0)
        return Fleet(empty, empty, empty, empty)
    unique, place = np.unique(rows, axis=0, return_inverse=True)
    return Fleet(np.bincount(place.ravel(), number[kept]).astype(float), unique[:, 0], unique[:, 1], unique[:, 2])


def position_pmf(table: RenewalTable, age: ArrayLike, window: tuple[float, float], *, replace: bool) -> checks.Floats:
    """Distribution of each position's failures in a window of its own time.

    Parameters
    ----------
    table : of the life, up to the window's end at least · age : (p,) of the part in each at time 0
    window : (from, to), 0 <= from <= to · replace : whether a failed part is replaced at once

    Returns
    -------
    (p, n) probabilities of 0 .. n-1

    Raises
    ------
    ContractError : an age below 0

    References
    ----------
    Cox (1962), Renewal Theory, chapters 2 to 4.
    """
    old = checks.vector("age", age, low=0.0)
    start, stop = window
    length = stop - start
    if length <= 0 or old.size == 0:
        return np.ones((old.size, 1))
    if not replace:
        alive = np.exp(-_conditional(table.life, old, np.array([start]))[:, 0])
        chance = -alive * np.expm1(-_conditional(table.life, old + start, np.array([length]))[:, 0])
        return np.column_stack((1.0 - chance, chance))
    place = length * _graded(max(FIRST_CELLS, min(int(np.ceil(len(table.time) * length / table.horizon)), MOST_PLACES)))
    gained = np.diff(_first_failure(table, old, start, place), axis=1)
    rows = [np.ones(old.size)]
    for k in range(1, table.most + 2):
        before = table.reached(k - 1, length - place)
        value = gained @ ((before[:-1] + before[1:]) / 2)
        if float(value.max()) < NEGLIGIBLE:
            break
        rows.append(np.minimum(value, rows[-1]))
    reached = np.column_stack((*rows, np.zeros(old.size)))
    return np.asarray(reached[:, :-1] - reached[:, 1:])


def _graded(cells: int) -> checks.Floats:
    """(cells + 1,) places from 0 to 1, closest at both ends."""
    return np.asarray(np.sin(np.linspace(0.0, np.pi / 2, cells + 1)) ** 2)


def _conditional(life: WeibullLife, age: checks.Floats, place: checks.Floats) -> checks.Floats:
    """(p, v) hazard gathered from each age until age + place."""
    return np.asarray(life.hazard(age[:, None] + place[None]) - life.hazard(age)[:, None])


def _first_failure(table: RenewalTable, age: checks.Floats, start: float, place: checks.Floats) -> checks.Floats:
    """(p, v) P(the part in place at `start` fails by `start` + place): the first one, or one of its replacements."""
    life = table.life
    before = np.exp(-_conditional(life, age, np.array([start])))
    original = before - np.exp(-_conditional(life, age, start + place))
    if start <= 0:
        return np.asarray(original)
    even = np.linspace(0.0, start, max(FIRST_CELLS, int(np.ceil(len(table.time) * start / table.horizon))) + 1)
    grid = start * _graded(max(FIRST_CELLS, min(even.size - 1, MOST_PLACES)))
    gained = np.diff(CubicSpline(even, _renewed(table, age, even), axis=1)(grid), axis=1)
    middle = start - (grid[:-1] + grid[1:]) / 2
    # A replacement fitted so long before `start` survived until then, and failed by `start` + place: the same for every age.
    fails = np.exp(-life.hazard(middle))[:, None] - np.exp(-life.hazard(middle[:, None] + place[None]))
    return np.asarray(original + gained @ fails)


def _renewed(table: RenewalTable, age: checks.Floats, grid: checks.Floats) -> checks.Floats:
    """(p, s) renewal function of positions whose first part has an age: M_a(t) = F_a(t) + integral of M(t - s) dF_a(s)."""
    first = -np.expm1(-_conditional(table.life, age, grid))
    fresh = np.asarray(table.renewals(grid))
    gained = np.diff(first, axis=1)
    middle = (fresh[:-1] + fresh[1:]) / 2
    size = 1 << int(np.ceil(np.log2(2 * middle.size)))
    again = np.fft.irfft(np.fft.rfft(middle, size)[None] * np.fft.rfft(gained, size, axis=1), size, axis=1)[:, : middle.size]
    first[:, 1:] += again
    return np.asarray(first)


def window_pmf(units: Fleet, life: WeibullLife, windows: ArrayLike, *, replace: bool) -> checks.Floats:
    """Exact distribution of a fleet's failures in each window: the product of the positions' generating functions.

    Parameters
    ----------
    units : positions · life : of their parts · windows : (w, 2) times in steps, from <= to · replace : whether parts are replaced

    Returns
    -------
    (w, n) probabilities of 0 .. n-1

    Raises
    ------
    ContractError : windows that are no pairs of times
    """
    edges = np.asarray(windows, dtype=np.float64)
    if edges.ndim != 2 or edges.shape[1] != 2 or not np.isfinite(edges).all() or (edges < 0).any() or (edges[:, 1] < edges[:, 0]).any():
        raise ContractError("windows: pairs of times, from 0 and not backwards, were wanted")
    horizon = float(edges[:, 1].max(initial=0.0))
    if units.count.size == 0 or horizon <= 0:
        return np.ones((edges.shape[0], 1))
    table = RenewalTable(life, horizon)
    found = [_fleet_pmf(table, units, (begin, end), replace=replace) for begin, end in edges]
    longest = max(row.size for row in found)
    return np.array([np.pad(row, (0, longest - row.size)) for row in found])


def _fleet_pmf(table: RenewalTable, units: Fleet, window: tuple[float, float], *, replace: bool) -> checks.Floats:
    """Positions with one window of their own time are computed together."""
    own = [_own_window(units, row, *window) for row in range(units.count.size)]
    pieces: list[checks.Floats] = [np.ones(1)] * units.count.size
    for shared in dict.fromkeys(own):
        rows = [row for row, one in enumerate(own) if one == shared]
        for row, pmf in zip(rows, position_pmf(table, units.age[rows], shared, replace=replace), strict=True):
            pieces[row] = pmf
    return _product(pieces, units.count)


def _own_window(units: Fleet, row: int, begin: float, end: float) -> tuple[float, float]:
    """A window in the time of a position that entered service later and leaves earlier."""
    start, stop = units.start[row], units.retire[row]
    first = min(max(begin, start), stop) - start
    return first, max(min(max(end, start), stop) - start, first)


def _product(pieces: list[checks.Floats], count: checks.Floats) -> checks.Floats:
    """Distribution of the sum of independent positions, by FFT on a grid that holds all but a negligible tail on either side.

    Logarithms are summed of what each generating function lacks to 1, so that a million positions make no noise of one's rounding.
    """
    means = np.array([float(piece @ np.arange(piece.size)) for piece in pieces])
    squares = np.array([float(piece @ np.arange(piece.size) ** 2) for piece in pieces]) - means**2
    mean, sd = float(count @ means), float(np.sqrt(max(float(count @ squares), 0.0)))
    most = int(sum(number * (piece.size - 1) for piece, number in zip(pieces, count, strict=True))) + 1
    size = 1 << int(np.ceil(np.log2(min(most, 24 * sd + 80) + 1)))
    left_before = np.inf
    while True:
        lowest = max(int(mean - size / 2), 0) if size < most else 0
        pmf = np.maximum(np.fft.irfft(_transform(pieces, count, size), n=size), 0.0)
        pmf = np.roll(pmf, -(lowest % size))
        ends = max(size // 32, 1)
        left = float(pmf[-ends:].sum() + (pmf[:ends].sum() if lowest else 0.0))
        # What a longer grid does not lessen is noise.
        if size >= most or left < TAIL or left > left_before / 2:
            # A root's phase turns by its share of the mean, and is rounded at that size.
            noise = max(NOISE, 4 * np.finfo(float).eps * mean * float(pmf.max()))
            return _without_noise(np.concatenate((np.zeros(lowest), pmf)), noise)
        size, left_before = size * 2, left


def _transform(pieces: list[checks.Floats], count: checks.Floats, size: int) -> np.ndarray:
    """(size / 2 + 1,) generating function of the sum at the roots."""
    turn = -2j * np.pi * np.arange(size // 2 + 1) / size
    log = np.zeros(turn.size, dtype=np.complex128)
    for piece, number in zip(pieces, count, strict=True):
        if piece.size > FEW:
            folded = piece if piece.size <= size else np.bincount(np.arange(piece.size) % size, piece, size)
            with np.errstate(divide="ignore"):
                log += number * np.log(np.fft.rfft(folded, n=size))
            continue
        lacks = np.zeros(turn.size, dtype=np.complex128)
        for k in range(1, piece.size):
            lacks += piece[k] * np.expm1(k * turn)
        with np.errstate(divide="ignore"):
            log += number * np.log1p(lacks)
    return np.exp(log)


def _without_noise(pmf: checks.Floats, noise: float) -> checks.Floats:
    """What is below rounding taken for nothing."""
    kept = np.where(pmf > noise, pmf, 0.0)
    return np.asarray(kept / kept.sum())
