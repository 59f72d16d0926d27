"""Windows of one length by the day they begin on: worked out on some days, and mixed from the two around it on any other.

From day to day the law of a window changes evenly, save where units come or go or something planned is due. Those days are among
the ones worked out, so that what lies between two of them is never a matter of what else was asked for.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Days = NDArray[np.int64]
STEP_DAYS, STEP_FOLLOWED_DAYS = 7, 2
"""So that what is mixed is off by a few ten-thousandths, as the tables are, and by 0.001 just before a third of the units leave."""


def exact_days(length: int, every: int, last: int, *, bends: Days, jumps: Days, also: Days) -> Days:
    """Days on which windows of a length are worked out.

    Parameters
    ----------
    length : days · every : days from one to the next, >= 1 · last : no window begins later
    bends : days on which what happens begins to change otherwise
    jumps : days whose own events make a law another one · also : more days on which windows are to begin

    Returns
    -------
    (d,) rising days from 1 on

    Raises
    ------
    Nothing.
    """
    # A window that begins or ends on the day before does not hold what happens on the day.
    edges = np.concatenate((bends, jumps, jumps - 1))
    days = np.unique(np.concatenate((np.arange(1, last + 1, every), also, edges, edges - length)))
    return days[(days >= 1) & (days <= last)].astype(np.int64)


def days_around(days: Days, day: int) -> list[tuple[int, float]]:
    """The worked-out days on both sides of a day, with the shares that make it up; the day itself where it is one, or past the last.

    Parameters
    ----------
    days : (d,) rising · day : from 1 on

    Returns
    -------
    list of day and share

    Raises
    ------
    Nothing.
    """
    after = int(np.searchsorted(days, day))
    if after in (0, days.size) or days[after] == day:
        return [(day, 1.0)]
    before, later = int(days[after - 1]), int(days[after])
    share = (day - before) / (later - before)
    return [(before, 1.0 - share), (later, share)]
