"""Life data of a kind's pools, as they come from the log, as the evidence its part groups are fitted to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.forecast.company import Ints
from almanac.core.forecast.evidence import GRID, NOTHING, Evidence
from almanac.core.life.inspections import FindGaps
from almanac.core.life.kind_likelihood import KindLikelihood
from almanac.core.life.tenures import AgeCounts

LEAST = 1e-290


def kind_evidence(likelihood: KindLikelihood, pools: Sequence[AgeCounts], group: Ints) -> Evidence:
    """Evidence of pools whose part groups may have shapes of their own.

    Parameters
    ----------
    likelihood : of the pools, at their paces · pools : with one unit of age · group : (p,) part group of each, counted from 0

    Returns
    -------
    Evidence : without a calendar

    Raises
    ------
    ContractError : pools and groups that do not belong together
    """
    if not len(pools) == group.size == likelihood.pools:
        raise ContractError(f"group: one for each of {likelihood.pools} pools was wanted, got {group.size}")
    # A kind that is only believed in has no pool; what its parts have in common is fitted all the same.
    groups = int(group.max(initial=0)) + 1
    whole = [likelihood.hazard(float(shape)) for shape in np.exp(GRID)]
    hazard, by_shape = (np.array([one[place] for one in whole]).T for place in (0, 1))
    some = hazard > LEAST
    safe = np.where(some, hazard, 1.0)
    # A failure at another pace lies at another age: its logarithm moves by that of the pace.
    aged = np.array([_log_age(pool, likelihood.unit) for pool in pools]) + likelihood.failures * likelihood.log_pace
    gaps = [FindGaps([pool for pool, own in zip(pools, group, strict=True) if own == place], likelihood.unit) for place in range(groups)]
    found = np.array([float(own.count.sum()) for own in gaps])
    gap = np.array([[own.at(float(shape)) for shape in np.exp(GRID)] for own in gaps]).reshape(groups, GRID.size, 2)
    believed = likelihood.believed
    return Evidence(
        unit=likelihood.unit,
        group=group,
        failures=likelihood.failures,
        log_age=np.bincount(group, aged, groups).astype(np.float64),
        drift=0.0,
        since=np.zeros(1),
        log_h=np.where(some, np.log(safe), NOTHING)[:, None],
        slope=np.where(some, np.exp(GRID) * by_shape / safe, 0.0)[:, None],
        finds=found if found.any() else None,
        gaps=gap[..., 0] if found.any() else None,
        gap_slope=gap[..., 1] if found.any() else None,
        believed=None
        if believed is None
        else lambda shape, mean: np.array([believed.at(*one)[0] for one in zip(shape, mean, strict=True)]),
    )


def of_groups(evidence: Evidence) -> Evidence:
    """The same with the pools of each part group taken as one: how they lie apart says nothing of how their part ages.

    Pools of one part have its level in common, high or low; were each taken for a draw of its own, so many alike would be put down to the
    part's shape.
    """
    groups = evidence.log_age.size
    belongs = (evidence.group == np.arange(groups)[:, None]).astype(np.float64)
    each = np.exp(evidence.log_h[:, 0])
    whole = belongs @ each
    some = whole > LEAST
    safe = np.where(some, whole, 1.0)
    return replace(
        evidence,
        group=np.arange(groups),
        failures=belongs @ evidence.failures,
        log_h=np.where(some, np.log(safe), NOTHING)[:, None],
        slope=np.where(some, belongs @ (each * evidence.slope[:, 0]) / safe, 0.0)[:, None],
    )


def _log_age(pool: AgeCounts, unit: float) -> float:
    """Sum of log age over a pool's failures whose ages are known."""
    failed = (pool.failed > 0) & (pool.age > 0)
    return float(checks.vector("failed", pool.failed[failed]) @ np.log(pool.age[failed] / unit))
