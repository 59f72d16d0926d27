"""Repeat offenders and no-fault shares: what the log says of machines and parts beside the rates."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy.orm import Session

from almanac.core.life.outcomes import SETTLED_CLAIMS, Finding
from almanac.core.life.patterns import Share, share_of, sooner_probability
from almanac.services.clock import read_clock
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import read_inputs
from almanac.store import patterns
from almanac.store.patterns import Again

LOOK_BACK = timedelta(days=3 * 365)
SUSPICIOUS = 0.2


@dataclass(frozen=True)
class PartShares:
    """What the complaints about a part turned out to be. no_fault : of the settled ones."""

    number: str
    name: str
    kind: str
    counts: dict[str, int]
    complaints: int
    open: int
    no_fault: Share


def no_fault_shares(session: Session) -> list[PartShares]:
    """Every part with a complaint, the largest no-fault share that is sure first."""
    by_part: dict[tuple[str, str, str], dict[str, int]] = {}
    for row in patterns.findings_by_part(session):
        by_part.setdefault((row.number, row.name, row.kind), {})[row.finding] = row.lines
    found = []
    for (number, name, kind), counts in by_part.items():
        settled = sum(counts.get(finding.value, 0) for finding in SETTLED_CLAIMS)
        waiting = counts.get(Finding.OPEN.value, 0)
        if settled + waiting == 0:
            continue
        share = share_of(counts.get(Finding.NO_FAULT_FOUND.value, 0), settled)
        found.append(PartShares(number, name, kind, counts, settled + waiting, waiting, share))
    return sorted(found, key=lambda item: (-item.no_fault.low, item.number))


@dataclass(frozen=True)
class Repeat:
    """A position that failed again, with the probability of failing that soon or sooner at its part's rate; None without a rate."""

    again: Again
    rate: float | None
    probability: float | None


def repeat_offenders(session: Session) -> list[Repeat]:
    """Positions that failed again within three years sooner than their part's rate says, the least likely first."""
    rows = patterns.failed_again(session, since=read_clock(session).today - LOOK_BACK)
    rates = _rates(session) if rows else {}
    found = []
    for row in rows:
        rate = rates.get(row.part_number)
        probability = sooner_probability(rate, row.lasted_days) if rate else None
        if probability is None or probability <= SUSPICIOUS:
            found.append(Repeat(row, rate, probability))
    return sorted(found, key=lambda item: (item.probability is None, item.probability or 0.0))


def _rates(session: Session) -> dict[str, float]:
    """Yearly failure rate of each forecast part, from the outlook; parts of a group share their line's."""
    inputs = read_inputs(session)
    row_of = {row.part.id: row for row in OutlookBuilder(session, inputs).rows()}
    rates: dict[str, float] = {}
    for part_id, number in inputs.numbers.items():
        row = row_of.get(inputs.group.get(part_id, -1))
        rate = row.projection.rate if row else None
        if rate is not None and rate.rate > 0:
            rates[number] = rate.rate
    return rates
