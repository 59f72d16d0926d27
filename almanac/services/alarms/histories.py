"""Lives on the calendar of stock parts, known by keys of their content: read again only of parts whose lives were written."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from datetime import date
from functools import partial

from sqlalchemy.orm import Session

from almanac.core.answers.encode import key_of
from almanac.core.answers.question import Named
from almanac.core.life.accepted import Accepted, OwnLot
from almanac.core.life.alarms.history import History, history
from almanac.services.answers.ask import content, keep, look_up
from almanac.store.life_data import note_lives, read_lives
from almanac.store.marks import database_number, life_marks

VERSION = 1
KEYS, CONTENT = "histories", "history"


def read_histories(session: Session, parts: Collection[int], *, as_of: date, decided: Mapping[int, Accepted]) -> dict[int, Named]:
    """The History of each part number.

    Parameters
    ----------
    as_of : the last day · decided : accepted alarms by part number; of them only lots that are pools of their own matter here: a chart
        shows what was seen, also before the day from which evidence counts
    """
    note_lives()
    lots = {part: tuple(one for one in own if isinstance(one, OwnLot)) for part, own in decided.items()}
    at = (database_number(session), as_of)
    asked = {key_of((KEYS, VERSION, part, mark, at, lots.get(part, ()))): part for part, mark in life_marks(session, parts).items()}
    keys: dict[int, str] = {asked[key]: found for key, found in look_up(session, dict.fromkeys(asked, (KEYS, str))).items()}
    missing = {part: key for key, part in asked.items() if part not in keys}
    for part, own in _read(session, list(missing), as_of, lots).items():
        keys[part] = key_of((CONTENT, VERSION, own))
        keep(session, keys[part], CONTENT, VERSION, own, 0.0)
        keep(session, missing[part], KEYS, VERSION, keys[part], 0.0)
    again = partial(_again, session, as_of, lots)
    return {
        part: Named(key, fetch=partial(content, session, key, (CONTENT, VERSION, History), partial(again, part)))
        for part, key in keys.items()
    }


def _again(session: Session, as_of: date, lots: Mapping[int, Accepted], part: int) -> History:
    return _read(session, [part], as_of, lots)[part]


def _read(session: Session, parts: list[int], as_of: date, lots: Mapping[int, Accepted]) -> dict[int, History]:
    if not parts:
        return {}
    decided = tuple(one for part in parts for one in lots.get(part, ()))
    lives = read_lives(session, parts, as_of=as_of, decided=decided, made=True)
    return {part: history(lives.of(part)) for part in parts}
