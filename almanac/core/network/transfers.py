"""What to order for all places together, and what to load: machines that wait first, then where a part prevents most waiting."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.special import pdtrc

from almanac.core.errors import ContractError
from almanac.core.network.levels import Levels
from almanac.core.network.nodes import Network
from almanac.core.stock.reorder import ReorderPolicy

DEPOT = -1
"""The depot, among the places of a transfer; sites are counted from 0."""


@dataclass(frozen=True)
class Standing:
    """Where parts are. Figures below nothing are machines that wait.

    depot, sites : on hand · under_way : to each site · on_order : from the supplier
    """

    depot: int
    sites: tuple[int, ...]
    under_way: tuple[int, ...]
    on_order: int

    @property
    def everywhere(self) -> int:
        """The echelon position: all places and all under way, less all that is owed."""
        return self.depot + sum(self.sites) + sum(self.under_way) + self.on_order


@dataclass(frozen=True)
class Transfer:
    """Parts to load. come_from, go_to : DEPOT or a site"""

    come_from: int
    go_to: int
    quantity: int


def echelon_order(levels: Levels, lot: int, standing: Standing) -> int:
    """What to order from the supplier at a review, from the position of all places together.

    A site's stock above its level counts as the depot's only so far as it could serve another: what stands too high at one site
    does not spare the others an order.

    Parameters
    ----------
    levels : of depot and sites · Q : the depot's lot · standing : where parts are

    Raises
    ------
    ContractError : a standing for other sites

    References
    ----------
    Axsater & Rosling (1993), Management Science 39.
    """
    _same_sites(levels, standing)
    held = [min(hand + way, level) for hand, way, level in zip(standing.sites, standing.under_way, levels.sites, strict=True)]
    position = standing.depot + standing.on_order + sum(held) - sum(levels.sites)
    return ReorderPolicy(levels.s, lot).quantity(position)


def loading(network: Network, levels: Levels, standing: Standing) -> tuple[Transfer, ...]:
    """What leaves today: from the depot first; back or across from above a site's level where the depot is empty.

    Parameters
    ----------
    network : rates and lanes · levels : of the sites · standing : where parts are

    Returns
    -------
    tuple of Transfer, in the order of the sites

    Raises
    ------
    ContractError : a standing for other sites
    """
    _same_sites(levels, standing)
    position = [hand + way for hand, way in zip(standing.sites, standing.under_way, strict=True)]
    free = max(standing.depot, 0)
    moved: dict[tuple[int, int], int] = {}
    while free > 0 and (place := _neediest(network, levels, position)) is not None:
        position[place] += 1
        free -= 1
        moved[DEPOT, place] = moved.get((DEPOT, place), 0) + 1
    spare = [max(min(hand, at) - level, 0) for hand, at, level in zip(standing.sites, position, levels.sites, strict=True)]
    while sum(spare) > 0 and (place := _neediest(network, levels, position)) is not None:
        giver = _readiest(network, levels, position, spare, place)
        if giver is None:
            break
        position[place] += 1
        position[giver] -= 1
        spare[giver] -= 1
        moved[giver, place] = moved.get((giver, place), 0) + 1
    if standing.depot < 0:
        for giver, more in enumerate(spare):
            back = min(more, -standing.depot - sum(count for (_, to), count in moved.items() if to == DEPOT))
            if back > 0:
                moved[giver, DEPOT] = back
    order = sorted(moved, key=lambda pair: (pair[0] != DEPOT, pair[1], pair[0]))
    return tuple(Transfer(a, b, moved[a, b]) for a, b in order)


def _same_sites(levels: Levels, standing: Standing) -> None:
    if not len(levels.sites) == len(standing.sites) == len(standing.under_way):
        raise ContractError(f"standing: figures for {len(levels.sites)} sites were wanted")


def prevented(network: Network, place: int, position: int) -> float:
    """Machine-days of waiting that one more part loaded now prevents at a site until a boat after the next arrives."""
    lane = network.lanes[place]
    if position < 0:
        return float(network.weight.sum()) * lane.every
    days = lane.days + lane.every * (np.arange(8) + 0.5) / 8.0
    short = pdtrc(position, np.outer(network.sites[:, place], days)).mean(axis=1)
    return float(network.weight @ short) * lane.every


def _neediest(network: Network, levels: Levels, position: list[int]) -> int | None:
    """The site below its level where a part is worth most: machines that wait before all others."""
    below = [place for place, level in enumerate(levels.sites) if position[place] < level]
    if not below:
        return None
    return max(below, key=lambda place: (max(-position[place], 0), prevented(network, place, position[place]), -place))


def _readiest(network: Network, levels: Levels, position: list[int], spare: list[int], place: int) -> int | None:
    """The site that gives up least above its level, where that is less than what it prevents."""
    givers = [site for site, more in enumerate(spare) if more > 0 and site != place and position[site] > levels.sites[site]]
    if not givers:
        return None
    giver = min(givers, key=lambda site: prevented(network, site, position[site] - 1))
    return giver if prevented(network, giver, position[giver] - 1) < prevented(network, place, position[place]) else None


def standing_of(on_hand: Mapping[str, int], under_way: Mapping[str, int], sites: tuple[str, ...], depot: str, on_order: int) -> Standing:
    """A standing from figures by name; places nobody names hold nothing."""
    return Standing(
        on_hand.get(depot, 0),
        tuple(on_hand.get(site, 0) for site in sites),
        tuple(under_way.get(site, 0) for site in sites),
        on_order,
    )
