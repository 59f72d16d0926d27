"""What suppliers answer and what is made of it; receipts that are undone; lead times that deliveries teach."""

from __future__ import annotations

import csv
import io
import json
from datetime import date, timedelta
from decimal import Decimal
from email import message_from_bytes
from email.policy import default

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.core.stock.replies import Reply, Said
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused
from almanac.services.orders.answers import AnswerRequest, Settlement, record_answers, settle_answer
from almanac.services.orders.arrivals import ReceiptRequest, receive, undo_receipt
from almanac.services.orders.ask_supplier import ask_supplier
from almanac.services.orders.document import order_csv, order_document, order_json, order_mail, read_answer
from almanac.services.orders.lines import CancelRequest, cancel
from almanac.services.orders.read import OrderPage, read_order, read_orders
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.stores.acts import Recorded
from almanac.services.stores.waits import PromiseRequest, promise
from almanac.standins.supplier import ANSWERS
from almanac.store import planning, shelves
from tests.services.helpers import in_bucket, units

PART, OTHER = "OF-P14", "OF-P13"
LEAD, TECHNICIAN = 1, 2


def ordered(session: Session, clock: Clock, quantity: int = 6, part: str = PART) -> tuple[str, int]:
    line = place_order(session, OrderRequest(part, quantity), clock=clock, author_id=LEAD)
    return shelves.order_of(session, line).number, line.id


def said(session: Session, clock: Clock, number: str, reply: Reply, part: str = PART, **what: object) -> int:
    request = AnswerRequest(part, Said(reply, **what))  # type: ignore[arg-type]
    return record_answers(session, number, [request], clock=clock, author_id=TECHNICIAN)[0]


def settle(session: Session, clock: Clock, answer: int, *, accept: bool, drop: bool = False, words: str = "") -> None:
    settle_answer(session, answer, Settlement(accept, drop, words), clock=clock, user_id=LEAD)


def to_come(session: Session, line: int) -> int:
    return next((one.remaining for one in shelves.open_lines(session) if one.id == line), 0)


class TestFiveAnswers:
    def test_a_confirmation_takes_effect_at_once(self, session: Session, clock: Clock) -> None:
        number, _ = ordered(session, clock)
        assert read_order(session, number).standing == "sent"
        said(session, clock, number, Reply.CONFIRMED)
        found = read_order(session, number)
        assert (found.standing, found.lines[0].confirmed_on, found.to_settle) == ("confirmed", clock.today, [])

    def test_a_day_moves_what_is_coming_and_the_old_one_stays_on_record(self, session: Session, clock: Clock) -> None:
        number, line = ordered(session, clock)
        was = read_order(session, number).lines[0].expected_on
        later = was + timedelta(days=9)
        said(session, clock, number, Reply.MOVED, expected_on=later, words="storm")
        assert next(one.expected_on for one in shelves.open_lines(session) if one.id == line) == later
        told = read_order(session, number).history[0].words
        assert f"{was.day} {was:%b %Y}" in told
        assert '"storm"' in told

    @pytest.mark.parametrize(("accept", "drop", "left", "cancelled"), [(True, False, 2, 4), (False, False, 6, 0), (False, True, 0, 6)])
    def test_fewer_are_taken_waited_for_or_cancelled(
        self, session: Session, clock: Clock, accept: bool, drop: bool, left: int, cancelled: int
    ) -> None:
        number, line = ordered(session, clock)
        answer = said(session, clock, number, Reply.SHORT, quantity=2, words="sold out")
        assert to_come(session, line) == 6  # nothing happens before a lead says so
        assert read_orders(session).orders[0].to_settle + sum(one.to_settle for one in read_orders(session).orders) >= 1
        settle(session, clock, answer, accept=accept, drop=drop, words="bought elsewhere" if drop else "")
        found = read_order(session, number).lines[0]
        assert (found.to_come, found.cancelled) == (left, cancelled)
        with pytest.raises(NotFound):
            settle(session, clock, answer, accept=True)

    def test_a_cancellation_wants_its_reason(self, session: Session, clock: Clock) -> None:
        number, _ = ordered(session, clock)
        answer = said(session, clock, number, Reply.PRICE, price=Decimal(30))
        with pytest.raises(Refused, match="say why they will not come"):
            settle(session, clock, answer, accept=False, drop=True)

    def test_another_part_comes_in_its_place(self, session: Session, clock: Clock) -> None:
        number, line = ordered(session, clock)
        receive(session, line, ReceiptRequest(2, clock.today, 1), clock=clock, author_id=TECHNICIAN)
        answer = said(session, clock, number, Reply.SUBSTITUTE, part_number=OTHER, price=Decimal("17.00"))
        settle(session, clock, answer, accept=True)
        first, second = read_order(session, number).lines
        assert (first.to_come, first.arrived, first.cancelled) == (0, 2, 4)
        assert (second.part_number, second.to_come, second.price) == (OTHER, 4, Decimal("17.00"))
        reason = session.scalar(text("SELECT reason FROM cancellation WHERE line_id = :l"), {"l": line})
        assert reason == f"{OTHER} comes instead"

    def test_another_part_that_is_refused_leaves_the_order_as_it_was(self, session: Session, clock: Clock) -> None:
        number, line = ordered(session, clock)
        settle(session, clock, said(session, clock, number, Reply.SUBSTITUTE, part_number=OTHER), accept=False)
        assert to_come(session, line) == 6
        assert len(read_order(session, number).lines) == 1

    @pytest.mark.parametrize(("accept", "price"), [(True, "23.40"), (False, "19.00")])
    def test_another_price_is_paid_or_not(self, session: Session, clock: Clock, accept: bool, price: str) -> None:
        number, _ = ordered(session, clock)
        settle(session, clock, said(session, clock, number, Reply.PRICE, price=Decimal("23.40")), accept=accept)
        found = read_order(session, number)
        assert found.lines[0].price == Decimal(price)
        assert found.total == Decimal(price) * 6

    def test_what_arrived_meanwhile_makes_an_offer_void(self, session: Session, clock: Clock) -> None:
        number, line = ordered(session, clock)
        answer = said(session, clock, number, Reply.SUBSTITUTE, part_number=OTHER)
        version = read_order(session, number).lines[0].version
        receive(session, line, ReceiptRequest(6, clock.today, version), clock=clock, author_id=TECHNICIAN)
        with pytest.raises(Refused, match="nothing is to come"):
            settle(session, clock, answer, accept=True)

    def test_answers_are_all_taken_or_none(self, session: Session, clock: Clock) -> None:
        number, _ = ordered(session, clock)
        both = [AnswerRequest(PART, Said(Reply.CONFIRMED)), AnswerRequest("LD-80512", Said(Reply.CONFIRMED))]
        with pytest.raises(Refused, match="LD-80512 is not on") as caught:
            record_answers(session, number, both, clock=clock, author_id=TECHNICIAN)
        assert caught.value.faults[0].field == "answers.1.part_number"
        assert read_order(session, number).lines[0].confirmed_on is None
        with pytest.raises(NotFound):
            record_answers(session, "PO-1900-001", both, clock=clock, author_id=TECHNICIAN)
        with pytest.raises(Refused, match="at least one part"):
            record_answers(session, number, [], clock=clock, author_id=TECHNICIAN)
        with pytest.raises(Refused, match="put it in the catalogue first"):
            said(session, clock, number, Reply.SUBSTITUTE, part_number="XX-1")
        with pytest.raises(Refused, match="too far ahead"):
            said(session, clock, number, Reply.MOVED, expected_on=date(9999, 1, 1))

    @pytest.mark.parametrize("kind", ANSWERS)
    def test_the_simulated_supplier_reads_the_order_and_is_read(self, session: Session, clock: Clock, kind: str) -> None:
        number, _ = ordered(session, clock, part="LM-8266")
        ask_supplier(session, number, kind, clock=clock, author_id=TECHNICIAN)
        found = read_order(session, number)
        waiting = [one.reply for one in found.to_settle]
        assert waiting == ([] if kind in ("confirmed", "moved") else [kind])
        if kind == "substitute":
            assert "LM-8320" in found.to_settle[0].words


class TestDocuments:
    def page(self, session: Session, clock: Clock) -> OrderPage:
        number, line = ordered(session, clock, 4, "OB-P14-60")
        assert line
        return read_order(session, number)

    def test_files_say_what_the_page_says(self, session: Session, clock: Clock) -> None:
        page = self.page(session, clock)
        (row,) = csv.DictReader(io.StringIO(order_csv(page).decode("utf-8-sig")))
        assert (row["order"], row["part_number"], row["quantity"], row["cost"]) == (page.number, "OB-P14-60", "4", "244.00")
        body = json.loads(order_json(page))
        assert body["lines"][0] == {
            "part_number": "OB-P14-60",
            "part_name": "Pack P14, 15.2 V, 60 Wh",
            "quantity": 4,
            "unit_price": "61.00",
            "wanted_on": page.lines[0].expected_on.isoformat(),
            "wh_class": page.lines[0].energy_class,
        }
        assert "100 Wh" in body["lines"][0]["wh_class"]
        assert order_document(page).startswith(b"%PDF")

    def test_the_mail_is_a_draft_with_both_files(self, session: Session, clock: Clock) -> None:
        page = self.page(session, clock)
        mail = message_from_bytes(order_mail(page, "Skerry Line"), policy=default)
        assert (mail["Subject"], mail["X-Unsent"], mail["To"]) == (f"Order {page.number}, Skerry Line", "1", None)
        files = {part.get_filename(): part.get_content() for part in mail.iter_attachments()}
        assert set(files) == {f"{page.number}.pdf", f"{page.number}.json"}
        assert json.loads(files[f"{page.number}.json"])["order"] == page.number
        body = mail.get_body()
        assert body is not None
        assert "4 OB-P14-60" in body.get_content()

    def test_what_was_cancelled_is_not_wanted(self, session: Session, clock: Clock) -> None:
        page = self.page(session, clock)
        cancel(session, page.lines[0].id, CancelRequest(4, "too dear", 1), clock=clock, author_id=LEAD)
        page = read_order(session, page.number)
        assert page.standing == "cancelled"
        assert list(csv.DictReader(io.StringIO(order_csv(page).decode("utf-8-sig")))) == []
        assert json.loads(order_json(page))["lines"][0]["quantity"] == 0

    @pytest.mark.parametrize(
        ("text", "message"),
        [
            ("not json", "this is no JSON"),
            ("[]", '"format"'),
            ('{"format": "parts-almanac-order-answer/1", "order": "PO-1"}', "this answers PO-1, not PO-9"),
            ('{"format": "parts-almanac-order-answer/1", "order": "PO-9"}', "a list was wanted"),
            ('{"format": "parts-almanac-order-answer/1", "order": "PO-9", "answers": [{"answer": "maybe"}]}', "is one of confirmed"),
        ],
    )
    def test_a_file_that_is_no_answer_says_why(self, text: str, message: str) -> None:
        with pytest.raises(Refused, match=message):
            read_answer(text, "PO-9")

    @pytest.mark.parametrize(
        ("entry", "field"),
        [
            ({"answer": "moved", "expected_on": "soon"}, "answers.0.expected_on"),
            ({"answer": "short", "quantity": "two"}, "answers.0.quantity"),
            ({"answer": "short", "quantity": True}, "answers.0.quantity"),
            ({"answer": "price", "unit_price": "dear"}, "answers.0.unit_price"),
            ({"answer": "price", "unit_price": "NaN"}, "answers.0.unit_price"),
            ({"answer": "price", "unit_price": -1}, "answers.0.unit_price"),
        ],
    )
    def test_a_value_that_cannot_be_names_its_place(self, entry: dict[str, object], field: str) -> None:
        file = {"format": "parts-almanac-order-answer/1", "order": "PO-9", "answers": [{"part_number": PART, **entry}]}
        with pytest.raises(Refused) as caught:
            read_answer(json.dumps(file), "PO-9")
        assert caught.value.faults[0].field == field


class TestReceipts:
    def test_one_that_was_none_is_undone_and_the_parts_are_to_come_again(self, session: Session, clock: Clock) -> None:
        before, everything = in_bucket(session, PART, "on_hand"), units(session)
        number, line = ordered(session, clock)
        receipt = receive(session, line, ReceiptRequest(4, clock.today, 1), clock=clock, author_id=TECHNICIAN)
        with pytest.raises(Refused, match="say why"):
            undo_receipt(session, receipt, " ", clock=clock, author_id=TECHNICIAN)
        back = undo_receipt(session, receipt, "they were the other order's", clock=clock, author_id=TECHNICIAN)
        assert (in_bucket(session, PART, "on_hand"), units(session), to_come(session, line)) == (before, everything, 6)
        for one in (receipt, back):
            with pytest.raises(Refused, match="undone already"):
                undo_receipt(session, one, "again", clock=clock, author_id=TECHNICIAN)
        history = read_order(session, number).history
        assert [item.receipt_id for item in history] == [None, None]
        assert any("undone: they were the other order's" in item.words for item in history)
        with pytest.raises(NotFound):
            undo_receipt(session, 10**6, "none", clock=clock, author_id=TECHNICIAN)

    def test_what_went_on_since_is_not_taken_back(self, session: Session, clock: Clock) -> None:
        number, line = ordered(session, clock)
        receipt = receive(session, line, ReceiptRequest(6, clock.today, 1), clock=clock, author_id=TECHNICIAN)
        site = session.scalar(text("SELECT code FROM site WHERE is_depot"))
        free = in_bucket(session, PART, "on_hand", site=str(site))
        promise(session, PromiseRequest(PART, str(site), free), Recorded(clock, TECHNICIAN, is_lead=False))
        with pytest.raises(Refused, match="has gone on or was promised"):
            undo_receipt(session, receipt, "wrong", clock=clock, author_id=TECHNICIAN)
        assert read_order(session, number).lines[0].arrived == 6

    def test_serials_name_one_part_each(self, session: Session, clock: Clock) -> None:
        number, line = ordered(session, clock)
        fitted = session.scalar(text("SELECT serial FROM unit WHERE serial IS NOT NULL LIMIT 1")) or _serial(session)
        for serials, message in (
            (("A1", "A1"), "stands there twice"),
            (("A1", "A2", "A3"), "3 serials for 2 parts"),
            ((str(fitted),), "is on record in a machine already"),
        ):
            with pytest.raises(Refused, match=message):
                receive(session, line, ReceiptRequest(2, clock.today, 1, serials=serials), clock=clock, author_id=TECHNICIAN)
        receive(session, line, ReceiptRequest(2, clock.today, 1, serials=("A1", " ", "A2")), clock=clock, author_id=TECHNICIAN)
        assert "serials A1, A2" in read_order(session, number).history[0].words
        with pytest.raises(Refused, match=f"A1 arrived with {number} already"):
            receive(session, line, ReceiptRequest(1, clock.today, 2, serials=("A1",)), clock=clock, author_id=TECHNICIAN)

    def test_a_label_tells_the_lot_and_the_last_day(self, session: Session, clock: Clock) -> None:
        _, line = ordered(session, clock, 4, "OB-P14-60")
        last = clock.today + timedelta(days=400)
        request = ReceiptRequest(4, clock.today, 1, expires_on=last, lot="K-88")
        receive(session, line, request, clock=clock, author_id=TECHNICIAN)
        moved = session.execute(
            text("SELECT m.lot, m.made_on FROM stock_move m JOIN receipt r ON r.id = m.receipt_id WHERE r.line_id = :l"), {"l": line}
        ).one()
        assert tuple(moved) == ("K-88", last - timedelta(days=540))

    def test_two_days_that_contradict_each_other_are_refused(self, session: Session, clock: Clock) -> None:
        _, line = ordered(session, clock, 4, "OB-P14-60")
        both = ReceiptRequest(4, clock.today, 1, made_on=date(2026, 10, 1), expires_on=date(2026, 12, 1))
        with pytest.raises(Refused, match="it keeps until") as caught:
            receive(session, line, both, clock=clock, author_id=TECHNICIAN)
        assert caught.value.faults[0].field == "expires_on"
        gone = ReceiptRequest(4, clock.today, 1, expires_on=date(2026, 10, 1))
        with pytest.raises(Refused, match="it is no stock"):
            receive(session, line, gone, clock=clock, author_id=TECHNICIAN)


def _serial(session: Session) -> str:
    session.execute(text("UPDATE unit SET serial = 'SEEN-1' WHERE id = (SELECT min(id) FROM unit)"))
    return "SEEN-1"


class TestLearntLeadTimes:
    def supplier(self, session: Session, clock: Clock, name: str) -> planning.SupplierRow:
        return next(row for row in planning.supplier_rows(session, clock.today).values() if row.name == name)

    def test_the_one_that_got_slower_in_autumn_is_told_from_the_others(self, session: Session, clock: Clock) -> None:
        """The truth of the demo: Ostrel takes 1.8 times as long since September."""

        def slower(name: str) -> float:
            row = self.supplier(session, clock, name)
            return sum(d * w for d, w in row.lead_time) / sum(d * w for d, w in row.stated)

        assert slower("Ostrel Spares") > 1.15
        assert 0.9 < slower("Brindwell Parts Office") < 1.1

    def test_a_delivery_teaches_and_its_undoing_forgets(self, session: Session, clock: Clock) -> None:
        before = self.supplier(session, clock, "Quillfin Service Supply")
        line = place_order(session, OrderRequest("QF-D15-L", 1), clock=clock, author_id=LEAD)
        session.execute(text("UPDATE purchase_order SET placed_on = '2026-08-01' WHERE id = :o"), {"o": line.order_id})
        session.expire_all()
        receipt = receive(session, line.id, ReceiptRequest(1, clock.today, 1), clock=clock, author_id=TECHNICIAN)
        taught = self.supplier(session, clock, "Quillfin Service Supply")
        assert taught.deliveries == before.deliveries + 1
        assert max(d for d, _ in taught.lead_time) == 92
        undo_receipt(session, receipt, "not ours", clock=clock, author_id=TECHNICIAN)
        forgot = self.supplier(session, clock, "Quillfin Service Supply")
        assert forgot.deliveries == before.deliveries
        assert max(d for d, _ in forgot.lead_time) == 93  # it is still not here: tomorrow at the earliest

    def test_a_company_can_trust_the_stated_word_more(self, session: Session, clock: Clock) -> None:
        session.execute(
            text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                    VALUES ('company', '', 'stated_weight', 1, '100', '2026-01-01', now())""")
        )
        row = self.supplier(session, clock, "Ostrel Spares")
        assert sum(d * w for d, w in row.lead_time) / sum(d * w for d, w in row.stated) < 1.05
