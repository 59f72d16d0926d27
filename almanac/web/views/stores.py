"""Orders, receipts and the company's settings."""

from __future__ import annotations

from datetime import date
from typing import Any

from flask import Blueprint

from almanac.services.clock import read_clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.errors import NotFound
from almanac.services.orders.arrivals import ReceiptRequest, receive
from almanac.services.orders.lines import CancelRequest, cancel
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.outlook.builder import OutlookBuilder
from almanac.services.outlook.since import changes_of
from almanac.services.outlook.summary import read_plate
from almanac.store import pins, shelves
from almanac.store.models import Role
from almanac.store.planning import StockPart
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.pins import ORDER, body_of, pin_reply
from almanac.web.schemas.base import Done
from almanac.web.schemas.outlook import PartLine, PlateView
from almanac.web.schemas.stores import CancelIn, OrderIn, OrderPlaced, ReceiptIn, SettingChanged, SettingIn
from almanac.web.schemas.work import BasisView, Standing, WhatMoved
from almanac.web.views.outlook_words import row_view

blueprint = Blueprint("stores", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/orders", method="POST", access=Role.LEAD, replies=OrderPlaced, status=201)
def order(json: OrderIn) -> OrderPlaced:
    """Mark a part as ordered."""
    request = OrderRequest(json.part_number, json.quantity, json.expected_on, frozenset(json.confirmed))
    clock = read_clock(session())
    line = place_order(session(), request, clock=clock, author_id=author_id())
    number = shelves.order_of(session(), line).number
    pin_reply(
        json.rests_on,
        "plate",
        plate_arguments(json.part_number),
        act=ORDER,
        subject=number,
        clock=clock,
        fits=lambda body: PlateView.model_validate_json(body).line.number == json.part_number,
    )
    return OrderPlaced(order_number=number, line_id=line.id, expected_on=line.expected_on)


@endpoint(blueprint, "/orders/<order_number>/basis", access=Role.READER, replies=BasisView)
def order_basis(order_number: str) -> BasisView:
    """What an order rested on, beside today's figures, and what changed in between."""
    found = pins.pinned(session(), ORDER, order_number)
    if found is None:
        raise NotFound(f"nothing is kept of what {order_number} rested on: it was ordered before answers were kept, or not from a plate")
    then = PlateView.model_validate_json(body_of(found))
    plate, builder = read_plate(session(), then.line.number, site_code=then.site)
    return BasisView(
        order_number=order_number,
        part_number=then.line.number,
        pinned_at=found.pinned_at,
        author=found.author,
        then=_stood(then.as_of, then.line),
        now=_stood(builder.inputs.clock.today, row_view(plate.row, builder)),
        moved=_moved(builder, plate.row.part, then.as_of),
    )


def plate_arguments(number: str) -> dict[str, Any]:
    """What the plate of a part over all sites is asked with."""
    return {"path": {"number": number}, "given": {"site": None}}


def _stood(as_of: date, line: PartLine) -> Standing:
    return Standing(
        as_of=as_of,
        in_service=line.in_service,
        on_hand=line.on_hand,
        on_order=line.on_order,
        year=line.a_month * 12 if line.a_month is not None else None,
        rate=line.rate.rate if line.rate else None,
        risk=line.risk,
        position=line.position,
        order_at=line.order_at,
        likely_on=line.next_order.likely,
        quantity=line.quantity,
    )


def _moved(builder: OutlookBuilder, part: StockPart, since: date) -> WhatMoved | None:
    """The split of what changed since a day; None where that is today."""
    if since >= builder.inputs.clock.today:
        return None
    changes = changes_of(session(), builder, part.kind, since)[1]
    own = next((change for change in changes if change.part_id == part.id), None)
    return None if own is None else WhatMoved.model_validate(own, extra="ignore")


@endpoint(blueprint, "/order-lines/<int:line_id>/receipts", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def receipt(line_id: int, json: ReceiptIn) -> Done:
    """Receive parts of an order, whole or in part."""
    request = ReceiptRequest(
        json.quantity, json.received_on, json.expected_version, json.made_on, json.expires_on, json.lot, tuple(json.serials)
    )
    receive(session(), line_id, request, clock=read_clock(session()), author_id=author_id())
    return Done()


@endpoint(blueprint, "/order-lines/<int:line_id>/cancellations", method="POST", access=Role.LEAD, replies=Done, status=201)
def cancellation(line_id: int, json: CancelIn) -> Done:
    """Cancel what is still to come of an order line, or some of it."""
    request = CancelRequest(json.quantity, json.reason, json.expected_version)
    cancel(session(), line_id, request, clock=read_clock(session()), author_id=author_id())
    return Done()


@endpoint(blueprint, "/settings", method="POST", access=Role.LEAD, replies=SettingChanged, status=201)
def setting(json: SettingIn) -> SettingChanged:
    """Change a setting from today on; the old value stays in the record."""
    request = SettingRequest(json.scope, json.scope_key, json.key, json.value, json.expected_number, json.reason)
    return SettingChanged(number=change_setting(session(), request, clock=read_clock(session()), author_id=author_id()))
