"""Packs on shelves: when they are due for a charge, and that nobody's silence makes them charged."""

from __future__ import annotations

from datetime import timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.stores.read import read_tally
from almanac.services.stores.top_ups import TopUp, top_up, top_ups

PACK, SITE = "OB-P14-60", "TER"
LONG = timedelta(days=10_000)


def of(session: Session, clock: Clock, number: str = PACK, site: str = SITE) -> TopUp:
    return next(one for one in top_ups(session, clock, within=LONG) if (one.part_number, one.site) == (number, site))


def test_the_pack_charged_the_longest_ago_decides(session: Session, clock: Clock, technician: Recorded) -> None:
    first = of(session, clock)
    assert first.due_on is not None
    top_up(session, PACK, SITE, technician)
    assert of(session, clock).due_on == clock.today + timedelta(days=180)
    assert session.scalar(text("SELECT count(*) FROM stock_act WHERE act = 'topped_up'")) == 1


def test_what_is_due_within_the_month_is_listed_and_what_is_not_is_not(session: Session, clock: Clock) -> None:
    listed = top_ups(session, clock)
    assert all(one.due_on is None or one.due_on <= clock.today + timedelta(days=30) for one in listed)
    assert {(one.part_number, one.site) for one in listed} <= {(one.part_number, one.site) for one in top_ups(session, clock, within=LONG)}
    assert {one.part_number[1] for one in listed} <= {"B"}  # packs alone


def test_of_what_nobody_knows_nothing_is_assumed(session: Session, clock: Clock, technician: Recorded) -> None:
    session.execute(text("UPDATE part SET shelf_life_days = NULL WHERE number = :n"), {"n": PACK})
    session.expire_all()
    assert of(session, clock).due_on is None
    assert (PACK, SITE) in {(one.part_number, one.site) for one in top_ups(session, clock)}
    top_up(session, PACK, SITE, technician)
    assert of(session, clock).due_on == clock.today + timedelta(days=180)


def test_the_company_says_how_often(session: Session, clock: Clock, technician: Recorded) -> None:
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('company', '', 'top_up_days', 1, '60', '2026-01-01', now())""")
    )
    top_up(session, PACK, SITE, technician)
    assert of(session, clock).due_on == clock.today + timedelta(days=60)


def test_what_is_due_stands_in_the_week(session: Session, clock: Clock) -> None:
    due = [one for one in top_ups(session, clock) if one.due_on is not None and one.due_on < clock.today + timedelta(days=7)]
    words = {item.words for item in read_tally(session).week}
    assert {f"charge {one.quantity} {one.part_number} at {one.site}" for one in due} <= words


def test_only_packs_that_lie_there_are_charged(session: Session, technician: Recorded, lead: Recorded, clock: Clock) -> None:
    with pytest.raises(Refused, match="OF-P14 is no pack"):
        top_up(session, "OF-P14", SITE, technician)
    do(session, MoveRequest(PACK, SITE, "scrap", of(session, clock).quantity, "cleared"), lead)
    with pytest.raises(Refused, match="none lies at Ternhaven"):
        top_up(session, PACK, SITE, technician)
