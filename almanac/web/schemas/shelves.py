"""The stores: the tally, a shelf, and what is done with stock."""

from __future__ import annotations

from datetime import date
from typing import Literal

from pydantic import Field

from almanac.web.schemas.base import Schema

Reason = Field(default="", max_length=300)


class TallyCell(Schema):
    """One shelf; `level` is null where nothing is kept or nothing can be said."""

    site: str
    on_hand: int
    expired: int
    coming: int
    level: int | None
    load: int
    waits: int
    set_aside: int
    back: int


class TallyLine(Schema):
    number: str
    name: str
    kind: str
    to_order: int
    cells: list[TallyCell]


class LaneView(Schema):
    """How the depot supplies a site; `every_days` is null where nobody said, `next_on` where only the days between are known."""

    days: int
    every_days: int | None
    weekdays: list[int]
    carrier: str
    words: str
    next_on: date | None


class LaneIn(Schema):
    days: int
    every_days: int | None = None
    weekdays: list[int] = Field(default_factory=list, max_length=7)
    carrier: str = Field(default="boat", max_length=30)


class TallySite(Schema):
    code: str
    name: str
    is_depot: bool
    lane: LaneView | None


class HappeningView(Schema):
    on: date
    words: str
    late: bool


class TransferView(Schema):
    id: int
    part_number: str
    part_name: str
    from_site: str
    to_site: str
    quantity: int
    packed_on: date
    left_on: date | None
    due_on: date | None
    version: int


class WaitingCountView(Schema):
    id: int
    part_number: str
    part_name: str
    site: str
    booked: int
    counted: int
    reason: str
    counted_on: date
    author: str | None


class TopUpView(Schema):
    """Packs of a shelf to charge; `due_on` is null where nobody knows when one of them was charged last."""

    part_number: str
    part_name: str
    site: str
    quantity: int
    due_on: date | None


class TallyView(Schema):
    """All shelves of all stock parts; `below` counts shelves under their level, `waiting` parts that machines wait for."""

    as_of: date
    sites: list[TallySite]
    rows: list[TallyLine]
    week: list[HappeningView]
    unsaid: int
    below: int
    waiting: int
    transfers: list[TransferView]
    counts: list[WaitingCountView]
    set_aside: int
    back: int
    top_ups: list[TopUpView]


class LotView(Schema):
    keeps_until: date | None
    made_on: date | None
    quantity: int
    expired: bool


class PromisedView(Schema):
    id: int
    quantity: int
    since: date
    tag: str | None
    reserved: bool
    planned_on: date | None


class ComingView(Schema):
    id: int
    order_number: str
    expected_on: date
    remaining: int
    version: int


class StockMoveView(Schema):
    id: int
    on: date
    words: str
    who: str | None
    bucket: str
    quantity: int
    act_id: int | None
    can_undo: bool
    incident_id: int | None


class RecoveredView(Schema):
    """A part out of a machine; `tested_as` is null before its test."""

    id: int
    serial: str | None
    age_days: int
    age_span_days: int
    removed_on: date
    tag: str
    tested_on: date | None
    tested_as: str | None


class TestedIn(Schema):
    result: Literal["good", "worn"]


class PlannedSwapView(Schema):
    """A planned swap that takes this part here; `kept` counts what is reserved for it or waited for."""

    id: int
    planned_on: date
    quantity: int
    model: str
    kept: int


class SubstituteView(Schema):
    """Another part that may be fitted in place of one; `two_way` where the other way round is fine, too."""

    number: str
    name: str
    reason: str
    two_way: bool
    here: int
    elsewhere: int


class SubstituteIn(Schema):
    number: str = Field(max_length=60)
    two_way: bool = False
    reason: str = Reason


class WarrantyClaimView(Schema):
    """A failed part within its warranty; `removed_to` says where it lies."""

    incident_id: int
    occurred_on: date
    part_number: str
    part_name: str
    supplier: str
    tag: str
    site: str
    until_on: date
    finding: str
    removed_to: str
    serial: str | None
    price: float


class ClaimsView(Schema):
    claims: list[WarrantyClaimView]


class RetiringRowView(Schema):
    """One part number of a machine about to retire; null where nothing of it that could be kept is on record."""

    tag: str
    model: str
    site: str
    retire_on: date
    part_number: str | None
    part_name: str | None
    kind: str | None
    units: int
    oldest_days: int | None


class RetiringView(Schema):
    until: date
    rows: list[RetiringRowView]


class ShelfView(Schema):
    part_number: str
    part_name: str
    kind: str
    site: str
    site_name: str
    place: str | None
    energy_class: str | None
    on_hand: int
    harvested: int
    quarantine: int
    returned: int
    under_way: int
    lots: list[LotView]
    promised: list[PromisedView]
    coming: list[ComingView]
    moves: list[StockMoveView]
    last_counted: date | None
    acts: list[str]
    instead: list[SubstituteView]
    swaps: list[PlannedSwapView]
    recovered: list[RecoveredView]


class StockActIn(Schema):
    act: str = Field(max_length=30)
    quantity: int
    reason: str = Reason
    made_on: date | None = None


class ActDone(Schema):
    act_id: int


class UndoIn(Schema):
    reason: str = Reason


class TransferIn(Schema):
    part_number: str = Field(max_length=80)
    from_site: str = Field(max_length=20)
    to_site: str = Field(max_length=20)
    quantity: int


class TransferMade(Schema):
    id: int
    version: int


class TransferActIn(Schema):
    expected_version: int
    act: Literal["send", "arrive", "unpack"]
    quantity: int = 0
    reason: str = Reason


class CountSheetQuery(Schema):
    site: str
    booked: bool = False


class CountIn(Schema):
    counted: int
    reason: str = Reason
    place: str | None = Field(default=None, max_length=20)


class CountMade(Schema):
    id: int
    booked: int
    waits: bool


class SettleCountIn(Schema):
    approve: bool


class PromiseIn(Schema):
    quantity: int
    tag: str = Field(default="", max_length=60)
    plan_id: int | None = None


class PromiseMade(Schema):
    reserved: int
    waits: int
