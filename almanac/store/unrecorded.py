"""Machines in service that nobody ever recorded a part of a kind in, though their model takes one."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.store.evidence import SERVING

# Where some position of a kind is soldered, or part of what is ordered, a machine may well have no other unit of it: `beside`.
# That such a one lacks a record shows only in a machine that has none at all.
FIXED = "({0}.serviceability = 'soldered' OR {0}.ordered_unit IS NOT NULL)"
PLACES = f"""
    SELECT p.id, p.model_id, p.kind, COALESCE(p.option_condition, '{{}}') AS wanted,
           EXISTS (SELECT 1 FROM position q WHERE q.model_id = p.model_id AND q.kind = p.kind AND {FIXED.format("q")}) AS beside
    FROM position p WHERE p.kind = ANY(:kinds) AND NOT {FIXED.format("p")}
"""
POSSIBLE = "NOT EXISTS (SELECT 1 FROM jsonb_each(p.wanted) w WHERE a.options ? w.key AND a.options -> w.key <> w.value)"
SURE = "a.options @> p.wanted"
BARE = f"""
    WITH place AS ({PLACES}), recorded AS (
        SELECT t.asset_id, bit_or(p.bit) AS bits
        FROM tenure t JOIN (SELECT id, 1 << array_position(CAST(:kinds AS text[]), kind) AS bit FROM place) p ON p.id = t.position_id
        GROUP BY 1
    ), bare AS MATERIALIZED (
        SELECT a.id, a.tag, a.model_id, y.site_id, a.options, a.in_service_on, k.kind
        FROM {SERVING} JOIN (SELECT DISTINCT model_id, kind, beside FROM place) k ON k.model_id = a.model_id
        LEFT JOIN recorded r ON r.asset_id = a.id
        WHERE r.asset_id IS NULL OR NOT k.beside AND r.bits & (1 << array_position(CAST(:kinds AS text[]), k.kind)) = 0
    ), lacking AS (
        SELECT a.id, a.tag, a.model_id, a.site_id, a.in_service_on, a.kind, bool_or({SURE}) AS sure
        FROM bare a JOIN place p ON p.model_id = a.model_id AND p.kind = a.kind
        WHERE {POSSIBLE}
        GROUP BY 1, 2, 3, 4, 5, 6
    )
"""
"""`lacking` : a row for every machine and kind; not `sure` where only options that nobody knows would tell. Kinds are bits, and bare
machines are found before their options are looked at: few are, of very many."""
GROUPS = f"""{BARE}
SELECT model_id, site_id, kinds, unsure, count(*)::integer AS machines FROM (
    SELECT id, model_id, site_id, array_agg(kind ORDER BY kind) AS kinds,
           COALESCE(array_agg(kind ORDER BY kind) FILTER (WHERE NOT sure), '{{}}') AS unsure
    FROM lacking GROUP BY 1, 2, 3) machine
GROUP BY 1, 2, 3, 4 ORDER BY 1, 2, 3, 4
"""
ROWS = f"""{BARE}
SELECT count(*) OVER () AS total, tag, kind, in_service_on FROM lacking WHERE kind = ANY(:shown) ORDER BY tag, kind LIMIT :most
"""
KNOWN = f"""
WITH place AS ({PLACES})
SELECT model_id, kind, count(*) FILTER (WHERE sure)::integer AS with_it, count(*) FILTER (WHERE NOT possible)::integer AS without
FROM (SELECT a.id, p.model_id, p.kind, bool_or({SURE}) AS sure, bool_or({POSSIBLE}) AS possible
      FROM {SERVING} JOIN place p ON p.model_id = a.model_id WHERE a.model_id = ANY(:models) GROUP BY 1, 2, 3) machine
GROUP BY 1, 2
"""
HELD = f"""
WITH place AS ({PLACES}), unit AS (
    SELECT t.asset_id, p.model_id, p.kind, p.beside, g.leader, count(*)::integer AS units
    FROM tenure t JOIN place p ON p.id = t.position_id
    JOIN unnest(CAST(:parts AS integer[]), CAST(:leaders AS integer[])) AS g(part, leader) ON g.part = t.part_id
    WHERE p.model_id = ANY(:models) AND t.removed_on IS NULL AND t.fitted_on <= :as_of
      AND t.asset_id IN (SELECT a.id FROM {SERVING})
    GROUP BY 1, 2, 3, 4, 5
)
SELECT u.model_id, u.kind, u.leader, u.units, count(*)::integer AS machines,
       CASE WHEN u.beside THEN anything.machines ELSE alike.machines END AS of_machines
FROM unit u
JOIN (SELECT model_id, kind, count(DISTINCT asset_id)::integer AS machines FROM unit GROUP BY 1, 2) alike USING (model_id, kind)
JOIN (SELECT model_id, count(DISTINCT asset_id)::integer AS machines FROM unit GROUP BY 1) anything USING (model_id)
GROUP BY 1, 2, 3, 4, 6 ORDER BY 1, 2, 3, 4
"""


class BareGroup(NamedTuple):
    """Machines of a model at a site without a unit on record of some kinds; `unsure` : kinds that unknown options may rule out."""

    model_id: int
    site_id: int
    kinds: list[str]
    unsure: list[str]
    machines: int


class BareRow(NamedTuple):
    """One machine and a kind of which nothing was ever recorded in it."""

    tag: str
    kind: str
    in_service_on: date


class KnownOptions(NamedTuple):
    """Machines of a model that are known to take a unit of a kind, and known not to."""

    model_id: int
    kind: str
    with_it: int
    without: int


class HeldUnits(NamedTuple):
    """How many of the `of_machines` that have the kind on record, or anything where it may be soldered, hold so many units of a part."""

    model_id: int
    kind: str
    part_id: int
    units: int
    machines: int
    of_machines: int


def bare_groups(session: Session, *, kinds: list[str], as_of: date) -> list[BareGroup]:
    """Machines in service that lack a record, by model, site and kinds."""
    return [BareGroup._make(row) for row in session.execute(text(GROUPS), {"kinds": kinds, "as_of": as_of})]


def bare_rows(session: Session, *, kinds: list[str], shown: list[str], as_of: date, most: int) -> tuple[int, list[BareRow]]:
    """How many machines and kinds lack a record, and the first of them by tag.

    Parameters
    ----------
    kinds : those of which a record is looked for; one of them tells that somebody looked inside · shown : those that are counted
    """
    rows = session.execute(text(ROWS), {"kinds": kinds, "shown": shown, "as_of": as_of, "most": most}).all()
    return (int(rows[0][0]) if rows else 0), [BareRow._make(row[1:]) for row in rows]


def known_options(session: Session, *, models: list[int], kinds: list[str], as_of: date) -> list[KnownOptions]:
    """How many machines of some models are known to take a unit of each kind."""
    found = session.execute(text(KNOWN), {"kinds": kinds, "as_of": as_of, "models": models})
    return [KnownOptions._make(row) for row in found]


def held_units(session: Session, *, models: list[int], kinds: list[str], group: Mapping[int, int], as_of: date) -> list[HeldUnits]:
    """What machines of some models hold that do have a record of the kind.

    Parameters
    ----------
    group : part to the first of its two-way equivalents, under which its units are counted
    """
    bound = {"kinds": kinds, "as_of": as_of, "models": models, "parts": list(group), "leaders": list(group.values())}
    return [HeldUnits._make(row) for row in session.execute(text(HELD), bound)]
