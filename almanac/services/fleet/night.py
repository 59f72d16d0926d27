"""The simulated fleet's nights: what is on record of machines, for a stand-in to say."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.workbench.heard import size_of
from almanac.services.clock import Clock
from almanac.standins.night import Inside, night_report
from almanac.store import reports
from almanac.store.models import Asset

DAYS_A_YEAR = 365.25
MACHINES = """
SELECT a.id FROM asset a WHERE a.retired_on IS NULL AND a.id % :every = 0
AND EXISTS (SELECT 1 FROM tenure t WHERE t.asset_id = a.id AND t.removed_on IS NULL) ORDER BY a.id LIMIT :most
"""


class Night(NamedTuple):
    """What a machine brings tonight."""

    tag: str
    serial: str
    words: str


def nights(session: Session, clock: Clock, *, every: int, most: int, faults: Sequence[str] = ()) -> Iterator[Night]:
    """Reports of some machines in use; the first ones say what is wrong by `faults`, the others what is on record."""
    ids = list(session.scalars(text(MACHINES), {"every": every, "most": most}))
    for place, asset in enumerate(session.get_one(Asset, number) for number in ids):
        held = [
            Inside(part.kind, size_of(part.kind, part.facts), unit.serial or "", (clock.today - tenure.fitted_on).days / DAYS_A_YEAR)
            for tenure, _, part, unit in reports.held_on(session, asset.id, clock.today)
        ]
        fault = faults[place] if place < len(faults) else None
        yield Night(asset.tag, asset.serial or "", night_report(held, seed=asset.tag, fault=fault))
