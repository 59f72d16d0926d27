"""What is due as a calendar that other programs read (RFC 5545)."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, date, datetime, timedelta
from hashlib import sha256

from icalendar import Calendar, Event

from almanac.services.agenda import Due
from almanac.store.models import Role

PRODUCT = "-//Parts Almanac//Due//EN"


def calendar_of(agenda: list[Due], role: Role, *, company: str, today: date, now: datetime, address: str) -> bytes:
    """Everything dated that is for a role, a day-long event each; what is late stands today and says so.

    Parameters
    ----------
    address : of the almanac, for links, without a slash at its end
    """
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", f"Parts Almanac, {company}")
    calendar.add("refresh-interval", timedelta(hours=1), parameters={"value": "DURATION"})
    alike: Counter[Due] = Counter()
    for one in agenda:
        if one.on is not None and role in one.whose:
            calendar.add_component(_event(one, alike[one], max(one.on, today), now, address))
            alike[one] += 1
    return bytes(calendar.to_ical())


def _event(one: Due, place: int, on: date, now: datetime, address: str) -> Event:
    """place : among those that are alike in all they say"""
    event = Event()
    # The same thing has the same name from one reading to the next, so that it is not doubled.
    name = sha256(f"{one.group}|{one.path}|{one.words}|{one.on}|{place}".encode()).hexdigest()[:32]
    event.add("uid", f"{name}@parts-almanac")
    event.add("dtstamp", now.astimezone(UTC))
    event.add("dtstart", on)
    event.add("dtend", on + timedelta(days=1))
    event.add("summary", f"Late: {one.words}" if one.late else one.words)
    where = f"{address}{one.path}"
    event.add("description", f"{one.more}\n{where}" if one.more else where)
    event.add("url", where)
    event.add("transp", "TRANSPARENT")
    if one.site:
        event.add("location", one.site)
    return event
