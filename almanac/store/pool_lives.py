"""The lives behind a pool's rate, one by one."""

from __future__ import annotations

from datetime import date, datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS
from almanac.store.evidence import CURRENT_REVISION, FAR_DAYS, FOUND, LIVED, SEEN_GOOD

POOL = f"""
SELECT lived.tag, s.code AS site, p.number AS part, lived.last_on - lived.age_days AS fitted_on,
       GREATEST(lived.entry_age, :early_days) AS from_age, lived.exit_age, lived.entry_age, lived.age_days, lived.finding, lived.in_service,
       lived.incident_id, lived.age_span, CASE WHEN {FOUND} THEN {SEEN_GOOD} END AS seen_good,
       lived.part_id, lived.site_id, lived.last_on,
       (SELECT u.made_on FROM tenure w JOIN unit u ON u.id = w.unit_id WHERE w.id = lived.tenure_id) AS made_on
FROM ({LIVED.format(revision=CURRENT_REVISION)}) lived
JOIN site s ON s.id = lived.site_id JOIN part p ON p.id = lived.part_id
WHERE lived.part_id = ANY(:parts) AND lived.model_id = :model_id AND lived.duty = :duty AND s.environment = :air
ORDER BY lived.in_service, lived.finding NULLS LAST, lived.exit_age DESC, lived.tag
"""


class LifeRow(NamedTuple):
    """One life: it counts from `from_age` to `exit_age`, days, where the second is the larger; `age_days` is the time in this machine.

    age_span : all ages may be less by so many days
    seen_good : of a failure that a check found, the age at which the part was last seen in order
    last_on : day on which it was seen last · made_on : of its lot, where it is known
    """

    tag: str
    site: str
    part: str
    fitted_on: date
    from_age: int
    exit_age: int
    entry_age: int
    age_days: int
    finding: str | None
    in_service: bool
    incident_id: int | None
    age_span: int
    seen_good: int | None
    part_id: int
    site_id: int
    last_on: date
    made_on: date | None


def pool_lives(session: Session, *, parts: list[int], model_id: int, duty: str, air: str, as_of: date, known_at: datetime) -> list[LifeRow]:
    """Lives of some interchangeable parts in one model, at one duty, in one kind of air; ended ones first."""
    bound = {
        "parts": parts,
        "model_id": model_id,
        "duty": duty,
        "air": air,
        "as_of": as_of,
        "known_at": known_at,
        "early_days": DEAD_ON_ARRIVAL_DAYS,
        "far_days": FAR_DAYS,
    }
    return [LifeRow(*row) for row in session.execute(text(POOL), bound)]
