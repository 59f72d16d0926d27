"""Orders, receipts and the company's settings."""

from __future__ import annotations

from flask import Blueprint

from almanac.services.clock import read_clock
from almanac.services.company_settings import SettingRequest, change_setting
from almanac.services.orders import CancelRequest, OrderRequest, ReceiptRequest, cancel, place_order, receive
from almanac.store import shelves
from almanac.store.models import Role
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas.base import Done
from almanac.web.schemas.stores import CancelIn, OrderIn, OrderPlaced, ReceiptIn, SettingChanged, SettingIn

blueprint = Blueprint("stores", __name__, url_prefix="/api/v1")


@endpoint(blueprint, "/orders", method="POST", access=Role.LEAD, replies=OrderPlaced, status=201)
def order(json: OrderIn) -> OrderPlaced:
    """Mark a part as ordered."""
    request = OrderRequest(json.part_number, json.quantity, json.expected_on, frozenset(json.confirmed))
    line = place_order(session(), request, clock=read_clock(session()), author_id=author_id())
    return OrderPlaced(order_number=shelves.order_of(session(), line).number, line_id=line.id, expected_on=line.expected_on)


@endpoint(blueprint, "/order-lines/<int:line_id>/receipts", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def receipt(line_id: int, json: ReceiptIn) -> Done:
    """Receive parts of an order, whole or in part."""
    request = ReceiptRequest(json.quantity, json.received_on, json.expected_version, json.made_on)
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
    request = SettingRequest(json.scope, json.scope_key, json.key, json.value, json.expected_number)
    return SettingChanged(number=change_setting(session(), request, clock=read_clock(session()), author_id=author_id()))
