"""Long work behind the pages, and answers that were acted on."""

from __future__ import annotations

from datetime import date, datetime

from almanac.core.stock.shelf import Risk
from almanac.web.schemas.base import Schema


class WorkView(Schema):
    """A piece of long work: what in words, how it stands (waits, runs, failed, cancelled), and how far it is."""

    id: int
    what: str
    status: str
    words: str | None
    done: int | None
    of: int | None
    attempts: int
    asked_at: datetime | None
    began_at: datetime | None
    ended_at: datetime | None
    can_cancel: bool
    can_retry: bool


class WorkList(Schema):
    """What runs, waits and failed, and how much of the answers' room is taken."""

    workers: int
    work: list[WorkView]
    answers: int
    megabytes: float
    ceiling_megabytes: float


class Standing(Schema):
    """A part's figures at one moment."""

    as_of: date
    in_service: float
    on_hand: int
    on_order: int
    year: float | None
    rate: float | None
    risk: Risk | None
    position: int | None
    order_at: int | None
    likely_on: date | None
    quantity: int


class WhatMoved(Schema):
    """Parts a year: as said then, what moved it, as said now; they add up."""

    before: float
    ageing: float
    fleet: float
    log: float
    settings: float
    now: float


class BasisView(Schema):
    """What an order rested on, beside today, and what changed in between."""

    order_number: str
    part_number: str
    pinned_at: datetime
    author: str | None
    then: Standing
    now: Standing
    moved: WhatMoved | None
