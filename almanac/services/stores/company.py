"""What the company decided about its stores: orders, counts, boats, and what waiting and keeping cost."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.core.stock.learnt import STATED_WEIGHT
from almanac.services.clock import Clock
from almanac.services.company_settings import Decision, decisions
from almanac.services.stores.counts import WORTH_ASKING
from almanac.services.stores.top_ups import EVERY_DAYS

WORDS = {
    "order_limit": "Orders above this sum want a second person",
    "own_approval": "The only lead may approve own orders: 1 yes, 0 no",
    "stated_weight": "A supplier's stated lead time weighs as many deliveries",
    "count_value": "Counts that differ by more than this sum wait for a lead",
    "top_up_days": "Packs on shelves are charged every so many days",
    "departure_days": "Days between departures of a lane without a timetable",
    "order_cost": "Placing an order costs",
    "holding_share": "Keeping a part a year costs this share of its price",
    "waiting_cost": "A machine that waits a day costs",
}


def stores_settings(session: Session, clock: Clock) -> list[Decision]:
    """Every decision about the stores; a limit nobody set is none."""
    usual: dict[str, float | None] = {
        "order_limit": None,
        "own_approval": 0,
        "stated_weight": STATED_WEIGHT,
        "count_value": float(WORTH_ASKING),
        "top_up_days": EVERY_DAYS,
        "departure_days": 7,
        "order_cost": 0,
        "holding_share": 0.2,
        "waiting_cost": 0,
    }
    return decisions(session, clock, WORDS, usual)
