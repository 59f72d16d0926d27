"""What logged jobs teach about the minutes of a model (handbook of the method, section 5)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from almanac.core import checks

PRIOR_JOBS = 5


@dataclass(frozen=True)
class LearntMinutes:
    """Factor on planned minutes and the number of jobs it rests on; 1 with no job."""

    factor: float
    jobs: int


def learnt_minutes(planned: Sequence[float], taken: Sequence[float]) -> LearntMinutes:
    """Ratio of the medians of taken and planned minutes, shrunk to 1 with the weight of five jobs.

    Parameters
    ----------
    planned, taken : (n,) minutes of closed jobs of one model, above 0

    Returns
    -------
    LearntMinutes : factor = (n r + 5) / (n + 5) with r the ratio of medians

    Raises
    ------
    ContractError : a length that differs, or minutes below 0
    """
    expected = checks.vector("planned", planned, low=0.0)
    actual = checks.vector("taken", taken, low=0.0, size=expected.size)
    jobs = expected.size
    if jobs == 0 or median(expected) <= 0:
        return LearntMinutes(1.0, 0)
    ratio = float(median(actual) / median(expected))
    return LearntMinutes((jobs * ratio + PRIOR_JOBS) / (jobs + PRIOR_JOBS), jobs)
