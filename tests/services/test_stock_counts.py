"""Shelves counted: with a reason, by a second person where it is dear, and in their turn."""

from __future__ import annotations

from dataclasses import replace

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.errors import NotFound, Refused
from almanac.services.stores import counts
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.stores.count_sheet import count_lines
from almanac.services.stores.read import read_shelf
from almanac.store.models import StockCount
from tests.services.stocks import PART, shelf_at


def test_a_count_is_booked_with_its_reason_and_a_dear_one_waits_for_another_person(session: Session, technician: Recorded) -> None:
    held = shelf_at(session, "ELD")
    assert counts.count_shelf(session, counts.CountRequest(PART, "ELD", held, place="B-2"), technician).state == "booked"
    plate = read_shelf(session, PART, "ELD", is_lead=False)
    assert (plate.place, plate.last_counted) == ("B-2", technician.clock.today)
    with pytest.raises(Refused, match=f"{held} are booked: say what may have happened"):
        counts.count_shelf(session, counts.CountRequest(PART, "ELD", held - 1), technician)
    assert counts.count_shelf(session, counts.CountRequest(PART, "ELD", held - 1, "lent out"), technician).state == "booked"
    assert shelf_at(session, "ELD") == held - 1
    dear = counts.count_shelf(session, counts.CountRequest(PART, "ELD", 0, "the box is empty"), technician)
    assert (dear.state, shelf_at(session, "ELD")) == ("waits", held - 1)
    with pytest.raises(Refused, match="waits for a lead"):
        counts.count_shelf(session, counts.CountRequest(PART, "ELD", 1, "again"), technician)
    with pytest.raises(Refused, match="a second person approves"):
        counts.approve(session, dear.id, technician)
    do(session, MoveRequest(PART, "ELD", "found", 2, "under the bench"), technician)
    counts.approve(session, dear.id, replace(technician, author_id=1, is_lead=True))
    assert shelf_at(session, "ELD") == 2
    with pytest.raises(NotFound):
        counts.refuse(session, dear.id, technician)


def test_a_leads_own_dear_difference_waits_for_another_lead_where_there_is_one(session: Session, technician: Recorded) -> None:
    lead = replace(technician, author_id=1, is_lead=True)
    alone = counts.count_shelf(session, counts.CountRequest(PART, "ELD", 0, "the box is empty"), lead)
    assert (alone.state, alone.reason) == ("booked", "the box is empty (booked by its only lead, nobody else looked)")
    cheap = counts.count_shelf(session, counts.CountRequest(PART, "GUL", shelf_at(session, "GUL") + 1, "behind the rack"), lead)
    assert cheap.reason == "behind the rack"
    session.execute(text("UPDATE \"user\" SET role = 'lead' WHERE id = :id"), {"id": technician.author_id})
    do(session, MoveRequest(PART, "ELD", "found", 40, "under the bench"), lead)
    asked = counts.count_shelf(session, counts.CountRequest(PART, "ELD", 0, "gone again"), lead)
    assert (asked.state, shelf_at(session, "ELD")) == ("waits", 40)
    with pytest.raises(Refused, match="a second person approves"):
        counts.approve(session, asked.id, lead)
    counts.approve(session, asked.id, replace(technician, is_lead=True))
    assert shelf_at(session, "ELD") == 0


def test_a_count_that_is_refused_changes_nothing_and_stays_on_record(session: Session, technician: Recorded) -> None:
    held = shelf_at(session, "ELD")
    dear = counts.count_shelf(session, counts.CountRequest(PART, "ELD", 0, "the box is empty"), technician)
    counts.refuse(session, dear.id, replace(technician, author_id=1))
    assert shelf_at(session, "ELD") == held
    assert session.get_one(StockCount, dear.id).state == "refused"


def test_a_count_sheet_lists_every_shelf_by_place_and_says_which_are_due(session: Session, technician: Recorded) -> None:
    counts.count_shelf(session, counts.CountRequest(PART, "GUL", shelf_at(session, "GUL"), place="A-1"), technician)
    name, lines = count_lines(session, "gul", blind=True)
    assert (name, lines[0].place, lines[0].number, lines[0].due) == ("Gullskerry", "A-1", PART, False)
    assert {line.booked for line in lines} == {""}
    assert {line.last for line in lines[1:]} == {"1 Oct 2026", "never"}
    assert all(line.due for line in lines if line.last == "never")
    assert not all(line.due for line in lines)
    assert [line.number for line in lines[1:]] == sorted(line.number for line in lines[1:])
    _, told = count_lines(session, "GUL", blind=False)
    assert told[0].booked == str(shelf_at(session, "GUL"))
    with pytest.raises(Refused, match="no site has the code XXX"):
        count_lines(session, "XXX", blind=True)
