"""Sending an order to its supplier by mail, on record with address, way and who."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from almanac.exchange.mail import NotSent, Way, is_address, send
from almanac.services.clock import Clock
from almanac.services.errors import Fault, Refused
from almanac.services.orders.document import order_mail
from almanac.services.orders.read import read_order
from almanac.store import orders
from almanac.store.models import OrderMailing
from almanac.store.settings import settings_on


@dataclass(frozen=True)
class MailRequest:
    """Where to. sender : the company's own address"""

    address: str
    sender: str


def mail_order(session: Session, number: str, request: MailRequest, way: Way, *, clock: Clock, author_id: int) -> str:
    """Send an order by mail; returns how it went, in words. What did not go is not on record.

    Raises
    ------
    NotFound : no such order · Refused : an address that is none, nothing left to come, or a server that did not take it
    """
    page = read_order(session, number)
    faults = [
        Fault(field, f"one mail address such as orders@supplier.example was wanted, got {address or '(empty)'}")
        for field, address in (("address", request.address), ("sender", request.sender))
        if not is_address(address)
    ]
    if all(line.to_come == 0 for line in page.lines):
        faults.append(Fault("order", "nothing of it is to come any more"))
    if faults:
        raise Refused(*faults)
    company = str(settings_on(session, clock.today).value("company_name", default=""))
    try:
        send(order_mail(page, company, sender=request.sender, to=request.address), request.sender, request.address, way)
    except NotSent as error:
        raise Refused(Fault("address", str(error))) from error
    row = OrderMailing(
        order_id=orders.order_rows(session, number=number)[0].order.id,
        address=request.address,
        sender=request.sender,
        way=way.words,
        mailed_on=clock.today,
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(row)
    session.flush()
    return way.words
