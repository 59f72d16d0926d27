"""Orders before they are sent: drafted, asked for, approved or refused, and only then on order."""

from __future__ import annotations

from decimal import Decimal

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.errors import NeedsConfirmation, NotFound, Refused, Stale
from almanac.services.orders.drafts import DraftAct, LineWanted, act_on_draft, change_draft, draft_orders
from almanac.services.orders.read import read_orders
from almanac.services.orders.read_draft import DraftPage, read_draft
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.store import shelves
from almanac.store.models import PurchaseOrder

LEAD, TECHNICIAN = 1, 2
FAN, BOARD, STICK = "OF-P14", "OX-P14", "LD-80512"


def draft_of(session: Session, clock: Clock, *lines: tuple[str, int], author: int = LEAD) -> int:
    return draft_orders(session, [LineWanted(*line) for line in lines], "", clock=clock, author_id=author)[0]


def act(
    session: Session, clock: Clock, draft: int, name: str, *, user: int = LEAD, words: str = "", yes: tuple[str, ...] = ()
) -> PurchaseOrder | None:
    version = read_draft(session, draft, viewer=user).version
    done = DraftAct(name, version, words, frozenset(yes))
    return act_on_draft(session, draft, done, clock=clock, user_id=user, is_lead=user != TECHNICIAN)


def page(session: Session, draft: int, viewer: int = LEAD) -> DraftPage:
    return read_draft(session, draft, viewer=viewer)


def coming(session: Session, number: str) -> int:
    query = "SELECT id FROM part WHERE number = :n"
    part = session.scalar(text(query), {"n": number})
    return sum(line.remaining for line in shelves.open_lines(session) if line.part_id == part)


def second_lead(session: Session) -> int:
    made = "INSERT INTO \"user\" (login, name, role, password_hash, active) VALUES ('tern', 'B. Tern', 'lead', 'x', true) RETURNING id"
    return int(session.scalar(text(made)) or 0)


def test_the_buying_list_makes_a_draft_a_supplier_and_nothing_is_on_order_before_it_is_sent(session: Session, clock: Clock) -> None:
    before = coming(session, FAN), coming(session, STICK)
    made = draft_orders(session, [LineWanted(FAN, 3), LineWanted(STICK, 2), LineWanted("OF-P13", 1)], "", clock=clock, author_id=LEAD)
    assert [page(session, one).supplier for one in made] == ["Ostrel Spares", "Lantern Components"]
    assert [line.part_number for line in page(session, made[0]).lines] == ["OF-P13", FAN]
    assert (coming(session, FAN), coming(session, STICK)) == before
    order = act(session, clock, made[0], "send")
    assert order is not None
    assert coming(session, FAN) == before[0] + 3
    assert coming(session, STICK) == before[1]
    sent = page(session, made[0])
    assert (sent.state, sent.order_number) == ("sent", order.number)
    with pytest.raises(Stale, match="was sent meanwhile"):
        act(session, clock, made[0], "drop")


def test_a_lead_alone_does_not_pass_the_limit(session: Session, clock: Clock) -> None:
    draft = draft_of(session, clock, (BOARD, 4))
    assert page(session, draft).total == Decimal("1180.00")
    assert act(session, clock, draft, "send") is None
    assert page(session, draft).state == "waits"
    with pytest.raises(Refused, match="there is no other lead"):
        act(session, clock, draft, "approve")
    other = second_lead(session)
    with pytest.raises(Refused, match="another lead does"):
        act(session, clock, draft, "approve")
    order = act(session, clock, draft, "approve", user=other)
    assert order is not None
    assert (order.author_id, order.approved_by_id) == (LEAD, other)


def test_one_lead_alone_approves_where_the_company_allows_it(session: Session, clock: Clock) -> None:
    session.execute(
        text(
            "INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at) VALUES ('company', '', 'own_approval', 1, '1', '2026-01-01', now())"
        )
    )
    draft = draft_of(session, clock, (BOARD, 4))
    act(session, clock, draft, "send")
    assert page(session, draft).refusal is None
    assert act(session, clock, draft, "approve") is not None
    second_lead(session)
    draft = draft_of(session, clock, (BOARD, 5))
    act(session, clock, draft, "send")
    with pytest.raises(Refused, match="another lead does"):
        act(session, clock, draft, "approve")


def test_a_technician_asks_and_a_lead_answers(session: Session, clock: Clock) -> None:
    draft = draft_of(session, clock, (FAN, 2), author=TECHNICIAN)
    assert act(session, clock, draft, "send", user=TECHNICIAN) is None
    for name in ("approve", "refuse"):
        with pytest.raises(Refused, match="a lead does that"):
            act(session, clock, draft, name, user=TECHNICIAN, words="please")
    with pytest.raises(Refused, match="say why"):
        act(session, clock, draft, "refuse")
    act(session, clock, draft, "refuse", words="three lie in the drawer")
    assert (page(session, draft).state, page(session, draft).decision) == ("refused", "three lie in the drawer")
    change_draft(session, draft, [LineWanted(FAN, 1)], "", expected_version=page(session, draft).version, clock=clock)
    assert page(session, draft).state == "draft"
    with pytest.raises(Refused, match="it waits for nobody"):
        act(session, clock, draft, "approve")
    order = act(session, clock, draft, "send")  # a lead sends what somebody else asked for: that is the approval
    assert order is not None
    assert (order.author_id, order.approved_by_id) == (TECHNICIAN, LEAD)


def test_what_changes_after_it_was_sent_for_approval_has_to_be_asked_again(session: Session, clock: Clock) -> None:
    draft = draft_of(session, clock, (FAN, 2), author=TECHNICIAN)
    act(session, clock, draft, "send", user=TECHNICIAN)
    change_draft(session, draft, [LineWanted(FAN, 9)], "", expected_version=page(session, draft).version, clock=clock)
    with pytest.raises(Refused, match="it waits for nobody"):
        act(session, clock, draft, "approve")


def test_who_wrote_a_draft_does_not_approve_it_whoever_sent_it(session: Session, clock: Clock) -> None:
    other = second_lead(session)
    draft = draft_of(session, clock, (FAN, 2), author=LEAD)
    act(session, clock, draft, "send", user=TECHNICIAN)
    with pytest.raises(Refused, match="another lead does"):
        act(session, clock, draft, "approve", user=LEAD)
    assert act(session, clock, draft, "approve", user=other) is not None


def test_others_drafts_are_dropped_by_a_lead_only(session: Session, clock: Clock) -> None:
    draft = draft_of(session, clock, (FAN, 2))
    with pytest.raises(Refused, match="a lead does that"):
        act(session, clock, draft, "drop", user=TECHNICIAN)
    act(session, clock, draft, "drop")
    assert page(session, draft).state == "dropped"
    assert draft not in {one.id for one in read_orders(session).drafts}


@pytest.mark.parametrize(
    ("lines", "field", "message"),
    [
        ([], "lines", "1 to 200 lines"),
        ([("NO-1", 1)], "lines.0.part_number", "no part has the number NO-1"),
        ([(FAN, 1), ("of-p14", 2)], "lines.1.part_number", "stands there twice"),
        ([(FAN, 1), ("OB-P14-60", 3)], "lines.1.quantity", "sold from 4 parts up"),
        ([("OB-P14-60", 6)], "lines.0.quantity", "packs of 4"),
    ],
)
def test_what_speaks_against_a_line_names_it(
    session: Session, clock: Clock, lines: list[tuple[str, int]], field: str, message: str
) -> None:
    with pytest.raises(Refused, match=message) as caught:
        draft_of(session, clock, *lines)
    assert caught.value.faults[0].field == field


def test_a_draft_keeps_to_its_supplier_and_to_what_was_read(session: Session, clock: Clock) -> None:
    draft = draft_of(session, clock, (FAN, 2))
    with pytest.raises(Refused, match="comes from another supplier"):
        change_draft(session, draft, [LineWanted(FAN, 2), LineWanted(STICK, 1)], "", expected_version=1, clock=clock)
    change_draft(session, draft, [LineWanted("OF-P13", 2)], "with the palm rests", expected_version=1, clock=clock)
    with pytest.raises(Stale, match="changed meanwhile"):
        change_draft(session, draft, [LineWanted(FAN, 2)], "", expected_version=1, clock=clock)
    order = act(session, clock, draft, "send")
    assert order is not None
    assert order.note == "with the palm rests"
    with pytest.raises(NotFound):
        read_draft(session, 10**6, viewer=LEAD)


def no_limit(session: Session) -> None:
    session.execute(
        text("""INSERT INTO setting (scope, scope_key, key, number, value, from_on, recorded_at)
                VALUES ('company', '', 'order_limit', 2, '10000000', '2026-01-01', now())""")
    )


def test_far_above_any_need_is_asked_about_once(session: Session, clock: Clock) -> None:
    no_limit(session)
    with pytest.raises(NeedsConfirmation, match="places in machines in service") as caught:
        place_order(session, OrderRequest(FAN, 5000), clock=clock, author_id=LEAD)
    assert caught.value.question == "far"
    draft = draft_of(session, clock, (FAN, 5000))
    assert "places in machines in service" in (page(session, draft).lines[0].far or "")
    with pytest.raises(NeedsConfirmation):
        act(session, clock, draft, "send")
    assert act(session, clock, draft, "send", yes=("far",)) is not None


def test_more_than_years_use_is_asked_about(session: Session, clock: Clock) -> None:
    no_limit(session)
    busiest = session.scalar(
        text("""SELECT max(n) FROM (SELECT -sum(m.quantity) AS n FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id
                WHERE p.number = :n AND m.cause = 'fitted' GROUP BY extract(year FROM m.moved_on)) y"""),
        {"n": FAN},
    )
    many = int(busiest or 0) * 3 + 1
    assert many > 10
    with pytest.raises(NeedsConfirmation, match=f"{many}, while the busiest year on record used {busiest}"):
        place_order(session, OrderRequest(FAN, many), clock=clock, author_id=LEAD)
    place_order(session, OrderRequest(FAN, many - 1), clock=clock, author_id=LEAD)


def test_above_the_limit_a_single_order_is_sent_to_a_draft(session: Session, clock: Clock) -> None:
    with pytest.raises(Refused, match=r"EUR 1,180.00 is above EUR 1,000.00: put it in a draft"):
        place_order(session, OrderRequest(BOARD, 4), clock=clock, author_id=LEAD)
    assert place_order(session, OrderRequest(BOARD, 3), clock=clock, author_id=LEAD).price == Decimal("295.00")


def test_price_breaks_are_reached_and_said(session: Session, clock: Clock) -> None:
    line = place_order(session, OrderRequest("LM-16320", 20), clock=clock, author_id=LEAD)
    assert line.price == Decimal("43.00")
    shown = page(session, draft_of(session, clock, ("LM-16320", 18))).lines[0]
    assert shown.cost == Decimal("828.00")
    assert shown.cheaper is None  # twenty cost 860
    shown = page(session, draft_of(session, clock, ("OB-P14-60", 56))).lines[0]
    assert (shown.price, shown.cheaper) == (Decimal("58.50"), None)
