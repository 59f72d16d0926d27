"""An order as a document for the supplier: to print, as CSV, and as JSON that a program can read and answer."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import date
from decimal import Decimal, InvalidOperation
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import localtime, make_msgid
from typing import Any

from almanac.core.stock.labels import order_label
from almanac.core.stock.replies import Reply, Said
from almanac.exchange.sheets import DocumentLine, OrderSheet, order_pdf
from almanac.exchange.tables import write_csv
from almanac.services.errors import Fault, Refused
from almanac.services.orders.answers import AnswerRequest
from almanac.services.orders.read import OrderLine, OrderPage
from almanac.services.words import day, money

FORMAT, REPLY_FORMAT = "parts-almanac-order/1", "parts-almanac-order-answer/1"
COLUMNS = (
    "order",
    "placed_on",
    "supplier",
    "deliver_to",
    "part_number",
    "part_name",
    "quantity",
    "unit_price",
    "cost",
    "currency",
    "wanted_on",
)


def order_csv(page: OrderPage) -> bytes:
    """The lines that are not cancelled, one a row."""
    return write_csv(
        COLUMNS,
        [
            [
                page.number,
                page.placed_on,
                page.supplier,
                page.site,
                line.part_number,
                line.part_name,
                line.quantity - line.cancelled,
                line.price,
                line.cost,
                page.currency,
                line.expected_on,
            ]
            for line in page.lines
            if line.quantity > line.cancelled
        ],
    )


def order_json(page: OrderPage) -> str:
    """The order for a program; what is cancelled stands there with what is left, so that a later copy says so."""
    body = {
        "format": FORMAT,
        "order": page.number,
        "placed_on": page.placed_on.isoformat(),
        "supplier": page.supplier,
        "deliver_to": page.site,
        "currency": page.currency,
        "note": page.note,
        "lines": [
            {
                "part_number": line.part_number,
                "part_name": line.part_name,
                "quantity": line.quantity - line.cancelled,
                "unit_price": str(line.price),
                "wanted_on": line.expected_on.isoformat(),
                **({"wh_class": line.energy_class} if line.energy_class else {}),
            }
            for line in page.lines
        ],
    }
    return json.dumps(body, indent=2, ensure_ascii=False) + "\n"


def order_document(page: OrderPage) -> bytes:
    """The order to print and send."""
    sheet = OrderSheet(
        number=page.number,
        supplier=page.supplier,
        deliver_to=page.site,
        placed_on=day(page.placed_on),
        people=_people(page),
        note=page.note,
        total=money(page.total, page.currency),
        scanned=order_label(page.number),
        lines=[
            DocumentLine(
                line.part_number,
                line.part_name,
                str(line.quantity - line.cancelled),
                money(line.price, page.currency),
                money(line.cost, page.currency),
                day(line.expected_on),
                f"{line.energy_class}; carrier and dangerous-goods rules decide" if line.energy_class else "",
            )
            for line in page.lines
            if line.quantity > line.cancelled
        ],
    )
    return order_pdf(sheet)


def order_mail(page: OrderPage, company: str, *, sender: str = "", to: str = "") -> bytes:
    """A mail to the supplier with the order as PDF and JSON (RFC 5322).

    Without an address it is to be opened in a mail program, addressed and sent: the header X-Unsent opens it as a draft.
    """
    mail = EmailMessage()
    mail["Subject"] = f"Order {page.number}, {company}"
    if to:
        mail["From"], mail["To"], mail["Message-ID"] = sender, to, make_msgid(domain=sender.rpartition("@")[2])
        mail["Date"] = localtime()
    else:
        mail["X-Unsent"] = "1"
    wanted = [line for line in page.lines if line.quantity > line.cancelled]
    lines = [f"{_left(line)} {line.part_number}, {line.part_name}, wanted on {day(line.expected_on)}" for line in wanted]
    note = f"\n{page.note}\n" if page.note else ""
    mail.set_content(
        f"To {page.supplier}\n\nPlease deliver to {page.site}:\n\n" + "\n".join(lines) + f"\n{note}\n"
        "The order is attached as PDF and as JSON; an answer in JSON is read as it is.\n"
    )
    mail.add_attachment(order_document(page), maintype="application", subtype="pdf", filename=f"{page.number}.pdf")
    mail.add_attachment(order_json(page).encode(), maintype="application", subtype="json", filename=f"{page.number}.json")
    return mail.as_bytes(policy=SMTP)


def _left(line: OrderLine) -> int:
    return line.quantity - line.cancelled


def _people(page: OrderPage) -> str:
    named = (("ordered by", page.author), ("approved by", page.approved_by))
    return ", ".join(f"{words} {name}" for words, name in named if name)


def read_answer(text: str, number: str) -> list[AnswerRequest]:
    """A supplier's answer as a program writes it.

    Raises
    ------
    Refused : no JSON, another format, another order, or an entry that says nothing, with the place of each
    """
    try:
        body = json.loads(text)
    except ValueError as error:
        raise Refused(Fault("answer", f"this is no JSON: {error}")) from error
    if not isinstance(body, dict) or body.get("format") != REPLY_FORMAT:
        raise Refused(Fault("answer", f'an answer says "format": "{REPLY_FORMAT}"; docs/orders.md shows one'))
    if body.get("order") != number:
        raise Refused(Fault("answer", f"this answers {body.get('order') or 'no order'}, not {number}: open that one"))
    entries = body.get("answers")
    if not isinstance(entries, list):
        raise Refused(Fault("answer", 'a list was wanted under "answers"'))
    return [_entry(entry, f"answers.{place}") for place, entry in enumerate(entries)]


def _entry(entry: Any, at: str) -> AnswerRequest:
    if not isinstance(entry, dict) or entry.get("answer") not in set(Reply):
        raise Refused(Fault(at, f'"answer" is one of {", ".join(Reply)}'))
    said = Said(
        reply=Reply(entry["answer"]),
        expected_on=_day(entry, f"{at}.expected_on"),
        quantity=_whole(entry, f"{at}.quantity"),
        price=_price(entry, f"{at}.unit_price"),
        part_number=str(entry["substitute"])[:60] if entry.get("substitute") else None,
        words=str(entry.get("words") or "")[:300],
    )
    return AnswerRequest(str(entry.get("part_number") or ""), said)


def _day(entry: Mapping[str, Any], at: str) -> date | None:
    if (value := entry.get("expected_on")) is None:
        return None
    try:
        return date.fromisoformat(str(value))
    except ValueError as error:
        raise Refused(Fault(at, f"a day such as 2026-12-04 was wanted, got {value!r}")) from error


def _whole(entry: Mapping[str, Any], at: str) -> int | None:
    value = entry.get("quantity")
    if value is None or (isinstance(value, int) and not isinstance(value, bool)):
        return value
    raise Refused(Fault(at, f"a whole number was wanted, got {value!r}"))


def _price(entry: Mapping[str, Any], at: str) -> Decimal | None:
    if (value := entry.get("unit_price")) is None:
        return None
    try:
        found = Decimal(str(value))
    except InvalidOperation as error:
        raise Refused(Fault(at, f"an amount such as 17.50 was wanted, got {value!r}")) from error
    if not found.is_finite() or not 0 <= found < 10**9:
        raise Refused(Fault(at, f"an amount from 0 to 1,000,000,000 was wanted, got {value!r}"))
    return found.quantize(Decimal("0.01"))
