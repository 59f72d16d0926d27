"""The least stock at a depot and its sites that keeps a promise, and the least waiting a budget buys."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import NoEstimate
from almanac.core.network.evaluate import Curves, NetworkFigures, SiteCurve
from almanac.core.network.nodes import Network

MOST_LEVEL, ENOUGH = 20_000, 1e-9
"""No level is looked at above one, or beyond the fill that is as good as whole."""
FLOOR = 0.85
"""Share of requests that every site meets at least where the promise is the company's."""


@dataclass(frozen=True)
class Levels:
    """Levels: the depot orders lots of Q when its position is at or below s; each site is kept at its level."""

    s: int
    sites: tuple[int, ...]

    def total(self, lot: int) -> int:
        """The most parts there are at all places."""
        return self.s + lot + sum(self.sites)


@dataclass(frozen=True)
class Wanted:
    """What is promised. floor : of each site · each : the target holds for every place by itself, not for the company as a whole
    empty : sites at which nothing is kept, and to whom nothing is promised
    """

    target: float
    floor: float = FLOOR
    each: bool = False
    empty: frozenset[int] = frozenset()


def least_levels(network: Network, wanted: Wanted, curves: Curves | None = None) -> tuple[Levels, NetworkFigures]:
    """The least stock that keeps the promise, for every s of the depot from -1 up the sites by dynamic programming.

    Fill is not concave in the levels, so marginal analysis would miss the least by a part or two.

    Parameters
    ----------
    network : the depot, its sites and their rates · wanted : the promise · curves : of the network, where somebody has them already

    Returns
    -------
    (levels, what they give) : of several of equal stock the one that serves best

    Raises
    ------
    ContractError : a target that is no probability · NoEstimate : a promise that no stock keeps

    References
    ----------
    Axsater (2015), Inventory Control, section 10.3; Sherbrooke (2004), Optimal Inventory Modeling of Systems, chapter 3.
    """
    target, floor = checks.probability("target", wanted.target), checks.number("floor", wanted.floor, low=0.0, high=1.0)
    curves = curves or Curves(network)
    least = -1 if float(network.weight @ network.depot) <= 0 else 0
    search = _Search(curves, replace(wanted, target=target, floor=floor))
    search.around(least, curves.all_served)
    if search.best is None:
        raise NoEstimate(f"no stock meets {target:.10g}: the distribution of demand ends before it")
    _, levels = search.best
    return levels, curves.figures(levels.s, levels.sites)


class _Search:
    """The s of least stock: the stock falls and then rises with it, but for a part or two."""

    NEAR = 3
    """So many neighbours of the best are looked at: the curve is not quite smooth. Two missed the least of none of 250 drawn networks."""

    def __init__(self, curves: Curves, wanted: Wanted) -> None:
        self.curves, self.wanted = curves, wanted
        self.known: dict[int, tuple[int, float] | None] = {}
        self.best: tuple[tuple[int, float], Levels] | None = None

    def at(self, s: int) -> tuple[int, float]:
        """(parts, less their fill) of the best sites under an s; no end of parts where none is enough."""
        if s not in self.known:
            found = _sites_at(self.curves, s, self.wanted)
            self.known[s] = None if found is None else (s + sum(found[0]), -found[1])
            rank = self.known[s]
            if found is not None and rank is not None and (self.best is None or rank < self.best[0]):
                self.best = rank, Levels(s, found[0])
        return self.known[s] or (10**9, 0.0)

    def around(self, low: int, high: int) -> None:
        """Look between two s: further apart first, then at the neighbours of the best until none betters it."""
        step = max((high - low) // 8, 1)
        while True:
            looked = sorted({*range(low, high + 1, step), high})
            at = min(looked, key=self.at)
            low, high = max(low, at - step), min(high, at + step)
            if step == 1:
                break
            step = max(step // 3, 1)
        while self.best is not None:
            s = self.best[1].s
            before = self.best[0]
            for near in range(max(s - self.NEAR, -1 if low < 0 else 0), s + self.NEAR + 1):
                self.at(near)
            if self.best[0] == before:
                break


def _sites_at(curves: Curves, s: int, wanted: Wanted) -> tuple[tuple[int, ...], float] | None:
    """The fewest parts at the sites under a depot's s, and the company's fill; None where no level is enough."""
    network, target, floor, each = curves.network, wanted.target, wanted.floor, wanted.each
    served = np.array([place not in wanted.empty for place in range(len(network.lanes))])
    rates = (network.weight @ network.sites) * served
    own = float(network.weight @ network.depot)
    whole = own + float(rates.sum())
    depot = curves.depot_fill(s)
    if own > 0 and depot < (target if each else floor):
        return None
    fills = [fill if kept else np.ones(1) for fill, kept in zip(_fills(curves, s), served, strict=True)]
    lows = [_first(fill, target if each else floor) for fill in fills]
    if any(low is None for low in lows):
        return None
    start = np.array([low for low in lows if low is not None], dtype=np.int64)
    if each or whole <= 0:
        reached = sum(rate * fill[low] for rate, fill, low in zip(rates, fills, start, strict=True)) + own * depot
        return tuple(int(low) for low in start), float(reached / whole) if whole > 0 else 1.0
    return _together(fills, rates / whole, start, target - own * depot / whole, own * depot / whole)


def _fills(curves: Curves, s: int) -> list[checks.Floats]:
    """Fill of each site by its level, up to the first that is as good as whole."""
    most = max((curves.enough(place) for place in range(len(curves.network.lanes))), default=0)
    while True:
        fills = curves.site_fills(s, most)
        whole = fills > 1 - ENOUGH
        if whole[:, -1].all() or most >= MOST_LEVEL:
            return [fill[: int(np.argmax(reached)) + 1] if reached.any() else fill for fill, reached in zip(fills, whole, strict=True)]
        most *= 2


def _first(fill: checks.Floats, target: float) -> int | None:
    met = np.flatnonzero(fill >= target)
    return int(met[0]) if met.size else None


def _together(
    fills: list[checks.Floats], share: checks.Floats, start: NDArray[np.int64], wanted: float, depot: float
) -> tuple[tuple[int, ...], float] | None:
    """Fewest parts above `start` whose shares of fill add up to what is wanted: the best fill of so many parts, site by site."""
    gains = [weight * fill[low:] for weight, fill, low in zip(share, fills, start, strict=True)]
    best = np.zeros(1)
    choices: list[NDArray[np.int64]] = []
    for gain in gains:
        size = best.size + gain.size - 1
        grid = np.full((gain.size, size), -np.inf)
        for extra in range(gain.size):
            grid[extra, extra : extra + best.size] = best + gain[extra]
        choice = np.argmax(grid, axis=0)
        best = grid[choice, np.arange(size)]
        choices.append(choice)
    met = np.flatnonzero(np.maximum.accumulate(best) >= wanted - 1e-12)
    if met.size == 0:
        return None
    left = int(met[0])
    reached = float(best[left]) + depot
    more: list[int] = []
    for choice in reversed(choices):
        more.append(int(choice[left]))
        left -= more[-1]
    return tuple(int(low + own) for low, own in zip(start, reversed(more), strict=True)), reached


@dataclass(frozen=True)
class Budgeted:
    """Levels a budget buys, and what they give. stock_value : price x (on hand and under way)"""

    levels: Levels
    figures: NetworkFigures
    stock_value: float


def most_for(network: Network, price: float, budget: float) -> Budgeted:
    """The least waiting that so much money in stock buys: for every s of the depot the sites by marginal analysis.

    Waiting is convex in each site's level, so the greedy step is the best one.

    Parameters
    ----------
    network : one part · price : of one, > 0 · budget : price x parts on hand and under way on average, >= 0

    Raises
    ------
    ContractError : an argument outside its range · NoEstimate : a budget that not even empty shelves keep

    References
    ----------
    Sherbrooke (2004), Optimal Inventory Modeling of Systems, section 3.6.
    """
    one, money = checks.positive("price", price), checks.number("budget", budget, low=0.0)
    curves = Curves(network)
    best: Budgeted | None = None
    for s in range(-1, curves.size):
        found = _spent(curves, s, one, money)
        if found is None:
            break
        if best is None or found.figures.expected_waiting < best.figures.expected_waiting - 1e-12:
            best = found
    if best is None:
        raise NoEstimate(f"a budget of {money:g} is below what is under way with empty shelves")
    return best


def _spent(curves: Curves, s: int, price: float, budget: float) -> Budgeted | None:
    network = curves.network
    lines: list[SiteCurve] = [curves.site(s, place, 24) for place in range(len(network.lanes))]
    levels = [0] * len(lines)
    empty = curves.figures(s, levels)
    if empty.stock * price > budget + 1e-9:
        return None
    stock = empty.stock
    while True:
        places = [place for place, line in enumerate(lines) if levels[place] + 1 < line.waiting.size]
        steps = [(_gain(lines[place], levels[place]), place) for place in places]
        steps = [(gain, place) for gain, place in steps if gain[0] > 1e-12 and (stock + gain[1]) * price <= budget + 1e-9]
        if not steps:
            break
        (_, more), place = max(steps, key=lambda step: step[0][0] / max(step[0][1], 1e-9))
        levels[place] += 1
        stock += more
    figures = curves.figures(s, levels)
    return Budgeted(Levels(s, tuple(levels)), figures, figures.stock * price)


def _gain(line: SiteCurve, level: int) -> tuple[float, float]:
    """Waiting that one more part saves a year, and the parts on the shelf it adds."""
    return float(line.waiting[level] - line.waiting[level + 1]), line.figures(level + 1).on_hand - line.figures(level).on_hand
