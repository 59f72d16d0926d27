"""Placing and receiving orders, beside the API: numbers, days, and that a shelf gets what a receipt says."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused, Stale
from almanac.services.orders import OrderRequest, ReceiptRequest, place_order, receive
from almanac.store import shelves
from tests.services.helpers import in_bucket

PART = "OF-P14"


def test_order_numbers_count_on_within_the_year(session: Session, clock: Clock) -> None:
    first, second = (place_order(session, OrderRequest(PART, number), clock=clock, author_id=1) for number in (2, 3))
    numbers = [shelves.order_of(session, line).number for line in (first, second)]
    assert [int(number.rsplit("-", 1)[1]) for number in numbers] == [11, 12]
    assert all(number.startswith("PO-2026-") for number in numbers)


def test_an_order_goes_to_the_depot_and_is_expected_after_the_median_lead_time(session: Session, clock: Clock) -> None:
    line = place_order(session, OrderRequest(PART, 1), clock=clock, author_id=1)
    assert line.expected_on == clock.today + timedelta(days=21)
    depot = session.scalar(text("SELECT id FROM site WHERE is_depot"))
    assert shelves.order_of(session, line).site_id == depot
    chosen = place_order(session, OrderRequest(PART, 2, date(2026, 12, 24)), clock=clock, author_id=1)
    assert chosen.expected_on == date(2026, 12, 24)


def test_what_can_no_longer_be_bought_cannot_be_ordered(session: Session, clock: Clock) -> None:
    session.execute(text("UPDATE part SET end_of_supply_on = '2026-10-31' WHERE number = :n"), {"n": PART})
    with pytest.raises(Refused, match="can no longer be bought since 31 Oct 2026"):
        place_order(session, OrderRequest(PART, 1), clock=clock, author_id=1)


def test_without_a_depot_nothing_can_be_delivered(session: Session, clock: Clock) -> None:
    session.execute(text("UPDATE site SET is_depot = false"))
    with pytest.raises(Refused, match="no site is the depot"):
        place_order(session, OrderRequest(PART, 1), clock=clock, author_id=1)


def test_receipts_add_up_on_the_shelf(session: Session, clock: Clock) -> None:
    before = in_bucket(session, PART, "on_hand")
    line = place_order(session, OrderRequest(PART, 5), clock=clock, author_id=1)
    for version, quantity in ((1, 2), (2, 3)):
        receive(session, line.id, ReceiptRequest(quantity, clock.today, version), clock=clock, author_id=2)
    assert in_bucket(session, PART, "on_hand") == before + 5
    assert shelves.received(session, line.id) == 5
    assert line.id not in {left.id for left in shelves.open_lines(session)}
    lots = session.scalars(text("SELECT lot FROM stock_move WHERE receipt_id IS NOT NULL ORDER BY id")).all()
    assert set(lots) == {shelves.order_of(session, line).number}


@pytest.mark.parametrize(
    ("request_", "message"),
    [
        (ReceiptRequest(6, date(2026, 11, 1), 1), "5 are still to come"),
        (ReceiptRequest(0, date(2026, 11, 1), 1), "5 are still to come"),
        (ReceiptRequest(1, date(2026, 11, 2), 1), "2 Nov 2026 is in the future"),
        (ReceiptRequest(1, date(2026, 10, 31), 1), "it cannot arrive before"),
    ],
)
def test_a_receipt_that_cannot_be(session: Session, clock: Clock, request_: ReceiptRequest, message: str) -> None:
    line = place_order(session, OrderRequest(PART, 5), clock=clock, author_id=1)
    with pytest.raises(Refused, match=message):
        receive(session, line.id, request_, clock=clock, author_id=2)
    assert shelves.received(session, line.id) == 0


def test_two_people_cannot_receive_the_same_parts(session: Session, clock: Clock) -> None:
    line = place_order(session, OrderRequest(PART, 5), clock=clock, author_id=1)
    receive(session, line.id, ReceiptRequest(5, clock.today, 1), clock=clock, author_id=2)
    with pytest.raises(Stale, match="changed meanwhile"):
        receive(session, line.id, ReceiptRequest(5, clock.today, 1), clock=clock, author_id=1)
