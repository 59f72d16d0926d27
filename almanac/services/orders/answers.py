"""What the supplier answers: days it names take effect at once, what it offers instead waits until a lead takes or refuses it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from almanac.core.stock.replies import TAKES_EFFECT, Reply, Said, faults_of
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused
from almanac.services.horizon import beyond_horizon
from almanac.services.orders.lines import CancelRequest, cancel
from almanac.services.orders.sending import currency_of
from almanac.services.words import day, money
from almanac.store import assets, orders, shelves
from almanac.store.models import Part, PurchaseLine, PurchaseOrder, SupplierAnswer
from almanac.store.orders import LineRow
from almanac.store.settings import settings_on


@dataclass(frozen=True)
class AnswerRequest:
    """What the supplier says of one line, named by its part."""

    part_number: str
    said: Said


@dataclass(frozen=True)
class Settlement:
    """A lead takes what was offered, or does not. cancel : what is not taken comes no more · words : why"""

    accept: bool
    cancel: bool = False
    words: str = ""


def record_answers(session: Session, number: str, requests: Sequence[AnswerRequest], *, clock: Clock, author_id: int) -> list[int]:
    """Put a supplier's answers on record; returns their numbers. All of them, or none.

    Raises
    ------
    NotFound : no such order · Refused : a part that is not on it, or an answer that cannot be, with the place of each
    """
    found = orders.order_rows(session, number=number)
    if not found:
        raise NotFound(f"there is no order {number}")
    order = found[0].order
    if not requests:
        raise Refused(Fault("answers", "say what the supplier answered of at least one part"))
    lines = orders.lines_of(session, [order.id])[order.id]
    pairs, faults = [], []
    for place, request in enumerate(requests):
        line = _line_for(lines, request.part_number)
        if line is None:
            faults.append(Fault(f"answers.{place}.part_number", f"{request.part_number} is not on {number}"))
            continue
        faults += _faults(session, order, line, request.said, f"answers.{place}", clock)
        pairs.append((line, request.said))
    if faults:
        raise Refused(*faults)
    return [_record(session, line, said, clock=clock, author_id=author_id) for line, said in pairs]


def _line_for(lines: Sequence[LineRow], part_number: str) -> LineRow | None:
    """The line of a part, one with something to come before one without."""
    own = [line for line in lines if line.part_number.upper() == part_number.strip().upper()]
    return max(own, key=lambda line: line.to_come > 0, default=None)


def _faults(session: Session, order: PurchaseOrder, line: LineRow, said: Said, at: str, clock: Clock) -> list[Fault]:
    faults = [
        Fault(f"{at}.{field}", words)
        for field, words in faults_of(said, to_come=line.to_come, placed_on=order.placed_on, own_number=line.part_number)
    ]
    if said.expected_on and (far := beyond_horizon(said.expected_on, clock, settings_on(session, clock.today))):
        faults.append(Fault(f"{at}.expected_on", far))
    if said.reply is Reply.SUBSTITUTE and said.part_number and assets.part_by_number(session, said.part_number) is None:
        faults.append(Fault(f"{at}.part_number", f"no part has the number {said.part_number}: put it in the catalogue first"))
    return faults


def _record(session: Session, line: LineRow, said: Said, *, clock: Clock, author_id: int) -> int:
    instead = assets.part_by_number(session, said.part_number) if said.reply is Reply.SUBSTITUTE and said.part_number else None
    currency = currency_of(session, clock)
    answer = SupplierAnswer(
        line_id=line.id,
        reply=said.reply.value,
        state="accepted" if said.reply in TAKES_EFFECT else "open",
        quantity=said.quantity,
        expected_on=said.expected_on,
        price=said.price,
        part_id=instead.id if instead else None,
        words=said.words.strip(),
        was=f"{line.to_come} to come on {day(line.expected_on)} at {money(line.price, currency)}",
        answered_on=clock.today,
        recorded_at=clock.now,
        author_id=author_id,
    )
    session.add(answer)
    row = _locked(session, line.id)
    if said.reply in TAKES_EFFECT:
        row.confirmed_on = clock.today
        row.expected_on = said.expected_on or row.expected_on
    row.version += 1
    session.flush()
    return answer.id


def _locked(session: Session, line_id: int) -> PurchaseLine:
    row = shelves.line_for_update(session, line_id)
    if row is None:
        raise NotFound(f"there is no order line {line_id}")
    return row


def settle_answer(session: Session, answer_id: int, settlement: Settlement, *, clock: Clock, user_id: int) -> None:
    """Take what a supplier offered, or refuse it.

    Short: taken, the rest is cancelled; refused, it stays to come. A substitute: taken, it comes in place of what was ordered. A price:
    taken, the line costs that. What is refused can be cancelled in the same act.

    Raises
    ------
    NotFound : nothing of that number waits · Refused : it can no longer be carried out, or words are missing where parts are cancelled
    """
    answer = session.scalar(select(SupplierAnswer).where(SupplierAnswer.id == answer_id).with_for_update())
    if answer is None or answer.state != "open":
        raise NotFound(f"no answer {answer_id} waits to be settled")
    line = _locked(session, answer.line_id)
    to_come = line.quantity - line.cancelled - shelves.received(session, line.id)
    drop = _to_cancel(Reply(answer.reply), answer, settlement, to_come)
    if settlement.accept:
        _take(session, answer, line, to_come)
    answer.state = "accepted" if settlement.accept else "refused"
    answer.decided_by_id, answer.decided_on = user_id, clock.today
    session.flush()
    if drop:
        reason = settlement.words.strip() or (_reason(session, answer) if settlement.accept else "")
        cancel(session, line.id, CancelRequest(drop, reason, line.version), clock=clock, author_id=user_id)
    else:
        line.version += 1
        session.flush()


def _to_cancel(reply: Reply, answer: SupplierAnswer, settlement: Settlement, to_come: int) -> int:
    """Parts of the line that will not come."""
    if not settlement.accept:
        return to_come if settlement.cancel else 0
    if reply is Reply.SHORT:
        return max(to_come - (answer.quantity or 0), 0)
    return to_come if reply is Reply.SUBSTITUTE else 0


def _take(session: Session, answer: SupplierAnswer, line: PurchaseLine, to_come: int) -> None:
    line.confirmed_on = answer.answered_on
    line.expected_on = answer.expected_on or line.expected_on
    if answer.reply == Reply.PRICE.value and answer.price is not None:
        line.price = answer.price
    if answer.reply == Reply.SUBSTITUTE.value and answer.part_id is not None:
        if to_come <= 0:
            raise Refused(Fault("answer", "nothing is to come on this line any more"))
        instead = session.get_one(Part, answer.part_id)
        session.add(
            PurchaseLine(
                order_id=line.order_id,
                part_id=instead.id,
                quantity=answer.quantity or to_come,
                price=answer.price if answer.price is not None else instead.price,
                expected_on=line.expected_on,
                confirmed_on=answer.answered_on,
            )
        )


def _reason(session: Session, answer: SupplierAnswer) -> str:
    if answer.reply == Reply.SUBSTITUTE.value and answer.part_id is not None:
        return f"{session.get_one(Part, answer.part_id).number} comes instead"
    return answer.words or "the supplier ships short"
