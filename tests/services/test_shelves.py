"""What stands on the shelves: free stock, what is on its way and when, and what expires first."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.stock.quantity import Lot
from almanac.services.clock import Clock
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.inputs import Inputs, read_inputs
from almanac.services.outlook.shelves import expired, holding_of, horizon_days, lots_of, on_hand, promised, review_days_of, usable
from almanac.store.planning import StockPart
from tests.services.looks import rows_under

PACK = "OB-P14-60"


def part_of(inputs: Inputs, number: str) -> StockPart:
    return next(part for part in inputs.parts if part.number == number)


def shelf(session: Session, number: str, site: str) -> int:
    query = "SELECT h.id FROM shelf h JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id WHERE p.number = :n AND s.code = :s"
    return session.scalar(text(query), {"n": number, "s": site}) or 0


def move(session: Session, number: str, site: str, quantity: int, *, made_on: Any = None) -> None:
    session.execute(
        text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, made_on, recorded_at)
                VALUES (:shelf, 'on_hand', :quantity, 'counted', '2026-10-31', :made, now())"""),
        {"shelf": shelf(session, number, site), "quantity": quantity, "made": made_on},
    )


def decide(session: Session, key: str, value: str) -> None:
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('kind', 'battery', :key, 90, :value, '2026-11-01', now())"""),
        {"key": key, "value": value},
    )


def test_sites_add_up_to_what_is_on_hand(session: Session) -> None:
    inputs = read_inputs(session)
    for part in inputs.parts:
        assert on_hand(inputs, part.id) == sum(on_hand(inputs, part.id, {site.id}) for site in inputs.sites)
        assert promised(inputs, part.id) == sum(promised(inputs, part.id, {site.id}) for site in inputs.sites)
        assert sum(lot.quantity for lot in lots_of(inputs, part)) == usable(inputs, part.id)
        assert usable(inputs, part.id) + expired(inputs, part.id) == on_hand(inputs, part.id)


def test_what_is_promised_is_not_free(session: Session) -> None:
    before, _ = holding_of(inputs := read_inputs(session), part_of(inputs, PACK))
    session.execute(
        text("INSERT INTO reservation (shelf_id, quantity, reserved_on) VALUES (:shelf, 2, '2026-10-30')"),
        {"shelf": shelf(session, PACK, "ELD")},
    )
    after, _ = holding_of(inputs := read_inputs(session), part_of(inputs, PACK))
    assert after.available == before.available - 2
    assert after.arrivals == before.arrivals


def test_a_delivery_comes_on_its_day_and_an_overdue_one_after_a_review(session: Session, clock: Clock) -> None:
    before, late_before = holding_of(inputs := read_inputs(session), part_of(inputs, PACK))
    place_order(session, OrderRequest(PACK, 8, clock.today + timedelta(days=11)), clock=clock, author_id=1)
    ordered, _ = holding_of(inputs := read_inputs(session), part_of(inputs, PACK))
    assert ordered.on_order == before.on_order + 8
    assert (11, 8) in {(arrival.day, arrival.quantity) for arrival in ordered.arrivals}
    session.execute(text("UPDATE purchase_line SET expected_on = '2026-10-20' WHERE id = (SELECT max(id) FROM purchase_line)"))
    overdue, late = holding_of(inputs := read_inputs(session), part_of(inputs, PACK))
    assert late == late_before + 8
    assert (review_days_of(inputs, part_of(inputs, PACK)), 8) in {(arrival.day, arrival.quantity) for arrival in overdue.arrivals}


def test_one_site_sees_its_own_shelf_and_deliveries(session: Session, clock: Clock) -> None:
    place_order(session, OrderRequest(PACK, 8), clock=clock, author_id=1)
    depot = read_inputs(session, site_code="ELD")
    outpost = read_inputs(session, site_code="TER")
    assert holding_of(depot, part_of(depot, PACK))[0].on_order >= 8
    assert holding_of(outpost, part_of(outpost, PACK))[0].on_order == 0
    assert on_hand(outpost, part_of(outpost, PACK).id) == on_hand(outpost, part_of(outpost, PACK).id, outpost.site_ids)


@pytest.mark.parametrize(("key", "value"), [("floor", 3), ("review_days", 7)])
def test_settings_of_the_kind_are_kept_to(session: Session, key: str, value: int) -> None:
    decide(session, key, str(value))
    inputs = read_inputs(session)
    pack, fan = part_of(inputs, PACK), part_of(inputs, "OF-P14")
    if key == "floor":
        assert (holding_of(inputs, pack)[0].floor, holding_of(inputs, fan)[0].floor) == (3, 0)
    else:
        assert (review_days_of(inputs, pack), review_days_of(inputs, fan)) == (7, 14)


def test_the_oldest_goes_first_and_no_more_than_is_there(session: Session, clock: Clock) -> None:
    inputs = read_inputs(session)
    pack = part_of(inputs, PACK)
    assert pack.shelf_life_days is not None
    there = on_hand(inputs, pack.id)
    move(session, PACK, "ELD", 5, made_on=clock.today - timedelta(days=100))
    move(session, PACK, "ELD", -5)
    move(session, PACK, "ELD", 2, made_on=clock.today - timedelta(days=10))
    lots = lots_of(inputs := read_inputs(session), part_of(inputs, PACK))
    assert sum(lot.quantity for lot in lots) == there + 2
    assert Lot(2, pack.shelf_life_days - 10) in lots
    days = [lot.expires_day if lot.expires_day is not None else 10**6 for lot in lots]
    assert days == sorted(days)


def test_parts_that_do_not_expire_are_one_lot(session: Session) -> None:
    inputs = read_inputs(session)
    fan = part_of(inputs, "OF-P14")
    assert lots_of(inputs, fan) == [Lot(on_hand(inputs, fan.id), None)]


def test_expired_packs_are_no_stock(session: Session) -> None:
    before, _ = holding_of(inputs := read_inputs(session), part_of(inputs, PACK))
    line = {line.part.number: line for line in rows_under(session, inputs)}[PACK]
    move(session, PACK, "ELD", 6, made_on="2019-05-01")
    after = read_inputs(session)
    holding, _ = holding_of(after, part_of(after, PACK))
    pack = part_of(after, PACK)
    # The shelf holds the youngest of what it received: six more on it than before, six of them of 2019.
    assert expired(after, pack.id) == 6
    assert usable(after, pack.id) == usable(inputs, pack.id)
    assert holding.available == before.available
    then = {line.part.number: line for line in rows_under(session, after)}[PACK]
    assert (then.expired, then.on_hand) == (6, line.on_hand)
    assert then.plan is not None
    assert line.plan is not None
    assert (then.plan.todo, then.plan.order_at, then.quantity) == (line.plan.todo, line.plan.order_at, line.quantity)


def test_a_lot_can_be_used_on_its_last_day(session: Session, clock: Clock) -> None:
    inputs = read_inputs(session)
    pack = part_of(inputs, PACK)
    assert pack.shelf_life_days is not None
    move(session, PACK, "ELD", 3, made_on=clock.today - timedelta(days=pack.shelf_life_days))
    assert expired(read_inputs(session), pack.id) == 0
    move(session, PACK, "ELD", 2, made_on=clock.today - timedelta(days=pack.shelf_life_days + 1))
    assert expired(read_inputs(session), pack.id) == 2


def test_an_arrival_dated_beyond_the_horizon_is_clamped_where_it_is_read(session: Session, clock: Clock) -> None:
    line = place_order(session, OrderRequest("OF-P14", 4), clock=clock, author_id=1)
    session.execute(text("UPDATE purchase_line SET expected_on = '9999-12-31' WHERE id = :l"), {"l": line.id})
    holding, _ = holding_of(inputs := read_inputs(session), part_of(inputs, "OF-P14"))
    assert max(arrival.day for arrival in holding.arrivals) == horizon_days(inputs) < 4000
    assert OutlookBuilder(session, inputs).row(part_of(inputs, "OF-P14")).plan is not None
