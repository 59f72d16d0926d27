"""What an old log may refer to: machines, positions, parts, and the stretches of life already recorded."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import NamedTuple

from sqlalchemy import exists, select, text
from sqlalchemy.orm import Session

from almanac.store.models import EventLine, Part, Position, Tenure

MACHINES = """
SELECT a.id, a.tag, a.model_id, a.in_service_on, a.retired_on, s.id AS site_id, s.name AS site_name, s.log_began_on
FROM asset a
JOIN LATERAL (SELECT site_id FROM asset_stay y WHERE y.asset_id = a.id ORDER BY y.from_on DESC LIMIT 1) y ON true
JOIN site s ON s.id = y.site_id
"""
STRETCHES = """
SELECT t.id, t.asset_id, t.position_id, t.part_id, t.fitted_on, t.removed_on,
       EXISTS (SELECT 1 FROM event_line l WHERE l.fitted_tenure_id = t.id) AS fitted_by_log,
       EXISTS (SELECT 1 FROM event_line l WHERE l.removed_tenure_id = t.id AND l.action <> 'kept') AS removed_by_log
FROM tenure t
ORDER BY t.fitted_on
"""


class Machine(NamedTuple):
    """A machine with its days and the site where it last stood."""

    id: int
    tag: str
    model_id: int
    in_service_on: date
    retired_on: date | None
    site_id: int
    site_name: str
    log_began_on: date


class Place(NamedTuple):
    """A position of a model."""

    id: int
    model_id: int
    key: str
    label: str
    kind: str


class Stretch(NamedTuple):
    """A tenure, and whether recorded incidents began and ended it."""

    id: int
    asset_id: int
    position_id: int
    part_id: int
    fitted_on: date
    removed_on: date | None
    fitted_by_log: bool
    removed_by_log: bool


@dataclass(frozen=True)
class Fleet:
    """Machines by upper-case tag, positions by model, lives by machine and position, parts by upper-case number."""

    machines: dict[str, Machine]
    places: dict[int, list[Place]]
    lives: dict[int, dict[int, list[Stretch]]]
    parts: dict[str, int]


def read_fleet(session: Session) -> Fleet:
    """Everything the rows of an old log may name."""
    places: dict[int, list[Place]] = {}
    for row in session.execute(select(Position.id, Position.model_id, Position.key, Position.label, Position.kind).order_by(Position.id)):
        places.setdefault(row.model_id, []).append(Place(*row))
    lives: dict[int, dict[int, list[Stretch]]] = {}
    for values in session.execute(text(STRETCHES)):
        stretch = Stretch(*values)
        lives.setdefault(stretch.asset_id, {}).setdefault(stretch.position_id, []).append(stretch)
    return Fleet(
        machines={row.tag.upper(): Machine(*row) for row in session.execute(text(MACHINES))},
        places=places,
        lives=lives,
        parts={number.upper(): part_id for part_id, number in session.execute(select(Part.id, Part.number))},
    )


def tenures_at(session: Session, asset_id: int, position_id: int) -> list[Tenure]:
    """Every tenure of a position of a machine, as it stands now."""
    return list(session.scalars(select(Tenure).where(Tenure.asset_id == asset_id, Tenure.position_id == position_id)))


def ended_by_log(session: Session, tenure_id: int) -> bool:
    """Whether a recorded incident took a unit out."""
    return bool(session.scalar(select(exists().where(EventLine.removed_tenure_id == tenure_id, EventLine.action != "kept"))))
