"""One line of the outlook a stock part: how it stands, order-by day, quantity and state."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from datetime import date, timedelta
from decimal import Decimal

from almanac.core.demand.months import MonthStep, month_steps
from almanac.core.demand.wear_batch import draw_windows
from almanac.core.demand.wear_law import WearLaw
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.order_day import OrderDay
from almanac.core.stock.order_plan import OrderPlan, plan_order
from almanac.core.stock.policy import Policy
from almanac.services.outlook.content import Content
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.laws import LawBook
from almanac.services.outlook.shelves import review_days_of
from almanac.services.outlook.standing import YEAR_DAYS, SiteShort, Standing, boats_of, standing_of
from almanac.services.remembered import Remembered, RememberedEach
from almanac.store.models import Part

REMEMBERED: RememberedEach[Line] = RememberedEach(12)
STANDING: RememberedEach[Standing] = RememberedEach(6)
"""Of each part at the chosen site: a few targets and review periods, and what stood before the last writes."""


@dataclass(frozen=True)
class Line(Standing):
    """What the outlook shows of a stock part, and what its plate starts from."""

    part: Part
    policy: Policy
    plan: OrderPlan | None

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
        return [site for site in self.outposts if site.chance > 1.0 - self.policy.target]


class OutlookBuilder:
    """Builds lines for one set of inputs."""

    def __init__(self, inputs: Inputs) -> None:
        self.inputs = inputs
        self.content = Content(inputs)
        self.book = LawBook(inputs, content=self.content)
        self.steps: list[MonthStep] = month_steps(inputs.clock.today, 12)
        self._due: dict[int, OrderDay] = {}

    def lines(self) -> list[Line]:
        """All stock parts that have been in service or on a shelf, in catalogue order."""
        new = [part for part in self.inputs.parts if self._lines_of(part).peek(self.content.of(part)) is None]
        unknown = [part for part in new if self._standings_of(part).peek(self.content.besides_target(part)) is None]
        self.book.draw({part.id: boats_of(self.inputs, part) for part in unknown})
        self._draw_orders(new)
        return [self.line(part) for part in self.inputs.parts]

    def _lines_of(self, part: Part) -> Remembered[Line]:
        return REMEMBERED.of((part.id, self.inputs.site and self.inputs.site.id))

    def _standings_of(self, part: Part) -> Remembered[Standing]:
        return STANDING.of((part.id, self.inputs.site and self.inputs.site.id))

    def _draw_orders(self, parts: list[Part]) -> None:
        """Find the order days of some parts, then work out together what their orders are sized by."""
        laws, windows = [], []
        for part in parts:
            chances, policy = self.standing(part).chances, self.policy(part)
            if chances is None or not isinstance(chances.law, WearLaw):
                continue
            due = self._due[part.id] = chances.last_day(policy.target, YEAR_DAYS)
            laws.append(chances.law)
            sized = [] if due.day is None or not policy.can_order_on(due.day) else policy.windows(due.day)
            windows.append([around for window in sized for around in chances.law.windows_around(*window)])
        draw_windows(laws, windows)

    def line(self, part: Part) -> Line:
        """One stock part: remembered while everything it rests on stays the same, computed otherwise."""
        return replace(self._lines_of(part).get(self.content.of(part), lambda: self._compute(part)), part=part)

    def standing(self, part: Part) -> Standing:
        """What of it no target changes, remembered by itself: another target asks for the plan alone."""
        key = self.content.besides_target(part)
        return self._standings_of(part).get(key, lambda: standing_of(self.inputs, self.book, part, self._lead(part), self.steps))

    def _compute(self, part: Part) -> Line:
        standing, policy = self.standing(part), self.policy(part)
        plan, chances = None, standing.chances
        if chances is not None:
            due = self._due.pop(part.id, None) or chances.last_day(policy.target, YEAR_DAYS)
            plan = plan_order(chances.law, chances.holding, policy, horizon_days=YEAR_DAYS, due=due)
        return Line(**{one.name: getattr(standing, one.name) for one in fields(Standing)}, part=part, policy=policy, plan=plan)

    def policy(self, part: Part) -> Policy:
        """Target, review period and lead time of a part at the chosen site."""
        return Policy(
            target=float(self.inputs.settings.value("target", kind=part.kind, part_number=part.number, default=0.95)),
            review_days=review_days_of(self.inputs, part),
            lead=self._lead(part),
            pack=part.pack if self._from_supplier else 1,
            minimum_order=part.minimum_order if self._from_supplier else 1,
            shelf_life_days=part.shelf_life_days,
            last_order_day=self._last_order_day(part),
        )

    def _last_order_day(self, part: Part) -> int | None:
        if part.end_of_supply_on is None or not self._from_supplier:
            return None
        return (part.end_of_supply_on - self.inputs.clock.today).days

    @property
    def _from_supplier(self) -> bool:
        return self.inputs.site is None or self.inputs.site.is_depot

    def _lead(self, part: Part) -> LeadTime:
        if not self._from_supplier and self.inputs.site is not None:
            return lead_time([self.inputs.lanes.get(self.inputs.site.id, 0)], [1.0])
        entries = self.inputs.suppliers[part.supplier_id].lead_time
        return lead_time([entry["days"] for entry in entries], [entry["weight"] for entry in entries])
