"""What accepted alarms do to the lives of each part number."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from datetime import date, datetime, timedelta

from sqlalchemy.orm import Session

from almanac.core.life.accepted import Accepted, Discounted, OwnLot
from almanac.core.life.life_data import DUTIES
from almanac.core.parts.alternates import equivalence_groups
from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.store import alarms, catalog, planning
from almanac.store.life_data import EPOCH
from almanac.store.models import AlarmDecision, ChartScope, Verdict


def accepted_of(session: Session, *, known_at: datetime | None = None) -> Mapping[int, Accepted]:
    """Accepted alarms by the part number whose lives they bear on, as they held at a moment, by default now."""
    return follow_from(session, [one for one in alarms.decisions(session, known_at=known_at) if one.verdict == Verdict.ACCEPTED])


def follow_from(session: Session, decided: Iterable[AlarmDecision]) -> Mapping[int, Accepted]:
    """What follows from some decisions for the lives of each part number."""
    wanted = list(decided)
    if not wanted:
        return {}
    parts = planning.stock_part_rows(session, tuple(kind.value for kind in FORECAST_KINDS))
    leader = equivalence_groups((part.id for part in parts), catalog.interchange(session))
    air = {site.id: site.environment for site in planning.site_rows(session)}
    found: dict[int, list[Discounted | OwnLot]] = defaultdict(list)
    for one in wanted:
        if one.scope == ChartScope.LOT:
            assert one.part_id is not None and one.made_on is not None
            found[one.part_id].append(OwnLot(one.part_id, day_number(one.made_on), day_number(one.made_on)))
            continue
        for part in parts:
            if part.kind == one.kind and one.part_id in (None, leader[part.id]):
                found[part.id].append(_discounted(one, part.id, air))
    return {part: tuple(own) for part, own in found.items()}


def _discounted(one: AlarmDecision, part: int, air: Mapping[int, str]) -> Discounted:
    since = day_number(one.since)
    if one.scope == ChartScope.SITE:
        assert one.site_id is not None
        return Discounted(part, since, sites=(one.site_id,))
    if one.scope == ChartScope.PART:
        return Discounted(part, since)
    assert one.duty is not None
    return Discounted(
        part, since, one.model_id, DUTIES.index(one.duty), tuple(sorted(site for site in air if air[site] == one.environment))
    )


def day_of(number: int) -> date:
    """The day that lives count so."""
    return EPOCH + timedelta(days=number)


def day_number(day: date) -> int:
    """A day as lives count it."""
    return (day - EPOCH).days
