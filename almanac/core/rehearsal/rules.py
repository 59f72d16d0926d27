"""Rules of thumb as policies, to be played beside the plan."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from almanac.core.apportion import apportioned
from almanac.core.rehearsal.table import Kept

ONE_LEFT, FIXED_SHARE, TODAY = "one-left", "fixed-share", "today"
"""Names of the rules."""


@dataclass(frozen=True)
class Stands:
    """Where a part stands. shares : of all requests, at each site · depot, coming : there and on order, less what is promised
    sites : there and on its way · lot : the smallest order · units : in service
    """

    shares: tuple[float, ...]
    depot: int
    coming: int
    sites: tuple[int, ...]
    lot: int
    units: float


def rules_of_thumb(stands: Stands, share: float) -> dict[str, Kept]:
    """What each rule keeps, by its name.

    Parameters
    ----------
    stands : where the part stands · share : of the fleet, for the rule that keeps one
    """
    return {
        ONE_LEFT: one_left(stands.shares, stands.lot),
        FIXED_SHARE: fixed_share(share, stands.units, stands.shares, stands.lot),
        TODAY: as_today(stands.depot, stands.coming, stands.sites, stands.lot),
    }


def one_left(shares: Sequence[float], lot: int) -> Kept:
    """Order when one is left at the depot; a site that uses any keeps one.

    Parameters
    ----------
    shares : of all requests, at each site · lot : the smallest order
    """
    return Kept(1, lot, tuple(int(share > 0) for share in shares))


def fixed_share(share: float, units: float, shares: Sequence[float], lot: int) -> Kept:
    """Keep a share of the fleet, shared out by what is asked for; what is used is ordered again.

    Parameters
    ----------
    share : of the units in service · units : in service · shares : of all requests, at each site · lot : the smallest order
    """
    keep = math.ceil(share * units - 1e-9)
    depot, *sites = apportioned(keep, [max(1.0 - sum(shares), 0.0), *shares]) if keep else [0] * (1 + len(shares))
    return Kept(max(depot - lot, -1), lot, tuple(sites))


def as_today(depot: int, coming: int, sites: Sequence[int], lot: int) -> Kept:
    """Keep every shelf where it stands today, what is coming counted.

    Parameters
    ----------
    depot, coming : at the depot and on order, less what is promised · sites : the same of each site · lot : the smallest order
    """
    return Kept(max(depot + coming - lot, -1), lot, tuple(max(site, 0) for site in sites))
