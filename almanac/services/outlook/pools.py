"""Pools of a kind: units of one stock part in one model under one class of duty and air, made from life data of its part numbers."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from almanac.core.life.accepted import NO_LOT
from almanac.core.life.age_spans import AgeSpans
from almanac.core.life.life_data import DUTIES, FINDINGS, NOT_KNOWN, Ints, summed
from almanac.core.life.record import TenureCount
from almanac.core.life.tenures import AgeCounts, Finds, shared_out
from almanac.core.parts.kinds import Environment
from almanac.services.outlook.life import PartFleet, PartLog

DAYS_PER_YEAR = 365.25
AIRS: tuple[str, ...] = tuple(sorted(Environment))
"""A class of air's code is its place here."""
PLACES = 5
"""Columns that make a pool: leader, model, duty, air, lot."""


class Pool(NamedTuple):
    """Units of one stock part in one model under one class of duty and air; lot : a lot that was made a pool of its own, else 0."""

    part_id: int
    model_id: int
    duty: str
    environment: str
    lot: int = NO_LOT


class Unit(NamedTuple):
    """Units of a pool in service at a site that leave on the same day (None: not planned)."""

    pool: Pool
    site_id: int
    retire_day: int | None
    units: int


@dataclass(frozen=True)
class Grouping:
    """Part numbers by the first of their two-way equivalents, and the air at each site."""

    leader: Mapping[int, int]
    air: Mapping[int, str]

    def air_codes(self, sites: Ints) -> Ints:
        """Codes of the air at some sites."""
        known, place = np.unique(sites, return_inverse=True)
        return np.array([AIRS.index(self.air[int(site)]) for site in known], dtype=np.int64)[place]


def _pool(leader: int, model: int, duty: int, air: int, lot: int) -> Pool:
    return Pool(leader, model, DUTIES[duty], AIRS[air], lot)


def tenure_counts(logs: Mapping[int, PartLog], grouping: Grouping) -> dict[Pool, list[TenureCount]]:
    """Tenures of each pool by how they ended."""
    found: dict[Pool, list[TenureCount]] = defaultdict(list)
    for part, log in logs.items():
        rows = log.outcomes
        air = grouping.air_codes(rows.site)
        keys, (tenures, days) = summed(
            (rows.model, rows.duty, air, rows.lot, rows.finding, rows.fresh, rows.early, rows.exposed), (rows.tenures, rows.exposure_days)
        )
        for model, duty, of_air, lot, finding, fresh, early, exposed, count, exposure in zip(
            *(column.tolist() for column in (*keys, tenures, days)), strict=True
        ):
            ended = TenureCount(FINDINGS[finding], bool(early), bool(exposed), bool(fresh), count, exposure / DAYS_PER_YEAR)
            found[_pool(grouping.leader[part], model, duty, of_air, lot)].append(ended)
    return found


def units_in_service(fleets: Mapping[int, PartFleet], grouping: Grouping) -> list[Unit]:
    """Units in service by pool and site, and by when they leave."""
    found = []
    for part, fleet in fleets.items():
        rows = fleet.serving
        for model, duty, site, lot, day, units in zip(
            *(column.tolist() for column in (rows.model, rows.duty, rows.site, rows.lot, rows.retire_day, rows.units)), strict=True
        ):
            pool = Pool(grouping.leader[part], model, DUTIES[duty], grouping.air[site], lot)
            found.append(Unit(pool, site, None if day == NOT_KNOWN else day, units))
    return sorted(found, key=lambda row: (row.pool, row.site_id, row.retire_day is None, row.retire_day or 0))


def age_counts_of(logs: Mapping[int, PartLog], grouping: Grouping, share: float) -> dict[Pool, AgeCounts]:
    """Counts by age in years of every pool; open findings weigh with `share`."""
    if not logs:
        return {}
    days, (entered, gone, confirmed, still_open) = _together(
        [(part, log.at_risk, ("day",), ("entered", "gone", "confirmed", "open")) for part, log in logs.items()], grouping
    )
    finds, claims = _together([(part, log.found, ("seen_good", "day"), ("confirmed", "open")) for part, log in logs.items()], grouping)
    own_days, own_finds = _by_pool(days[:PLACES]), _by_pool(finds[:PLACES])
    found = {}
    for pool in sorted({*own_days, *own_finds}):
        rows, seen = own_days.get(pool, slice(0, 0)), own_finds.get(pool, slice(0, 0))
        table = np.column_stack((days[PLACES][rows], entered[rows], gone[rows], confirmed[rows] + share * still_open[rows]))
        found[pool] = _counts(table, finds[PLACES][seen], finds[PLACES + 1][seen], claims[0][seen] + share * claims[1][seen])
    return found


def spans_of(logs: Mapping[int, PartLog], grouping: Grouping, share: float) -> dict[Pool, AgeSpans]:
    """Lives of every pool of whose age only a span is known; open findings weigh with `share`, and are in order with the rest of it."""
    rows = [(part, log.spanned) for part, log in logs.items() if log.spanned.model.size]
    if not rows:
        return {}
    columns, amounts = _joined(
        [(part, own, ("low", "high", "watched", "first"), ("still", "confirmed", "open")) for part, own in rows], grouping
    )
    order = np.lexsort(columns[PLACES - 1 :: -1])
    columns, (still, confirmed, still_open) = [column[order] for column in columns], [amount[order] for amount in amounts]
    low, high, watched = (column / DAYS_PER_YEAR for column in columns[PLACES : PLACES + 3])
    first, held, failed = columns[PLACES + 3] == 1, still + (1.0 - share) * still_open, confirmed + share * still_open
    return {
        pool: AgeSpans(low[own], high[own], first[own], watched[own], held[own], failed[own])
        for pool, own in _by_pool(columns[:PLACES]).items()
    }


def _together(parts: list[tuple[int, object, tuple[str, ...], tuple[str, ...]]], grouping: Grouping) -> tuple[list[Ints], list[Ints]]:
    """Rows of several parts by leader, model, duty, air, lot and some ages, their amounts added up."""
    return summed(*_joined(parts, grouping))


def _joined(parts: list[tuple[int, object, tuple[str, ...], tuple[str, ...]]], grouping: Grouping) -> tuple[list[Ints], list[Ints]]:
    """Rows of several parts by leader, model, duty, air, lot and some ages, with their amounts."""
    columns: list[list[Ints]] = []
    amounts: list[list[Ints]] = []
    ages, names = parts[0][2:] if parts else ((), ())
    for part, rows, _, _ in parts:
        own = [getattr(rows, name) for name in ("model", "duty", "site", "lot", *ages)]
        leader = np.full(own[0].size, grouping.leader[part], dtype=np.int64)
        columns.append([leader, own[0], own[1], grouping.air_codes(own[2]), *own[3:]])
        amounts.append([getattr(rows, name) for name in names])
    together = [np.concatenate(column) for column in zip(*columns, strict=True)]
    return together, [np.concatenate(amount) for amount in zip(*amounts, strict=True)]


def _by_pool(keys: list[Ints]) -> dict[Pool, slice]:
    """Where the rows of each pool stand; rows lie in order of the columns."""
    if keys[0].size == 0:
        return {}
    changed = np.flatnonzero(np.any([np.diff(column) != 0 for column in keys], axis=0)) + 1
    starts = [0, *changed.tolist()]
    ends = [*changed.tolist(), keys[0].size]
    return {_pool(*(int(column[start]) for column in keys)): slice(start, end) for start, end in zip(starts, ends, strict=True)}


def _counts(table: np.ndarray, seen_good: Ints, day: Ints, weight: np.ndarray) -> AgeCounts:
    """Counts by age in years; what was found at a look lies in the middle between its two ages for now."""
    age = np.union1d(table[:, 0], seen_good)  # an age of its own, though nothing else may have happened at it
    at = np.searchsorted(age, table[:, 0])
    entered, gone, failed = (np.bincount(at, table[:, place], age.size).astype(np.float64) for place in (1, 2, 3))
    finds = Finds(seen_good / DAYS_PER_YEAR, day / DAYS_PER_YEAR, weight.astype(np.float64), np.zeros(weight.size))
    return shared_out(AgeCounts(age / DAYS_PER_YEAR, entered, gone, failed, 0, finds), np.full(weight.size, 0.5))
