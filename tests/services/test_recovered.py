"""Recovered parts: no stock before their test, with their age after it; packs never."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.ledger.record import LineRequest, record_incident
from almanac.services.outlook.summary import read_builder
from almanac.services.stores.acts import MoveRequest, Recorded, do, undo
from almanac.services.stores.read import read_shelf, read_tally
from almanac.services.stores.recovered import record_test
from almanac.store import units as unit_rows
from almanac.store.books import breaks
from tests.services.helpers import Bench, bench, in_bucket, incident, units


def recovers(session: Session, clock: Clock, where: Bench) -> tuple[str, int]:
    """Take a part out of a machine to keep it; the site it lies at, and its unit."""
    before = {
        row.id
        for site in ("ELD", "GUL", "BRA", "WID", "MAR", "TER")
        for row in read_shelf(session, where.part, site, is_lead=True).recovered
    }
    line = LineRequest(where.position_id, "removed", removed_to="harvested")
    record_incident(session, incident(where, lines=[line], finding="upgrade"), clock=clock, author_id=2)
    for site in ("ELD", "GUL", "BRA", "WID", "MAR", "TER"):
        for row in read_shelf(session, where.part, site, is_lead=True).recovered:
            if row.id not in before:
                return site, row.id
    raise AssertionError("nothing was recovered")


def usable(session: Session, part: str) -> int:
    return next(row.shelf.on_hand for row in read_builder(session).rows() if row.part.number == part)


def cell(session: Session, part: str, site: str) -> int:
    tally = read_tally(session)
    place = [one.code for one in tally.sites].index(site)
    return next(row.cells[place].on_hand for row in tally.rows if row.number == part)


def test_a_good_one_counts_everywhere_and_can_be_fitted(session: Session, clock: Clock, technician: Recorded) -> None:
    where = bench(session, "ssd")
    site, unit = recovers(session, clock, where)
    before, shown, everything = usable(session, where.part), cell(session, where.part, site), units(session)
    record_test(session, where.part, site, unit, "good", technician)
    assert usable(session, where.part) == before + 1
    assert cell(session, where.part, site) == shown + 1
    row = next(row for row in read_shelf(session, where.part, site, is_lead=True).recovered if row.id == unit)
    assert (row.tested_as, row.tag) == ("good", where.tag)
    assert row.age_days > 0
    again = LineRequest(where.position_id, "replaced", where.part, site, source="harvested")
    record_incident(
        session, incident(where, lines=[again], finding="upgrade", confirmed=frozenset({"duplicate"})), clock=clock, author_id=2
    )
    assert usable(session, where.part) == before
    assert units(session) == everything
    assert breaks(session) == []


def test_a_worn_one_is_scrapped(session: Session, clock: Clock, technician: Recorded) -> None:
    where = bench(session, "ssd")
    site, unit = recovers(session, clock, where)
    before, scrapped = usable(session, where.part), in_bucket(session, where.part, "scrapped")
    record_test(session, where.part, site, unit, "worn", technician)
    act = session.scalar(text("SELECT max(id) FROM stock_act WHERE act = 'tested_worn'"))
    with pytest.raises(Refused, match="what a test showed is not undone"):
        undo(session, int(act or 0), "it was the other one", technician)
    assert usable(session, where.part) == before
    assert in_bucket(session, where.part, "scrapped") == scrapped + 1
    assert unit not in {row.id for row in read_shelf(session, where.part, site, is_lead=True).recovered}
    assert breaks(session) == []


def test_what_was_scrapped_since_counts_no_more(session: Session, clock: Clock, technician: Recorded, lead: Recorded) -> None:
    where = bench(session, "ssd")
    site, unit = recovers(session, clock, where)
    before = usable(session, where.part)
    record_test(session, where.part, site, unit, "good", technician)
    held = in_bucket(session, where.part, "harvested", site=site)
    do(session, MoveRequest(where.part, site, "scrap_harvested", held, "water in the box"), lead)
    assert usable(session, where.part) == before


def test_packs_are_never_stock_again(session: Session, clock: Clock, technician: Recorded) -> None:
    where = bench(session, "battery")
    site, unit = recovers(session, clock, where)
    with pytest.raises(Refused, match="never stock again"):
        record_test(session, where.part, site, unit, "good", technician)
    session.execute(text("UPDATE unit SET tested_on = '2026-11-01', tested_as = 'good' WHERE id = :u"), {"u": unit})
    assert where.part not in {
        session.scalar(text("SELECT number FROM part WHERE id = :p"), {"p": part})
        for part, _ in unit_rows.tested_good(session, ["battery"])
    }


def test_what_cannot_be_tested_is_said(session: Session, clock: Clock, technician: Recorded) -> None:
    where = bench(session, "ssd")
    site, unit = recovers(session, clock, where)
    with pytest.raises(Refused, match="good or worn was wanted"):
        record_test(session, where.part, site, unit, "fine", technician)
    record_test(session, where.part, site, unit, "good", technician)
    with pytest.raises(Refused, match="it was tested already: good"):
        record_test(session, where.part, site, unit, "worn", technician)
    with pytest.raises(NotFound, match="no recovered unit"):
        record_test(session, where.part, site, 10**6, "good", technician)
