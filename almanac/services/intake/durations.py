"""Spans of time as people write them: 21, 3 weeks, 18-25 Tage, 2 ans."""

from __future__ import annotations

import re

from almanac.services.intake.columns import plain

UNITS = (
    (1, ("d", "day", "days", "tag", "tage", "tagen", "jour", "jours", "j")),
    (7, ("w", "wk", "week", "weeks", "woche", "wochen", "kw", "semaine", "semaines", "sem")),
    (30, ("month", "months", "mon", "monat", "monate", "monaten", "mois")),
    (365, ("y", "yr", "year", "years", "jahr", "jahre", "jahren", "an", "ans", "annee", "annees")),
)
SPAN = re.compile(r"^\D*?(\d{1,4})(?:\s*(?:-|–|to|bis|a|à)\s*(\d{1,4}))?\s*([^\d]*)$", re.IGNORECASE)
LONGEST = 20_000


def span_of(text: str, header: str = "") -> tuple[int, int] | None:
    """(least, most) days; None where it is no span.

    Parameters
    ----------
    text : as it stands in a cell · header : of its column, which may name the unit
    """
    match = SPAN.match(text.strip())
    if match is None:
        return None
    unit = _unit(match[3]) or _unit(header) or 1
    least, most = int(match[1]) * unit, int(match[2] or match[1]) * unit
    return (least, most) if 0 < least <= most <= LONGEST else None


def _unit(text: str) -> int | None:
    said = set(plain(text).split())
    return next((days for days, words in UNITS if said & set(words)), None)
