"""What the company decided about alarms."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.alarms.watch import FALSE_A_YEAR
from almanac.services.clock import Clock
from almanac.services.company_settings import Decision, decisions

WORDS = {"false_alarms": "All charts together may speak without cause so often a year"}


def alarm_settings(session: Session, clock: Clock) -> list[Decision]:
    """Every decision about alarms."""
    return decisions(session, clock, WORDS, {"false_alarms": FALSE_A_YEAR})
