"""What the coming week brings to the stores, by day; what is late stands today."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanac.core.stock.timetable import Timetable
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.stores.top_ups import TopUp
from almanac.services.words import count
from almanac.store.shelves import OpenLine
from almanac.store.stores import Under

WEEK_DAYS = 7


@dataclass(frozen=True)
class Happening:
    """Something of the coming week."""

    on: date
    words: str
    late: bool


def week_of(
    builder: OutlookBuilder,
    lines: Sequence[OpenLine],
    transfers: Sequence[Under],
    lanes: Mapping[int, Timetable],
    charges: Sequence[TopUp],
) -> list[Happening]:
    """Orders to place today, boats to load on the day they leave, today where nobody said, and what is due until the week is over."""
    today = builder.inputs.clock.today
    last = today + timedelta(days=WEEK_DAYS - 1)
    due = [*_orders(builder, lines, today), *_transfers(transfers, today), *_expiring(builder, today), *_charges(charges, today)]
    found = [*_to_do(builder, today, lanes), *due]
    return sorted((item for item in found if item.on <= last), key=lambda item: (item.on, not item.late))


def _to_do(builder: OutlookBuilder, today: date, lanes: Mapping[int, Timetable]) -> Iterator[Happening]:
    rows = builder.rows()
    orders = sum(row.quantity > 0 for row in rows)
    if orders:
        yield Happening(today, f"{count(orders, 'order')} to place", False)
    for site in builder.inputs.sites:
        load = sum(one.load for row in rows if row.plan for one in row.plan.sites if one.site_id == site.id)
        if load:
            leaves = lanes[site.id].next_on(today) if site.id in lanes else None
            yield Happening(leaves or today, f"load {site.name}, {load}", False)


def _orders(builder: OutlookBuilder, lines: Sequence[OpenLine], today: date) -> Iterator[Happening]:
    for line in lines:
        late = line.expected_on < today
        of = builder.inputs.numbers.get(line.part_id, "parts")
        yield Happening(max(line.expected_on, today), f"{line.order_number} {'overdue' if late else 'due'}, {line.remaining} {of}", late)


def _transfers(transfers: Sequence[Under], today: date) -> Iterator[Happening]:
    for one in transfers:
        if one.left_on is None:
            yield Happening(today, f"{one.quantity} {one.part_number} packed for {one.to_site}", False)
        elif one.due_on is not None:
            late = one.due_on < today
            words = f"{one.quantity} {one.part_number} {'overdue' if late else 'due'} at {one.to_site}"
            yield Happening(max(one.due_on, today), words, late)


def _charges(charges: Sequence[TopUp], today: date) -> Iterator[Happening]:
    for one in charges:
        if one.due_on is not None:
            words = f"charge {one.quantity} {one.part_number} at {one.site}"
            yield Happening(max(one.due_on, today), words, one.due_on < today)


def _expiring(builder: OutlookBuilder, today: date) -> Iterator[Happening]:
    codes = {site.id: site.code for site in builder.inputs.sites}
    for (part_id, site_id), lots in builder.inputs.lots.items():
        for expires_on, quantity in lots:
            if expires_on is not None and quantity > 0 and expires_on >= today:
                yield Happening(expires_on, f"{quantity} {builder.inputs.numbers.get(part_id, 'parts')} at {codes[site_id]} expire", False)
