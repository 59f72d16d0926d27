"""Stock parts of a kind, each with the shape its own failures pay for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from almanac.core.checks import Floats
from almanac.core.life.tenures import AgeCounts
from almanac.services.outlook.fitted import WearFit, middle_of
from almanac.services.outlook.pools import Pool


@dataclass(frozen=True)
class GroupRates:
    """A stock part with a shape of its own, as far as its failures pay for one.

    shape, low, high : with 90% limits · differs : the shape all parts have in common lies outside them
    hazard : failures per unit and year at the ages of the kind's curve
    """

    part: str
    failures: float
    exposure_years: float
    shape: float
    low: float
    high: float
    differs: bool
    hazard: Floats


def life_of_pool(fit: WearFit, place: int) -> tuple[float, float, float] | None:
    """Shape and gamma (a, b) of the level of a pool that was at risk, at the middle shape of its part group; None without a failure."""
    own = fit.group_of(fit.pools[place].part_id)
    if own is None:
        return None
    shape, (a, b) = middle_of(own)
    pace = float(np.exp(-shape * fit.acceleration.log_pace[place]))
    return shape, a + float(fit.failures[place]), (b + float(fit.hazard[1, place])) * pace


def groups_of(fit: WearFit, counts: Mapping[Pool, AgeCounts], age: Floats, numbers: Mapping[int, str]) -> list[GroupRates]:
    """Part groups of a kind that were at risk, the most failures first; their pools weigh by the time they were watched."""
    if fit.groups is None or fit.place is None:
        return []
    found = []
    common = float(np.exp(fit.place[0]))
    for part, own in zip(fit.parts, fit.groups.of, strict=True):
        pools = [(place, counts[pool]) for place, pool in enumerate(fit.pools) if pool.part_id == part and pool in counts]
        years = np.array([seen.exposure for _, seen in pools])
        lives = np.array([life_of_pool(fit, place) for place, _ in pools], dtype=np.float64).reshape(-1, 3)
        level = float(years @ (lives[:, 1] / lives[:, 2])) / max(float(years.sum()), 1e-12)
        low, high = own.interval
        hazard = level * middle_of(own)[0] * np.maximum(age, 1e-3) ** (middle_of(own)[0] - 1)
        failures = float(sum(fit.failures[place] for place, _ in pools))
        found.append(
            GroupRates(numbers[part], failures, float(years.sum()), own.middle, low, high, not low <= common <= high, np.asarray(hazard))
        )
    return sorted(found, key=lambda one: -one.failures)
