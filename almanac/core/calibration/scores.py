"""Scores of count forecasts against what was seen."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from almanac.core import checks
from almanac.core.errors import ContractError

PLAIN_FROM = 50.0
"""From this mean on a count is nearly continuous, and the plain share of counts inside an interval says the same."""


@dataclass(frozen=True)
class Scored:
    """One forecast held against what was seen.

    mean : expected parts · low, high : P(N < seen) and P(N <= seen), the jump of the forecast at what was seen
    crps : continuous ranked probability score, parts · inside : seen within the closed 5-95% interval
    """

    seen: int
    mean: float
    low: float
    high: float
    crps: float
    inside: bool


def score(pmf: ArrayLike, seen: int) -> Scored:
    """Score the forecast of one count.

    Parameters
    ----------
    pmf : (n,) probabilities of 0 .. n-1 · seen : what was counted, >= 0

    Returns
    -------
    Scored

    Raises
    ------
    ContractError : a negative count, or probabilities that do not add up to 1 within 1e-4

    References
    ----------
    Gneiting & Raftery (2007), Journal of the American Statistical Association 102 (the score);
    Czado, Gneiting & Held (2009), Biometrics 65 (counts).
    """
    law = checks.vector("pmf", pmf, low=0.0)
    count = int(checks.number("seen", seen, low=0.0))
    if abs(float(law.sum()) - 1.0) > 1e-4:
        raise ContractError(f"pmf: probabilities that add up to 1 were wanted, got {law.sum():.6f}")
    law = np.pad(law, (0, max(count + 1 - law.size, 0)))
    below = np.minimum(np.cumsum(law), 1.0)
    number = np.arange(law.size)
    low = float(below[count - 1]) if count else 0.0
    first, last = (int(np.searchsorted(below, level)) for level in (0.05, 0.95))
    return Scored(
        seen=count,
        mean=float(law @ number),
        low=low,
        high=max(float(below[count]), low),
        crps=float(((below - (number >= count)) ** 2).sum()),
        inside=first <= count <= last,
    )


def coverage(scored: Sequence[Scored], level: float) -> float:
    """Share of counts inside the central interval of that level, the count spread evenly over its jump.

    A closed interval of a small count covers more than it says (5-95% covers 98% at a mean of 1); spread over the jump, a right
    forecast covers exactly its level. The average over that randomisation is taken, so no chance enters.

    Parameters
    ----------
    scored : at least one · level : in (0, 1)

    Raises
    ------
    ContractError : nothing scored, or a level that is no probability

    References
    ----------
    Czado, Gneiting & Held (2009), Biometrics 65, section 2.
    """
    tail = (1.0 - checks.probability("level", level)) / 2
    return float(_shares(scored, np.array([tail, 1.0 - tail]))[0].mean())


def pit_histogram(scored: Sequence[Scored], bins: int = 10) -> checks.Floats:
    """(bins,) share of the counts in each part of their forecasts; all alike where the forecasts are right.

    Raises
    ------
    ContractError : nothing scored, or fewer than one bin
    """
    edges = np.linspace(0.0, 1.0, int(checks.number("bins", bins, low=1.0)) + 1)
    return np.asarray(_shares(scored, edges).mean(axis=1))


def _shares(scored: Sequence[Scored], edges: checks.Floats) -> checks.Floats:
    """(b, n) share of each count's jump that lies in each interval between edges."""
    if not scored:
        raise ContractError("scored: at least one forecast was wanted")
    low = np.array([one.low for one in scored])
    high = np.maximum(np.array([one.high for one in scored]), low + 1e-12)
    inside = np.minimum(high, edges[1:, None]) - np.maximum(low, edges[:-1, None])
    return np.asarray(np.clip(inside, 0.0, None) / (high - low))


def plain_coverage(scored: Sequence[Scored]) -> tuple[int, float] | None:
    """Forecasts with a mean of 50 or more, and the share of them whose closed 5-95% interval held; None without any.

    Raises
    ------
    Nothing.
    """
    large = [one.inside for one in scored if one.mean >= PLAIN_FROM]
    return (len(large), float(np.mean(large))) if large else None
