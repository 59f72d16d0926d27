"""What is due, and the calendar that is made of it."""

from __future__ import annotations

from datetime import timedelta

from icalendar import Calendar
from sqlalchemy.orm import Session

from almanac.services.agenda import AHEAD, Due, DueGroup, due_today, read_agenda
from almanac.services.calendar import calendar_of
from almanac.services.clock import Clock
from almanac.store.models import Role

COMES = Due(DueGroup.RECEIVE, "2 OF-P14 arrive at GUL", "/stores", (Role.LEAD,))


def events(agenda: list[Due], clock: Clock) -> list[tuple[str, str]]:
    body = calendar_of(agenda, Role.LEAD, company="C", today=clock.today, now=clock.now, address="http://127.0.0.1")
    return [(str(one["uid"]), one.decoded("dtstart").isoformat()) for one in Calendar.from_ical(body).walk("VEVENT")]


def test_two_things_that_are_alike_are_two_events(clock: Clock) -> None:
    on = clock.today + timedelta(days=3)
    alike = Due(COMES.group, COMES.words, COMES.path, COMES.whose, on=on)
    found = events([alike, alike, Due(COMES.group, COMES.words, COMES.path, COMES.whose, on=on + timedelta(days=1))], clock)
    assert len({name for name, _ in found}) == 3
    assert events([alike, alike], clock) == found[:2]


def test_what_is_late_stands_today_and_what_has_no_day_is_in_no_calendar(clock: Clock) -> None:
    late = Due(COMES.group, COMES.words, COMES.path, COMES.whose, on=clock.today - timedelta(days=9), late=True)
    assert [day for _, day in events([late, COMES], clock)] == [clock.today.isoformat()]
    assert due_today([late, COMES], Role.LEAD, clock.today) == [late, COMES]
    assert due_today([late, COMES], Role.READER, clock.today) == []


def test_the_demos_agenda_is_in_order_and_ends_where_it_says(session: Session, clock: Clock) -> None:
    found = read_agenda(session, clock)
    groups = list(DueGroup)
    assert [groups.index(one.group) for one in found] == sorted(groups.index(one.group) for one in found)
    assert all(one.on is None or one.on <= clock.today + AHEAD for one in found)
    assert all(one.on is not None and one.on < clock.today for one in found if one.late)
    assert not any(one.group is DueGroup.ORDER and Role.TECHNICIAN in one.whose for one in found)


def test_an_empty_company_has_nothing_due_and_nothing_fails(empty_session: Session, clock: Clock) -> None:
    assert read_agenda(empty_session, clock) == []
