"""What log and fleet say of lives and ages, read again only after something was written that bears on them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.remembered import Remembered, digest
from almanac.store import ages as age_store
from almanac.store import evidence
from almanac.store.marks import lives_mark

REMEMBERED: Remembered[Lived] = Remembered(2)


@dataclass(frozen=True)
class Lived:
    """Tenures, units in service and ages, with parts already mapped to the first of their two-way equivalents.

    Rows of `ages` keep the part they are of.
    """

    tenures: list[evidence.TenureRow]
    service: list[evidence.ServiceRow]
    ages: age_store.Ages
    keys: dict[Hashable, dict[str, bytes]] = field(default_factory=dict, init=False, compare=False, repr=False)

    def by_kind(self, kind_of: Mapping[int, str], group: Mapping[int, int]) -> dict[str, bytes]:
        """A key of what is said of each kind: the rows themselves, digested."""
        name = (tuple(sorted(kind_of.items())), tuple(sorted(group.items())))
        if name not in self.keys:
            self.keys[name] = self._by_kind(kind_of, group)
        return self.keys[name]

    def _by_kind(self, kind_of: Mapping[int, str], group: Mapping[int, int]) -> dict[str, bytes]:
        rows: dict[str, list[str]] = defaultdict(list)
        for tenure in self.tenures:
            rows[kind_of.get(tenure.part_id, "")].append(repr(tuple(tenure)))
        for served in self.service:
            rows[kind_of.get(served.part_id, "")].append(repr(tuple(served)))
        for keys in (self.ages.lived, self.ages.serving, self.ages.read):
            for part_id, ages in keys.items():
                rows[kind_of.get(group.get(part_id, part_id), "")].append(repr((part_id, ages)))
        return {kind: digest(sorted(found)) for kind, found in rows.items()}


def read_lived(session: Session, clock: Clock, group: Mapping[int, int]) -> Lived:
    """What holds today; kept until the mark of lives moves on, the day is another, or parts are grouped otherwise."""
    key = digest((clock.today, lives_mark(session), sorted(group.items())))
    return REMEMBERED.get(key, lambda: read_lived_at(session, clock, group))


def read_lived_at(session: Session, clock: Clock, group: Mapping[int, int], *, now: bool = True) -> Lived:
    """What held on a day as recorded by a moment.

    Parameters
    ----------
    clock : the day, and the moment · group : part to the first of its equivalents · now : the moment is the present one
    """
    lives = evidence.lives(session, as_of=clock.today, known_at=clock.now, now=now)
    return Lived(
        tenures=[row._replace(part_id=group[row.part_id]) for row in lives.tenures if row.part_id in group],
        service=[row._replace(part_id=group[row.part_id]) for row in lives.service if row.part_id in group],
        ages=age_store.read_ages(session, as_of=clock.today, known_at=clock.now, now=now),
    )
