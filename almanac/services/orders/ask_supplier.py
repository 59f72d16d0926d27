"""The simulated supplier answers an order as it would be sent, and its answer is read like any other."""

from __future__ import annotations

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.orders.answers import record_answers
from almanac.services.orders.document import order_json, read_answer
from almanac.services.orders.read import OrderPage, read_order
from almanac.standins.supplier import answer
from almanac.store import assets, catalog


def ask_supplier(session: Session, number: str, kind: str, *, clock: Clock, author_id: int) -> list[int]:
    """Have it answer an order; returns the numbers of its answers.

    Raises
    ------
    NotFound : no such order · Refused : nothing is to come
    """
    page = read_order(session, number)
    text = answer(order_json(page), kind, others=_equivalents(session, page))
    return record_answers(session, number, read_answer(text, number), clock=clock, author_id=author_id)


def _equivalents(session: Session, page: OrderPage) -> list[str]:
    """Parts that may be fitted in place of the first one to come."""
    first = next((line.part_number for line in page.lines if line.to_come > 0), None)
    part = assets.part_by_number(session, first) if first else None
    if part is None:
        return []
    numbers = {one.id: one.number for one in catalog.all_parts(session)}
    return [numbers[one] for one, serves in catalog.interchange(session) if serves == part.id and one in numbers]
