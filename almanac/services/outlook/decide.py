"""What is to be decided about one part beside its orders: keep it at all, the last buy, and what will be kept as its fleet changes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from almanac.core.demand.law import DemandLaw
from almanac.core.stock.exact import like_rate
from almanac.core.stock.rates import times
from almanac.core.stock.shelf import Shelf, ShelfPlan
from almanac.core.stock.shelf_plan import later_levels
from almanac.core.stock.stocked import LastBuy, Stocking, last_buy, stocking
from almanac.services.outlook.demand_laws import LawBook, PartLaw
from almanac.services.outlook.order_plans import Row, outposts_of
from almanac.services.outlook.positions import Positions
from almanac.services.outlook.projection import YEAR_DAYS

AHEAD = {3: 91, 6: 182, 12: 365}
"""Months for which it is told what will be kept, and their days."""
QUARTER = 91
MOST_UNKNOWN = 0.5
"""Where more of the units than this share have no day of retirement, the others' days say nothing of them."""


@dataclass(frozen=True)
class KeptLater:
    """What will be kept so many months from now: order when so many are left, at most so many."""

    months: int
    order_at: int
    most: int


@dataclass(frozen=True)
class LastBuyTold:
    """The last buy, None where nobody can say, and then why. until_day : the last retirement on record, counted from today
    unknown : units of machines that have no day of retirement: counted until that of the last that has one, so that they may want more
    """

    buy: LastBuy | None
    until_day: int | None
    unknown: float
    chance: float
    why: str


@dataclass(frozen=True)
class Decisions:
    """later : what will be kept · stocking : None where nobody said what a waiting day costs · last_buy : of a part sold until some day"""

    later: list[KeptLater]
    stocking: Stocking | None
    last_buy: LastBuyTold | None


def decisions_of(book: LawBook, law: PartLaw, row: Row, chance: float) -> Decisions:
    """What there is to decide about a part with a plan.

    Parameters
    ----------
    book, law : of the part · row : its shelf and plan · chance : that a last buy suffices
    """
    if row.plan is None:
        return Decisions([], None, None)
    return Decisions(_later(law.law, row, row.plan), _stocking(law.law, row), _last_buy(book, law, row, chance))


def _later(law: DemandLaw, row: Row, plan: ShelfPlan) -> list[KeptLater]:
    if plan.sites and not row.shelf.outposts:
        return []  # one place of several: its level is worked out with the others
    shelf = Shelf(row.shelf.holding, row.shelf.lots, outposts_of(plan, row.shelf))
    months = {days: number for number, days in AHEAD.items()}
    found = later_levels(law, shelf, row.policy, plan, tuple(months))
    floor = row.shelf.holding.floor
    return [KeptLater(months[one.day], at := max(one.depot_s + sum(one.levels), floor), at + plan.lot) for one in found]


def _stocking(law: DemandLaw, row: Row) -> Stocking | None:
    policy = row.policy
    if policy.waiting_cost is None or policy.holding_cost <= 0:
        return None
    wanted = float(law.mean_parts([YEAR_DAYS])[0])
    return stocking(wanted, policy.lead.mean_days, policy.waiting_cost, policy.holding_cost)


def _last_buy(book: LawBook, law: PartLaw, row: Row, chance: float) -> LastBuyTold | None:
    if row.policy.last_order_day is None or row.plan is None:
        return None
    own = book.positions.get(row.part.id, Positions.none()).at(set(book.inputs.chosen))
    known = np.isfinite(own.leave_day)
    unknown = float(own.units[~known].sum())
    rate = like_rate(law.law, YEAR_DAYS)
    if rate is None or unknown > MOST_UNKNOWN * float(own.units.sum()):
        why = "most machines that hold it have no day of retirement on record: plan them under What if, and it can be said"
        return LastBuyTold(None, None, unknown, chance, why)
    last = int(own.leave_day[known].max())
    days = np.where(known, own.leave_day, last) - np.minimum(own.enter_day, last)
    in_year = float(law.law.window_exposure(np.array([0]), np.array([YEAR_DAYS])).sum())
    left = float(np.maximum(days, 0) @ own.units) / max(in_year, 1e-9)
    faster = times(rate, max(_rising(law.law), 1.0))
    buy = last_buy(faster, left, chance, row.plan.position, pack=row.policy.pack)
    return LastBuyTold(buy, last, unknown, chance, "")


def _rising(law: DemandLaw) -> float:
    """Requests a unit of the year's last quarter over those of the year: what wears out does so faster later on."""
    mean = law.mean_parts([YEAR_DAYS - QUARTER, YEAR_DAYS])
    whole = np.array([0, YEAR_DAYS - QUARTER]), np.array([YEAR_DAYS, YEAR_DAYS])
    year, quarter = law.window_exposure(*whole).sum(axis=1)
    if mean[1] <= 0 or quarter <= 0:
        return 1.0
    return float((mean[1] - mean[0]) / quarter / (mean[1] / year))
