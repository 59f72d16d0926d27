"""What an order has to keep to."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.stock.lead_time import LeadTime
from almanac.core.stock.reorder import Measure, Promise, least_cost, order_quantity


@dataclass(frozen=True)
class Policy:
    """What the company decided and what the supplier sells.

    target : share of requests met at once, or of what the measure counts · order_cost : of an order line
    holding_cost : of a part a year · waiting_cost : of a machine that waits a day, None where nobody said
    last_order_day : days from the as-of day to the last one on which the part can be bought, negative once it is over; None without end
    site_floor : share of requests that every site meets at least · stocked : kept at all; what is not is bought when needed
    """

    target: float
    review_days: int
    lead: LeadTime
    pack: int = 1
    minimum_order: int = 1
    shelf_life_days: int | None = None
    last_order_day: int | None = None
    measure: Measure = Measure.FILL
    order_cost: float = 0.0
    holding_cost: float = 0.0
    waiting_cost: float | None = None
    site_floor: float = 0.85
    stocked: bool = True

    @property
    def promise(self) -> Promise:
        """What is wanted; of least cost only where the costs are known, else as many requests met as the target says."""
        if self.measure == Measure.LEAST_COST and self.waiting_cost and self.holding_cost > 0:
            return least_cost(self.waiting_cost, self.holding_cost)
        measure = Measure.FILL if self.measure == Measure.LEAST_COST else self.measure
        return Promise(measure, self.target)

    def lot(self, demand_a_year: float) -> int:
        """Q at a demand; one lot where holding costs nothing, for then no lot would be too large."""
        return order_quantity(
            demand_a_year,
            pack=self.pack,
            minimum_order=self.minimum_order,
            order_cost=self.order_cost if self.holding_cost > 0 else 0.0,
            holding_cost=self.holding_cost,
        )

    def can_order_on(self, day: int) -> bool:
        """Whether the supplier still sells on a day."""
        return self.last_order_day is None or day <= self.last_order_day
