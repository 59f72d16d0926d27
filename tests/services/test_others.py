"""Other parts: a failure of what is soldered or staked is demand for what is ordered in its place, before and after the page says so."""

from __future__ import annotations

from datetime import date

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.buying_list import buying_rows
from almanac.services.clock import Clock
from almanac.services.ledger.record import IncidentRequest, LineRequest, record_incident
from almanac.services.outlook.others import OtherPart, read_others
from almanac.services.outlook.summary import read_outlook
from almanac.services.stores.acts import MoveRequest, Recorded, do
from almanac.services.stores.waits import PromiseRequest, promise
from tests.services.helpers import PROVEN, WATCHED

BOARD, MODEL = "OX-P14", "Packet 14"


def of(session: Session, number: str = BOARD) -> OtherPart:
    return next(one for one in read_others(session) if one.row.number == number)


def position(session: Session, key: str, model: str = MODEL) -> int:
    query = "SELECT q.id FROM position q JOIN device_model m ON m.id = q.model_id AND m.name = :m WHERE q.key = :k"
    return int(session.scalar(text(query), {"m": model, "k": key}) or 0)


def fails(session: Session, clock: Clock, number: int, *lines: LineRequest, finding: str = "confirmed") -> None:
    query = "SELECT a.tag FROM asset a JOIN device_model m ON m.id = a.model_id AND m.name = :m WHERE a.retired_on IS NULL ORDER BY a.id LIMIT 1 OFFSET :n"
    tag = str(session.scalar(text(query), {"m": MODEL, "n": number}))
    request = IncidentRequest(
        tag=tag, occurred_on=WATCHED, reason="no memory found", finding=finding, lines=list(lines), evidence=PROVEN,
        confirmed=frozenset({"fit", "duplicate"}),
    )  # fmt: skip
    record_incident(session, request, clock=clock, author_id=2)


def on_board(session: Session) -> LineRequest:
    return LineRequest(position(session, "memory_on_board"), "kept")


def test_what_fails_soldered_is_demand_for_the_board(session: Session, clock: Clock) -> None:
    before = of(session)
    assert (before.row.direct, before.moved) == (0, 0)
    fails(session, clock, 0, on_board(session))
    fails(session, clock, 1, on_board(session), finding="open")
    after = of(session)
    assert (after.row.direct, after.moved) == (0, 2)
    assert before.plan is not None
    assert after.plan is not None
    assert after.plan.a_year > before.plan.a_year


def test_incidents_before_the_page_says_it_count_as_those_after(session: Session, clock: Clock) -> None:
    session.execute(text("UPDATE position SET ordered_unit = NULL WHERE id = :p"), {"p": position(session, "memory_on_board")})
    fails(session, clock, 0, on_board(session))
    assert of(session).moved == 0
    session.execute(text("UPDATE position SET ordered_unit = 'mainboard' WHERE id = :p"), {"p": position(session, "memory_on_board")})
    assert of(session).moved == 1


def test_a_failure_whose_board_was_fitted_counts_once(session: Session, clock: Clock, technician: Recorded) -> None:
    do(session, MoveRequest(BOARD, "ELD", "found", 2, "from the spare"), technician)
    board = LineRequest(position(session, "mainboard"), "replaced", BOARD, "ELD")
    fails(session, clock, 0, on_board(session), board)
    assert (of(session).row.direct, of(session).moved) == (1, 0)
    fails(session, clock, 1, board, finding="upgrade")
    assert of(session).row.direct == 1  # what was planned is no failure


def test_an_uncertain_unit_is_shared(session: Session, clock: Clock) -> None:
    session.execute(
        text("UPDATE position SET ordered_unit = 'mainboard or palm_rest' WHERE id = :p"), {"p": position(session, "memory_on_board")}
    )
    fails(session, clock, 0, on_board(session))
    assert of(session).moved == pytest.approx(0.5)


def test_no_draw_is_no_rate_of_nothing_and_no_machine_is_no_answer(session: Session) -> None:
    never = of(session)
    assert never.plan is not None
    assert never.plan.rate.rate == 0
    assert never.plan.rate.high > 0
    assert never.plan.a_year > 0
    assert never.quantity >= 1
    session.execute(
        text("UPDATE asset SET retired_on = :d WHERE retired_on IS NULL AND model_id = (SELECT id FROM device_model WHERE name = :m)"),
        {"d": date(2026, 10, 1), "m": MODEL},
    )
    session.expire_all()
    assert of(session).plan is None
    assert of(session).quantity == 0


def test_what_lies_there_and_is_coming_counts(session: Session, technician: Recorded) -> None:
    before = of(session)
    do(session, MoveRequest(BOARD, "GUL", "found", 3, "from the spare"), technician)
    after = of(session)
    assert (after.on_hand, after.position, after.quantity) == (before.on_hand + 3, before.position + 3, 0)
    promise(session, PromiseRequest(BOARD, "GUL", 2), technician)
    assert of(session).position == before.position + 1


def test_two_boards_that_fit_share_what_is_wanted(session: Session, clock: Clock) -> None:
    session.execute(
        text("""INSERT INTO fits (part_id, position_id, verdict, reason, origin)
                VALUES ((SELECT id FROM part WHERE number = 'OX-H14'), :p, 'yes', 'the same board', 'listed')
                ON CONFLICT (position_id, part_id) DO UPDATE SET verdict = 'yes'"""),
        {"p": position(session, "mainboard")},
    )
    fails(session, clock, 0, on_board(session))
    assert of(session).moved == pytest.approx(0.5)
    assert of(session, "OX-H14").moved == pytest.approx(0.5)


def test_what_is_due_stands_among_the_orders_of_today(session: Session) -> None:
    outlook = read_outlook(session)
    others = {one.row.number: one for one in read_others(session)}
    assert outlook.orders == len(outlook.to_order) + len(outlook.others)
    assert all(one.quantity > 0 and one.row.direct + one.moved > 0 for one in outlook.others)
    never = [number for number, one in others.items() if one.row.direct + one.moved == 0 and one.quantity > 0]
    assert never
    assert not {one.row.number for one in outlook.others} & set(never)
    listed = [str(row[2]) for row in buying_rows(outlook)]
    assert listed == sorted([row.part.number for row in outlook.to_order] + [one.row.number for one in outlook.others])
    assert read_outlook(session, site_code="GUL").others == []
