"""The event simulation: days in which parts arrive, machines ask, boats leave and shelves are reviewed, in that order.

All parts and runs are played side by side; what happens on a day is looked at only where it happens.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from almanac.core.errors import ContractError
from almanac.core.rehearsal.expiry import Expiry
from almanac.core.rehearsal.plan import Change, Ints, PlayedPolicies, Requests, Start
from almanac.core.rehearsal.tally import YEAR_DAYS, Record, Tally

__all__ = ["YEAR_DAYS", "Record", "play"]
Told = Callable[[int, int], None]


def play(
    policies: PlayedPolicies,
    requests: Requests,
    start: Start,
    *,
    days: int,
    seed: int,
    counts_from: int | Ints = 0,
    watched: tuple[int, ...] = (),
    changes: tuple[Change, ...] = (),
    told: Told | None = None,
) -> Record:
    """Play policies forward. The same requests come under the same seed, whatever is done about them, so that differences are sharp.

    Parameters
    ----------
    policies : of p parts · requests : a day, (p, 1 + j, n) · start : the first day · days : to play, > 0 · seed : of the draws
    counts_from : first day that counts, of all parts or (p,) of each · watched : days whose evening stock is kept
    changes : of reorder points and levels, on later days
    told : is called with the day and all days, to say how far it is, or to raise

    Returns
    -------
    Record

    Raises
    ------
    ContractError : tables whose sizes differ, or no day that counts

    References
    ----------
    Law (2015), Simulation Modeling and Analysis, chapters 1, 9 and 11 (common random numbers).
    """
    shape = (policies.parts, 1 + policies.sites)
    if any(rates.shape[:2] != shape for rates in requests.rates):
        raise ContractError(f"rates: tables for {shape[0]} parts at {shape[1]} places were wanted")
    first = np.broadcast_to(np.asarray(counts_from, dtype=np.int64), (policies.parts,))
    if policies.parts and not 0 <= int(first.min()) <= int(first.max()) < days:
        raise ContractError(f"counts_from: a day before the last of {days} was wanted, got {int(first.max())}")
    game = _Game(policies, requests, start, seed, Tally((*shape, requests.rates[0].shape[2]), days, first))
    for day in range(days):
        if told is not None and day % 16 == 0:
            told(day, days)
        for change in changes:
            if change.day == day:
                game.change(change)
        game.play(day)
        if day + 1 in watched:
            game.tally.seen.append(game.stock())
    return game.tally.record()


class _Game:
    """The state of all runs. Cells of (part, place, run) are numbered in one row."""

    def __init__(self, policies: PlayedPolicies, requests: Requests, start: Start, seed: int, tally: Tally) -> None:
        self.policies, self.requests, self.tally, days = policies, requests, tally, tally.last
        # Requests have draws of their own: what is done about them does not change them.
        self.asking, self.draws = np.random.default_rng([seed, 0]), np.random.default_rng([seed, 1])
        self.parts, self.places, self.runs = requests.rates[0].shape
        p, n = self.parts, self.runs
        self.on_hand = np.zeros((p, self.places, n), dtype=np.int64)
        self.on_hand[:, 0] = start.depot[:, None]
        self.on_hand[:, 1:] = start.sites[:, :, None]
        self.owed_by_depot = np.zeros((p, self.places, n), dtype=np.int64)
        self.owed_by_depot[:, 0] = np.maximum(-start.depot, 0)[:, None]
        self.on_hand[:, 0] = np.maximum(self.on_hand[:, 0], 0)
        # What a site has yet to get to stand at its level was asked of the depot before the first day.
        self.to_load = np.zeros((p, self.places, n), dtype=np.int64)
        self.under_way = np.zeros((p, n), dtype=np.int64)
        self.position = np.repeat((start.depot + _arriving(start, p))[:, None], n, axis=1)
        horizon = days + int(policies.lead_days.max(initial=0)) + 2
        self.deliveries: list[list[tuple[Ints, Ints]]] = [[] for _ in range(horizon)]
        self.boats: list[list[tuple[Ints, Ints]]] = [[] for _ in range(days + int(policies.lane.max(initial=0)) + 2)]
        self._started(start)
        self.phase_review = self._phase(policies.review[:, None], (p, n), policies.first_review)
        self.phase_boat = self._phase(policies.every[:, :, None], (p, self.places - 1, n), policies.first_boat)
        lives = policies.lives
        self.expiry = Expiry(lives.days if lives else np.zeros(p, dtype=np.int64), start, (p, n), days)
        self.expiry.asked += self._owed()
        self.table = -1

    def _phase(self, period: Ints, shape: tuple[int, ...], first: Ints | None) -> Ints:
        """Days until the first review or boat, drawn where nobody says."""
        if first is not None:
            return np.broadcast_to(first[..., None], shape)
        return np.asarray(np.floor(self.draws.random(shape) * np.maximum(period, 1)).astype(np.int64))

    def _started(self, start: Start) -> None:
        runs = np.arange(self.runs)
        for day, part, quantity in start.arrivals:
            if day < len(self.deliveries):
                self.deliveries[day].append((part * self.runs + runs, np.full(self.runs, quantity)))
        level_gap = self.policies.level - start.sites
        for day, part, site, quantity in start.boats:
            level_gap[part, site] -= quantity
            self.under_way[part] += quantity
            if day < len(self.boats):
                self.boats[day].append(((part * self.places + site + 1) * self.runs + runs, np.full(self.runs, quantity)))
        gap = np.maximum(level_gap, 0)
        self.owed_by_depot[:, 1:] += gap[:, :, None]
        self.position -= gap.sum(axis=1)[:, None]
        # A site that stands above its level asks for nothing until it is back at it.
        self.spare = np.repeat(np.maximum(-level_gap, 0)[:, :, None], self.runs, axis=2)
        self._serve(np.arange(self.parts * self.runs))

    def play(self, day: int) -> None:
        self.tally.begin(day)
        self._expire(day)
        self._arrive(day)
        before = self._owed()
        self._ask(day)
        self._sail(day)
        self._review(day)
        self.tally.evening(self.on_hand, self.under_way, (before, self._owed()))

    def _expire(self, day: int) -> None:
        """What expired unused is taken off the shelves, the depot's first; a site asks for another in its place."""
        if not self.expiry.expires:
            return
        part, run, lost = self.expiry.lost_on(day, self._owed())
        left = lost.copy()
        for place in range(self.places):
            taken = np.minimum(left, np.maximum(self.on_hand[part, place, run], 0))
            self.on_hand[part, place, run] -= taken
            left -= taken
            if place > 0:
                kept = np.minimum(self.spare[part, place - 1, run], taken)
                self.spare[part, place - 1, run] -= kept
                self.owed_by_depot[part, place, run] += taken - kept
                self.position[part, run] -= taken - kept
            else:
                self.position[part, run] -= taken
        self.expiry.gone(part, run, lost - left)
        self.tally.scrap(part, run, lost - left)

    def _owed(self) -> Ints:
        """(p, n) machines that wait."""
        return np.asarray(np.maximum(-self.on_hand[:, 1:], 0).sum(axis=1) + self.owed_by_depot[:, 0])

    def change(self, change: Change) -> None:
        """Keep other levels: what a site keeps more it asks the depot for, what it keeps less it uses up first."""
        more = change.level - self.policies.level
        self.policies = replace(self.policies, s=change.s, level=change.level)
        gain, less = np.maximum(more, 0)[:, :, None], np.maximum(-more, 0)[:, :, None]
        used = np.minimum(self.spare, gain)
        self.spare += less - used
        self.owed_by_depot[:, 1:] += gain - used
        self.position -= (gain - used).sum(axis=1)
        self._serve(np.arange(self.parts * self.runs))

    def stock(self) -> Ints:
        """(p, n) parts on all shelves and on boats, less machines that wait."""
        return np.asarray(self.on_hand.sum(axis=1) + self.under_way - self.owed_by_depot[:, 0])

    def _arrive(self, day: int) -> None:
        for cells, quantity in self.boats[day]:
            np.add.at(self.on_hand.reshape(-1), cells, quantity)
            np.subtract.at(self.under_way.reshape(-1), self._stock_of(cells), quantity)
        self.boats[day] = []
        touched = []
        for stocks, quantity in self.deliveries[day]:
            np.add.at(self.on_hand.reshape(-1), self._depot_of(stocks), quantity)
            if self.expiry.expires:
                self.expiry.came(day, stocks, quantity)
            touched.append(stocks)
        self.deliveries[day] = []
        if touched:
            self._serve(np.unique(np.concatenate(touched)))

    def _stock_of(self, cells: Ints) -> Ints:
        """Row of (part, run) of cells of (part, place, run)."""
        return np.asarray(cells // (self.places * self.runs) * self.runs + cells % self.runs)

    def _depot_of(self, stocks: Ints) -> Ints:
        """Cells of the depot of rows of (part, run)."""
        return np.asarray(stocks // self.runs * (self.places * self.runs) + stocks % self.runs)

    def _ask(self, day: int) -> None:
        """Machines ask where they stand; a site asks the depot for one the moment it uses one."""
        self._take_table(day)
        wanted = self.asking.poisson(self.total)
        if wanted == 0:
            return
        drawn = np.searchsorted(self.cumulative, self.asking.random(wanted) * self.total, side="right")
        cells, count = np.unique(np.minimum(drawn, self.cumulative.size - 1), return_counts=True)
        place = cells // self.runs % self.places
        flat = self.on_hand.reshape(-1)
        met = np.clip(np.minimum(flat[cells], count), 0, None)
        self.tally.requests(cells, count, met)
        if self.expiry.expires:
            self.expiry.wanted(self._stock_of(cells), count)
        self._ask_sites(cells[place > 0], count[place > 0])
        own, taken = cells[place == 0], met[place == 0]
        flat[own] -= taken
        self.owed_by_depot.reshape(-1)[own] += count[place == 0] - taken
        stocks = self._stock_of(cells[place == 0])
        self.position.reshape(-1)[stocks] -= count[place == 0]
        self._serve(np.unique(self._stock_of(cells)))

    def _ask_sites(self, cells: Ints, count: Ints) -> None:
        self.on_hand.reshape(-1)[cells] -= count
        spare_cells = self._site_cell(cells)
        kept = np.minimum(self.spare.reshape(-1)[spare_cells], count)
        self.spare.reshape(-1)[spare_cells] -= kept
        self.owed_by_depot.reshape(-1)[cells] += count - kept
        np.subtract.at(self.position.reshape(-1), self._stock_of(cells), count - kept)

    def _site_cell(self, cells: Ints) -> Ints:
        """Cells of (part, site, run) of cells of (part, place, run)."""
        part, rest = np.divmod(cells, self.places * self.runs)
        return np.asarray(part * ((self.places - 1) * self.runs) + rest - self.runs)

    def _take_table(self, day: int) -> None:
        table = int(np.searchsorted(self.requests.from_day, day, side="right")) - 1
        if table != self.table:
            self.table = table
            self.cumulative = np.cumsum(self.requests.rates[table].reshape(-1))
            self.total = float(self.cumulative[-1])

    def _serve(self, stocks: Ints) -> None:
        """What the depot has goes to whom it is owed, first come first served: at random among those who came alike."""
        part, run = np.divmod(stocks, self.runs)
        free = self.on_hand[part, 0, run]
        owed = self.owed_by_depot[part, :, run]
        some = (free > 0) & (owed.sum(axis=1) > 0)
        part, run, free, owed = part[some], run[some], free[some], owed[some]
        if part.size == 0:
            return
        given = _shared_out(owed, np.minimum(free, owed.sum(axis=1)), self.draws)
        self.owed_by_depot[part, :, run] -= given
        self.on_hand[part, 0, run] -= given.sum(axis=1)
        self.to_load[part, 1:, run] += given[:, 1:]
        self.under_way[part, run] += given[:, 1:].sum(axis=1)

    def _sail(self, day: int) -> None:
        if self.places == 1:
            return
        every = np.maximum(self.policies.every, 1)[:, :, None]
        leaving = ((day + 1 - self.phase_boat) % every == 0) & (self.to_load[:, 1:] > 0)
        part, site, run = np.nonzero(leaving)
        if part.size == 0:
            return
        quantity = self.to_load[part, site + 1, run]
        self.to_load[part, site + 1, run] = 0
        arrives = day + 1 + self.policies.lane[part, site]
        cells = (part * self.places + site + 1) * self.runs + run
        for when in np.unique(arrives[arrives < len(self.boats)]):
            chosen = arrives == when
            self.boats[when].append((cells[chosen], quantity[chosen]))

    def _review(self, day: int) -> None:
        s, lot = self.policies.s[:, None], self.policies.lot[:, None]
        due = ((day + 1 - self.phase_review) % self.policies.review[:, None] == 0) & (self.position <= s)
        if self.policies.last_order is not None:
            due &= day <= self.policies.last_order[:, None]
        part, run = np.nonzero(due)
        if part.size == 0:
            return
        lots = -(-(s[part, 0] + 1 - self.position[part, run]) // lot[part, 0])
        quantity = lots * lot[part, 0]
        if self.policies.lives is not None:
            quantity = self.policies.lives.cut(part, quantity, self._held(part, run))
        self.position[part, run] += quantity
        self.tally.orders_placed(part, run, quantity)
        lead = self._leads(part)
        stocks = part * self.runs + run
        arrives = day + 1 + lead
        for when in np.unique(arrives[arrives < len(self.deliveries)]):
            chosen = arrives == when
            self.deliveries[when].append((stocks[chosen], quantity[chosen]))

    def _leads(self, part: Ints) -> Ints:
        drawn = self.draws.random(part.size)
        place = (drawn[:, None] >= self.policies.lead_cumulative[part]).sum(axis=1)
        return np.asarray(self.policies.lead_days[part, np.minimum(place, self.policies.lead_days.shape[1] - 1)])

    def _held(self, part: Ints, run: Ints) -> Ints:
        """(r,) on hand and on order at all places, less what is owed."""
        sites = self.policies.level[part].sum(axis=1) + self.spare[part, :, run].sum(axis=1)
        return np.asarray(np.maximum(self.position[part, run] + sites, 0))


def _arriving(start: Start, parts: int) -> Ints:
    found = np.zeros(parts, dtype=np.int64)
    for _, part, quantity in start.arrivals:
        found[part] += quantity
    return found


def _shared_out(owed: Ints, given: Ints, draws: np.random.Generator) -> Ints:
    """(r, j) of what is owed (r, j) that is given (r,): any of it as likely as any other, place by place hypergeometric."""
    found = np.zeros_like(owed)
    left, rest = given.copy(), owed.sum(axis=1)
    all_of_it = left >= rest
    found[all_of_it] = owed[all_of_it]
    rows = np.flatnonzero(~all_of_it)
    for place in range(owed.shape[1]):
        good = owed[rows, place]
        drawn = draws.hypergeometric(good, rest[rows] - good, left[rows])
        found[rows, place] = drawn
        left[rows] -= drawn
        rest[rows] -= good
    return found
