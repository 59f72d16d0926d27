"""What levels at a depot and its sites give: who waits at the depot, and what that leaves each site to serve from."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.special import gammaln, pdtrc, xlogy

from almanac.core import checks
from almanac.core.errors import ContractError
from almanac.core.network.nodes import Lane, Network
from almanac.core.network.owed import OwedToSites
from almanac.core.network.site_fills import SiteFills, SiteShortages
from almanac.core.network.windows import windows
from almanac.core.stock.review import INSTANTS, excess, instants

TAIL = 1e-11
SERVED = 1e-7
"""A request in ten millions that the depot could not meet at once is none that levels are chosen by."""
YEAR_DAYS = 365.0


@dataclass(frozen=True)
class SiteFigures:
    """One place. fill : requests met at once · expected_waiting : machine-days a year · on_hand : parts on average"""

    fill: float
    expected_waiting: float
    on_hand: float


@dataclass(frozen=True)
class NetworkFigures:
    """What levels give.

    fill : of all requests, the depot's own too · backorders : parts that sites wait for at the depot, on average
    stock : parts on hand and under way to sites, on average
    """

    depot: SiteFigures
    sites: tuple[SiteFigures, ...]
    fill: float
    expected_waiting: float
    backorders: float
    stock: float


class Curves:
    """Figures of a network by level, worked out once: of the depot by its s, of each site by its level under a depot's s.

    A site asks the depot for one the moment it uses one; the depot serves first come, first served, and what it has leaves with the
    next departure. What the depot owes at a departure is split over the sites by their share of the demand (binomially). Then the
    reorder-point formula holds of each site with its level less what it is owed, the lane for the lead time and the departures for
    the reviews: exact for Poisson demand at known rates without overtaking, mixed over nodes for the doubt.

    References
    ----------
    Simon (1971), Operations Research 19; Graves (1985), Management Science 31; Axsater (1990), Operations Research 38.
    """

    def __init__(self, network: Network) -> None:
        self.network = network
        if any(lane.days < 0 or lane.every <= 0 for lane in network.lanes):
            raise ContractError("lanes: days of at least 0 and a departure every so many days were wanted")
        total, lead = network.total, network.lead
        longest = float(lead.days.max()) + network.review_days
        self.size = _size(float(total.max(initial=0.0)) * longest)
        days = lead.days.astype(np.float64)
        u, share = instants(days, network.review_days)
        weight = (lead.weight[:, None] * share).ravel()
        # (k, n): what was asked for since the orders that are still under way, at a moment between two deliveries.
        self.within = np.stack([weight @ _poisson(rate * u.ravel(), self.size) for rate in total])
        self._demands: dict[int, SiteDemand] = {}
        self._owed: dict[int, checks.Floats] = {}

    @cached_property
    def all_served(self) -> int:
        """An s from which on a further part at the depot serves nobody: its sites are owed nothing."""
        reached = self.network.weight @ np.cumsum(self.within, axis=1)
        met = np.flatnonzero(reached >= 1.0 - SERVED)
        return min(int(met[0]) + 1, self.size) if met.size else self.size

    def owed(self, s: int) -> checks.Floats:
        """(k, m) probabilities that the depot owes 0 .. m-1 parts at a moment, over its positions s + 1 ... s + Q."""
        if s not in self._owed:
            self._owed[s] = self._owed_at(s)
        return self._owed[s]

    def _owed_at(self, s: int) -> checks.Floats:
        found = np.zeros((self.within.shape[0], self.size))
        for y in range(s + 1, s + self.network.lot + 1):
            if y < 0:
                found[:, -y:] += self.within[:, : self.size + y]
                continue
            found[:, 0] += self.within[:, : y + 1].sum(axis=1)
            rest = self.within[:, y + 1 :]
            found[:, 1 : rest.shape[1] + 1] += rest
        found /= self.network.lot
        last = int(np.max(np.nonzero(found.max(axis=0) > TAIL)[0], initial=0)) + 1
        return found[:, :last]

    def depot_fill(self, s: int) -> float:
        """Share of requests that the depot's own counter meets at once under s >= -1."""
        return float(self._depot_fills[min(s + 1, self.size)])

    @cached_property
    def _depot_fills(self) -> checks.Floats:
        """(size + 1,) of s = -1 .. size - 1, over the positions s + 1 ... s + Q; one waits who comes to the last part or later."""
        lot, network = self.network.lot, self.network
        reached = np.pad(np.cumsum(self.within, axis=1), ((0, 0), (1, 0)))
        reached = np.pad(reached, ((0, 0), (0, lot - 1)), mode="edge")
        ready = windows(np.ascontiguousarray(reached), self.size + 1).mean(axis=2)
        wanted = network.weight * network.depot
        of_node = wanted / wanted.sum() if wanted.sum() > 0 else network.weight
        return np.asarray(of_node @ ready)

    def depot(self, s: int) -> SiteFigures:
        """The depot's own counter: served first come, first served from the stock that feeds the sites."""
        network, positions = self.network, range(s + 1, s + self.network.lot + 1)
        owed = self.owed(s)
        backorders = owed @ np.arange(owed.shape[1])
        own = np.divide(network.depot, network.total, out=np.zeros_like(network.depot), where=network.total > 0)
        mean = self.within @ np.arange(self.size)
        on_hand = float(network.weight @ (np.mean(list(positions)) - mean + backorders))
        return SiteFigures(self.depot_fill(s), float(YEAR_DAYS * (network.weight @ (own * backorders))), on_hand)

    def backorders(self, s: int) -> float:
        """Parts that the sites wait for at the depot, on average."""
        owed = self.owed(s)
        of_sites = np.divide(
            self.network.sites.sum(axis=1), self.network.total, out=np.zeros_like(self.network.total), where=self.network.total > 0
        )
        return float(self.network.weight @ (of_sites * (owed @ np.arange(owed.shape[1]))))

    def site(self, s: int, place: int, most: int) -> SiteCurve:
        """A site by its level 0 .. most, under a depot's s."""
        return SiteCurve(self._own(place), self._to_sites.at(s, place, TAIL), most)

    def fill(self, s: int, levels: list[int] | tuple[int, ...]) -> float:
        """Of all requests, the depot's own too, the share met at once: that of `figures` by itself.

        Parameters
        ----------
        s : of the depot, >= -1 · levels : of each site, >= 0
        """
        network = self.network
        rates = np.concatenate(([float(network.weight @ network.depot)], network.weight @ network.sites))
        if rates.sum() <= 0:
            return 1.0
        of_sites = self.site_fills(s, max(levels, default=0))[np.arange(len(levels)), list(levels)]
        return float(rates @ np.concatenate(([self.depot_fill(s)], of_sites)) / rates.sum())

    def site_fills(self, s: int, most: int) -> checks.Floats:
        """(p, most + 1) share of requests that each site meets at once, by its level and under a depot's s."""
        return self._site_fills.at(self._to_sites.of_all(s, TAIL), most)

    @cached_property
    def _site_fills(self) -> SiteFills:
        network = self.network
        days = np.array([lane.days for lane in network.lanes])
        every = np.array([lane.every for lane in network.lanes])
        rates = network.sites.T
        size = _size(float((rates.max(axis=1, initial=0.0) * (days + every)).max(initial=0.0)))
        before, after = (rates * day[:, None] for day in (days, days + every))
        over = (excess(_poisson(mean.ravel(), size)).reshape(*rates.shape, -1) for mean in (before, after))
        return SiteFills(network.weight, (next(over), next(over)), (before, after), (rates @ network.weight) * every)

    def _sites(self, s: int, levels: list[int] | tuple[int, ...]) -> tuple[SiteFigures, ...]:
        """Each site at its level, all at once."""
        if not levels:
            return ()
        late, most, place = self._to_sites.of_all(s, TAIL), max(levels), np.arange(len(levels))
        fill = self._site_fills.at(late, most)[place, list(levels)]
        short = self._site_shortages.at(late, most)[place, list(levels)]
        on_hand = np.array(levels) - self._site_shortages.asked(late) + short
        return tuple(SiteFigures(*row) for row in zip(fill.tolist(), (YEAR_DAYS * short).tolist(), on_hand.tolist(), strict=True))

    @cached_property
    def _site_shortages(self) -> SiteShortages:
        network = self.network
        rates = network.sites.T
        u, part = (
            np.concatenate(rows)
            for rows in zip(*(instants(np.array([float(lane.days)]), lane.every) for lane in network.lanes), strict=True)
        )
        ends = np.array([lane.days + lane.every for lane in network.lanes])
        size = _size(float((rates.max(axis=1, initial=0.0) * ends).max(initial=0.0)))
        pmf = _poisson((rates[:, :, None] * u[:, None, :]).ravel(), size).reshape(*rates.shape, u.shape[1], size)
        middle = np.array([lane.days + lane.every / 2.0 for lane in network.lanes])
        return SiteShortages(network.weight, excess(np.einsum("pi,pkin->pkn", part, pmf)), rates * middle[:, None])

    def enough(self, place: int) -> int:
        """A level that is likely enough for a site, to begin with."""
        lane = self.network.lanes[place]
        mean = float(self.network.sites[:, place].max(initial=0.0)) * (lane.days + lane.every)
        return int(mean + 5 * np.sqrt(mean)) + 8

    @cached_property
    def _to_sites(self) -> OwedToSites:
        rates, total = self.network.sites.T, self.network.total[None]
        return OwedToSites(self.within, self.network.lot, np.divide(rates, total, out=np.zeros_like(rates), where=total > 0))

    def _own(self, place: int) -> SiteDemand:
        if place not in self._demands:
            self._demands[place] = SiteDemand(self.network.weight, self.network.sites[:, place], self.network.lanes[place])
        return self._demands[place]

    def figures(self, s: int, levels: list[int] | tuple[int, ...]) -> NetworkFigures:
        """What levels give.

        Parameters
        ----------
        s : of the depot, >= -1 · levels : of each site, >= 0

        Raises
        ------
        ContractError : levels that are not one for each site, or below nothing
        """
        network = self.network
        if len(levels) != len(network.lanes) or any(level < 0 for level in levels) or s < -1:
            raise ContractError(f"levels: one of at least 0 for each of {len(network.lanes)} sites was wanted, and s of at least -1")
        depot = self.depot(s)
        sites = self._sites(s, levels)
        rates = np.concatenate(([float(network.weight @ network.depot)], network.weight @ network.sites))
        fills = np.array([depot.fill, *(site.fill for site in sites)])
        fill = float(rates @ fills / rates.sum()) if rates.sum() > 0 else 1.0
        waiting = depot.expected_waiting + sum(site.expected_waiting for site in sites)
        backorders = self.backorders(s)
        under_way = float(sum(rate * (lane.days + lane.every / 2.0) for rate, lane in zip(rates[1:], network.lanes, strict=True)))
        stock = depot.on_hand + sum(site.on_hand for site in sites) + under_way
        return NetworkFigures(depot, sites, fill, waiting, backorders, stock)


class SiteDemand:
    """What is asked for at a site, whatever the depot owes it: shortages of positions below and above nothing.

    weight, rate : (k,) · lane : its days and departures
    """

    def __init__(self, weight: checks.Floats, rate: checks.Floats, lane: Lane) -> None:
        self.weight, self.rate, self.lane = weight, rate, lane
        self.size = _size(float(rate.max(initial=0.0)) * (lane.days + lane.every))
        self.wanted = float(weight @ rate) * lane.every

    @cached_property
    def at_turns(self) -> tuple[checks.Floats, checks.Floats]:
        """(k, n) E[(D - y)+] when a departure's parts are there, and just before the next one's are."""
        days = (self.lane.days, self.lane.days + self.lane.every)
        before, after = (excess(_poisson(self.rate * day, self.size)) for day in days)
        return before, after

    @cached_property
    def in_between(self) -> checks.Floats:
        """(k, n) the same on average between the two."""
        u, part = instants(np.array([self.lane.days]), self.lane.every)
        pmf = _poisson(np.multiply.outer(self.rate, u[0]).ravel(), self.size).reshape(self.rate.size, INSTANTS, self.size)
        return excess(np.einsum("i,kin->kn", part[0], pmf))

    def means(self, days: float) -> checks.Floats:
        """(k,) requests over some days."""
        return np.asarray(self.rate * days)


@dataclass(frozen=True)
class SiteCurve:
    """A site by its level (most + 1,), where the depot owes it 0 .. m-1 parts with probabilities `late` (k, m)."""

    demand: SiteDemand
    late: checks.Floats
    most: int

    @cached_property
    def fill(self) -> checks.Floats:
        """(most + 1,) share of requests met at once."""
        demand = self.demand
        if demand.wanted <= 0:
            return np.ones(self.most + 1)
        before, after = demand.at_turns
        start, end = demand.lane.days, demand.lane.days + demand.lane.every
        missed = self._short(after, demand.means(end)) - self._short(before, demand.means(start))
        return np.asarray(np.clip(1.0 - missed / demand.wanted, 0.0, 1.0))

    @cached_property
    def short(self) -> checks.Floats:
        """(most + 1,) parts owed to machines on average."""
        lane = self.demand.lane
        return self._short(self.demand.in_between, self.demand.means(lane.days + lane.every / 2.0))

    @property
    def waiting(self) -> checks.Floats:
        """(most + 1,) machine-days of waiting a year."""
        return np.asarray(YEAR_DAYS * self.short)

    @cached_property
    def asked(self) -> float:
        """Parts asked for and not yet there, on average."""
        lane = self.demand.lane
        owed = self.late @ np.arange(self.late.shape[1])
        return float(self.demand.weight @ (self.demand.means(lane.days + lane.every / 2.0) + owed))

    def figures(self, level: int) -> SiteFigures:
        """The site at a level."""
        return SiteFigures(float(self.fill[level]), float(self.waiting[level]), float(level - self.asked + self.short[level]))

    def _short(self, over: checks.Floats, mean: checks.Floats) -> checks.Floats:
        """(most + 1,) E[(D + late - y)+]: below nothing a position is short of all that is asked for."""
        owed = self.late.shape[1]
        below = mean[:, None] + np.arange(owed - 1, 0, -1)[None]
        above = over[:, np.minimum(np.arange(self.most + 1), over.shape[1] - 1)]
        row = np.ascontiguousarray(np.concatenate((below, above), axis=1))
        late = self.demand.weight[:, None] * self.late[:, ::-1]
        return np.asarray(np.einsum("kl,kly->y", late, windows(row, owed)))


def _size(mean: float) -> int:
    size = int(mean + 12 * np.sqrt(mean) + 20)
    while pdtrc(size - 1, mean) > TAIL:
        size *= 2
    return size


def _poisson(mean: checks.Floats, size: int) -> checks.Floats:
    """(w, size) probabilities of 0 .. size-1 at means (w,)."""
    count = np.arange(size)
    return np.asarray(np.exp(xlogy(count, mean[:, None]) - mean[:, None] - gammaln(count + 1.0)))
