"""What is played: parts, the places they are asked for at, how they are ordered and shipped, and where they are on the first day."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from almanac.core import checks
from almanac.core.errors import ContractError

Ints = NDArray[np.int64]


@dataclass(frozen=True)
class ShelfLives:
    """How p parts expire, and how little of them is ordered for that.

    days : (p,) from the day a part comes, 0 for one that never expires · cap : (p,) most on hand and on order after an order
    pack, least : (p,) the supplier's pack and smallest order
    """

    days: Ints
    cap: Ints
    pack: Ints
    least: Ints

    def cut(self, part: Ints, quantity: Ints, held: Ints) -> Ints:
        """(r,) orders of parts (r,) cut to what is used before it expires; the smallest order is kept even where that is more.

        Parameters
        ----------
        part : (r,) rows · quantity : (r,) wanted · held : (r,) on hand and on order
        """
        room = np.maximum(self.cap[part] - held, 0) // self.pack[part] * self.pack[part]
        return np.where(self.days[part] > 0, np.minimum(quantity, np.maximum(room, self.least[part])), quantity)


@dataclass(frozen=True)
class PlayedPolicies:
    """How p parts are ordered and where they are kept; the first place is the depot, j others are fed by it.

    s, Q : (p,) reorder points and lots · review : (p,) days between reviews · level : (p, j) of the sites
    lane, every : (p, j) days under way and between departures · lead_days, lead_cumulative : (p, l) of the supplier
    first_review, first_boat : (p,) and (p, j) days until the first of them; None draws them
    last_order : (p,) last day on which a part is sold; None where all are for good · lives : None where nothing expires
    """

    s: Ints
    lot: Ints
    review: Ints
    level: Ints
    lane: Ints
    every: Ints
    lead_days: Ints
    lead_cumulative: checks.Floats
    first_review: Ints | None = None
    first_boat: Ints | None = None
    last_order: Ints | None = None
    lives: ShelfLives | None = None

    @property
    def parts(self) -> int:
        return int(self.s.size)

    @property
    def sites(self) -> int:
        return int(self.level.shape[1])


@dataclass(frozen=True)
class Change:
    """Other reorder points and levels from a day on. s : (p,) · level : (p, j)"""

    day: int
    s: Ints
    level: Ints


@dataclass(frozen=True)
class Start:
    """Where parts are on the first day. Below nothing, machines wait.

    depot : (p,) · sites : (p, j) · arrivals : (day, part, quantity) from the supplier · boats : (day, part, site, quantity)
    lots : (last day, part, quantity) of what is there and expires
    """

    depot: Ints
    sites: Ints
    arrivals: tuple[tuple[int, int, int], ...] = ()
    boats: tuple[tuple[int, int, int, int], ...] = ()
    lots: tuple[tuple[int, int, int], ...] = ()


@dataclass(frozen=True)
class Requests:
    """Requests a day, by run: (p, 1 + j, n) from each of some days on."""

    from_day: tuple[int, ...]
    rates: tuple[checks.Floats, ...]

    def __post_init__(self) -> None:
        if not self.rates or self.from_day[0] != 0 or len(self.from_day) != len(self.rates):
            raise ContractError("rates: a table from day 0 on, and one for each later day, were wanted")


def steady(policies: PlayedPolicies) -> Start:
    """Every place at its level, and the depot at s + Q: how a long game begins."""
    return Start(policies.s + policies.lot, policies.level.copy())


def lead_table(leads: list[tuple[list[int], list[float]]]) -> tuple[Ints, checks.Floats]:
    """(p, l) days and cumulative weights of lead times of unequal length.

    Parameters
    ----------
    leads : days and weights of each part
    """
    longest = max(len(days) for days, _ in leads)
    days = np.array([[*own, *[own[-1]] * (longest - len(own))] for own, _ in leads], dtype=np.int64)
    weights = np.array([[*own, *[0.0] * (longest - len(own))] for _, own in leads])
    return days, np.cumsum(weights, axis=1) / weights.sum(axis=1, keepdims=True)
