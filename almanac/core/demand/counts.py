"""Exact distributions of counts through their generating functions.

Everything drawn from a shelf is a sum of independent pieces whose log generating functions have closed power series in
z. The series are added, exponentiated on the roots of unity and inverted by FFT; mixtures are averaged before inversion.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

TAIL = 1e-12
SMALLEST_GRID, LARGEST_GRID = 64, 1 << 16


@dataclass(frozen=True)
class GammaPieces:
    """Mixed-Poisson pieces that share one gamma each: rate ~ Gamma(shape, rate), count | rate ~ Poisson(rate x exposure).

    shape, rate : (k, p) per node and piece · exposure : (w, p) per window and piece · batch : (p,) parts per event, 1 or 2
    """

    shape: checks.Floats
    rate: checks.Floats
    exposure: checks.Floats
    batch: NDArray[np.int64]


def negative_binomial_series(pieces: GammaPieces, again: float, terms: int) -> tuple[checks.Floats, checks.Floats]:
    """Power series of log G for every window and node.

    Each part drawn is dead on arrival with probability `again` and is then drawn again: one event uses h(z) =
    (1 - c) z / (1 - c z) parts, or h(z)^2 in pairs. With q = E / (b + E), log G = a ln(1 - q) - a ln(1 - q h^batch); its
    coefficients are a ((c + s(1-c))^k + (c - s(1-c))^k - 2 c^k) / k with s = sqrt(q) for pairs, and
    a ((c + q(1-c))^k - c^k) / k for singles.

    Returns
    -------
    constant : (w, k) value at z = 0 · series : (w, k, terms) coefficients of z^1 .. z^terms
    """
    windows, nodes = pieces.exposure.shape[0], pieces.shape.shape[0]
    chance = pieces.exposure[:, None, :] / (pieces.rate[None] + pieces.exposure[:, None, :])
    constant = (pieces.shape[None] * np.log1p(-chance)).sum(axis=-1)
    series = np.zeros((windows, nodes, terms))
    single = pieces.batch == 1
    shape = np.concatenate([pieces.shape, pieces.shape[:, ~single]], axis=1)
    root = np.where(single, chance, np.sqrt(chance))
    base = np.concatenate([again + root * (1 - again), again - root[:, :, ~single] * (1 - again)], axis=-1)
    largest = float(np.abs(base).max(initial=0.0))
    power = np.broadcast_to(shape[None], base.shape).copy()
    repeated = shape.sum(axis=1)
    for k in range(1, terms + 1):
        power *= base
        series[:, :, k - 1] = (power.sum(axis=-1) - repeated[None] * again**k) / k
        if largest**k < 1e-19:
            break
    return constant, series


def fitting_series(fittings: checks.Floats, again: float, terms: int) -> tuple[checks.Floats, checks.Floats]:
    """Extra draws of parts fitted on a plan: each is dead on arrival with probability c, and so is its replacement.

    Parameters
    ----------
    fittings : (w,) parts fitted in each window

    Returns
    -------
    constant : (w,) · series : (w, terms), n c^k / k
    """
    k = np.arange(1, terms + 1)
    return fittings * np.log1p(-again), fittings[:, None] * (again**k / k)[None]


def probabilities(weight: checks.Floats, constant: checks.Floats, series: checks.Floats) -> checks.Floats:
    """(w, n) probabilities of 0 .. n-1 from log generating functions, mixed over nodes.

    Parameters
    ----------
    weight : (k,) node weights · constant : (w, k) · series : (w, k, n-1)
    """
    size = series.shape[-1] + 1
    padded = np.concatenate([constant[..., None], series], axis=-1)
    transform = np.einsum("k,wkn->wn", weight, np.exp(np.fft.rfft(padded, axis=-1)))
    return np.maximum(np.fft.irfft(transform, n=size, axis=-1), 0.0)


def first_probabilities(weight: checks.Floats, constant: checks.Floats, series: checks.Floats) -> checks.Floats:
    """(w, n) probabilities of 0 .. n-1 as `probabilities` gives them, by recursion: n p_n = sum k c_k p_(n-k).

    Exact for the first n whatever lies beyond, so a short head costs little; the inverse transform is for whole laws.
    """
    size = series.shape[-1] + 1
    scaled = series * np.arange(1, size)
    found = np.empty((*constant.shape, size))
    found[..., 0] = np.exp(constant)
    for n in range(1, size):
        found[..., n] = np.einsum("wkn,wkn->wk", scaled[..., :n], found[..., n - 1 :: -1] if n > 1 else found[..., :1]) / n
    return np.asarray(np.einsum("k,wkn->wn", weight, found))


def grid_size(mean: float, variance: float) -> int:
    """First guess of the grid: a power of two well past the mean; the caller doubles it until the tail is negligible."""
    wanted = mean + 10.0 * float(np.sqrt(variance)) + 16.0
    return int(min(max(SMALLEST_GRID, 1 << int(np.ceil(np.log2(wanted)))), LARGEST_GRID))


def tail_is_negligible(pmf: checks.Floats) -> bool:
    """True when nothing is left in the last eighth of the grid, so that no probability wrapped around.

    The bound is the larger of the tail aimed at and what rounding leaves of an inverse transform.
    """
    last = pmf.shape[-1] // 8
    return bool(pmf[..., -last:].sum(axis=-1).max(initial=0.0) < max(TAIL, 4e-16 * pmf.shape[-1]))


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
