"""One line of the outlook a stock part: rate, shelf, path, order-by day, quantity and state."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from almanac.core.demand import counts
from almanac.core.demand.failure_rate import AnnualisedRate, annualised_rate
from almanac.core.demand.law import DemandLaw, StreamMeans
from almanac.core.demand.months import MonthStep, month_steps
from almanac.core.demand.wear_batch import draw_windows
from almanac.core.demand.wear_law import WearLaw
from almanac.core.life.outcomes import Bucket
from almanac.core.stock.lead_time import LeadTime, lead_time
from almanac.core.stock.order_plan import OrderDay, OrderPlan, Policy, order_day, plan_order
from almanac.core.stock.path import Arrival, Holding, path_quantiles
from almanac.core.stock.quantity import Lot, expected_scrap
from almanac.services.outlook.content import Content
from almanac.services.outlook.inputs import Inputs
from almanac.services.outlook.laws import HORIZON_DAYS, LawBook, PartLaw
from almanac.services.remembered import Remembered
from almanac.store.models import Part

REMEMBERED: Remembered[Line] = Remembered(400)
YEAR_DAYS = 365
BAND = (0.05, 0.5, 0.95)
SOON_DAYS = 90


@dataclass(frozen=True)
class PathPoint:
    """Projected stock without new orders at the end of a day: 5, 50 and 95%."""

    day: int
    low: int
    median: int
    high: int


@dataclass(frozen=True)
class SiteShort:
    """A site that runs short before the next boat and review: its stock and the chance."""

    code: str
    name: str
    on_hand: int
    chance: float


@dataclass(frozen=True)
class Line:
    """What the outlook shows of a stock part, and what its plate starts from."""

    part: Part
    equivalents: list[str]
    law: PartLaw | None
    rate: AnnualisedRate | None
    in_service: float
    on_hand: int
    promised: int
    on_order: int
    overdue: int
    holding: Holding
    policy: Policy
    plan: OrderPlan | None
    path: list[PathPoint]
    soon: StreamMeans | None
    year: StreamMeans | None
    sites_short: list[SiteShort]
    scrap_expected: int

    def order_by(self, today: date) -> date | None:
        """The last day to order, None when nothing is due within the year."""
        if self.plan is None or self.plan.order_day is None:
            return None
        return today + timedelta(days=self.plan.order_day)

    @property
    def quantity(self) -> int:
        return self.plan.size_quantity if self.plan else 0

    @property
    def cost(self) -> Decimal:
        return self.part.price * self.quantity


def _demanding(law: PartLaw) -> bool:
    """Whether anything is expected of a part at all."""
    return bool(law.law.mean_parts([HORIZON_DAYS])[0] > 0)


class OutlookBuilder:
    """Builds lines for one set of inputs."""

    def __init__(self, inputs: Inputs) -> None:
        self.inputs = inputs
        self.content = Content(inputs)
        self.book = LawBook(inputs, content=self.content)
        self._due: dict[int, OrderDay] = {}
        self.steps: list[MonthStep] = month_steps(inputs.clock.today, 12)

    def lines(self) -> list[Line]:
        """All stock parts that have been in service or on a shelf, in catalogue order."""
        new = [part for part in self.inputs.parts if REMEMBERED.peek(self.content.of(part)) is None]
        self.book.draw({part.id: self._boats(self.policy(part)) for part in new})
        self._draw_orders(new)
        return [self.line(part) for part in self.inputs.parts]

    def _draw_orders(self, parts: list[Part]) -> None:
        """Find the order days of some parts, then work out together what their orders are sized by."""
        laws, windows = [], []
        for part in parts:
            law = self.book.part_law(part.id)
            if law is None or not isinstance(law.law, WearLaw) or not _demanding(law):
                continue
            policy = self.policy(part)
            self._due[part.id] = order_day(law.law, self.holding(part)[0], policy, horizon_days=YEAR_DAYS)
            laws.append(law.law)
            windows.append(self._due[part.id].windows(policy))
        draw_windows(laws, windows)

    def _boats(self, policy: Policy) -> dict[int, int]:
        """Days until the boat after the next review, by outpost; none where one site is looked at."""
        if self.inputs.site is not None:
            return {}
        return {site.id: self.inputs.lanes.get(site.id, 0) + policy.review_days for site in self.inputs.sites if not site.is_depot}

    def line(self, part: Part) -> Line:
        """One stock part: remembered while everything it rests on stays the same, computed otherwise."""
        return replace(REMEMBERED.get(self.content.of(part), lambda: self._compute(part)), part=part)

    def _compute(self, part: Part) -> Line:
        law = self.book.part_law(part.id)
        policy, due = self.policy(part), self._due.pop(part.id, None)
        holding, overdue = self.holding(part)
        units = float(law.units.sum()) if law else 0.0
        members = [other for other in self.inputs.members(part.id) if other != part.id]
        return Line(
            part=part,
            equivalents=[self.inputs.numbers[member] for member in members],
            law=law,
            rate=annualised_rate(law.law) if law else None,
            in_service=units,
            on_hand=self._on_hand(part.id),
            promised=self._promised(part.id),
            on_order=holding.on_order,
            overdue=overdue,
            holding=holding,
            policy=policy,
            plan=plan_order(law.law, holding, policy, horizon_days=YEAR_DAYS, due=due) if law and _demanding(law) else None,
            path=self._path(law.law, holding) if law else [],
            soon=law.law.means(0, SOON_DAYS) if law else None,
            year=law.law.means(0, YEAR_DAYS) if law else None,
            sites_short=self._sites_short(part, law, policy) if law and self.inputs.site is None else [],
            scrap_expected=self._scrap(part, law.law) if law else 0,
        )

    def policy(self, part: Part) -> Policy:
        """Target, review period and lead time of a part at the chosen site."""
        settings = self.inputs.settings
        return Policy(
            target=float(settings.value("target", kind=part.kind, part_number=part.number, default=0.95)),
            review_days=int(settings.value("review_days", kind=part.kind, part_number=part.number, default=14)),
            lead=self._lead(part),
            pack=part.pack if self._from_supplier else 1,
            minimum_order=part.minimum_order if self._from_supplier else 1,
            shelf_life_days=part.shelf_life_days,
        )

    @property
    def _from_supplier(self) -> bool:
        return self.inputs.site is None or self.inputs.site.is_depot

    def _lead(self, part: Part) -> LeadTime:
        if not self._from_supplier and self.inputs.site is not None:
            return lead_time([self.inputs.lanes.get(self.inputs.site.id, 0)], [1.0])
        entries = self.inputs.suppliers[part.supplier_id].lead_time
        return lead_time([entry["days"] for entry in entries], [entry["weight"] for entry in entries])

    def _on_hand(self, part_id: int, sites: set[int] | None = None) -> int:
        return sum(
            self.inputs.balances.get((member, site), {}).get(Bucket.ON_HAND, 0)
            for member in self.inputs.members(part_id)
            for site in sites or self.inputs.site_ids
        )

    def _promised(self, part_id: int, sites: set[int] | None = None) -> int:
        return sum(
            self.inputs.promised.get((member, site), 0) for member in self.inputs.members(part_id) for site in sites or self.inputs.site_ids
        )

    def holding(self, part: Part) -> tuple[Holding, int]:
        """Free stock and confirmed arrivals. A delivery that is overdue is taken to need one more review period."""
        today, members = self.inputs.clock.today, set(self.inputs.members(part.id))
        review = int(self.inputs.settings.value("review_days", kind=part.kind, part_number=part.number, default=14))
        arrivals, overdue = [], 0
        for line in self.inputs.open_lines:
            if line.part_id not in members or line.site_id not in self.inputs.site_ids:
                continue
            day = (line.expected_on - today).days
            overdue += line.remaining if day < 1 else 0
            arrivals.append(Arrival(day if day >= 1 else max(review, 1), line.remaining))
        floor = int(self.inputs.settings.value("floor", kind=part.kind, part_number=part.number, default=0))
        available = self._on_hand(part.id) - self._promised(part.id)
        return Holding(available, tuple(sorted(arrivals, key=lambda arrival: arrival.day)), floor), overdue

    def _path(self, law: DemandLaw, holding: Holding) -> list[PathPoint]:
        days = np.array([step.to_day for step in self.steps])
        demand = law.reaching(np.zeros(days.size), days, BAND[-1])
        high, median, low = (path_quantiles(counts.quantile(demand, level), holding, days) for level in BAND)
        start = PathPoint(0, holding.available, holding.available, holding.available)
        return [start, *(PathPoint(int(day), int(low[i]), int(median[i]), int(high[i])) for i, day in enumerate(days))]

    def _sites_short(self, part: Part, law: PartLaw, policy: Policy) -> list[SiteShort]:
        """Outposts whose own shelf is likelier than the target allows to run out before the boat after the next review."""
        outposts = [site for site in self.inputs.sites if not site.is_depot]
        if not outposts:
            return []
        free = [self._on_hand(part.id, {site.id}) - self._promised(part.id, {site.id}) for site in outposts]
        served = np.cumsum(self.book.site_heads(part.id, law, self._boats(policy), max(0, *free)), axis=1)
        chance = [1.0 - float(served[place, stock]) if stock >= 0 else 1.0 for place, stock in enumerate(free)]
        return [
            SiteShort(site.code, site.name, stock, missed)
            for site, stock, missed in zip(outposts, free, chance, strict=True)
            if missed > 1.0 - policy.target
        ]

    def lots(self, part: Part) -> list[Lot]:
        """What stands on the shelf by expiry, oldest first, first in first out."""
        left, found = self._on_hand(part.id), []
        for made_on, quantity in self.inputs.lots.get(part.id, []):
            taken = min(quantity, left)
            if taken == 0:
                break
            expires = None
            if part.shelf_life_days and made_on:
                expires = (made_on + timedelta(days=part.shelf_life_days) - self.inputs.clock.today).days
            found.append(Lot(taken, expires))
            left -= taken
        if left:
            found.append(Lot(left, None))
        return sorted(found, key=lambda lot: lot.expires_day if lot.expires_day is not None else 10**6)

    def _scrap(self, part: Part, law: DemandLaw) -> int:
        if part.shelf_life_days is None:
            return 0
        lots = self.lots(part)
        days = [max(lot.expires_day, 0) if lot.expires_day is not None else 0 for lot in lots]
        used = counts.quantile(law.reaching(np.zeros(len(lots)), days, 0.5), 0.5).tolist() if lots else []
        return expected_scrap(lots, used)
