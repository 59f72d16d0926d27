"""Whatever people do with stock, in whatever order: no part appears or vanishes."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from sqlalchemy import Select, select, text
from sqlalchemy.orm import Session

from almanac.core.stock.acts import ACTS
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.orders.answers import Settlement, settle_answer
from almanac.services.orders.arrivals import ReceiptRequest, receive, undo_receipt
from almanac.services.orders.ask_supplier import ask_supplier
from almanac.services.orders.lines import CancelRequest, cancel
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.stores import counts, transfers, waits
from almanac.services.stores.acts import MoveRequest, Recorded, do, undo
from almanac.services.stores.issue import IssueRequest, give_back, issue
from almanac.standins.supplier import ANSWERS
from almanac.store.books import breaks
from almanac.store.models import Job, Part, PurchaseLine, PurchaseOrder, Receipt, Reservation, StockAct, StockCount, Transfer
from tests.services.jobs import machine, opened
from tests.services.stocks import PART, buckets


def _acted(session: Session) -> int:
    """Sum of what every act on record moved of the part."""
    query = text(
        """SELECT sum(m.quantity) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id
           WHERE (m.act_id IS NOT NULL OR m.receipt_id IS NOT NULL) AND p.number = :part"""
    )
    return int(session.scalar(query, {"part": PART}) or 0)


def _sound(session: Session) -> None:
    """No bucket below zero; under way is what open transfers say; only finding, counting and losing change the sum; balances are sums."""
    assert all(total >= 0 for total in buckets(session).values())
    under_way = sum(total for (_, bucket), total in buckets(session).items() if bucket == "under_way")
    query = select(Transfer.quantity).join(Part, Part.id == Transfer.part_id).where(Part.number == PART)
    open_ones = session.scalars(query.where(Transfer.arrived_on.is_(None), Transfer.cancelled_on.is_(None)))
    assert under_way == sum(open_ones)
    sums = text(
        """SELECT a.act, u.act, sum(m.quantity) FROM stock_move m JOIN stock_act a ON a.id = m.act_id
           LEFT JOIN stock_act u ON u.id = a.undoes_id GROUP BY a.id, a.act, u.act HAVING sum(m.quantity) <> 0"""
    )
    assert {before or act for act, before, _ in session.execute(sums)} <= {"found", "counted", "arrived"}
    wrong = text(
        """SELECT count(*) FROM shelf_balance b WHERE b.quantity <> (SELECT COALESCE(sum(m.quantity), 0) FROM stock_move m
           WHERE m.shelf_id = b.shelf_id AND m.bucket = b.bucket)"""
    )
    assert session.scalar(wrong) == 0
    assert breaks(session) == []


def _step(session: Session, by: Recorded, name: str, site: str, number: int) -> None:
    if name in ACTS:
        do(session, MoveRequest(PART, site, name, number, "played"), by)
        return
    STEPS[name](session, by, site, number)


def _nth(session: Session, query: Select[int], number: int) -> int:
    return session.scalars(query.offset(number)).first() or 0


def _pack(session: Session, by: Recorded, site: str, number: int) -> None:
    transfers.pack(session, transfers.TransferRequest(PART, site, "GUL" if site == "ELD" else "ELD", number), by)


def _transfer(session: Session, number: int) -> Transfer:
    found = session.scalars(select(Transfer).order_by(Transfer.id.desc()).offset(number)).first()
    if found is None:
        raise NotFound("no transfer yet")
    return found


def _send(session: Session, by: Recorded, _site: str, number: int) -> None:
    made = _transfer(session, number)
    transfers.send(session, made.id, made.version, by)


def _arrive(session: Session, by: Recorded, _site: str, number: int) -> None:
    made = _transfer(session, 0)
    transfers.arrive(session, made.id, transfers.ArrivalRequest(number, "played", made.version), by)


def _unpack(session: Session, by: Recorded, _site: str, number: int) -> None:
    made = _transfer(session, number)
    transfers.unpack(session, made.id, "played", made.version, by)


def _promise(session: Session, by: Recorded, site: str, number: int) -> None:
    waits.promise(session, waits.PromiseRequest(PART, site, number), by)


def _release(session: Session, by: Recorded, _site: str, number: int) -> None:
    waits.release(session, _nth(session, select(Reservation.id).where(Reservation.released_on.is_(None)), number), by)


def _count(session: Session, by: Recorded, site: str, number: int) -> None:
    counts.count_shelf(session, counts.CountRequest(PART, site, number, "played"), replace(by, author_id=2, is_lead=number > 2))


def _approve(session: Session, by: Recorded, _site: str, _number: int) -> None:
    counts.approve(session, _nth(session, select(StockCount.id).where(StockCount.state == "waits"), 0), by)


def _undo(session: Session, by: Recorded, _site: str, number: int) -> None:
    undo(session, _nth(session, select(StockAct.id).order_by(StockAct.id.desc()), number), "played", by)


def _job(session: Session, by: Recorded) -> int:
    """The job parts are handed out to; opened once."""
    known = session.scalar(select(Job.id).where(Job.symptom == "played"))
    if known is not None:
        return known
    where, key = machine(session, "fan")
    return opened(session, by.clock, where.tag, key, symptom="played").job_id


def _order(session: Session, by: Recorded, _site: str, number: int) -> None:
    place_order(session, OrderRequest(PART, number, confirmed=frozenset({"again", "far"})), clock=by.clock, author_id=1)


def _line(session: Session, number: int) -> PurchaseLine:
    query = select(PurchaseLine).join(Part, Part.id == PurchaseLine.part_id).where(Part.number == PART)
    found = session.scalars(query.order_by(PurchaseLine.id.desc()).offset(number % 3)).first()
    if found is None:
        raise NotFound("nothing was ordered yet")
    return found


def _receive(session: Session, by: Recorded, _site: str, number: int) -> None:
    line = _line(session, number)
    receive(session, line.id, ReceiptRequest(number, by.clock.today, line.version), clock=by.clock, author_id=2)


def _not_received(session: Session, by: Recorded, _site: str, number: int) -> None:
    newest = select(Receipt.id).order_by(Receipt.id.desc())
    undo_receipt(session, _nth(session, newest, number), "played", clock=by.clock, author_id=2)


def _answer(session: Session, by: Recorded, _site: str, number: int) -> None:
    line = _line(session, number)
    order = session.get_one(PurchaseOrder, line.order_id).number
    made = ask_supplier(session, order, ANSWERS[number % len(ANSWERS)], clock=by.clock, author_id=2)
    settle_answer(session, made[0], Settlement(accept=number % 2 == 0, cancel=number == 1, words="played"), clock=by.clock, user_id=1)


def _cancel(session: Session, by: Recorded, _site: str, number: int) -> None:
    line = _line(session, number)
    cancel(session, line.id, CancelRequest(number, "played", line.version), clock=by.clock, author_id=1)


def _issue(session: Session, by: Recorded, site: str, number: int) -> None:
    issue(session, _job(session, by), IssueRequest(PART, site, number), by)


def _give_back(session: Session, by: Recorded, site: str, number: int) -> None:
    give_back(session, _job(session, by), IssueRequest(PART, site, number), by)


STEPS = {
    "order": _order,
    "receive": _receive,
    "not_received": _not_received,
    "answer": _answer,
    "cancel": _cancel,
    "issue": _issue,
    "give_back": _give_back,
    "pack": _pack,
    "send": _send,
    "arrive": _arrive,
    "unpack": _unpack,
    "promise": _promise,
    "release": _release,
    "count": _count,
    "approve": _approve,
    "undo": _undo,
}

STEP = st.tuples(
    st.sampled_from([*ACTS, *STEPS, "undo", "order", "receive", "issue"]),
    st.sampled_from(["ELD", "GUL", "BRA"]),
    st.integers(0, 4),
)


@settings(
    max_examples=25,
    deadline=None,
    phases=(Phase.explicit, Phase.reuse, Phase.generate),
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(steps=st.lists(STEP, min_size=5, max_size=30))
def test_whatever_people_do_parts_are_conserved(session: Session, lead: Recorded, steps: list[tuple[str, str, int]]) -> None:
    with session.begin_nested() as point:
        _job(session, lead)
        start = sum(buckets(session).values()) - _acted(session)
        for name, site, number in steps:
            try:
                with session.begin_nested():
                    _step(session, lead, name, site, number)
            except (Refused, NotFound, Stale):
                pass
        assert sum(buckets(session).values()) == start + _acted(session)
        _sound(session)
        point.rollback()
