"""Life data of stock parts, known by keys of their content: read again only of parts whose lives were written, or on another day."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from functools import cached_property, partial
from typing import Any, NamedTuple

import numpy as np
from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named
from almanac.core.errors import NoEstimate
from almanac.core.life.accepted import Accepted
from almanac.core.life.life_data import AtRisk, Found, Outcomes, Served, ServedSpans, Serving, Spanned, life_data
from almanac.core.life.wear import WearLine, wear_line
from almanac.services.alarms.decided import accepted_of
from almanac.services.answers.ask import content, keep, look_up
from almanac.services.answers.progress import tell
from almanac.services.outlook.fade import read_units, settled_units
from almanac.store.life_data import note_lives, read_lives
from almanac.store.marks import Mark, database_number, life_marks
from almanac.store.readings import Followed, followed_units, note_readings

VERSION = 6
KEYS, LOG, FLEET, READ = "life data", "life data: log", "life data: fleet", "life data: read"


@dataclass(frozen=True)
class PartLog:
    """What the log and time say of a part's lives."""

    outcomes: Outcomes
    at_risk: AtRisk
    found: Found
    spanned: Spanned


@dataclass(frozen=True)
class PartFleet:
    """A part's units in service, and those of them that are followed by readings."""

    serving: Serving
    served: Served
    spans: ServedSpans
    followed: tuple[Followed, ...]

    @cached_property
    def lines(self) -> tuple[WearLine | NoEstimate, ...]:
        """Of each followed unit the line through its readings, by days since the first, or why there is none."""
        return tuple(_line(unit) for unit in self.followed)


def _line(unit: Followed) -> WearLine | NoEstimate:
    first = unit.readings[0].day
    try:
        return wear_line([(reading.day - first).days for reading in unit.readings], [reading.share for reading in unit.readings])
    except NoEstimate as error:
        return error


class LifeKeys(NamedTuple):
    """Keys of the content of both, and what tells whom they concern: models with units in service, and the oldest age there."""

    log: str
    fleet: str
    models: tuple[int, ...]
    oldest_days: float
    followed: str
    settled: str


@dataclass(frozen=True)
class PartLife:
    """Life data of one part number: PartLog and PartFleet by their keys.

    models : with units of it in service · oldest_days : largest age of a group of units in service
    followed, settled : ReadUnit of the fleet's units with readings, and of those that had some earlier; None where none has
    """

    log: Named
    fleet: Named
    models: tuple[int, ...]
    oldest_days: float
    followed: Named | None = None
    settled: Named | None = None


@dataclass(frozen=True)
class _When:
    """The day ages are counted to, the moment it was known at (None: now), and accepted alarms by part number."""

    as_of: date
    known_at: datetime | None
    decided: Mapping[int, Accepted]


def read_life(
    session: Session,
    parts: Collection[int],
    *,
    as_of: date,
    known_at: datetime | None = None,
    decided: Mapping[int, Accepted] | None = None,
) -> dict[int, PartLife]:
    """Life data of some parts.

    Parameters
    ----------
    as_of : the day ages are counted to · known_at : only what was recorded by then; everything by default
    decided : accepted alarms by part number; by default those that held then
    """
    note_lives()
    note_readings()
    when = _When(as_of, known_at, accepted_of(session, known_at=known_at) if decided is None else decided)
    at = (database_number(session), as_of, known_at)
    asked = {_asked(part, mark, at, when.decided.get(part, ())): part for part, mark in life_marks(session, parts).items()}
    keys: dict[int, LifeKeys] = {asked[key]: found for key, found in look_up(session, dict.fromkeys(asked, (KEYS, LifeKeys))).items()}
    missing = {part: key for key, part in asked.items() if part not in keys}
    for part, (log, fleet) in _read(session, list(missing), when).items():
        models, spans = tuple(np.unique(fleet.serving.model).tolist()), fleet.spans
        oldest = max(float(fleet.served.age_days.max(initial=0.0)), float((spans.high + spans.watched).max(initial=0)))
        readings = read_units(fleet.followed, as_of), settled_units(fleet.followed, as_of)
        read = [key_of((READ, VERSION, units)) if units else "" for units in readings]
        keys[part] = LifeKeys(key_of((LOG, VERSION, log)), key_of((FLEET, VERSION, fleet)), models, oldest, *read)
        keep(session, keys[part].log, LOG, VERSION, log, 0.0)
        keep(session, keys[part].fleet, FLEET, VERSION, fleet, 0.0)
        keep(session, missing[part], KEYS, VERSION, keys[part], 0.0)
    fetch = partial(_fetch, session, when=when)
    return {part: _life(own, partial(fetch, part), as_of) for part, own in keys.items()}


def _life(own: LifeKeys, fetch: Callable[[str, str], Any], as_of: date) -> PartLife:
    fleet = Named(own.fleet, fetch=partial(fetch, own.fleet, FLEET))
    followed = Named(own.followed, fetch=lambda: read_units(fleet.content.followed, as_of)) if own.followed else None
    settled = Named(own.settled, fetch=lambda: settled_units(fleet.content.followed, as_of)) if own.settled else None
    return PartLife(Named(own.log, fetch=partial(fetch, own.log, LOG)), fleet, own.models, own.oldest_days, followed, settled)


def _asked(part: int, mark: Mark, at: tuple[int, date, datetime | None], decided: Accepted) -> str:
    return key_of((KEYS, VERSION, part, mark, *at, decided))


def _read(session: Session, parts: list[int], when: _When) -> Mapping[int, tuple[PartLog, PartFleet]]:
    if not parts:
        return {}
    tell("life data", 0, len(parts))
    decided = tuple(one for part in parts for one in when.decided.get(part, ()))
    lives = read_lives(session, parts, as_of=when.as_of, known_at=when.known_at, decided=decided)
    followed: dict[int, list[Followed]] = {part: [] for part in parts}
    for unit in followed_units(session, parts, as_of=when.as_of, known_at=when.known_at, decided=decided):
        followed[unit.row.part_id].append(unit)
    found = {}
    for place, part in enumerate(parts):
        tell("life data", place, len(parts))
        own = life_data(lives.of(part))
        log = PartLog(own.outcomes, own.at_risk, own.found, own.spanned)
        found[part] = log, PartFleet(own.serving, own.served, own.served_spans, tuple(followed[part]))
    return found


def _fetch(session: Session, part: int, key: str, name: str, *, when: _When) -> PartLog | PartFleet:
    if name == LOG:
        return content(session, key, (LOG, VERSION, PartLog), lambda: _read(session, [part], when)[part][0])
    return content(session, key, (FLEET, VERSION, PartFleet), lambda: _read(session, [part], when)[part][1])
