"""Lives by whole day of age: the sufficient statistic of every life model, aggregated in SQL by pool."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime
from functools import cached_property
from hashlib import blake2b
from itertools import chain
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.store.evidence import CURRENT_REVISION, FAR_DAYS, FOUND, LATEST_REVISION, LIVED, SEEN_GOOD
from almanac.store.readings import Followed, followed_units

AT_RISK = f"""
SELECT part_id, model_id, duty, site_id, day, sum(entered)::integer, sum(gone)::integer, sum(confirmed)::integer, sum(open)::integer
FROM ({LIVED}) lived
CROSS JOIN LATERAL (VALUES
  (GREATEST(entry_age, :early_days), 1, 0, 0, 0),
  (exit_age, 0, 1, COALESCE(finding = 'confirmed' AND age_days > :early_days AND NOT {FOUND}, false)::integer,
   COALESCE(finding = 'open' AND age_days > :early_days AND NOT {FOUND}, false)::integer)
) AS step (day, entered, gone, confirmed, open)
WHERE exit_age > GREATEST(entry_age, :early_days)
GROUP BY 1, 2, 3, 4, 5
"""
ANY_FIND = "SELECT EXISTS (SELECT 1 FROM event_revision WHERE last_good_on IS NOT NULL)"
FINDS = f"""
SELECT part_id, model_id, duty, site_id, {SEEN_GOOD} AS seen_good, exit_age,
       sum((finding = 'confirmed')::integer)::integer, sum((finding = 'open')::integer)::integer
FROM ({LIVED}) lived
WHERE {FOUND}
GROUP BY 1, 2, 3, 4, 5, 6
ORDER BY 1, 2, 3, 4, 5, 6
"""
# Ages and planned retirements by thirty days, each group at its mean: the forecast follows ages smoothly, so nothing is lost.
IN_SERVICE = f"""
SELECT part_id, model_id, duty, site_id, avg(exit_age)::float8, avg(retire_day)::float8, count(*)::integer
FROM ({LIVED}) lived WHERE in_service
GROUP BY part_id, model_id, duty, site_id, exit_age / 30, retire_day / 30
ORDER BY 1, 2, 3, 4, 5
"""


class AgeRow(NamedTuple):
    """Units of one pool that begin and end being at risk at an age in days, and how many of those that end failed."""

    part_id: int
    model_id: int
    duty: str
    site_id: int
    day: int
    entered: int
    gone: int
    confirmed: int
    open: int


class FindRow(NamedTuple):
    """Units of one pool found failed at an age in days, and the age at which they were last seen in order."""

    part_id: int
    model_id: int
    duty: str
    site_id: int
    seen_good: int
    day: int
    confirmed: int
    open: int


class ServedRow(NamedTuple):
    """Units of one pool in service now: mean age in days, and mean days until their machines retire (None: not planned)."""

    part_id: int
    model_id: int
    duty: str
    site_id: int
    age_days: float
    retire_day: float | None
    units: int


@dataclass(frozen=True)
class Ages:
    """Every pool's ages at risk, failures found at checks, the ages of what is in service, and which of it is followed by readings.

    A failure that was found leaves in `at_risk` at the age it was found at, as anything else; it is no failure there.
    """

    at_risk: list[AgeRow]
    served: list[ServedRow]
    followed: list[Followed] = field(default_factory=list)
    finds: list[FindRow] = field(default_factory=list)

    @cached_property
    def lived(self) -> dict[int, bytes]:
        """What is known of the lives of each part, as a key."""
        at_risk = ((row.part_id, repr(tuple(row))) for row in self.at_risk)
        return _digests(chain(at_risk, ((row.part_id, repr(tuple(row))) for row in self.finds)))

    @cached_property
    def serving(self) -> dict[int, bytes]:
        """The ages of each part's units in service, as a key."""
        return _digests((row.part_id, repr(tuple(row))) for row in self.served)

    @cached_property
    def read(self) -> dict[int, bytes]:
        """The readings of each part's units in service, as a key."""
        return _digests((unit.row.part_id, repr(unit)) for unit in self.followed)


def _digests(rows: Iterable[tuple[int, str]]) -> dict[int, bytes]:
    found: dict[int, list[str]] = defaultdict(list)
    for part_id, row in rows:
        found[part_id].append(row)
    return {part_id: blake2b("".join(sorted(own)).encode(), digest_size=24).digest() for part_id, own in found.items()}


def read_ages(session: Session, *, as_of: date, known_at: datetime, now: bool = True) -> Ages:
    """Ages at risk and in service; wear-out exposure begins after the days of dead on arrival.

    Parameters
    ----------
    as_of : the day ages are counted to · known_at : only what was recorded by then
    now : known_at is the present moment; otherwise the revisions of that moment are looked up
    """
    bound = {"as_of": as_of, "known_at": known_at, "early_days": DEAD_ON_ARRIVAL_DAYS, "far_days": FAR_DAYS}
    revision = CURRENT_REVISION if now else LATEST_REVISION
    risk = session.execute(text(AT_RISK.format(revision=revision)), bound)
    served = session.execute(text(IN_SERVICE.format(revision=revision)), bound)
    followed = followed_units(session, as_of=as_of, known_at=known_at, now=now)
    finds = session.execute(text(FINDS.format(revision=revision)), bound) if session.scalar(text(ANY_FIND)) else ()
    return Ages([AgeRow(*row) for row in risk], [ServedRow(*row) for row in served], followed, [FindRow(*row) for row in finds])
