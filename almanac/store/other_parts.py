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
many AS (SELECT part_id, model_id, count(*) AS places FROM place GROUP BY 1, 2),
last AS (SELECT DISTINCT ON (asset_id) asset_id, site_id FROM asset_stay ORDER BY asset_id, from_on DESC),
now_in AS (SELECT a.model_id, count(*) AS machines FROM {SERVING} GROUP BY 1),
served AS (
    SELECT a.model_id, sum(GREATEST(LEAST(COALESCE(a.retired_on, :as_of), :as_of) - GREATEST(a.in_service_on, s.log_began_on), 0)) AS days
    FROM asset a JOIN last ON last.asset_id = a.id JOIN site s ON s.id = last.site_id
    WHERE a.model_id IN (SELECT model_id FROM many) GROUP BY 1),
direct AS (
    SELECT l.fitted_part_id AS part_id, count(*)::float AS parts
    FROM event_line l JOIN part p ON p.id = l.fitted_part_id AND p.kind <> ALL(:forecast)
    JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id
    WHERE l.finding NOT IN ('upgrade', 'preventive') AND r.occurred_on <= :as_of GROUP BY 1),
of_model AS (
    SELECT m.part_id, sum(m.places * COALESCE(n.machines, 0))::float AS places, sum(m.places * COALESCE(v.days, 0))::float AS days
    FROM many m LEFT JOIN now_in n USING (model_id) LEFT JOIN served v USING (model_id) GROUP BY 1)
SELECT p.id, p.number, p.name, p.kind, p.supplier_id, p.price, p.pack, p.minimum_order, COALESCE(o.places, 0) AS places,
       COALESCE(o.days, 0) AS days, COALESCE(d.parts, 0) AS direct
FROM part p LEFT JOIN of_model o ON o.part_id = p.id LEFT JOIN direct d ON d.part_id = p.id
WHERE p.kind <> ALL(:forecast) ORDER BY p.kind, p.number
"""
"""Machines are counted by model first, then by the places of each part: once over the fleet, however many parts there are."""
FAILED = f"""
SELECT q.model_id, q.key, q.ordered_unit, count(*)::float AS failures
FROM event_line l JOIN ({CURRENT_REVISION}) r ON r.id = l.revision_id JOIN position q ON q.id = l.position_id AND q.ordered_unit IS NOT NULL
WHERE l.finding IN ('confirmed', 'open', 'damage', 'dead_on_arrival') AND r.occurred_on <= :as_of
  AND NOT EXISTS (SELECT 1 FROM event_line o JOIN position w ON w.id = o.position_id
                  WHERE o.revision_id = l.revision_id AND o.fitted_part_id IS NOT NULL
                    AND w.key = ANY(string_to_array(q.ordered_unit, ' or ')))
GROUP BY 1, 2, 3
"""
"""A failure counts once: where its incident fitted what is ordered, as that; else in place of what failed (rules E2, N9)."""


class OtherRow(NamedTuple):
    """A part of another kind. places : that take it in machines in service · days : those places served since logs began

    direct : fitted
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


def other_parts(session: Session, *, forecast: list[str], as_of: date) -> list[OtherRow]:
    """Every part of another kind than those that are forecast by themselves."""
    return [OtherRow(*row) for row in session.execute(text(OTHERS), {"forecast": forecast, "as_of": as_of})]


class PlaceRow(NamedTuple):
    """A position that a part goes into. choices : parts that do"""

    part_id: int
    position_id: int
    model_id: int
    key: str
    choices: int


class FailedRow(NamedTuple):
    """Failures at a position of a model whose part is not ordered itself. ordered_unit : what is, several joined by or"""

    model_id: int
    key: str
    ordered_unit: str
    failures: float


def places_of(session: Session, *, forecast: list[str]) -> list[PlaceRow]:
    """Positions that parts of other kinds go into."""
    return [PlaceRow(*row) for row in session.execute(text(PLACES), {"forecast": forecast})]


def failed_in_place(session: Session, *, as_of: date) -> list[FailedRow]:
    """Failures of what is soldered, staked or part of something, that no fitting of the ordered unit answers for."""
    return [FailedRow(*row) for row in session.execute(text(FAILED), {"as_of": as_of})]
