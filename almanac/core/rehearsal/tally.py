"""What is counted while policies are played."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core import checks
from almanac.core.rehearsal.plan import Ints

YEAR_DAYS = 365
QUARTERS = 4
"""Of a year, of which money is told."""


def quarter_of(day: int) -> int:
    """The quarter of a year of 365 days that a day lies in, counted on through the years."""
    return day * QUARTERS // YEAR_DAYS


@dataclass(frozen=True)
class Record:
    """What was counted from the first day that counts for a part, by part and run (p, n), requests by place (p, 1 + j, n).

    asked, met · waiting : machine-days · held : part-days on hand and under way to sites · ready : days with one on the shelf, by place
    orders : reviews at which an order left · ordered, scrapped : parts · years_waited : years in which anybody waited for a part
    years_any : (n,) the same for any of them · days : (p,) that count
    stock : (w, p, n) parts on all shelves less machines that wait, on the evenings that were watched
    before_asked, before_met, before_waiting : before the first day that counts: the hole one starts in
    orders_by_quarter, ordered_by_quarter : (q, p, n) from the very first day on
    """

    asked: Ints
    met: Ints
    waiting: checks.Floats
    held: checks.Floats
    ready: Ints
    orders: Ints
    ordered: Ints
    scrapped: Ints
    years_waited: Ints
    years_any: Ints
    days: Ints
    stock: Ints
    before_asked: Ints
    before_met: Ints
    before_waiting: checks.Floats
    orders_by_quarter: Ints
    ordered_by_quarter: Ints


class Tally:
    """The counters of a game. Cells of (part, place, run) are numbered in one row."""

    def __init__(self, shape: tuple[int, int, int], days: int, counts_from: Ints) -> None:
        p, _, n = shape
        self.shape, self.counts_from, self.last = shape, counts_from, days
        self.asked, self.met, self.ready = (np.zeros(shape, dtype=np.int64) for _ in range(3))
        self.orders, self.ordered, self.scrapped, self.years_waited = (np.zeros((p, n), dtype=np.int64) for _ in range(4))
        self.before_asked, self.before_met = (np.zeros((p, n), dtype=np.int64) for _ in range(2))
        self.waiting, self.held, self.before_waiting = (np.zeros((p, n)) for _ in range(3))
        self.waited_in, self.any_in = np.full((p, n), -1, dtype=np.int64), np.full(n, -1, dtype=np.int64)
        self.years_any = np.zeros(n, dtype=np.int64)
        quarters = quarter_of(days - 1) + 1
        self.orders_by_quarter, self.ordered_by_quarter = (np.zeros((quarters, p, n), dtype=np.int64) for _ in range(2))
        self.seen: list[Ints] = []
        self.begin(0)

    def begin(self, day: int) -> None:
        """A day begins: which parts count on it, and which of their years it is."""
        self.day, self.counts = day, day >= self.counts_from
        self.all_count, self.none_counts = bool(self.counts.all()), not self.counts.any()
        self.year = (day - self.counts_from) // YEAR_DAYS

    def requests(self, cells: Ints, asked: Ints, met: Ints) -> None:
        """Requests at cells, each named once."""
        part = cells // (self.shape[1] * self.shape[2])
        now = self.counts[part]
        for tally, before, count in ((self.asked, self.before_asked, asked), (self.met, self.before_met, met)):
            tally.reshape(-1)[cells[now]] += count[now]
            if not self.all_count:
                np.add.at(before.reshape(-1), part[~now] * self.shape[2] + cells[~now] % self.shape[2], count[~now])

    def orders_placed(self, part: Ints, run: Ints, quantity: Ints) -> None:
        """Orders that leave, each part and run named once."""
        quarter = quarter_of(self.day)
        self.orders_by_quarter[quarter, part, run] += 1
        self.ordered_by_quarter[quarter, part, run] += quantity
        now = self.counts[part]
        self.orders[part[now], run[now]] += 1
        self.ordered[part[now], run[now]] += quantity[now]

    def scrap(self, part: Ints, run: Ints, quantity: Ints) -> None:
        """Parts that expired on a shelf."""
        now = self.counts[part]
        self.scrapped[part[now], run[now]] += quantity[now]

    def evening(self, on_hand: Ints, under_way: Ints, owed: tuple[Ints, Ints]) -> None:
        """A day ends. A day's waiting is that of its morning and its evening, halved: requests come all day long.

        Parameters
        ----------
        on_hand : (p, places, n) · under_way : (p, n) to sites · owed : (p, n) machines that wait in the morning and in the evening
        """
        before, after = owed
        waiting = (before + after) / 2.0
        if not self.all_count:
            self.before_waiting += np.where(self.counts[:, None], 0.0, waiting)
        if self.none_counts:
            return
        rows = slice(None) if self.all_count else np.flatnonzero(self.counts)
        self.waiting[rows] += waiting[rows]
        self.held[rows] += np.maximum(on_hand[rows], 0).sum(axis=1) + under_way[rows]
        self.ready[rows] += on_hand[rows] > 0
        waits, year = after[rows] > 0, self.year[rows][:, None]
        self.years_waited[rows] += waits & (self.waited_in[rows] < year)
        self.waited_in[rows] = np.where(waits, year, self.waited_in[rows])
        if self.all_count:
            latest = int(self.year.min())
            anybody = waits.any(axis=0)
            self.years_any += anybody & (self.any_in < latest)
            self.any_in = np.where(anybody, latest, self.any_in)

    def record(self) -> Record:
        """All that was counted."""
        p, _, n = self.shape
        return Record(
            self.asked, self.met, self.waiting, self.held, self.ready, self.orders, self.ordered, self.scrapped, self.years_waited,
            self.years_any, self.last - self.counts_from, np.stack(self.seen) if self.seen else np.zeros((0, p, n), dtype=np.int64),
            self.before_asked, self.before_met, self.before_waiting, self.orders_by_quarter, self.ordered_by_quarter,
        )  # fmt: skip
