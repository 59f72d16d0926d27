"""Parts that expire on a shelf: first expired, first out, over all places together."""

from __future__ import annotations

import numpy as np

from almanac.core.rehearsal.plan import Ints, Start


class Expiry:
    """What expires when, by part and run. Parts are taken in the order in which they expire, wherever they lie.

    Of all that will have expired by a day, whatever was handed out before came from it; the rest is lost that day.
    """

    def __init__(self, days: Ints, start: Start, shape: tuple[int, int], horizon: int) -> None:
        self.life, self.runs = days, shape[1]
        self.on_day: list[list[tuple[Ints, Ints]]] = [[] for _ in range(horizon + 1)]
        self.expiring, self.asked, self.lost = (np.zeros(shape, dtype=np.int64) for _ in range(3))
        self.expires = bool(np.any(days > 0)) or bool(start.lots)
        every = np.arange(self.runs)
        for day, part, quantity in start.lots:
            # A lot whose last day is this one is there all day.
            self._put(day + 1, part * self.runs + every, np.full(self.runs, quantity))

    def _put(self, day: int, stocks: Ints, quantity: Ints) -> None:
        if 0 <= day < len(self.on_day):
            self.on_day[day].append((stocks, quantity))

    def came(self, day: int, stocks: Ints, quantity: Ints) -> None:
        """Parts that came from the supplier; stocks are rows of (part, run)."""
        life = self.life[stocks // self.runs]
        for own in np.unique(life[life > 0]):
            rows = life == own
            self._put(day + int(own) + 1, stocks[rows], quantity[rows])

    def wanted(self, stocks: Ints, count: Ints) -> None:
        """Parts that machines asked for."""
        np.add.at(self.asked.reshape(-1), stocks, count)

    def lost_on(self, day: int, waiting: Ints) -> tuple[Ints, Ints, Ints]:
        """(part, run, quantity) of what expired unused; `waiting` : (p, n) machines that have not got theirs yet."""
        if day >= len(self.on_day) or not self.on_day[day]:
            return _NONE, _NONE, _NONE
        for stocks, quantity in self.on_day[day]:
            np.add.at(self.expiring.reshape(-1), stocks, quantity)
        used = self.asked - waiting
        part, run = np.nonzero(self.expiring - used - self.lost > 0)
        return part, run, (self.expiring - used - self.lost)[part, run]

    def gone(self, part: Ints, run: Ints, quantity: Ints) -> None:
        """What was found on the shelves and taken off them."""
        self.lost[part, run] += quantity


_NONE = np.zeros(0, dtype=np.int64)
