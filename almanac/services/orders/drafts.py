"""Orders before they are sent: drafted from the buying list or by hand, approved above the company's limit, sent or dropped."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import delete
from sqlalchemy.orm import Session

from almanac.core.stock.purchase import approval_refusal
from almanac.services.clock import Clock
from almanac.services.errors import Fault, NotFound, Refused, Stale
from almanac.services.orders.sending import Wanted, ask_before, limit_of, line_faults, total_of, write_order
from almanac.store import assets, orders
from almanac.store.models import OrderDraft, OrderDraftLine, PurchaseOrder
from almanac.store.settings import settings_on

MOST_LINES = 200


@dataclass(frozen=True)
class LineWanted:
    """So many of a part."""

    part_number: str
    quantity: int


@dataclass(frozen=True)
class DraftAct:
    """What is done with a draft. words : why it is refused or dropped · confirmed : questions answered with yes"""

    act: str
    expected_version: int
    words: str = ""
    confirmed: frozenset[str] = frozenset()


def draft_orders(session: Session, lines: Sequence[LineWanted], note: str, *, clock: Clock, author_id: int) -> list[int]:
    """Put parts into drafts, one a supplier; returns their numbers.

    Raises
    ------
    Refused : no line, a part named twice, and whatever speaks against a line
    """
    wanted = _wanted(session, lines, clock)
    made = []
    for supplier in dict.fromkeys(one.part.supplier_id for one in wanted):
        draft = OrderDraft(
            supplier_id=supplier,
            state="draft",
            note=note.strip(),
            asked_on=clock.today,
            author_id=author_id,
            decision="",
            recorded_at=clock.now,
        )
        session.add(draft)
        session.flush()
        _put(session, draft, [one for one in wanted if one.part.supplier_id == supplier])
        made.append(draft.id)
    return made


def _wanted(session: Session, lines: Sequence[LineWanted], clock: Clock) -> list[Wanted]:
    if not 1 <= len(lines) <= MOST_LINES:
        raise Refused(Fault("lines", f"an order has 1 to {MOST_LINES} lines, got {len(lines)}"))
    faults, wanted, seen = [], [], set[str]()
    for place, line in enumerate(lines):
        at = f"lines.{place}"
        part = assets.part_by_number(session, line.part_number)
        if part is None:
            faults.append(Fault(f"{at}.part_number", f"no part has the number {line.part_number or '(empty)'}"))
            continue
        if part.number in seen:
            faults.append(Fault(f"{at}.part_number", f"{part.number} stands there twice: put both in one line"))
        seen.add(part.number)
        one = Wanted(part, line.quantity, place=f"{at}.quantity")
        faults += line_faults(session, one, clock)
        wanted.append(one)
    if faults:
        raise Refused(*faults)
    return wanted


def _put(session: Session, draft: OrderDraft, wanted: Sequence[Wanted]) -> None:
    session.execute(delete(OrderDraftLine).where(OrderDraftLine.draft_id == draft.id))
    session.add_all(OrderDraftLine(draft_id=draft.id, part_id=one.part.id, quantity=one.quantity) for one in wanted)
    session.flush()


def change_draft(session: Session, draft_id: int, lines: Sequence[LineWanted], note: str, *, expected_version: int, clock: Clock) -> None:
    """Change the lines of a draft; one that waited for an approval, or was refused, is a draft again.

    Raises
    ------
    NotFound, Stale · Refused : a part of another supplier, and whatever speaks against a line
    """
    draft = _open_draft(session, draft_id, expected_version)
    wanted = _wanted(session, lines, clock)
    strangers = [one for one in wanted if one.part.supplier_id != draft.supplier_id]
    if strangers:
        at = strangers[0].place.replace("quantity", "part_number")
        raise Refused(Fault(at, f"{strangers[0].part.number} comes from another supplier: it goes in a draft of its own"))
    _put(session, draft, wanted)
    draft.note, draft.state = note.strip(), "draft"
    draft.version += 1
    session.flush()


def _open_draft(session: Session, draft_id: int, expected_version: int) -> OrderDraft:
    draft = orders.draft_for_update(session, draft_id)
    if draft is None:
        raise NotFound(f"there is no draft {draft_id}")
    if draft.version != expected_version:
        raise Stale("this draft was changed meanwhile: read it again, then decide")
    if draft.state not in orders.OPEN_DRAFTS:
        raise Stale(f"this draft was {draft.state} meanwhile")
    return draft


def act_on_draft(session: Session, draft_id: int, act: DraftAct, *, clock: Clock, user_id: int, is_lead: bool) -> PurchaseOrder | None:
    """Send, approve, refuse or drop a draft; the order where one came of it.

    A technician's draft waits for a lead. A lead's own above the company's limit waits for another lead; one that somebody else asked
    for is approved by the lead who sends it.

    Raises
    ------
    NotFound, Stale · Refused : not for a technician, who asked approves it, no words where some are wanted, or whatever speaks
    against a line
    NeedsConfirmation : the same was ordered today already, or a line is far above any need
    """
    draft = _open_draft(session, draft_id, act.expected_version)
    draft.version += 1
    if not is_lead and (act.act in ("approve", "refuse") or (act.act == "drop" and draft.author_id != user_id)):
        raise Refused(Fault("act", "a lead does that"))
    if act.act in ("drop", "refuse"):
        _no_order(draft, act, clock, user_id)
        session.flush()
        return None
    wanted = _wanted(session, _lines(session, draft), clock)
    if act.act == "approve":
        _must_wait(draft)
        if words := may_not_approve(session, draft, clock, user_id):
            raise Refused(Fault("act", words))
        _end(draft, "sent", act, clock, user_id)
        return _send(session, draft, wanted, clock, approved_by=user_id)
    ask_before(session, wanted, act.confirmed, clock)
    draft.sent_by_id = user_id
    if not is_lead or (draft.author_id == user_id and _above_limit(session, wanted, clock)):
        draft.state = "waits"
        session.flush()
        return None
    draft.state = "sent"
    return _send(session, draft, wanted, clock, approved_by=user_id if draft.author_id != user_id else None)


def _no_order(draft: OrderDraft, act: DraftAct, clock: Clock, user_id: int) -> None:
    if act.act == "drop":
        return _end(draft, "dropped", act, clock, user_id)
    _must_wait(draft)
    if not act.words.strip():
        raise Refused(Fault("words", "say why: who asked has only this"))
    return _end(draft, "refused", act, clock, user_id)


def _above_limit(session: Session, wanted: Sequence[Wanted], clock: Clock) -> bool:
    limit = limit_of(session, clock)
    return limit is not None and total_of(session, wanted) > limit


def _must_wait(draft: OrderDraft) -> None:
    if draft.state != "waits":
        raise Refused(Fault("act", "it waits for nobody: it was not sent for approval, or was changed since"))


def may_not_approve(session: Session, draft: OrderDraft, clock: Clock, user_id: int) -> str | None:
    """Why somebody may not approve a draft; None where nothing speaks against it."""
    allowed = bool(settings_on(session, clock.today).value("own_approval", default=0))
    leads = orders.leads(session)
    askers = (draft.author_id, draft.sent_by_id)
    found = (approval_refusal(asker=asker, approver=user_id, leads=leads, own_allowed=allowed) for asker in askers)
    return next((words for words in found if words), None)


def _end(draft: OrderDraft, state: str, act: DraftAct, clock: Clock, user_id: int) -> None:
    draft.state, draft.decision = state, act.words.strip()
    draft.decided_by_id, draft.decided_on = user_id, clock.today


def _lines(session: Session, draft: OrderDraft) -> list[LineWanted]:
    return [LineWanted(part.number, line.quantity) for line, part in orders.draft_lines(session, [draft.id])[draft.id]]


def _send(session: Session, draft: OrderDraft, wanted: Sequence[Wanted], clock: Clock, *, approved_by: int | None) -> PurchaseOrder:
    order = write_order(session, draft.supplier_id, wanted, clock=clock, author_id=draft.author_id, approved_by=approved_by)
    order.note = draft.note
    draft.order_id = order.id
    session.flush()
    return order
