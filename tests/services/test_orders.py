"""Placing and receiving orders, beside the API: numbers, days, and that a shelf gets what a receipt says."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError, IntegrityError
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NeedsConfirmation, NotFound, Refused, Stale
from almanac.services.orders.arrivals import ReceiptRequest, receive
from almanac.services.orders.lines import CancelRequest, cancel
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.store import shelves
from tests.services.helpers import in_bucket

PART = "OF-P14"


def test_order_numbers_count_on_within_the_year(session: Session, clock: Clock) -> None:
    first, second = (place_order(session, OrderRequest(PART, number), clock=clock, author_id=1) for number in (2, 3))
    numbers = [shelves.order_of(session, line).number for line in (first, second)]
    before = int(
        session.scalar(
            text("SELECT max(right(number, 3)) FROM purchase_order WHERE number < :n AND number LIKE 'PO-2026-%'"), {"n": numbers[0]}
        )
    )
    assert [int(number.rsplit("-", 1)[1]) for number in numbers] == [before + 1, before + 2]
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
    lots = session.scalars(
        text("SELECT m.lot FROM stock_move m JOIN receipt r ON r.id = m.receipt_id WHERE r.line_id = :l"), {"l": line.id}
    ).all()
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


def test_an_order_beyond_the_horizon_is_refused(session: Session, clock: Clock) -> None:
    with pytest.raises(Refused, match="too far ahead: name a day up to 31 Oct 2036") as caught:
        place_order(session, OrderRequest(PART, 2, date(9999, 12, 31)), clock=clock, author_id=1)
    assert [fault.field for fault in caught.value.faults] == ["expected_on"]
    assert place_order(session, OrderRequest(PART, 2, date(2036, 10, 31)), clock=clock, author_id=1).id


def test_the_same_order_again_on_one_day_is_asked_about(session: Session, clock: Clock) -> None:
    first = place_order(session, OrderRequest(PART, 7), clock=clock, author_id=1)
    number = shelves.order_of(session, first).number
    with pytest.raises(NeedsConfirmation, match=f"were ordered today already .{number}."):
        place_order(session, OrderRequest(PART, 7), clock=clock, author_id=1)
    assert place_order(session, OrderRequest(PART, 7, confirmed=frozenset({"again"})), clock=clock, author_id=1).id != first.id
    cancel(session, first.id, CancelRequest(7, "typed twice", 1), clock=clock, author_id=1)


def test_what_is_cancelled_comes_no_more_and_says_why(session: Session, clock: Clock) -> None:
    line = place_order(session, OrderRequest(PART, 5), clock=clock, author_id=1)
    receive(session, line.id, ReceiptRequest(2, clock.today, 1), clock=clock, author_id=2)
    for request, message in (
        (CancelRequest(4, "sold out", 2), "3 are still to come"),
        (CancelRequest(1, "  ", 2), "say why they will not come"),
    ):
        with pytest.raises(Refused, match=message):
            cancel(session, line.id, request, clock=clock, author_id=1)
    cancel(session, line.id, CancelRequest(3, "sold out", 2), clock=clock, author_id=1)
    assert [open_.id for open_ in shelves.open_lines(session) if open_.id == line.id] == []
    assert session.execute(text("SELECT quantity, reason FROM cancellation WHERE line_id = :l"), {"l": line.id}).one() == (3, "sold out")
    with pytest.raises(Stale):
        cancel(session, line.id, CancelRequest(1, "again", 2), clock=clock, author_id=1)
    with pytest.raises(NotFound):
        cancel(session, 10**6, CancelRequest(1, "none", 1), clock=clock, author_id=1)
    with pytest.raises(DBAPIError, match="append-only"), session.begin_nested():
        session.execute(text("DELETE FROM cancellation"))


@pytest.mark.parametrize(
    ("made_on", "message"),
    [(date(2026, 11, 2), "it was made before it arrived"), (date(2020, 1, 1), "it is no stock"), (date(2026, 10, 1), None)],
)
def test_days_of_manufacture_lie_in_the_past_and_within_shelf_life(
    session: Session, clock: Clock, made_on: date, message: str | None
) -> None:
    session.execute(text("UPDATE part SET shelf_life_days = 365 WHERE number = :n"), {"n": PART})
    session.expire_all()
    line = place_order(session, OrderRequest(PART, 5), clock=clock, author_id=1)
    request = ReceiptRequest(5, clock.today, 1, made_on)
    if message is None:
        receive(session, line.id, request, clock=clock, author_id=2)
        return
    with pytest.raises(Refused, match=message) as caught:
        receive(session, line.id, request, clock=clock, author_id=2)
    assert [fault.field for fault in caught.value.faults] == ["made_on"]


def test_no_bucket_falls_below_nothing_whoever_writes_the_move(session: Session, clock: Clock) -> None:
    line = place_order(session, OrderRequest(PART, 5), clock=clock, author_id=1)
    receive(session, line.id, ReceiptRequest(5, clock.today, 1), clock=clock, author_id=2)
    row = session.execute(
        text(
            "SELECT b.shelf_id, b.quantity FROM shelf_balance b JOIN shelf h ON h.id = b.shelf_id WHERE h.part_id = :p AND b.bucket = 'on_hand' AND b.quantity > 4"
        ),
        {"p": line.part_id},
    ).first()
    assert row is not None
    take = text("""INSERT INTO stock_move (shelf_id, bucket, quantity, cause, moved_on, recorded_at)
                   VALUES (:shelf, 'on_hand', :quantity, 'counted', '2026-11-01', now())""")
    with pytest.raises(IntegrityError, match="ck_shelf_balance_not_negative"), session.begin_nested():
        session.execute(take, {"shelf": row.shelf_id, "quantity": -row.quantity - 1})
    session.execute(take, {"shelf": row.shelf_id, "quantity": -row.quantity})
    sums = "SELECT shelf_id, bucket, sum(quantity)::integer FROM stock_move GROUP BY 1, 2 ORDER BY 1, 2"
    kept = "SELECT shelf_id, bucket, quantity FROM shelf_balance ORDER BY 1, 2"
    assert session.execute(text(sums)).all() == session.execute(text(kept)).all()
