"""One draft as people read it: at today's prices, with what speaks for another quantity and who may approve it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from almanac.core.stock.purchase import cheaper_from, far_above, unit_price
from almanac.services.clock import Clock, read_clock
from almanac.services.errors import NotFound
from almanac.services.orders.drafts import may_not_approve
from almanac.services.orders.read import draft_total
from almanac.services.orders.sending import currency_of, limit_of, need_of
from almanac.store import orders, planning
from almanac.store.models import OrderDraft, Part


@dataclass(frozen=True)
class DraftLine:
    """One part of a draft at today's price. cheaper : a larger quantity that costs less in all · far : why it is far above any need"""

    part_number: str
    part_name: str
    kind: str
    quantity: int
    pack: int
    minimum_order: int
    price: Decimal
    cost: Decimal
    cheaper: tuple[int, Decimal] | None
    far: str | None


@dataclass(frozen=True)
class DraftPage:
    """One draft. refusal : why whoever looks may not approve it, None where nothing speaks against it

    is_own : whoever looks asked for it
    """

    id: int
    supplier: str
    state: str
    note: str
    asked_on: date
    author: str | None
    decided_by: str | None
    decision: str
    version: int
    currency: str
    total: Decimal
    limit: Decimal | None
    refusal: str | None
    is_own: bool
    order_number: str | None
    lines: list[DraftLine]


def read_draft(session: Session, draft_id: int, *, viewer: int) -> DraftPage:
    """One draft, for somebody who may have to approve it.

    Raises
    ------
    NotFound : no draft has that number
    """
    draft = session.get(OrderDraft, draft_id)
    if draft is None:
        raise NotFound(f"there is no draft {draft_id}")
    clock = read_clock(session)
    names = orders.names(session, [draft.author_id, draft.decided_by_id])
    lines = orders.draft_lines(session, [draft.id])[draft.id]
    breaks = orders.price_breaks(session, [part.id for _, part in lines])
    order = next((row.order.number for row in orders.order_rows(session, order_id=draft.order_id)), None) if draft.order_id else None
    return DraftPage(
        id=draft.id,
        supplier=planning.supplier_rows(session, clock.today)[draft.supplier_id].name,
        state=draft.state,
        note=draft.note,
        asked_on=draft.asked_on,
        author=names.get(draft.author_id) if draft.author_id else None,
        decided_by=names.get(draft.decided_by_id) if draft.decided_by_id else None,
        decision=draft.decision,
        version=draft.version,
        currency=currency_of(session, clock),
        total=draft_total(lines, breaks),
        limit=limit_of(session, clock),
        refusal=may_not_approve(session, draft, clock, viewer),
        is_own=draft.author_id == viewer,
        order_number=order,
        lines=[_draft_line(session, part, line.quantity, breaks.get(part.id, []), clock) for line, part in lines],
    )


def _draft_line(session: Session, part: Part, quantity: int, breaks: Sequence[tuple[int, Decimal]], clock: Clock) -> DraftLine:
    price = unit_price(part.price, breaks, quantity)
    return DraftLine(
        part_number=part.number,
        part_name=part.name,
        kind=part.kind,
        quantity=quantity,
        pack=part.pack,
        minimum_order=part.minimum_order,
        price=price,
        cost=price * quantity,
        cheaper=cheaper_from(part.price, breaks, quantity, part.pack),
        far=far_above(quantity, need_of(session, part, clock)),
    )
