"""Orders as documents: the list, one order, drafts, and what the supplier answers."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema

Number = Field(max_length=60)
Said = Field(default="", max_length=300)


class OrderSummaryView(Schema):
    number: str
    supplier: str
    placed_on: date
    standing: str
    lines: int
    parts: int
    to_come: int
    late: int
    next_on: date | None
    to_settle: int
    total: float


class DraftSummaryView(Schema):
    id: int
    supplier: str
    state: str
    asked_on: date
    author: str | None
    lines: int
    total: float


class OrdersView(Schema):
    """Orders, those with something to come first; `limit` is null where no sum wants a second lead."""

    as_of: date
    currency: str
    orders: list[OrderSummaryView]
    drafts: list[DraftSummaryView]
    limit: float | None


class OrderLineView(Schema):
    id: int
    part_number: str
    part_name: str
    kind: str
    quantity: int
    arrived: int
    cancelled: int
    to_come: int
    price: float
    cost: float
    expected_on: date
    confirmed_on: date | None
    late: bool
    version: int
    energy_class: str | None
    expires: bool


class HappenedView(Schema):
    """Something that happened to an order; `answer_id` where it waits to be settled, `receipt_id` where it can be undone."""

    on: date
    words: str
    who: str | None
    answer_id: int | None
    reply: str | None
    receipt_id: int | None


class OrderDocView(Schema):
    number: str
    supplier: str
    site: str
    site_code: str
    placed_on: date
    author: str | None
    approved_by: str | None
    note: str
    standing: str
    currency: str
    total: float
    lead_days: int
    late_days: int
    stated_days: int
    stated_late_days: int
    deliveries: int
    lines: list[OrderLineView]
    to_settle: list[HappenedView]
    history: list[HappenedView]
    mail_to: str
    mail_from: str


class MailIn(Schema):
    """Send an order by mail: where to, and the company's own address."""

    address: str = Field(max_length=254)
    sender: str = Field(max_length=254)


class Mailed(Schema):
    """How it went, in words."""

    way: str


class CheaperView(Schema):
    quantity: int
    cost: float


class DraftLineView(Schema):
    part_number: str
    part_name: str
    kind: str
    quantity: int
    pack: int
    minimum_order: int
    price: float
    cost: float
    cheaper: CheaperView | None
    far: str | None


class DraftView(Schema):
    """A draft at today's prices; `refusal` says why whoever looks may not approve it."""

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
    total: float
    limit: float | None
    refusal: str | None
    is_own: bool
    order_number: str | None
    lines: list[DraftLineView]


class OrderLineIn(Schema):
    part_number: str = Number
    quantity: int = Field(ge=1, le=100000)


class DraftsIn(Schema):
    lines: list[OrderLineIn] = Field(max_length=200)
    note: str = Said


class DraftsMade(Schema):
    ids: list[int]


class DraftChange(Schema):
    lines: list[OrderLineIn] = Field(max_length=200)
    note: str = Said
    expected_version: int


class DraftActIn(Schema):
    act: Literal["send", "approve", "refuse", "drop"]
    expected_version: int
    words: str = Said
    confirmed: list[Literal["again", "far"]] = Field(default_factory=list)


class DraftActed(Schema):
    """`order_number` where the draft became an order."""

    order_number: str | None


class SaidIn(Schema):
    part_number: str = Number
    reply: Literal["confirmed", "moved", "short", "substitute", "price"]
    expected_on: date | None = None
    quantity: int | None = Field(default=None, ge=0, le=100000)
    unit_price: float | None = Field(default=None, ge=0, lt=1e9)
    substitute: str | None = Field(default=None, max_length=60)
    words: str = Said


class AnswersIn(Schema):
    """What the supplier said, typed in, or its file as text."""

    answers: list[SaidIn] = Field(default_factory=list, max_length=200)
    file: str | None = Field(default=None, max_length=200_000)


class SupplierAsked(Schema):
    kind: Literal["confirmed", "moved", "short", "substitute", "price"]


class AnswersMade(Schema):
    ids: list[int]


class SettleAnswerIn(Schema):
    accept: bool
    cancel: bool = False
    words: str = Said


class ReceiptUndoIn(Schema):
    reason: str = Said
