"""The day everything is counted from: a variable of the environment, else the company's setting, else today."""

from __future__ import annotations

import os
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from almanac.store.settings import Settings, settings_on

VARIABLE = "ALMANAC_AS_OF"
FAR_FUTURE = date(9999, 1, 1)


@dataclass(frozen=True)
class Clock:
    """`today` is the as-of day; `now` the moment records are stamped with."""

    today: date
    now: datetime


def read_clock(session: Session) -> Clock:
    """The clock of one request. A fixed day keeps the hour of the real one, so that records stay in order.

    Raises
    ------
    ValueError : the variable or the setting is no ISO date
    """
    settings = settings_on(session, FAR_FUTURE)
    return clock_of(settings)


def clock_of(settings: Settings) -> Clock:
    """The clock for settings already read."""
    zone = ZoneInfo(settings.value("time_zone", default="UTC"))
    real = datetime.now(zone)
    fixed = os.environ.get(VARIABLE) or settings.value("as_of_day")
    if not fixed:
        return Clock(real.date(), real.astimezone(UTC))
    day = date.fromisoformat(fixed)
    return Clock(day, datetime.combine(day, time(real.hour, real.minute, real.second, real.microsecond), zone).astimezone(UTC))


def day_ends(session: Session) -> datetime:
    """The moment from which today is another day; far ahead where a fixed day holds."""
    settings = settings_on(session, FAR_FUTURE)
    if os.environ.get(VARIABLE) or settings.value("as_of_day"):
        return datetime(9999, 1, 1, tzinfo=UTC)
    zone = ZoneInfo(settings.value("time_zone", default="UTC"))
    return datetime.combine(datetime.now(zone).date() + timedelta(days=1), time(), zone).astimezone(UTC)
