"""The register: machines by what they are, where they stand, how old they are and what is wanted of them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from enum import StrEnum
from typing import Any, NamedTuple

from sqlalchemy import text
from sqlalchemy.orm import Session

DAYS_A_YEAR = 365.25
SOON = timedelta(days=183)
SILENT = timedelta(days=30)
OLDEST_BAND = 7
"""Machines of that many years and more are counted together."""


class MachineStanding(StrEnum):
    """Which machines are meant."""

    IN_USE = "in_use"
    RETIRED = "retired"
    ALL = "all"


class Wanted(StrEnum):
    """What a machine may be looked for by, beside what it is."""

    JOB = "job"
    STOPPED = "stopped"
    WORN = "worn"
    WARRANTY = "warranty"
    RETIRING = "retiring"
    UNRECORDED = "unrecorded"
    NOTED = "noted"
    ASKED = "asked"
    SILENT = "silent"
    FAILED = "failed"


class RegisterOrder(StrEnum):
    """By what the register can be sorted."""

    TAG = "tag"
    MODEL = "model"
    SITE = "site"
    AGE = "age"
    RETIRING = "retiring"
    FAILED = "failed"


@dataclass(frozen=True)
class Sought:
    """What is looked for; an empty field is no condition. limits : share at which a part is swapped, by its number"""

    today: date
    words: str = ""
    models: tuple[int, ...] = ()
    sites: tuple[str, ...] = ()
    duties: tuple[str, ...] = ()
    standing: MachineStanding = MachineStanding.IN_USE
    oldest: int | None = None
    youngest: int | None = None
    wanted: tuple[Wanted, ...] = ()
    kinds: tuple[str, ...] = ()


class RegisterRow(NamedTuple):
    """A machine of the register.

    failures : incidents of the last twelve months · share, share_kind : the lowest reading of a part in it, of what that was made for
    warranty_until : the first of its parts' to end from today on · job_id : open on it · reported_at : when it last reported
    questions : what it said that is on record otherwise · changes : what an edit has to name
    """

    tag: str
    serial: str | None
    model_id: int
    model: str
    site: str | None
    duty: str
    in_service_on: date
    retire_planned_on: date | None
    retired_on: date | None
    failures: int
    share: float | None
    share_kind: str | None
    warranty_until: date | None
    job_id: int | None
    reported_at: Any
    questions: int
    notes: int
    changes: int


STANDS = """LEFT JOIN LATERAL (SELECT s.code, s.name FROM asset_stay y JOIN site s ON s.id = y.site_id
  WHERE y.asset_id = a.id ORDER BY y.from_on DESC LIMIT 1) w ON true"""
NOTED = """EXISTS (SELECT 1 FROM job j JOIN job_entry e ON e.job_id = j.id WHERE j.asset_id = a.id AND e.kind = 'note'
  AND e.data->>'stays' = 'true' AND NOT EXISTS (SELECT 1 FROM job k JOIN job_entry m ON m.job_id = k.id
  WHERE k.asset_id = a.id AND m.kind = 'note' AND m.data->>'mends' = e.entry_key::text))"""
HOLDS = "FROM tenure t JOIN part q ON q.id = t.part_id WHERE t.asset_id = a.id AND t.removed_on IS NULL"
LOOKED_FOR = {
    Wanted.JOB: "EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL)",
    Wanted.STOPPED: "EXISTS (SELECT 1 FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL AND j.state = 'stopped')",
    # Few readings are that low: those are looked at, and then whether a later one says otherwise.
    Wanted.WORN: """a.id IN (SELECT t.asset_id FROM reading r JOIN tenure t ON t.id = r.tenure_id AND t.removed_on IS NULL
      JOIN part q ON q.id = t.part_id
      JOIN unnest(CAST(:worn_parts AS text[]), CAST(:worn_shares AS float8[])) l(number, share) ON l.number = q.number
      WHERE NOT r.withdrawn AND r."full" / r.design < l.share AND NOT EXISTS (SELECT 1 FROM reading n WHERE n.tenure_id = r.tenure_id
        AND NOT n.withdrawn AND (n.read_on, n.id) > (r.read_on, r.id)))""",
    Wanted.WARRANTY: f"""EXISTS (SELECT 1 {HOLDS} AND q.warranty_days IS NOT NULL AND t.age_span_days = 0
      AND t.fitted_on + q.warranty_days BETWEEN :today AND :soon)""",
    Wanted.RETIRING: "a.retire_planned_on BETWEEN :today AND :soon",
    Wanted.UNRECORDED: """EXISTS (SELECT 1 FROM position p WHERE p.model_id = a.model_id AND p.kind = ANY(:kinds) AND NOT EXISTS
      (SELECT 1 FROM tenure t WHERE t.asset_id = a.id AND t.position_id = p.id AND t.removed_on IS NULL))""",
    Wanted.NOTED: NOTED,
    Wanted.ASKED: "EXISTS (SELECT 1 FROM report_question q WHERE q.asset_id = a.id AND q.settled_at IS NULL)",
    Wanted.SILENT: "EXISTS (SELECT 1 FROM machine_report r WHERE r.asset_id = a.id AND r.reported_at < :silent)",
    Wanted.FAILED: "EXISTS (SELECT 1 FROM incident i WHERE i.asset_id = a.id AND i.occurred_on > :year_ago)",
}
TIES = 'a.tag COLLATE "C"'
"""Machines that are alike in what is asked for stand in the order of their tags, byte by byte: all that are alike are compared."""
# Names are put in order once for all machines, not anew for every two of them.
BY_MODEL = "JOIN (SELECT id, row_number() OVER (ORDER BY maker, name, id) AS place FROM device_model) m ON m.id = a.model_id"
BY_SITE = """LEFT JOIN (asset_stay y JOIN (SELECT id, row_number() OVER (ORDER BY name, id) AS place FROM site) w ON w.id = y.site_id)
  ON y.asset_id = a.id AND y.until_on IS NULL"""
FAILURES = "(SELECT asset_id, count(*) AS failures FROM incident WHERE occurred_on > :year_ago GROUP BY asset_id)"
SORTS = {
    RegisterOrder.TAG: ("", "a.tag {0}"),
    RegisterOrder.AGE: ("", "a.in_service_on {0}, {1}"),
    RegisterOrder.RETIRING: ("", "a.retire_planned_on {0} NULLS LAST, {1}"),
    RegisterOrder.MODEL: (BY_MODEL, "m.place {0}, {1}"),
    RegisterOrder.SITE: (BY_SITE, "coalesce(w.place, 1000000) {0}, {1}"),
    RegisterOrder.FAILED: (f"LEFT JOIN {FAILURES} f ON f.asset_id = a.id", "coalesce(f.failures, 0) {0}, {1}"),
}
"""What is joined, and what is sorted by."""
PAGE = """page AS (SELECT id, row_number() OVER () AS place FROM (
  SELECT a.id FROM {source} ORDER BY {order} LIMIT :most OFFSET :first) chosen)"""
LOOKED_THROUGH = "found AS MATERIALIZED (SELECT a.id, a.tag, a.model_id, a.in_service_on, a.retire_planned_on FROM asset a WHERE {where})"
COUNTED = "found AS NOT MATERIALIZED (SELECT a.id FROM asset a WHERE {where})"
ROWS = f"""
SELECT a.tag, a.serial, a.model_id, m.maker || ' ' || m.name, w.code, a.duty, a.in_service_on, a.retire_planned_on, a.retired_on,
  (SELECT count(*) FROM incident i WHERE i.asset_id = a.id AND i.occurred_on > :year_ago),
  r.share, r.kind,
  (SELECT min(t.fitted_on + q.warranty_days) {HOLDS} AND t.age_span_days = 0 AND t.fitted_on + q.warranty_days >= :today),
  (SELECT max(j.id) FROM job j WHERE j.asset_id = a.id AND j.ended_at IS NULL),
  (SELECT reported_at FROM machine_report e WHERE e.asset_id = a.id),
  (SELECT count(*) FROM report_question q WHERE q.asset_id = a.id AND q.settled_at IS NULL),
  CASE WHEN {NOTED} THEN 1 ELSE 0 END,
  (SELECT count(*) FROM catalog_change c WHERE c.subject = 'machine ' || a.tag), (SELECT count(*) FROM found)
FROM page JOIN asset a ON a.id = page.id JOIN device_model m ON m.id = a.model_id {STANDS}
LEFT JOIN LATERAL (SELECT l.share, q.kind FROM tenure t JOIN part q ON q.id = t.part_id JOIN LATERAL
  (SELECT "full" / design AS share FROM reading d WHERE d.tenure_id = t.id AND NOT withdrawn ORDER BY read_on DESC, id DESC LIMIT 1) l
  ON true WHERE t.asset_id = a.id AND t.removed_on IS NULL ORDER BY l.share LIMIT 1) r ON true
ORDER BY page.place
"""
AGES = """
SELECT {what}, least(greatest(floor((CAST(:today AS date) - a.in_service_on) / {year}), 0), {oldest})::int AS band, count(*)
FROM asset a {joined} WHERE {where} GROUP BY 1, 2
"""


STANDS_NOW = """a.id IN (SELECT y.asset_id FROM asset_stay y JOIN site s ON s.id = y.site_id
  WHERE y.until_on IS NULL AND s.code = ANY(:sites))"""
STOOD_LAST = """(SELECT s.code FROM asset_stay y JOIN site s ON s.id = y.site_id WHERE y.asset_id = a.id
  ORDER BY y.from_on DESC LIMIT 1) = ANY(:sites)"""
IN_USE = {
    MachineStanding.IN_USE: "a.retired_on IS NULL",
    MachineStanding.RETIRED: "a.retired_on IS NOT NULL",
    MachineStanding.ALL: "true",
}
YEARS = f"(CAST(:today AS date) - a.in_service_on) / {DAYS_A_YEAR}"


def _where(sought: Sought, limits: dict[str, float]) -> tuple[str, dict[str, Any]]:
    """Conditions on machines `a`, and their values."""
    # Those in use stand where their last stay has no end, which an index finds.
    stands = STANDS_NOW if sought.standing is MachineStanding.IN_USE else STOOD_LAST
    asked = (
        (sought.words, "(a.tag ILIKE :like OR a.serial ILIKE :like)"),
        (sought.models, "a.model_id = ANY(:models)"),
        (sought.sites, stands),
        (sought.duties, "a.duty = ANY(:duties)"),
        (sought.youngest is not None, f"{YEARS} >= :youngest"),
        (sought.oldest is not None, f"{YEARS} < :oldest"),
    )
    conditions = [IN_USE[sought.standing], *(words for wanted, words in asked if wanted), *(LOOKED_FOR[one] for one in sought.wanted)]
    escaped = sought.words.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    values = {
        "today": sought.today,
        "soon": sought.today + SOON,
        "silent": sought.today - SILENT,
        "year_ago": sought.today - timedelta(days=365),
        "like": f"%{escaped}%",
        "models": list(sought.models),
        "sites": list(sought.sites),
        "duties": list(sought.duties),
        "youngest": sought.youngest,
        "oldest": sought.oldest,
        "kinds": list(sought.kinds),
        "worn_parts": list(limits),
        "worn_shares": list(limits.values()),
    }
    return " AND ".join(conditions), values


def _page(sought: Sought, where: str, sort: RegisterOrder, descending: bool) -> str:
    """Which machines a page shows. What is dear to find out of a machine is found out once, for the count and the page."""
    joined, order = SORTS[sort]
    order = order.format("DESC" if descending else "ASC", TIES)
    if sought.wanted:
        return f"WITH {LOOKED_THROUGH.format(where=where)}, {PAGE.format(source=f'found a {joined}', order=order)}"
    return f"WITH {COUNTED.format(where=where)}, {PAGE.format(source=f'asset a {joined} WHERE {where}', order=order)}"


def found_rows(
    session: Session, sought: Sought, limits: dict[str, float], *, sort: RegisterOrder, descending: bool, page: tuple[int, int]
) -> tuple[int, list[RegisterRow]]:
    """How many machines are meant, and some of them. page : first and how many"""
    where, values = _where(sought, limits)
    rows = session.execute(text(_page(sought, where, sort, descending) + ROWS), {**values, "first": page[0], "most": page[1]}).all()
    if not rows:
        return session.scalar(text(f"SELECT count(*) FROM asset a WHERE {where}"), values) or 0, []
    return rows[0][-1], [RegisterRow(*row[:-1]) for row in rows]


def ages(session: Session, sought: Sought, limits: dict[str, float], *, by_site: bool) -> list[tuple[int | None, int, int]]:
    """Machines by model or site and whole year of age, the oldest together: (model or site, band, machines)."""
    where, values = _where(sought, limits)
    joined = "LEFT JOIN asset_stay own ON own.asset_id = a.id AND own.until_on IS NULL" if by_site else ""
    what = "own.site_id" if by_site else "a.model_id"
    query = AGES.format(what=what, year=DAYS_A_YEAR, oldest=OLDEST_BAND, joined=joined, where=where)
    return [(row[0], row[1], row[2]) for row in session.execute(text(query), values)]


class NamedRow(NamedTuple):
    """What names a machine."""

    tag: str
    serial: str | None
    model: str


def named(session: Session, tags: list[str]) -> list[NamedRow]:
    """Machines by their tags in capitals; unknown ones are left out."""
    query = """SELECT a.tag, a.serial, m.maker || ' ' || m.name FROM asset a JOIN device_model m ON m.id = a.model_id
               WHERE upper(a.tag) = ANY(:tags)"""
    return [NamedRow(*row) for row in session.execute(text(query), {"tags": tags})]
