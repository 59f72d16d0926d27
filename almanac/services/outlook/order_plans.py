"""One row of the outlook a stock part: what is projected of it, what to do about it today, and what is risked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import ClassVar

from almanac.core.answers.question import Named, Question
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.stock.policy import Policy
from almanac.core.stock.purchase import unit_price
from almanac.core.stock.shelf import Outpost, Risk, Shelf, ShelfPlan, SitePlan, ToDo
from almanac.core.stock.shelf_plan import plan_shelf
from almanac.services.outlook.demand import SiteDemand, books_of, part_of, with_time_line
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.projection import YEAR_DAYS, PartShelf, Projection, projected
from almanac.store.planning import StockPart


@dataclass(frozen=True)
class PartOutlook:
    """What is computed of a stock part: its projection and its plan, None where nothing is expected of it."""

    projection: Projection
    plan: ShelfPlan | None


@dataclass(frozen=True)
class OutlookOfPart(Question[PartOutlook]):
    """A stock part at the chosen sites: its DemandInputs and FittedKind, PartDemand and SiteDemand; its shelf and its policy.

    steps : months of the path
    """

    NAME: ClassVar[str] = "outlook of a part"
    VERSION: ClassVar[int] = 5
    inputs: Named
    fitted: Named
    demand: Named
    sites: Named
    shelf: PartShelf
    policy: Policy
    steps: tuple[MonthStep, ...]

    def compute(self) -> PartOutlook:
        return self.compute_many([self])[0]

    @classmethod
    def compute_many(cls, questions: Sequence[OutlookOfPart]) -> list[PartOutlook]:
        """Parts of a kind share their tables."""
        found: dict[int, PartOutlook] = {}
        for book, places in books_of(questions):
            found |= {place: questions[place]._answer(book) for place in places}
        return [found[place] for place in range(len(questions))]

    def _answer(self, book: LawBook) -> PartOutlook:
        with_time_line(book, part_of(self), self.demand.content)
        sites: SiteDemand = self.sites.content
        expires = self.policy.shelf_life_days is not None
        projection = projected(book, part_of(self), self.shelf, self.steps, expires=expires)
        law = book.part_law(part_of(self))
        if law is None:
            return PartOutlook(projection, None)
        shelf = Shelf(self.shelf.holding, self.shelf.lots, self._outposts(law.law, sites))
        return PartOutlook(projection, plan_shelf(law.law, shelf, self.policy, horizon_days=YEAR_DAYS))

    def _outposts(self, law: DemandLaw, sites: SiteDemand) -> tuple[Outpost, ...]:
        """The sites the depot feeds, each with its share of the demand until its boat."""
        found = []
        for post in self.shelf.outposts:
            until = post.lane_days + post.review_days
            whole = float(law.mean_parts([until])[0])
            own = sites.pmf.get(post.site_id)
            mean = float(own @ range(own.size)) if own is not None else 0.0
            share = min(mean / whole, 1.0) if whole > 0 else 0.0
            found.append(Outpost(post.site_id, post.free, post.coming, share, post.lane_days, post.every_days, post.stocked))
        return tuple(found)


def outposts_of(plan: ShelfPlan, shelf: PartShelf) -> tuple[Outpost, ...]:
    """The sites of a plan as it saw them; none where the plan is one place's."""
    lanes = {post.site_id: post for post in shelf.outposts}
    return tuple(
        Outpost(site.site_id, site.free, site.coming, site.share, post.lane_days, post.every_days, post.stocked)
        for site in plan.sites
        if (post := lanes.get(site.site_id)) is not None
    )


@dataclass(frozen=True)
class Row:
    """What the outlook shows of a stock part."""

    part: StockPart
    shelf: PartShelf
    policy: Policy
    projection: Projection
    plan: ShelfPlan | None

    @property
    def year_total(self) -> float | None:
        """Parts wanted in the coming year; None where nothing can be said."""
        return self.projection.year.total if self.projection.year else None

    @property
    def said(self) -> bool:
        """Whether anything can be said of what is wanted."""
        return self.projection.said

    def next_order(self, today: date) -> tuple[date | None, ...]:
        """Days of the likely next order, 5, 50 and 95%; today where one is due, none where none is within the year."""
        if self.plan is None:
            return (None, None, None)
        if self.plan.quantity > 0:
            return (today, today, today)
        return tuple(today + timedelta(days=day) if day is not None else None for day in self.plan.next_days or (None, None, None))

    def due_after_supply(self, today: date) -> date | None:
        """The day an order would be due on which the part can no longer be bought."""
        if self.plan is None or self.plan.due_after_supply is None:
            return None
        return today + timedelta(days=self.plan.due_after_supply)

    def help_on(self, today: date) -> date | None:
        """When parts next come; None where none is due."""
        if self.plan is None or self.plan.waiting.help_day is None:
            return None
        return today + timedelta(days=self.plan.waiting.help_day)

    @property
    def quantity(self) -> int:
        """Parts to order today."""
        return self.plan.quantity if self.plan else 0

    @property
    def cost(self) -> Decimal:
        return self.unit_price * self.quantity

    @property
    def unit_price(self) -> Decimal:
        """Price of one part where as many are bought as are to order today."""
        return unit_price(self.part.price, self.part.breaks, self.quantity)

    @property
    def todo(self) -> ToDo | None:
        """What to do; None where nothing can be said."""
        if not self.said:
            return None
        return self.plan.todo if self.plan else ToDo.NOTHING

    @property
    def risk(self) -> Risk | None:
        """What is risked; None where nothing can be said."""
        if not self.said:
            return None
        return self.plan.risk if self.plan else Risk.FINE

    @property
    def thin_sites(self) -> list[SitePlan]:
        """Sites where somebody waits, or likelier than with their level kept."""
        return [site for site in self.plan.sites if site.risk != Risk.FINE] if self.plan else []
