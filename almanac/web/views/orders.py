"""Orders as documents: drafts, what was sent, what the supplier answers, and the files for it."""

from __future__ import annotations

from decimal import Decimal

from flask import Blueprint, Response, current_app
from flask_login import current_user

from almanac.core.stock.replies import Reply, Said
from almanac.exchange.mail import Way
from almanac.services.clock import read_clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.orders import answers, arrivals, document, drafts
from almanac.services.orders.ask_supplier import ask_supplier
from almanac.services.orders.mailing import MailRequest, mail_order
from almanac.services.orders.read import OrderPage, read_order, read_orders
from almanac.services.orders.read_draft import read_draft
from almanac.services.stores.company import stores_settings
from almanac.store.models import Role
from almanac.store.settings import settings_on
from almanac.web.access import author_id
from almanac.web.api import endpoint
from almanac.web.database import session
from almanac.web.schemas import orders as schemas
from almanac.web.schemas.base import Done
from almanac.web.schemas.decisions import Decisions, DecisionView

blueprint = Blueprint("orders", __name__, url_prefix="/api/v1")
MIMES = {"pdf": "application/pdf", "csv": "text/csv", "json": "application/json", "eml": "message/rfc822"}


@endpoint(blueprint, "/orders", access=Role.READER, replies=schemas.OrdersView)
def order_list() -> schemas.OrdersView:
    """Orders with something to come, then those that ended; drafts that are open."""
    return schemas.OrdersView.model_validate(read_orders(session()))


@endpoint(blueprint, "/orders/<order_number>", access=Role.READER, replies=schemas.OrderDocView)
def order_page(order_number: str) -> schemas.OrderDocView:
    """One order: its lines, what waits to be settled, and all that happened."""
    return schemas.OrderDocView.model_validate(read_order(session(), order_number))


@endpoint(blueprint, "/orders/<order_number>/document.<kind>", access=Role.READER, replies=None)
def order_file(order_number: str, kind: str) -> Response:
    """The order for its supplier: pdf, csv, json, or a mail with it (eml)."""
    if kind not in MIMES:
        raise NotFound(f"an order comes as {', '.join(MIMES)}, not as {kind}")
    page = read_order(session(), order_number)
    headers = {"Content-Disposition": f'attachment; filename="{page.number}.{kind}"'}
    return Response(_file(page, kind), mimetype=MIMES[kind], headers=headers)


@endpoint(blueprint, "/orders/<order_number>/mailings", method="POST", access=Role.TECHNICIAN, replies=schemas.Mailed, status=201)
def mail_an_order(order_number: str, json: schemas.MailIn) -> schemas.Mailed:
    """Send an order to its supplier by mail."""
    request, way = MailRequest(json.address.strip(), json.sender.strip()), Way(current_app.config["MAIL"])
    return schemas.Mailed(way=mail_order(session(), order_number, request, way, clock=read_clock(session()), author_id=author_id()))


def _file(page: OrderPage, kind: str) -> bytes | str:
    if kind == "eml":
        company = settings_on(session(), read_clock(session()).today).value("company_name", default="")
        return document.order_mail(page, str(company))
    if kind == "json":
        return document.order_json(page)
    return document.order_document(page) if kind == "pdf" else document.order_csv(page)


@endpoint(blueprint, "/orders/<order_number>/answers", method="POST", access=Role.TECHNICIAN, replies=schemas.AnswersMade, status=201)
def order_answers(order_number: str, json: schemas.AnswersIn) -> schemas.AnswersMade:
    """Put on record what the supplier said: typed in, or as the file it sent."""
    if (json.file is None) == (not json.answers):
        raise Refused(Fault("answers", "type an answer in, or give the supplier's file: one of the two"))
    said = document.read_answer(json.file, order_number) if json.file is not None else [_said(one) for one in json.answers]
    made = answers.record_answers(session(), order_number, said, clock=read_clock(session()), author_id=author_id())
    return schemas.AnswersMade(ids=made)


def _said(one: schemas.SaidIn) -> answers.AnswerRequest:
    price = Decimal(str(one.unit_price)).quantize(Decimal("0.01")) if one.unit_price is not None else None
    said = Said(Reply(one.reply), one.expected_on, one.quantity, price, one.substitute or None, one.words)
    return answers.AnswerRequest(one.part_number, said)


@endpoint(blueprint, "/orders/<order_number>/simulation", method="POST", access=Role.TECHNICIAN, replies=schemas.AnswersMade, status=201)
def simulated_answer(order_number: str, json: schemas.SupplierAsked) -> schemas.AnswersMade:
    """Have the simulated supplier answer."""
    made = ask_supplier(session(), order_number, json.kind, clock=read_clock(session()), author_id=author_id())
    return schemas.AnswersMade(ids=made)


@endpoint(blueprint, "/order-answers/<int:answer_id>/settlement", method="POST", access=Role.LEAD, replies=Done, status=201)
def settle_order_answer(answer_id: int, json: schemas.SettleAnswerIn) -> Done:
    """Take what a supplier offered, or refuse it."""
    settlement = answers.Settlement(json.accept, json.cancel, json.words)
    answers.settle_answer(session(), answer_id, settlement, clock=read_clock(session()), user_id=author_id())
    return Done()


@endpoint(blueprint, "/receipts/<int:receipt_id>/undoing", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def receipt_undoing(receipt_id: int, json: schemas.ReceiptUndoIn) -> Done:
    """Take a receipt back that was none, with the reason."""
    arrivals.undo_receipt(session(), receipt_id, json.reason, clock=read_clock(session()), author_id=author_id())
    return Done()


@endpoint(blueprint, "/drafts", method="POST", access=Role.TECHNICIAN, replies=schemas.DraftsMade, status=201)
def draft_parts(json: schemas.DraftsIn) -> schemas.DraftsMade:
    """Put parts into drafts, one a supplier."""
    made = drafts.draft_orders(session(), _lines(json.lines), json.note, clock=read_clock(session()), author_id=author_id())
    return schemas.DraftsMade(ids=made)


def _lines(given: list[schemas.OrderLineIn]) -> list[drafts.LineWanted]:
    return [drafts.LineWanted(line.part_number, line.quantity) for line in given]


@endpoint(blueprint, "/drafts/<int:draft_id>", access=Role.READER, replies=schemas.DraftView)
def draft_page(draft_id: int) -> schemas.DraftView:
    """One draft at today's prices."""
    found = read_draft(session(), draft_id, viewer=author_id())
    lines = [
        schemas.DraftLineView.model_validate(
            {
                **{name: getattr(line, name) for name in schemas.DraftLineView.model_fields if name != "cheaper"},
                "cheaper": schemas.CheaperView(quantity=line.cheaper[0], cost=float(line.cheaper[1])) if line.cheaper else None,
            }
        )
        for line in found.lines
    ]
    shown = {name: getattr(found, name) for name in schemas.DraftView.model_fields if name != "lines"}
    return schemas.DraftView.model_validate({**shown, "lines": lines})


@endpoint(blueprint, "/drafts/<int:draft_id>/lines", method="POST", access=Role.TECHNICIAN, replies=Done, status=201)
def change_draft(draft_id: int, json: schemas.DraftChange) -> Done:
    """Change the lines of a draft; one that waited is a draft again."""
    drafts.change_draft(
        session(), draft_id, _lines(json.lines), json.note, expected_version=json.expected_version, clock=read_clock(session())
    )
    return Done()


@endpoint(blueprint, "/drafts/<int:draft_id>/acts", method="POST", access=Role.TECHNICIAN, replies=schemas.DraftActed, status=201)
def act_on_draft(draft_id: int, json: schemas.DraftActIn) -> schemas.DraftActed:
    """Send a draft, approve or refuse one that waits, or drop it."""
    act = drafts.DraftAct(json.act, json.expected_version, json.words, frozenset(json.confirmed))
    is_lead = current_user.role is Role.LEAD
    order = drafts.act_on_draft(session(), draft_id, act, clock=read_clock(session()), user_id=author_id(), is_lead=is_lead)
    return schemas.DraftActed(order_number=order.number if order else None)


@endpoint(blueprint, "/stores/settings", access=Role.READER, replies=Decisions)
def read_stores_settings() -> Decisions:
    """What the company decided about its stores and orders."""
    found = stores_settings(session(), read_clock(session()))
    return Decisions(settings=[DecisionView.model_validate(item) for item in found])
