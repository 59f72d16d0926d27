"""What an accepted alarm does to lives: a lot becomes a pool of its own, or evidence from before a day is left out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from almanac.core.life.life_data import NOT_KNOWN, Lives

NO_LOT = 0
"""The lot of lives that are in no lot of their own."""


@dataclass(frozen=True)
class Discounted:
    """Lives count from a day on: of some part, and of one model, duty or some sites alone where those are named.

    since : day, as `Lives.last_day` counts · sites : ids, empty for all
    """

    part: int
    since: int
    model: int | None = None
    duty: int | None = None
    sites: tuple[int, ...] = ()


@dataclass(frozen=True)
class OwnLot:
    """Parts made on a day are a lot of their own. number : tells it apart, above 0"""

    part: int
    made: int
    number: int


Accepted = tuple[Discounted | OwnLot, ...]


def accepted(lives: Lives, decided: Sequence[Discounted | OwnLot]) -> Lives:
    """Lives as they count once some alarms were accepted.

    Parameters
    ----------
    lives : of any parts · decided : in any order; of two days that bear on a life the later holds

    Returns
    -------
    Lives : those that ended before their day are gone, others come under observation on it; a lot's have its number
    """
    if not decided:
        return lives
    lot = np.full(lives.part.size, NO_LOT, dtype=np.int64)
    since = np.full(lives.part.size, NOT_KNOWN, dtype=np.int64)
    for one in decided:
        if isinstance(one, OwnLot):
            lot[(lives.part == one.part) & (lives.made == one.made)] = one.number
        else:
            own = _of(lives, one)
            since[own] = np.maximum(since[own], one.since)
    cut = since != NOT_KNOWN
    # Ages run with the days: the age on that day is the last age less the days since.
    age_then = lives.exit_age - (lives.last_day - since)
    entry = np.where(cut, np.maximum(lives.entry_age, age_then), lives.entry_age)
    fresh = np.where(cut & (age_then > lives.exit_age - lives.age_days), 0, lives.fresh)
    return _kept(replace(lives, lot=lot, entry_age=entry, fresh=fresh), ~cut | (lives.last_day > since))


def since_of(decided: Sequence[Discounted | OwnLot], part: int, model: int, duty: int, site: int) -> int | None:
    """The day from which one life counts, the latest of those that bear on it; None where none does."""
    days = [
        one.since
        for one in decided
        if isinstance(one, Discounted)
        and one.part == part
        and one.model in (None, model)
        and one.duty in (None, duty)
        and (not one.sites or site in one.sites)
    ]
    return max(days, default=None)


def _of(lives: Lives, one: Discounted) -> NDArray[np.bool_]:
    own = lives.part == one.part
    if one.model is not None:
        own &= lives.model == one.model
    if one.duty is not None:
        own &= lives.duty == one.duty
    if one.sites:
        own &= np.isin(lives.site, one.sites)
    return np.asarray(own)


def _kept(lives: Lives, kept: NDArray[np.bool_]) -> Lives:
    return Lives(*(getattr(lives, name)[kept] for name in lives.__dataclass_fields__))
