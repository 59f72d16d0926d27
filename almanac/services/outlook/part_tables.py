"""Tables of lives for the stock parts of a kind: parts whose shapes lie in one set share one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from almanac.core import checks
from almanac.core.demand.life_tables import LifeTables, life_tables
from almanac.core.forecast.part_groups import GroupNodes
from almanac.core.life.wear_nodes import PoolNodes
from almanac.services.outlook.fitted import WearFit
from almanac.services.outlook.pools import Pool

OLDEST_YEARS = 1.0
"""Tables of lives reach at least so far, and to the next whole year past the oldest unit."""
NEGLIGIBLE = 1e-3
"""Nodes lighter than this in every part of a set are left out."""


class PartTables(NamedTuple):
    """Tables that a part's lives are read from, the row of each of its pools, and the row of a pool that has no record."""

    tables: LifeTables
    rows: Mapping[Pool, int]
    blank: int


@dataclass
class TablesOfParts:
    """Made for one computation, each set when the first of its parts is asked for.

    oldest_years : whole years past a unit in service · share : of the wear-out school beside the constant one, above 0
    """

    fit: WearFit
    oldest_years: float
    horizon_days: int
    share: float
    _made: dict[bytes, dict[int | None, PartTables]] = field(default_factory=dict)

    def of(self, part_id: int) -> PartTables | None:
        """Tables of a stock part; None while nothing of its kind ever failed."""
        own = self.fit.group_of(part_id)
        if own is None:
            return None
        key = own.shape.tobytes()
        if key not in self._made:
            self._made[key] = self._set(own.shape)
        return self._made[key][part_id if part_id in self.fit.parts else None]

    def _set(self, shape: checks.Floats) -> dict[int | None, PartTables]:
        """Tables of all parts of one set of shapes, and of parts that were never at risk where those have it too."""
        fit = self.fit
        assert fit.groups is not None
        held: list[tuple[int | None, GroupNodes]] = [
            *((part, own) for part, own in zip(fit.parts, fit.groups.of, strict=True) if (own.shape == shape).all()),
            *([(None, fit.groups.unseen)] if (fit.groups.unseen.shape == shape).all() else []),
        ]
        columns = [fit.nodes_with(own, self.share) for _, own in held]
        weight = np.column_stack([one.weight for one in columns])
        kept = (weight > NEGLIGIBLE * weight.max(axis=0)).any(axis=1)
        place = {part: row for row, (part, _) in enumerate(held)}
        own_pools = [row for row, pool in enumerate(fit.pools) if pool.part_id in place]
        # Behind the pools with a record one without for each part.
        of = np.array([*(place[fit.pools[row].part_id] for row in own_pools), *range(len(held))], dtype=np.int64)
        hazard = np.pad(fit.hazard_with(held[0][1], self.share)[:, own_pools], ((0, 0), (0, len(held))))[kept]
        of_part = [np.column_stack([getattr(one, name) for one in columns])[kept] for name in ("weight", "a", "b")]
        weight, a, b = (column[:, of] for column in of_part)
        tables = life_tables(
            PoolNodes(weight / weight.sum(axis=0), columns[0].shape[kept], a, b, hazard),
            np.append(fit.failures[own_pools], np.zeros(len(held))),
            oldest_years=max(float(self.oldest_years), OLDEST_YEARS),
            horizon_days=self.horizon_days,
            log_pace=np.append(fit.acceleration.log_pace[own_pools], np.zeros(len(held))),
        )
        rows = {fit.pools[row]: number for number, row in enumerate(own_pools)}
        return {part: PartTables(tables, rows, len(own_pools) + number) for number, (part, _) in enumerate(held)}
