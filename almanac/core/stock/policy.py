"""What an order has to keep to."""

from __future__ import annotations

from dataclasses import dataclass

from almanac.core.stock.lead_time import LeadTime


@dataclass(frozen=True)
class Policy:
    """What the company decided and what the supplier sells.

    last_order_day : days from the as-of day to the last one on which the part can be bought, negative once it is over; None without end
    """

    target: float
    review_days: int
    lead: LeadTime
    pack: int = 1
    minimum_order: int = 1
    shelf_life_days: int | None = None
    last_order_day: int | None = None

    def can_order_on(self, day: int) -> bool:
        """Whether the supplier still sells on a day."""
        return self.last_order_day is None or day <= self.last_order_day

    def windows(self, day: int) -> list[tuple[int, int]]:
        """Windows of demand (start, end] by which an order of a day is sized, beyond what its day was found by."""
        ends = [day + int(lead) + self.review_days for lead in self.lead.days]
        if self.shelf_life_days is not None:
            ends.append(day + self.lead.median_days + self.shelf_life_days)
        return [(day, end) for end in ends]
