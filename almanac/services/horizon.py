"""How far ahead days can lie that somebody expects or plans something for."""

from __future__ import annotations

from datetime import date, timedelta

from almanac.services.clock import Clock
from almanac.services.words import day as day_words
from almanac.store.settings import Settings

YEARS = 10


def horizon_days_of(settings: Settings) -> int:
    """Days from today to the furthest day anything is planned for [cfg, ten years]."""
    return round(365.25 * float(settings.value("horizon_years", default=YEARS)))


def beyond_horizon(day: date, clock: Clock, settings: Settings) -> str | None:
    """What is wrong with a day too far ahead; None for one within reach."""
    last = clock.today + timedelta(days=horizon_days_of(settings))
    if day <= last:
        return None
    return f"{day_words(day)} is too far ahead: name a day up to {day_words(last)}"
