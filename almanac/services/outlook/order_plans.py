"""One row of the outlook a stock part: what is projected of it, order-by day, quantity and state."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import ClassVar

from almanac.core.answers.question import Named, Question
from almanac.core.demand.law import DemandLaw
from almanac.core.demand.months import MonthStep
from almanac.core.demand.wear_batch import draw_windows
from almanac.core.demand.wear_law import WearLaw
from almanac.core.stock.order_day import OrderChances, OrderDay
from almanac.core.stock.order_plan import OrderPlan, plan_order
from almanac.core.stock.policy import Policy
from almanac.services.outlook.demand import SiteDemand, books_of, part_of, with_time_line
from almanac.services.outlook.demand_laws import LawBook
from almanac.services.outlook.projection import YEAR_DAYS, PartShelf, Projection, SiteShort, is_demanded, projected
from almanac.store.planning import StockPart


@dataclass(frozen=True)
class PartOutlook:
    """What is computed of a stock part: its projection and its plan, None where nothing is expected of it."""

    projection: Projection
    plan: OrderPlan | None


@dataclass(frozen=True)
class OutlookOfPart(Question[PartOutlook]):
    """A stock part at the chosen sites: its DemandInputs and FittedKind, PartDemand and SiteDemand; its shelf and its policy.

    steps : months of the path
    """

    NAME: ClassVar[str] = "outlook of a part"
    VERSION: ClassVar[int] = 1
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
        """Parts of a kind cost less together: their orders are sized in one go."""
        found: dict[int, PartOutlook] = {}
        for book, places in books_of(questions):
            own = {place: questions[place] for place in places}
            due = {place: one._due(book) for place, one in own.items()}
            asked = {place: law for place, one in own.items() if isinstance(law := one._law(book), WearLaw)}
            draw_windows(list(asked.values()), [own[place]._windows(law, due[place]) for place, law in asked.items()])
            found |= {place: one._answer(book, due[place]) for place, one in own.items()}
        return [found[place] for place in range(len(questions))]

    def _law(self, book: LawBook) -> DemandLaw | None:
        law = book.part_law(part_of(self))
        return law.law if law is not None else None

    def _due(self, book: LawBook) -> OrderDay | None:
        with_time_line(book, part_of(self), self.demand.content)
        law = self._law(book)
        if law is None or not is_demanded(law):
            return None
        return OrderChances(law, self.shelf.holding, self.policy.lead).last_day(self.policy.target, YEAR_DAYS)

    def _windows(self, law: WearLaw, due: OrderDay | None) -> list[tuple[int, int]]:
        """Windows that an order of the due day is sized by."""
        if due is None or due.day is None or not self.policy.can_order_on(due.day):
            return []
        return [around for window in self.policy.windows(due.day) for around in law.windows_around(*window)]

    def _answer(self, book: LawBook, due: OrderDay | None) -> PartOutlook:
        sites: SiteDemand = self.sites.content
        expires = self.policy.shelf_life_days is not None
        projection = projected(book, part_of(self), self.shelf, sites.pmf, self.steps, expires=expires)
        law = self._law(book)
        if law is None or due is None:
            return PartOutlook(projection, None)
        return PartOutlook(projection, plan_order(law, self.shelf.holding, self.policy, horizon_days=YEAR_DAYS, due=due))


@dataclass(frozen=True)
class Row:
    """What the outlook shows of a stock part."""

    part: StockPart
    shelf: PartShelf
    policy: Policy
    projection: Projection
    plan: OrderPlan | None

    @property
    def year_total(self) -> float:
        """Parts wanted in the coming year; 0 where nothing can be said."""
        return self.projection.year.total if self.projection.year else 0.0

    def order_by(self, today: date) -> date | None:
        """The last day to order, None when nothing is due within the year."""
        if self.plan is None or self.plan.order_day is None:
            return None
        return today + timedelta(days=self.plan.order_day)

    def due_after_supply(self, today: date) -> date | None:
        """The day an order would be due on which the part can no longer be bought."""
        if self.plan is None or self.plan.due_after_supply is None:
            return None
        return today + timedelta(days=self.plan.due_after_supply)

    @property
    def quantity(self) -> int:
        return self.plan.size_quantity if self.plan else 0

    @property
    def cost(self) -> Decimal:
        return self.part.price * self.quantity

    @property
    def sites_short(self) -> list[SiteShort]:
        """Outposts whose own shelf is likelier than the target allows to run out before the boat after the next review."""
        return [site for site in self.projection.outposts if site.chance > 1.0 - self.policy.target]
