"""What is said of a shelf: what to do about it today, what it risks, and what is kept at each place."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from almanac.core.stock.path import Holding
from almanac.core.stock.quantity import Lot, OrderSize

SAME = 1e-9


class ToDo(StrEnum):
    """What a shelf asks of somebody at a review."""

    ORDER = "order"
    LOAD = "load"
    LIKELY = "likely"
    NOTHING = "nothing"


class Risk(StrEnum):
    """waiting : machines wait now · thin : likelier to before the next parts come than when an order is placed in time · fine"""

    WAITING = "waiting"
    THIN = "thin"
    FINE = "fine"


@dataclass(frozen=True)
class Outpost:
    """A site the depot feeds. free : on its shelf less what is promised · coming : on its way · share : of all requests, from 0 to 1
    stocked : whether anything is kept there at all
    """

    site_id: int
    free: int
    coming: int
    share: float
    lane_days: int
    every_days: int
    stocked: bool = True


@dataclass(frozen=True)
class SitePlan:
    """One site: its level, what serves it, and what the next boat takes there.

    fill : requests met at once with the level kept · load : parts · chance : that somebody waits there before the boat after the next
    chance_at_level : the same, were it at its level · share : of all requests
    """

    site_id: int
    free: int
    coming: int
    level: int
    fill: float
    load: int
    chance: float
    chance_at_level: float
    share: float

    @property
    def risk(self) -> Risk:
        if self.free < 0:
            return Risk.WAITING
        thin = self.chance > self.chance_at_level + SAME or (self.free + self.coming <= 0 and self.chance_at_level < 1)
        return Risk.THIN if thin and self.level > 0 else Risk.FINE


@dataclass(frozen=True)
class Waiting:
    """machines : that wait now · help_day : when parts next come, counted from today; None where none is due
    chance : that somebody waits before then · chance_in_time : the same where an order is placed in time, at the reorder point
    """

    machines: int
    help_day: int | None
    chance: float
    chance_in_time: float


@dataclass(frozen=True)
class ShelfPlan:
    """Order when `order_at` are left, counting what is coming; `lot` at a time, at most `most`.

    position : usable on hand and coming, less what is promised, at all places · size : of an order of today, None where none is due
    next_days : days until the next order, 5, 50 and 95%; None for one that is not due within the horizon · fill : requests met at once
    fill_less, fill_more : with one part less and more · depot_s, depot_position, depot_fill : the depot's own reorder point, what it has
    and has coming less what its sites are kept at, and requests met at its own counter
    due_after_supply : an order is due or likely when nobody can place it any more
    """

    order_at: int
    lot: int
    most: int
    position: int
    size: OrderSize | None
    next_days: tuple[int | None, ...] | None
    fill: float
    fill_less: float | None
    fill_more: float
    waiting: Waiting
    depot_s: int
    depot_position: int
    depot_fill: float
    sites: tuple[SitePlan, ...]
    due_after_supply: int | None
    review_days: int

    @property
    def quantity(self) -> int:
        """Parts to order today."""
        return self.size.quantity if self.size else 0

    @property
    def loads(self) -> int:
        """Parts to load at the depot."""
        return sum(site.load for site in self.sites)

    @property
    def todo(self) -> ToDo:
        if self.quantity > 0:
            return ToDo.ORDER
        if self.loads > 0:
            return ToDo.LOAD
        likely = self.next_days[1] if self.next_days else None
        return ToDo.LIKELY if likely is not None and likely <= self.review_days else ToDo.NOTHING

    @property
    def risk(self) -> Risk:
        """The worst of the depot's and of every site's."""
        if self.waiting.machines > 0:
            return Risk.WAITING
        if any(site.risk != Risk.FINE for site in self.sites):
            return Risk.THIN
        empty = self.position <= 0 and self.order_at >= 0
        return Risk.THIN if empty or self.waiting.chance > self.waiting.chance_in_time + SAME else Risk.FINE


@dataclass(frozen=True)
class Shelf:
    """What stands of a part, wherever it is: what is coming to an outpost is among the holding's arrivals.

    lots : of one with a shelf life · outposts : none where one place is looked at
    """

    holding: Holding
    lots: tuple[Lot, ...] = ()
    outposts: tuple[Outpost, ...] = ()


def at_site(plan: ShelfPlan, site_id: int | None) -> ShelfPlan:
    """The part of a plan for all places that concerns one: a site by its number, the depot where that is None."""
    if site_id is None:
        depot = replace(plan, order_at=plan.depot_s, most=plan.depot_s + plan.lot, position=plan.depot_position, fill=plan.depot_fill)
        return replace(depot, fill_less=None, fill_more=plan.depot_fill)
    site = next(one for one in plan.sites if one.site_id == site_id)
    waiting = Waiting(max(-site.free, 0), None, site.chance, site.chance_at_level)
    return replace(
        plan,
        order_at=site.level - 1,
        lot=1,
        most=site.level,
        position=site.free + site.coming,
        size=None,
        next_days=None,
        fill=site.fill,
        fill_less=None,
        fill_more=site.fill,
        waiting=waiting,
        sites=(site,),
        due_after_supply=None,
    )
