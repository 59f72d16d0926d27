"""Orders sent by mail: on record where they went, and not where they did not."""

from __future__ import annotations

from email import message_from_bytes
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from almanac.exchange.mail import Way
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.orders.mailing import MailRequest, mail_order
from almanac.services.orders.read import read_order, read_orders

GOOD = MailRequest("orders@supplier.example", "stores@skerry.example")


def open_order(session: Session) -> str:
    return next(order.number for order in read_orders(session).orders if order.to_come > 0)


def test_a_mail_goes_with_both_documents_and_is_on_record(session: Session, clock: Clock, tmp_path: Path) -> None:
    number = open_order(session)
    assert read_order(session, number).mail_to == ""
    way = mail_order(session, number, GOOD, Way(f"folder://{tmp_path}"), clock=clock, author_id=1)
    assert "outbox folder" in way
    (file,) = tmp_path.iterdir()
    mail = message_from_bytes(file.read_bytes())
    assert (mail["To"], mail["From"], mail["X-Unsent"]) == (GOOD.address, GOOD.sender, None)
    assert mail["Message-ID"].endswith("@skerry.example>")
    kinds = [part.get_content_type() for part in mail.walk()]
    assert kinds == ["multipart/mixed", "text/plain", "application/pdf", "application/json"]
    page = read_order(session, number)
    assert any(item.words.startswith("mailed to orders@supplier.example") and item.who == "M. Quay" for item in page.history)
    assert (page.mail_to, page.mail_from) == (GOOD.address, GOOD.sender)


def test_what_did_not_go_is_not_on_record(session: Session, clock: Clock) -> None:
    number = open_order(session)
    before = read_order(session, number).history
    with pytest.raises(Refused, match="no mail server is set up"):
        mail_order(session, number, GOOD, Way(""), clock=clock, author_id=1)
    assert read_order(session, number).history == before


def test_addresses_orders_and_lines_are_checked(session: Session, clock: Clock, tmp_path: Path) -> None:
    way = Way(f"folder://{tmp_path}/outbox")
    number = open_order(session)
    with pytest.raises(Refused, match=r"one mail address .* got somebody") as refused:
        mail_order(session, number, MailRequest("somebody", ""), way, clock=clock, author_id=1)
    assert [fault.field for fault in refused.value.faults] == ["address", "sender"]
    ended = next(order.number for order in read_orders(session).orders if order.to_come == 0)
    with pytest.raises(Refused, match="nothing of it is to come"):
        mail_order(session, ended, GOOD, way, clock=clock, author_id=1)
    with pytest.raises(NotFound):
        mail_order(session, "PO-0", GOOD, way, clock=clock, author_id=1)
    assert not (tmp_path / "outbox").exists()
