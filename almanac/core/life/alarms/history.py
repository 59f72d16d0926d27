"""Lives on the calendar: when parts of a lot, a model and a site were born, came under watch, left, and whether they failed then."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core.life.life_data import CONFIRMED, OPEN, Ints, Lives, summed
from almanac.core.life.outcomes import DEAD_ON_ARRIVAL_DAYS


@dataclass(frozen=True)
class History:
    """Lives alike of one part, (n,) columns; days on the calendar.

    model, site : ids · duty : code · lot : a lot that is a pool of its own, 0 for none · made : day it was made, NOT_KNOWN
    born : on which its age was nothing; of an age that is only known as a span, its middle · enter, leave : under watch
    units, confirmed, open : how many, and how many of them failed on the day they left
    """

    model: Ints
    duty: Ints
    site: Ints
    lot: Ints
    made: Ints
    born: Ints
    enter: Ints
    leave: Ints
    units: Ints
    confirmed: Ints
    open: Ints


def history(lives: Lives) -> History:
    """Lives on the calendar, those alike together.

    Parameters
    ----------
    lives : of one part

    Returns
    -------
    History : watched from the days of dead on arrival on; who died in them is in no wear-out rate, nor here
    """
    early = lives.age_days <= DEAD_ON_ARRIVAL_DAYS
    begins = np.maximum(lives.entry_age, DEAD_ON_ARRIVAL_DAYS)
    own = lives.exit_age > begins
    born = lives.last_day - lives.exit_age
    columns = (lives.model, lives.duty, lives.site, lives.lot, lives.made, born + lives.age_span // 2, born + begins, lives.last_day)
    failed = [((lives.finding == code) & ~early)[own].astype(np.int64) for code in (CONFIRMED, OPEN)]
    keys, sums = summed([column[own] for column in columns], (np.ones(int(own.sum()), dtype=np.int64), *failed))
    return History(*keys, *sums)
