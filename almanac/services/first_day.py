"""From nothing to the first order: what a company has told so far, step by step, and what each step still lacks."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.parts.declared.kinds import FORECAST_KINDS
from almanac.services.clock import Clock
from almanac.services.words import count, day
from almanac.store import settings

STATE = """
SELECT
  (SELECT count(*) FROM site) AS sites,
  (SELECT count(*) FROM site WHERE log_began_on >= :recently) AS young,
  (SELECT count(*) FROM site s WHERE NOT s.is_depot AND NOT EXISTS (SELECT 1 FROM lane l WHERE l.to_site_id = s.id)) AS no_lane,
  (SELECT count(*) FROM asset WHERE retired_on IS NULL) AS machines,
  (SELECT count(*) FROM device_model m WHERE EXISTS (SELECT 1 FROM asset a WHERE a.model_id = m.id AND a.retired_on IS NULL)) AS models,
  (SELECT count(*) FROM device_model m WHERE EXISTS (SELECT 1 FROM asset a WHERE a.model_id = m.id AND a.retired_on IS NULL)
     AND NOT EXISTS (SELECT 1 FROM position p WHERE p.model_id = m.id)) AS bare,
  (SELECT count(*) FROM part WHERE kind = ANY(:kinds)) AS parts,
  (SELECT count(*) FROM part q WHERE q.kind = ANY(:kinds)
     AND NOT EXISTS (SELECT 1 FROM fits f WHERE f.part_id = q.id AND f.verdict = 'yes')) AS loose,
  (SELECT count(DISTINCT h.part_id) FROM shelf h WHERE EXISTS (SELECT 1 FROM stock_move m WHERE m.shelf_id = h.id)
     OR EXISTS (SELECT 1 FROM stock_count c WHERE c.shelf_id = h.id)) AS shelved,
  (SELECT count(DISTINCT t.asset_id) FROM tenure t JOIN asset a ON a.id = t.asset_id
     WHERE t.removed_on IS NULL AND a.retired_on IS NULL) AS filled,
  (SELECT count(*) FROM incident) AS incidents,
  (SELECT count(*) FROM incident WHERE is_open) AS open,
  (SELECT count(*) FROM purchase_order) AS orders
"""
YOUNG_DAYS = 365
"""A log that began so lately tells little of failures by age."""


class Stand(StrEnum):
    """How far a step is."""

    DONE = "done"
    PARTLY = "partly"
    OPEN = "open"


@dataclass(frozen=True)
class Step:
    """A step. what : what it is about · said : what is on record · lacks : what it still lacks, "" for nothing
    goes_to : the page where it is done
    """

    name: str
    what: str
    stand: Stand
    said: str
    lacks: str
    goes_to: str


def first_day(session: Session, clock: Clock) -> list[Step]:
    """The steps from an empty company to its first order, in the order in which they help."""
    recently = date.fromordinal(clock.today.toordinal() - YOUNG_DAYS)
    row = session.execute(text(STATE), {"recently": recently, "kinds": [kind.value for kind in FORECAST_KINDS]}).one()
    return [
        _step(
            "machines",
            "Which machines there are, and where they stand",
            row.machines,
            f"{count(row.machines, 'machine')} of {count(row.models, 'model')} at {count(row.sites, 'site')}",
            _join((row.bare, f"of {count(row.bare, 'model')} nobody said what they hold")),
            "/import/lists",
        ),
        _step(
            "parts",
            "Which parts are bought, from whom, at what price, and how many lie where",
            row.parts,
            f"{count(row.parts, 'part')} that can be forecast, {row.shelved:,} of them booked on a shelf",
            _join(
                (row.loose, f"of {count(row.loose, 'part')} nobody said which models they fit"),
                (row.parts - row.shelved, f"of {row.parts - row.shelved:,} nobody said what lies on the shelf"),
            ),
            "/import/lists",
        ),
        _step(
            "holds",
            "Which part is in which machine, and since when",
            row.filled,
            f"{row.filled:,} of {count(row.machines, 'machine')} with parts on record",
            _join((row.machines - row.filled, f"of {count(row.machines - row.filled, 'machine')} nothing is known to be in")),
            "/import/lists",
        ),
        _step(
            "log",
            "What failed so far: the help desk's tickets, or a log",
            row.incidents,
            f"{count(row.incidents, 'incident')}, {row.open:,} of them with an open finding",
            _join((row.young, f"at {count(row.young, 'site')} the log began within a year: its silence says little")),
            "/import/lists",
        ),
        _step(
            "sites",
            "Since when repairs are written down, and how sites are supplied",
            row.sites,
            count(row.sites, "site"),
            _join((row.no_lane, f"{count(row.no_lane, 'site')} without a lane from the depot")),
            "/company",
        ),
        _rules(session),
        _step(
            "order",
            "The first order",
            row.orders,
            count(row.orders, "order") + " on record",
            "",
            "/outlook",
        ),
    ]


def _step(name: str, what: str, told: int, said: str, lacks: str, goes_to: str) -> Step:
    if not told:
        return Step(name, what, Stand.OPEN, "nothing yet", "", goes_to)
    return Step(name, what, Stand.PARTLY if lacks else Stand.DONE, said, lacks, goes_to)


def _join(*lacks: tuple[int, str]) -> str:
    return "; ".join(words for number, words in lacks if number > 0)


def _rules(session: Session) -> Step:
    """What is promised: usable as it is, better once somebody chose it."""
    what = "How many of a hundred requests the shelf should meet, and how often orders leave"
    last = settings.last_change(session, ("target", "review_days"))
    if last is None:
        return Step("rules", what, Stand.PARTLY, "95 of 100, as long as nobody says otherwise", "nobody chose it", "/outlook")
    return Step("rules", what, Stand.DONE, f"chosen on {day(last)}", "", "/outlook")
