"""Slow, obvious second implementations of shelves: one event after another, in continuous time."""

from __future__ import annotations

import heapq
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Seen:
    """Requests met at once, overall and by place (the depot first), and machine-days of waiting a year."""

    fill: float
    fills: list[float]
    waiting: float
    orders: float
    requests: int


def one_shelf(rate: float, leads: Sequence[tuple[int, float]], review: float, s: int, lot: int, *, years: float, seed: int) -> Seen:
    """A shelf that is reviewed every so many days, its orders drawn from the lead times."""
    return depot_and_sites(rate, [], [], leads, review, s, lot, [], years=years, seed=seed)


def depot_and_sites(
    own: float,
    rates: Sequence[float],
    lanes: Sequence[tuple[float, float]],
    leads: Sequence[tuple[int, float]],
    review: float,
    s: int,
    lot: int,
    levels: Sequence[int],
    *,
    years: float,
    seed: int,
    warm_up: float = 2.0,
) -> Seen:
    """A depot that serves first come first served, and sites that ask it for one whenever they use one."""
    return _Walk(own, rates, lanes, leads, review, s, lot, levels, years, seed, warm_up).seen()


class _Walk:
    """One event after another; events are (time, what, place, quantity): 0 a boat arrives, 1 a delivery, 2 a departure, 3 a review."""

    def __init__(self, own, rates, lanes, leads, review, s, lot, levels, years, seed, warm_up) -> None:  # type: ignore[no-untyped-def]
        self.draws = np.random.default_rng(seed)
        self.rates = np.array([own, *rates])
        self.lanes, self.review, self.s, self.lot, self.years = lanes, review, s, lot, years
        self.days, self.weights = [day for day, _ in leads], [weight for _, weight in leads]
        self.end, self.start = (years + warm_up) * 365.0, warm_up * 365.0
        self.depot = self.position = s + lot
        self.stock, self.load = list(levels), [0] * len(levels)
        self.queue: deque[int] = deque()
        self.met, self.asked = np.zeros(self.rates.size), np.zeros(self.rates.size)
        self.waiting = self.last = 0.0
        self.orders = 0
        self.events: list[tuple[float, int, int, int]] = [(self.draws.uniform(0, review), 3, 0, 0)]
        self.events += [(self.draws.uniform(0, every), 2, place, 0) for place, (_, every) in enumerate(lanes)]
        heapq.heapify(self.events)

    def seen(self) -> Seen:
        count = self.draws.poisson(self.rates.sum() * self.end)
        times = np.sort(self.draws.uniform(0, self.end, count))
        places = self.draws.choice(self.rates.size, count, p=self.rates / self.rates.sum())
        for now, place in zip(times, places, strict=True):
            while self.events[0][0] < now:
                self.happens(*heapq.heappop(self.events))
            self.passes(now)
            self.asks(now, int(place))
        fills = [float(one / max(all_, 1)) for one, all_ in zip(self.met, self.asked, strict=True)]
        return Seen(
            float(self.met.sum() / self.asked.sum()), fills, self.waiting / self.years, self.orders / self.years, int(self.asked.sum())
        )

    def passes(self, now: float) -> None:
        owed = sum(max(-on_shelf, 0) for on_shelf in self.stock) + sum(place == 0 for place in self.queue)
        self.waiting += owed * max(now - max(self.last, self.start), 0.0)
        self.last = now

    def asks(self, now: float, place: int) -> None:
        self.position -= 1
        self.asked[place] += now > self.start
        there = self.depot > 0 if place == 0 else self.stock[place - 1] > 0
        self.met[place] += now > self.start and there
        if place:
            self.stock[place - 1] -= 1
        self.queue.append(place)
        self.serves()

    def serves(self) -> None:
        while self.depot > 0 and self.queue:
            self.depot -= 1
            place = self.queue.popleft()
            if place:
                self.load[place - 1] += 1

    def happens(self, now: float, what: int, place: int, quantity: int) -> None:
        self.passes(now)
        if what == 3:
            self.reviews(now)
        elif what == 2:
            heapq.heappush(self.events, (now + self.lanes[place][0], 0, place, self.load[place]))
            self.load[place] = 0
            heapq.heappush(self.events, (now + self.lanes[place][1], 2, place, 0))
        elif what == 1:
            self.depot += quantity
            self.serves()
        else:
            self.stock[place] += quantity

    def reviews(self, now: float) -> None:
        if self.position <= self.s:
            quantity = -(-(self.s + 1 - self.position) // self.lot) * self.lot
            self.position += quantity
            self.orders += now > self.start
            heapq.heappush(self.events, (now + self.draws.choice(self.days, p=self.weights), 1, 0, quantity))
        heapq.heappush(self.events, (now + self.review, 3, 0, 0))
