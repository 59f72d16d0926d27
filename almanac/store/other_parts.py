"""What other parts than the four kinds were drawn for: fitted as such, or ordered in place of what is soldered, staked or part of them."""

from __future__ import annotations

from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store.evidence import CURRENT_REVISION, SERVING

PLACES = """
SELECT f.part_id, q.id AS position_id, q.model_id, q.key,
       count(*) OVER (PARTITION BY q.id) AS choices
FROM fits f JOIN position q ON q.id = f.position_id JOIN part p ON p.id = f.part_id AND p.kind <> ALL(:forecast)
WHERE f.verdict = 'yes'
"""
"""Positions a part goes into, and how many parts share each."""
OTHERS = f"""
WITH place AS ({PLACES}),
now_in AS (SELECT w.part_id, count(*)::float AS places FROM place w JOIN {SERVING} ON a.model_id = w.model_id GROUP BY 1),
served AS (
    SELECT w.part_id,
           sum(GREATEST(LEAST(COALESCE(a.retired_on, :as_of), :as_of) - GREATEST(a.in_service_on, s.log_began_on), 0))::float AS days
    FROM place w JOIN asset a ON a.model_id = w.model_id
    JOIN LATERAL (SELECT y.site_id FROM asset_stay y WHERE y.asset_id = a.id ORDER BY y.from_on DESC LIMIT 1) last ON true
    JOIN site s ON s.id = last.site_id GROUP BY 1),
direct AS (
    SELECT l.fitted_part_id AS part_id, count(*)::float AS parts
    FROM event_line l JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id
    WHERE l.fitted_part_id IS NOT NULL AND l.finding NOT IN ('upgrade', 'preventive') AND r.occurred_on <= :as_of GROUP BY 1),
moved AS (
    SELECT w.part_id, sum(1.0 / w.choices / cardinality(string_to_array(q.ordered_unit, ' or ')))::float AS parts
    FROM event_line l JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id
    JOIN position q ON q.id = l.position_id AND q.ordered_unit IS NOT NULL
    JOIN place w ON w.model_id = q.model_id AND w.key = ANY(string_to_array(q.ordered_unit, ' or '))
    WHERE l.finding IN ('confirmed', 'open', 'damage', 'dead_on_arrival') AND r.occurred_on <= :as_of
      AND NOT EXISTS (SELECT 1 FROM event_line o WHERE o.revision_id = l.revision_id AND o.position_id = w.position_id
                      AND o.fitted_part_id IS NOT NULL)
    GROUP BY 1)
SELECT p.id, p.number, p.name, p.kind, p.supplier_id, p.price, p.pack, p.minimum_order, COALESCE(n.places, 0) AS places,
       COALESCE(v.days, 0) AS days, COALESCE(d.parts, 0) AS direct, COALESCE(m.parts, 0) AS moved
FROM part p LEFT JOIN now_in n ON n.part_id = p.id LEFT JOIN served v ON v.part_id = p.id
LEFT JOIN direct d ON d.part_id = p.id LEFT JOIN moved m ON m.part_id = p.id
WHERE p.kind <> ALL(:forecast) ORDER BY p.kind, p.number
"""
"""A failure counts once: where its incident fitted the part, as that; else in place of what failed (rules E2, N9)."""


class OtherRow(NamedTuple):
    """A part of another kind. places : that take it in machines in service · days : those places served since logs began

    direct : fitted · moved : wanted in place of what is soldered or staked, shared where several could be ordered
    """

    id: int
    number: str
    name: str
    kind: str
    supplier_id: int
    price: float
    pack: int
    minimum_order: int
    places: float
    days: float
    direct: float
    moved: float


def other_parts(session: Session, *, forecast: list[str], as_of: date) -> list[OtherRow]:
    """Every part of another kind than those that are forecast by themselves."""
    return [OtherRow(*row) for row in session.execute(text(OTHERS), {"forecast": forecast, "as_of": as_of})]
