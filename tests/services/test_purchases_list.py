"""A list of purchases: lead times are learned from it, what is open is under way, and what was counted is not booked twice."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.settled import Settled
from almanac.services.orders.arrivals import ReceiptRequest, receive
from almanac.store import orders, shelves
from tests.services.stocks import PART, shelf_at
from tests.services.ugly import LIST_ON, as_csv

HEADER = ["Bestellung", "Artikelnummer", "Menge", "Bestelldatum", "Wareneingang", "Preis"]


def request(rows: list[list[str]], on: date = LIST_ON, **settled: object) -> ListRequest:
    return ListRequest("Purchasing", "Einkauf.csv", as_csv(rows, HEADER), on, Settled(**settled))  # type: ignore[arg-type]


def apply(session: Session, clock: Clock, asked: ListRequest) -> int:
    return apply_list(session, asked, look_at(session, asked, clock=clock).digest, clock=clock, author_id=1)


def of(looked: Looked, group: Group) -> list[Change]:
    return [change for change in looked.difference.changes if change.group is group]


def german(day: date) -> str:
    return f"{day:%d.%m.%Y}"


def coming(session: Session) -> int:
    part = session.execute(text("SELECT id FROM part WHERE number = :n"), {"n": PART}).scalar()
    return sum(line.remaining for line in shelves.open_lines(session, part_id=part))


def test_old_orders_teach_lead_times_and_open_ones_are_under_way(session: Session, clock: Clock) -> None:
    since = LIST_ON - timedelta(days=700)
    before, there, way = len(orders.deliveries(session, since=since, today=LIST_ON)), shelf_at(session, "ELD"), coming(session)
    rows = [
        ["B-1", PART, "4", "02.03.2026", "20.03.2026", "19,90"],
        ["B-2", PART, "5", german(LIST_ON - timedelta(days=3)), "", "19,90"],
    ]
    looked = look_at(session, request(rows), clock=clock)
    assert looked.subject.kind == "purchases"
    first, second = of(looked, Group.NEW)
    assert "arrived on" in first.words
    assert "under way, expected on" in second.words
    number = apply(session, clock, request(rows))
    assert len(orders.deliveries(session, since=since, today=LIST_ON)) == before + 2
    assert shelf_at(session, "ELD") == there
    assert coming(session) == way + 5
    assert look_at(session, request(rows), clock=clock).difference.done == []
    assert undo_list(session, number, clock=clock, author_id=1) == (2, ["B-1"])
    assert len(orders.deliveries(session, since=since, today=LIST_ON)) == before
    assert coming(session) == way


def test_an_arrival_is_booked_unless_the_shelf_was_counted_since(session: Session, clock: Clock) -> None:
    placed = LIST_ON - timedelta(days=20)
    apply(session, clock, request([["B-3", PART, "5", german(placed), "", ""]], on=LIST_ON - timedelta(days=2)))
    there, way = shelf_at(session, "ELD"), coming(session)
    rows = [["B-3", PART, "5", german(placed), german(LIST_ON), ""]]
    (change,) = of(look_at(session, request(rows), clock=clock), Group.CHANGED)
    assert change.values["books"]
    number = apply(session, clock, request(rows))
    assert (shelf_at(session, "ELD"), coming(session)) == (there + 5, way - 5)
    undo_list(session, number, clock=clock, author_id=1)
    assert (shelf_at(session, "ELD"), coming(session)) == (there, way)
    session.execute(
        text("""INSERT INTO stock_count (shelf_id, booked, counted, reason, state, counted_on, recorded_at)
                SELECT h.id, 0, 0, '', 'booked', :day, now() FROM shelf h JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id
                WHERE p.number = :part AND s.code = 'ELD'"""),
        {"part": PART, "day": LIST_ON},
    )
    (change,) = of(look_at(session, request(rows), clock=clock), Group.CHANGED)
    assert not change.values["books"]
    apply(session, clock, request(rows))
    assert (shelf_at(session, "ELD"), coming(session)) == (there, way - 5)


def test_what_never_arrived_is_not_under_way_for_ever(session: Session, clock: Clock) -> None:
    (change,) = look_at(session, request([["B-4", PART, "5", "02.03.2023", "", ""]]), clock=clock).difference.changes
    assert change.group is Group.UNUSABLE
    assert "no arrival is said" in change.words


def test_what_cannot_be_a_purchase_is_told(session: Session, clock: Clock) -> None:
    day = german(LIST_ON - timedelta(days=9))
    rows = [
        ["B-5", PART, "5", day, german(LIST_ON - timedelta(days=12)), ""],
        ["B-6", PART, "2,5", day, "", ""],
        ["", PART, "5", day, "", ""],
        ["B-7", PART, "5", german(LIST_ON + timedelta(days=1)), "", ""],
        ["B-8", "Stapler", "5", day, "", ""],
        ["B-9", PART, "5", day, "", ""],
        ["B-9", PART, "5", day, "", ""],
    ]
    looked = look_at(session, request(rows), clock=clock)
    told = {change.subject: change.words for change in of(looked, Group.UNUSABLE)}
    assert "not between" in told["B-5"]
    assert told["B-6"].startswith("2,5 parts")
    assert told[""] == "it has no number"
    assert "after the list's day" in told["B-7"]
    assert [one.text for one in looked.understood.questions] == ["Stapler"]
    assert [change.subject for change in of(looked, Group.WAITS)] == ["B-8"]
    assert len(of(looked, Group.TWICE)) == 1
    assert [change.subject for change in of(looked, Group.NEW)] == [f"B-9, {PART}"]


def test_another_quantity_than_on_record_and_a_line_received_since(session: Session, clock: Clock) -> None:
    placed = LIST_ON - timedelta(days=5)
    number = apply(session, clock, request([["B-10", PART, "5", german(placed), "", ""]]))
    (change,) = look_at(session, request([["b-10", PART, "6", german(placed), "", ""]]), clock=clock).difference.changes
    assert change.words == "6 by the list, 5 by the record: correct the order"
    line = session.execute(
        text("SELECT l.id, l.version FROM purchase_line l JOIN purchase_order o ON o.id = l.order_id WHERE o.number = 'B-10'")
    ).one()
    receive(session, line.id, ReceiptRequest(2, LIST_ON, line.version), clock=clock, author_id=1)
    with pytest.raises(Refused, match="B-10 was received or cancelled since"):
        undo_list(session, number, clock=clock, author_id=1)


def test_what_arrived_since_the_last_list_is_booked_and_what_came_before_is_not(session: Session, clock: Clock) -> None:
    placed = german(LIST_ON - timedelta(days=40))
    apply(session, clock, request([["B-11", PART, "5", placed, german(LIST_ON - timedelta(days=20)), ""]], on=LIST_ON - timedelta(days=5)))
    rows = [
        ["B-12", PART, "5", placed, german(LIST_ON - timedelta(days=9)), ""],
        ["B-13", PART, "5", placed, german(LIST_ON - timedelta(days=1)), ""],
    ]
    first, second = of(look_at(session, request(rows), clock=clock), Group.NEW)
    assert (first.values["books"], second.values["books"]) == (False, True)
    assert "not booked on the shelf" in first.words
    there = shelf_at(session, "ELD")
    apply(session, clock, request(rows))
    assert shelf_at(session, "ELD") == there + 5
