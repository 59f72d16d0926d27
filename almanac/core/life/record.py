"""The record of a pool: what its tenures say, by stream, from counts of ended and running tenures."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from almanac.core.life.findings import SettledShare, settled_share
from almanac.core.life.outcomes import FAULT_CLAIMS, SETTLED_CLAIMS, Finding


class Stream(StrEnum):
    """What a tenure's end counts as. Running and retired tenures, upgrades and preventive swaps are censored."""

    CONFIRMED = "confirmed"
    OPEN = "open"
    DEAD_ON_ARRIVAL = "dead_on_arrival"
    DAMAGE = "damage"
    NO_FAULT_DRAW = "no_fault_draw"
    CENSORED = "censored"


def stream_of(finding: Finding | None, *, early: bool, exposed: bool) -> Stream:
    """Stream of a tenure's end.

    Parameters
    ----------
    finding : what the incident that ended it settled to so far; None for a tenure that runs or was retired
    early : it ended within the days after fitting in which a failure is dead on arrival
    exposed : it was observed for some time after those days

    Returns
    -------
    Stream : a failure that early is dead on arrival whatever it was called; one that was never at risk, because the log
    began on its very day, is no event

    Raises
    ------
    Nothing.
    """
    if finding is Finding.DEAD_ON_ARRIVAL or (finding in FAULT_CLAIMS and early):
        return Stream.DEAD_ON_ARRIVAL
    if finding in FAULT_CLAIMS and not exposed:
        return Stream.CENSORED
    by_finding = {
        Finding.CONFIRMED: Stream.CONFIRMED,
        Finding.OPEN: Stream.OPEN,
        Finding.DAMAGE: Stream.DAMAGE,
        Finding.NO_FAULT_FOUND: Stream.NO_FAULT_DRAW,
    }
    return by_finding.get(finding, Stream.CENSORED) if finding else Stream.CENSORED


@dataclass(frozen=True)
class TenureCount:
    """Tenures of one pool that ended alike. `fresh` : new parts fitted while the log was kept, so a death at once shows."""

    finding: Finding | None
    early: bool
    exposed: bool
    fresh: bool
    tenures: int
    exposure_years: float

    @property
    def stream(self) -> Stream:
        return stream_of(self.finding, early=self.early, exposed=self.exposed)


@dataclass(frozen=True)
class PoolRecord:
    """Counts of a pool, in tenures, and its wear-out exposure in unit-years."""

    tenures: int
    without_exposure: int
    exposure_years: float
    fittings: int
    streams: dict[Stream, int]

    def count(self, stream: Stream) -> int:
        return self.streams.get(stream, 0)


def pool_record(counts: Iterable[TenureCount]) -> PoolRecord:
    """Add up the counts of one pool.

    Parameters
    ----------
    counts : TenureCount rows, any number

    Returns
    -------
    PoolRecord : every tenure is in exactly one stream

    Raises
    ------
    Nothing.
    """
    rows = list(counts)
    streams: dict[Stream, int] = {}
    for row in rows:
        streams[row.stream] = streams.get(row.stream, 0) + row.tenures
    return PoolRecord(
        tenures=sum(row.tenures for row in rows),
        without_exposure=sum(row.tenures for row in rows if not row.exposed),
        exposure_years=sum(row.exposure_years for row in rows),
        fittings=sum(row.tenures for row in rows if row.fresh),
        streams=streams,
    )


@dataclass(frozen=True)
class KindRecord:
    """What all pools of a kind share: the settled share, the dead-on-arrival count, and the side streams' counts."""

    share: SettledShare
    exposure_years: float
    fittings: int
    dead_on_arrival: int
    damage: int
    no_fault_draws: float


def kind_record(counts: Iterable[TenureCount]) -> KindRecord:
    """Counts of a kind. Open findings weigh with the settled share; the rest of each is a draw on suspicion.

    Parameters
    ----------
    counts : TenureCount rows of every pool of the kind

    Returns
    -------
    KindRecord

    Raises
    ------
    Nothing.
    """
    rows = list(counts)
    record = pool_record(rows)
    settled = sum(row.tenures for row in rows if row.finding in SETTLED_CLAIMS)
    confirmed = sum(row.tenures for row in rows if row.finding is Finding.CONFIRMED)
    share = settled_share(confirmed, settled)
    return KindRecord(
        share=share,
        exposure_years=record.exposure_years,
        fittings=record.fittings,
        dead_on_arrival=sum(row.tenures for row in rows if row.fresh and row.stream is Stream.DEAD_ON_ARRIVAL),
        damage=record.count(Stream.DAMAGE),
        no_fault_draws=record.count(Stream.NO_FAULT_DRAW) + (1 - share.share) * record.count(Stream.OPEN),
    )
