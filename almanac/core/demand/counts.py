"""Exact distributions of counts through their generating functions.

Everything drawn from a shelf is a sum of independent pieces whose log generating functions are known in closed form. They
are added, exponentiated on the roots of unity, averaged over the nodes of a mixture, and inverted by FFT. Where the count is
large its generating function has died out after a few dozen roots, so a mean of thousands costs no more than one of ten.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

TAIL = 1e-12
SMALLEST_GRID, LARGEST_GRID = 64, 1 << 18
SLOW_SERIES = 0.93
"""Above this ratio the power series needs hundreds of terms, and the logarithm is taken directly."""
DEAD = 1e-15
"""A transform that falls slowly leaves out many roots of this size."""
Complexes = NDArray[np.complex128]


@dataclass(frozen=True)
class GammaPieces:
    """Mixed-Poisson pieces that share one gamma each: rate ~ Gamma(shape, rate), count | rate ~ Poisson(rate x exposure).

    shape, rate : (k, p) per node and piece, or (w, k, p) where they differ by window · exposure : (w, p) per window and piece
    batch : (p,) parts per event, 1 or 2
    """

    shape: checks.Floats
    rate: checks.Floats
    exposure: checks.Floats
    batch: NDArray[np.int64]

    def chance(self) -> checks.Floats:
        """(w, k, p) q = E / (b + E) of each negative binomial."""
        exposure = self.exposure[:, None, :]
        return np.asarray(exposure / (self.rate + exposure))

    def of_windows(self, rows: NDArray[np.int64]) -> GammaPieces:
        """The same in some of the windows."""
        shape, rate = (column if column.ndim == 2 else column[rows] for column in (self.shape, self.rate))
        return GammaPieces(shape, rate, self.exposure[rows], self.batch)

    def moments(self) -> tuple[checks.Floats, checks.Floats]:
        """(w, k) mean and variance of the parts used, before any is dead on arrival."""
        rate = self.shape / self.rate
        events = self.exposure[:, None, :] * rate
        spread = events + self.exposure[:, None, :] ** 2 * (rate / self.rate)
        return events @ self.batch.astype(float), spread @ (self.batch.astype(float) ** 2)


def negative_binomial_series(pieces: GammaPieces, again: float, terms: int) -> tuple[checks.Floats, checks.Floats]:
    """Power series of log G for every window and node.

    Each part drawn is dead on arrival with probability `again` and is then drawn again: one event uses h(z) =
    (1 - c) z / (1 - c z) parts, or h(z)^2 in pairs. With q = E / (b + E), log G = a ln(1 - q) - a ln(1 - q h^batch); its
    coefficients are a ((c + s(1-c))^k + (c - s(1-c))^k - 2 c^k) / k with s = sqrt(q) for pairs, and
    a ((c + q(1-c))^k - c^k) / k for singles.

    Returns
    -------
    constant : (w, k) value at z = 0 · series : (w, k, t) coefficients of z^1 .. z^t, t <= terms, the rest below rounding
    """
    chance = pieces.chance()
    constant = (pieces.shape * np.log1p(-chance)).sum(axis=-1)
    single = pieces.batch == 1
    shape = np.concatenate([pieces.shape, pieces.shape[..., ~single]], axis=-1)
    root = np.where(single, chance, np.sqrt(chance))
    base = np.concatenate([again + root * (1 - again), again - root[:, :, ~single] * (1 - again)], axis=-1)
    needed = _terms_needed(float(np.abs(base).max(initial=again)), terms)
    series = np.empty((*constant.shape, needed))
    power = np.broadcast_to(shape, base.shape).copy()
    repeated = shape.sum(axis=-1)
    for k in range(1, needed + 1):
        power *= base
        series[:, :, k - 1] = (power.sum(axis=-1) - repeated * again**k) / k
    return constant, series


def _terms_needed(largest: float, most: int) -> int:
    """Terms after which powers of the largest base are below rounding."""
    if largest <= 0.0:
        return min(1, most)
    if largest >= 1.0:
        return most
    return max(1, min(most, int(np.ceil(np.log(1e-19) / np.log(largest)))))


def log_generating(pieces: GammaPieces, again: float, z: Complexes) -> Complexes:
    """(w, k, j) log G at points of the unit circle: by its power series, or directly where that converges slowly."""
    chance = pieces.chance()
    if float(chance.max(initial=0.0)) < SLOW_SERIES:
        constant, series = negative_binomial_series(pieces, again, 1000)
        powers = z[None, :] ** np.arange(1, series.shape[-1] + 1)[:, None]
        return np.asarray(constant[..., None] + series @ powers)
    used = (1 - again) * z / (1 - again * z)
    total = np.zeros((*chance.shape[:2], z.size), dtype=np.complex128)
    for piece, batch in enumerate(pieces.batch):
        q = chance[:, :, piece, None]
        total += pieces.shape[..., piece, None] * (np.log1p(-q) - np.log(1 - q * used**batch))
    return total


class Counted(Protocol):
    """Something else that is counted with the pieces: its moments and its generating function for some of the windows.

    accuracy : how far its generating function may be off; what is left in a tail below that is noise, not a sign of wrapping
    """

    @property
    def accuracy(self) -> float: ...

    def moments(self) -> tuple[checks.Floats, checks.Floats]: ...

    def generating(self, rows: NDArray[np.int64], used: Complexes) -> Complexes: ...


def probabilities(
    pieces: GammaPieces, again: float, weight: checks.Floats, fittings: checks.Floats, beside: Counted | None = None
) -> checks.Floats:
    """(w, n) probabilities of 0 .. n-1 parts in each window, mixed over nodes.

    Parameters
    ----------
    pieces : what is drawn · again : probability that a fitted part is dead on arrival
    weight : (k,) of the nodes, or (w, k) where they differ by window
    fittings : (w,) parts fitted on a plan, whose replacements are drawn when they are dead on arrival
    beside : failures with a law of their own, (w, k) moments and (w, k, j) generating function of the parts used
    """
    mean, variance = pieces.moments()
    if beside is not None:
        mean, variance = (own + other for own, other in zip((mean, variance), beside.moments(), strict=True))
    alive = 1.0 / (1.0 - again)
    mean = (mean + fittings[:, None] * again) * alive
    sd = np.sqrt((variance + fittings[:, None] * again) * alive**2)
    # What has a law of its own is as accurate as it says, so that tails and transforms of that size may be left.
    reach, smallest, dead = ((10.0, 16.0), SMALLEST_GRID, 9.0) if beside is None else ((8.0, 8.0), SMALLEST_GRID // 2, 6.0)
    lowest = np.maximum(np.floor((mean - 8.0 * sd).min(axis=1)), 0.0).astype(np.int64)
    width = (mean + reach[0] * sd).max(axis=1) + reach[1] - lowest
    size = np.clip(2 ** np.ceil(np.log2(width)), smallest, LARGEST_GRID).astype(np.int64)
    spread = sd.min(axis=1)
    if beside is None:
        # Roots cost little here: rows of one grid are worked out together.
        spread = np.array([spread[size == grid].min() for grid in size])
    # The transform of parts drawn in pairs alone rises again towards the last root.
    paired = beside is None and bool((pieces.batch > 1).any())
    roots = size // 2 + 1 if paired else _roots(size, spread, dead)
    found = _Source(pieces, again, weight, fittings, beside).inverted(size, roots, lowest)
    longest = max((row.size for row in found), default=1)
    whole = np.zeros((size.size, longest))
    for line, row in zip(whole, found, strict=True):
        line[: row.size] = row
    return whole


def _roots(size: NDArray[np.int64], spread: checks.Floats, dead: float) -> NDArray[np.int64]:
    """(w,) roots until each transform has died out: as exp(-(sd theta)^2 / 2), so at `dead` = sd theta; in steps that rows share."""
    step = np.maximum(4, size // 32)
    wanted = dead * size / (2 * np.pi * np.maximum(spread, dead / np.pi)) + 2
    return np.asarray(np.minimum(-(-wanted // step) * step, size // 2 + 1), dtype=np.int64)


@dataclass(frozen=True)
class _Source:
    """What is counted in each window, as `probabilities` takes it."""

    pieces: GammaPieces
    again: float
    weight: checks.Floats
    fittings: checks.Floats
    beside: Counted | None

    def inverted(self, size: NDArray[np.int64], roots: NDArray[np.int64], lowest: NDArray[np.int64]) -> list[checks.Floats]:
        """Each row's transform where it has not died out, inverted, and unwrapped from `lowest` on.

        Rows of one grid and as many roots are worked out together. A row whose transform or tail has not died out is tried again.
        """
        size, roots, lowest = size.copy(), roots.copy(), lowest.copy()
        left_before = np.full(size.size, np.inf)
        found: list[checks.Floats] = [np.empty(0)] * size.size
        pending = np.arange(size.size)
        while pending.size:
            again = []
            for grid, kept in np.unique(np.column_stack((size[pending], roots[pending])), axis=0).tolist():
                rows = pending[(size[pending] == grid) & (roots[pending] == kept)]
                transform = self._transform(rows, np.exp(-2j * np.pi * np.arange(kept) / grid))
                # A transform with a long tail (a rate much in doubt) wants more of its roots, not a longer grid.
                dead = (np.abs(transform[:, -1]) < max(DEAD, self._accuracy)) | (kept > grid // 2)
                roots[rows[~dead]] = grid // 2 + 1 if self.beside is None else min(kept * 2, grid // 2 + 1)
                again.append(rows[~dead])
                rows = rows[dead]
                unfolded = self._unfolded(transform[dead], grid, lowest[rows])
                left = np.array([left_at_the_ends(row, first > 0) for row, first in zip(unfolded, lowest[rows], strict=True)])
                # What a longer grid does not lessen is noise of the generating functions, not a tail that wrapped around.
                noise = (left > left_before[rows] / 2) & (self.beside is not None)
                done = (left < max(TAIL, 4e-16 * grid, self._accuracy)) | noise | (grid >= LARGEST_GRID)
                for row, pmf in zip(rows[done].tolist(), unfolded[done], strict=True):
                    found[row] = np.concatenate([np.zeros(int(lowest[row])), pmf]) if lowest[row] else pmf
                longer = rows[~done]
                size[longer], roots[longer] = grid * 2, min(kept * 2, grid + 1)
                lowest[longer] //= 2
                left_before[longer] = left[~done]
                again.append(longer)
            pending = np.sort(np.concatenate(again))
        return found

    @property
    def _accuracy(self) -> float:
        return 0.0 if self.beside is None else self.beside.accuracy

    def _unfolded(self, transform: Complexes, size: int, lowest: NDArray[np.int64]) -> checks.Floats:
        """(w, size) probabilities from `lowest` on."""
        folded = np.maximum(np.fft.irfft(transform, n=size, axis=-1), 0.0)
        if self.beside is not None:
            # What noise put below zero was taken for zero; the rest still makes up the whole.
            folded /= folded.sum(axis=-1, keepdims=True)
        for row in np.flatnonzero(lowest % size):
            folded[row] = np.roll(folded[row], -int(lowest[row] % size))
        return np.asarray(folded)

    def _transform(self, rows: NDArray[np.int64], z: Complexes) -> Complexes:
        """(w, j) generating functions of some rows at points of the unit circle, mixed over the nodes."""
        own = self.pieces.of_windows(rows)
        fitted = self.fittings[rows, None] * (np.log1p(-self.again) - np.log(1 - self.again * z))[None]
        whole = np.exp(log_generating(own, self.again, z) + fitted[:, None, :])
        if self.beside is not None:
            whole *= self.beside.generating(rows, (1 - self.again) * z / (1 - self.again * z))
        weight = self.weight if self.weight.ndim == 1 else self.weight[rows]
        return np.asarray(np.einsum("k,wkj->wj" if weight.ndim == 1 else "wk,wkj->wj", weight, whole))


def first_probabilities(weight: checks.Floats, constant: checks.Floats, series: checks.Floats, size: int) -> checks.Floats:
    """(w, n) probabilities of 0 .. n-1 as `probabilities` gives them, by recursion: n p_n = sum k c_k p_(n-k).

    Exact for the first n whatever lies beyond, so a short head costs little; the inverse transform is for whole laws.

    Parameters
    ----------
    weight : (k,) node weights · constant : (w, k) · series : (w, k, t) · size : n, >= 1
    """
    terms = series.shape[-1]
    scaled = (series * np.arange(1, terms + 1))[..., ::-1]
    found = np.empty((*constant.shape, size))
    found[..., 0] = np.exp(constant)
    for n in range(1, size):
        reach = min(n, terms)
        found[..., n] = np.einsum("wkn,wkn->wk", scaled[..., terms - reach :], found[..., n - reach : n]) / n
    return np.asarray(np.einsum("k,wkn->wn", weight, found))


def fitting_series(fittings: checks.Floats, again: float, terms: int) -> tuple[checks.Floats, checks.Floats]:
    """Extra draws of parts fitted on a plan: each is dead on arrival with probability c, and so is its replacement.

    Returns
    -------
    constant : (w,) · series : (w, terms), n c^k / k
    """
    k = np.arange(1, terms + 1)
    return fittings * np.log1p(-again), fittings[:, None] * (again**k / k)[None]


def left_at_the_ends(pmf: checks.Floats, from_middle: bool) -> float:
    """Probability at the ends of a grid: what may have wrapped around."""
    high = float(pmf[-(pmf.size // 16) :].sum())
    return max(high, float(pmf[: pmf.size // 64].sum())) if from_middle else high


def tail_is_negligible(pmf: checks.Floats) -> bool:
    """True when nothing is left at the end of a grid: the tail aimed at, or what rounding leaves of an inverse transform."""
    return left_at_the_ends(pmf, False) < max(TAIL, 4e-16 * pmf.size)


def shifted(pmf: checks.Floats, by: NDArray[np.int64]) -> checks.Floats:
    """Each row moved up by a whole number of parts (planned swaps are certain)."""
    if not by.any():
        return pmf
    out = np.zeros((pmf.shape[0], pmf.shape[1] + int(by.max())))
    for row, step in enumerate(by):
        out[row, step : step + pmf.shape[1]] = pmf[row]
    return out


def quantile(pmf: checks.Floats, level: float) -> NDArray[np.int64]:
    """Smallest n with P(N <= n) >= level for each row.

    Parameters
    ----------
    pmf : (w, n) probabilities · level : in (0, 1)

    Returns
    -------
    (w,) counts

    Raises
    ------
    ContractError : the grid ends before the level is reached
    """
    cumulative = np.cumsum(pmf, axis=-1)
    checks.probability("level", level)
    reached = cumulative >= level
    if not reached[:, -1].all():
        raise ContractError(f"level: the distribution ends at {cumulative[:, -1].min():.12g} before {level}")
    return np.asarray(reached.argmax(axis=-1), dtype=np.int64)


def mean_and_variance(pmf: checks.Floats) -> tuple[checks.Floats, checks.Floats]:
    """Mean and variance of each row."""
    n = np.arange(pmf.shape[-1])
    mean = pmf @ n
    return mean, pmf @ (n * n) - mean * mean


def grid_size(mean: float, variance: float) -> int:
    """First guess of a grid from 0: a power of two well past the mean; the caller doubles it until the tail is negligible."""
    wanted = mean + 10.0 * float(np.sqrt(variance)) + 16.0
    return int(min(max(SMALLEST_GRID, 1 << int(np.ceil(np.log2(wanted)))), LARGEST_GRID))
