"""Acts on stock: nothing appears or vanishes unsaid, what is kept for somebody stays, and every act can be undone once."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import Session

from almanac.core.life.outcomes import Bucket
from almanac.core.stock.acts import ACTS
from almanac.services.clock import Clock
from almanac.services.errors import NotFound, Refused, Stale
from almanac.services.orders.arrivals import ReceiptRequest, receive
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.outlook.inputs import read_inputs
from almanac.services.outlook.shelves import holding_of
from almanac.services.outlook.summary import read_outlook
from almanac.services.stores import counts, transfers, waits
from almanac.services.stores.acts import MoveRequest, Recorded, do, undo
from almanac.services.stores.read import read_shelf, read_tally
from almanac.store.models import Reservation, StockAct
from tests.services.stocks import OLD, PACK, PART, buckets, shelf_at, waiting


@pytest.mark.parametrize("name", [name for name, act in ACTS.items() if act.source is Bucket.ON_HAND and name != "expire"])
def test_an_act_moves_parts_and_its_undoing_moves_them_back(session: Session, lead: Recorded, name: str) -> None:
    before = buckets(session)
    number = do(session, MoveRequest(PART, "ELD", name, 2, "as asked"), lead)
    after = buckets(session)
    assert after["ELD", "on_hand"] == before["ELD", "on_hand"] - 2
    goal = ACTS[name].goal
    assert goal is not None
    assert after["ELD", goal.value] == before.get(("ELD", goal.value), 0) + 2
    undo(session, number, "the wrong shelf", lead)
    assert buckets(session) == before
    with pytest.raises(Refused, match="undone already"):
        undo(session, number, "once more", lead)
    undoing = session.scalars(select(StockAct.id).where(StockAct.undoes_id == number)).one()
    with pytest.raises(Refused, match="this is an undoing"):
        undo(session, undoing, "back again", lead)


@pytest.mark.parametrize(
    ("changed", "message"),
    [
        ({"act": "vanish"}, "one of found, set_aside"),
        ({"reason": "  "}, "say why"),
        ({"quantity": 0}, "1 to 100,000 parts"),
        ({"quantity": 99_999}, "there: name 1 to"),
        ({"part_number": "NO-1"}, "no part has the number NO-1"),
        ({"site_code": "XXX"}, "no site has the code XXX"),
        ({"act": "scrap"}, "a lead does that"),
    ],
)
def test_an_act_that_cannot_be(session: Session, technician: Recorded, changed: dict[str, object], message: str) -> None:
    before = buckets(session)
    with pytest.raises(Refused, match=message):
        do(session, replace(MoveRequest(PART, "ELD", "set_aside", 1, "dented"), **changed), technician)  # type: ignore[arg-type]
    assert buckets(session) == before


def test_a_pack_that_was_found_is_never_stock_and_nothing_was_made_tomorrow(session: Session, lead: Recorded) -> None:
    with pytest.raises(Refused, match="a pack of unknown origin is never stock"):
        do(session, MoveRequest(PACK, "ELD", "found", 1, "in a drawer"), lead)
    with pytest.raises(Refused, match="is in the future"):
        do(session, MoveRequest(PART, "ELD", "found", 1, "in a drawer", lead.clock.today + timedelta(days=1)), lead)


def test_what_keeps_for_a_time_is_found_with_its_age_and_of_what_keeps_nobody_invents_one(session: Session, lead: Recorded) -> None:
    do(session, MoveRequest(PART, "ELD", "found", 1, "in a drawer"), lead)
    assert session.scalar(text("SELECT made_on FROM stock_move ORDER BY id DESC LIMIT 1")) is None
    session.execute(text("UPDATE part SET shelf_life_days = 400 WHERE number = :part"), {"part": PART})
    with pytest.raises(Refused, match="say when it was made"):
        do(session, MoveRequest(PART, "ELD", "found", 1, "in a drawer"), lead)
    made = lead.clock.today - timedelta(days=10)
    do(session, MoveRequest(PART, "ELD", "found", 1, "in a drawer", made), lead)
    assert session.scalar(text("SELECT made_on FROM stock_move ORDER BY id DESC LIMIT 1")) == made


def test_an_expired_pack_is_no_stock_until_it_is_scrapped_and_then_it_is_gone(session: Session, lead: Recorded) -> None:
    cell = next(cell for row in read_tally(session).rows if row.number == OLD for cell in row.cells if cell.site == "TER")
    assert (cell.on_hand, cell.expired) == (1, 1)
    with pytest.raises(Refused, match="none lies free at Ternhaven"):
        transfers.pack(session, transfers.TransferRequest(OLD, "TER", "ELD", 1), lead)
    assert waits.promise(session, waits.PromiseRequest(OLD, "TER", 1, "SK-0012"), lead) == waits.Promised(0, 1)
    with pytest.raises(Refused, match="none of those there has expired"):
        do(session, MoveRequest(OLD, "ELD", "expire", 1, "old"), lead)
    do(session, MoveRequest(OLD, "TER", "expire", 1, "its label says 2024"), lead)
    assert shelf_at(session, "TER", OLD) == 0


def test_a_pack_out_of_a_machine_is_never_released_and_one_set_aside_from_the_shelf_is(session: Session, lead: Recorded) -> None:
    assert buckets(session, PACK)["ELD", "quarantine"] > 0
    with pytest.raises(Refused, match="came out of a machine is never stock again"):
        do(session, MoveRequest(PACK, "ELD", "release", 1, "looks fine"), lead)
    do(session, MoveRequest(PACK, "ELD", "set_aside", 1, "dented box"), lead)
    do(session, MoveRequest(PACK, "ELD", "release", 1, "only the box"), lead)
    with pytest.raises(Refused, match="came out of a machine is never stock again"):
        do(session, MoveRequest(PACK, "ELD", "release", 1, "this one too"), lead)


def test_nobody_jumps_the_queue_by_asking_for_less(session: Session, technician: Recorded) -> None:
    waits.promise(session, waits.PromiseRequest(PART, "GUL", shelf_at(session, "GUL") + 2, "SK-0012"), technician)
    do(session, MoveRequest(PART, "GUL", "found", 1, "behind the rack"), technician)
    assert waits.promise(session, waits.PromiseRequest(PART, "GUL", 1, "SK-0014"), technician) == waits.Promised(0, 1)


def ages_at(session: Session, site: str) -> list[tuple[str | None, int]]:
    plate = read_shelf(session, PACK, site, is_lead=True)
    return [(lot.keeps_until.isoformat() if lot.keeps_until else None, lot.quantity) for lot in plate.lots]


def test_parts_keep_their_age_wherever_they_go(session: Session, lead: Recorded) -> None:
    here, there = ages_at(session, "ELD"), ages_at(session, "GUL")
    made = transfers.pack(session, transfers.TransferRequest(PACK, "ELD", "GUL", 2), lead)
    transfers.arrive(session, made.id, transfers.ArrivalRequest(1, "one fell into the harbour", 1), lead)
    assert sum(count for _, count in ages_at(session, "GUL")) == sum(count for _, count in there) + 1
    assert {age for age, _ in ages_at(session, "GUL")} <= {age for age, _ in [*here, *there]}
    again = transfers.pack(session, transfers.TransferRequest(PACK, "ELD", "GUL", 2), lead)
    before = ages_at(session, "ELD")
    transfers.unpack(session, again.id, "the boat is full", 1, lead)
    held = ages_at(session, "ELD")
    assert before != held
    for act in ("set_aside", "scrap", "send_back"):
        undo(session, do(session, MoveRequest(PACK, "ELD", act, 3, "played"), lead), "played", lead)
        assert ages_at(session, "ELD") == held
    do(session, MoveRequest(PACK, "ELD", "set_aside", 1, "dented box"), lead)
    do(session, MoveRequest(PACK, "ELD", "release", 1, "only the box"), lead)
    assert ages_at(session, "ELD") == held
    counts.count_shelf(session, counts.CountRequest(PACK, "ELD", shelf_at(session, "ELD", PACK) - 2, "lent out"), lead)
    undo(session, session.scalars(select(StockAct.id).order_by(StockAct.id.desc())).first() or 0, "they came back", lead)
    assert ages_at(session, "ELD") == held


def test_what_is_kept_for_somebody_is_neither_packed_nor_scrapped(session: Session, lead: Recorded) -> None:
    held = shelf_at(session, "ELD")
    waits.promise(session, waits.PromiseRequest(PART, "ELD", held, "SK-0012"), lead)
    with pytest.raises(Refused, match="kept for somebody: release one"):
        do(session, MoveRequest(PART, "ELD", "scrap", 1, "dented"), lead)
    with pytest.raises(Refused, match="none lies free at Eldermouth"):
        transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 1), lead)


def test_a_transfer_is_under_way_until_it_arrives(session: Session, technician: Recorded) -> None:
    before = buckets(session)
    made = transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 3), technician)
    packed = buckets(session)
    assert packed["ELD", "on_hand"] == before["ELD", "on_hand"] - 3
    assert packed["GUL", "under_way"] == 3
    transfers.send(session, made.id, 1, technician)
    assert made.due_on == technician.clock.today + timedelta(days=4)
    with pytest.raises(Stale):
        transfers.arrive(session, made.id, transfers.ArrivalRequest(3, "", 1), technician)
    with pytest.raises(Refused, match="1 part did not arrive: say what is known of it"):
        transfers.arrive(session, made.id, transfers.ArrivalRequest(2, "", 2), technician)
    transfers.arrive(session, made.id, transfers.ArrivalRequest(2, "one fell into the harbour", 2), technician)
    after = buckets(session)
    assert after["GUL", "on_hand"] == before.get(("GUL", "on_hand"), 0) + 2
    assert ("GUL", "under_way") not in after
    with pytest.raises(Refused, match="closed already"):
        transfers.arrive(session, made.id, transfers.ArrivalRequest(3, "", 3), technician)


def test_a_pack_in_the_hand_is_set_aside_from_its_own_lot(session: Session, technician: Recorded) -> None:
    lots = {lot.made_on: lot.quantity for lot in read_shelf(session, PACK, "ELD", is_lead=True).lots}
    newest = max(day for day in lots if day is not None)
    request = MoveRequest(PACK, "ELD", "set_aside", 1, "dented", newest)
    number = do(session, request, technician)
    after = {lot.made_on: lot.quantity for lot in read_shelf(session, PACK, "ELD", is_lead=True).lots}
    assert after.get(newest, 0) == lots[newest] - 1
    assert {day: count for day, count in after.items() if day != newest} == {day: count for day, count in lots.items() if day != newest}
    undo(session, number, "it was not dented", technician)
    assert {lot.made_on: lot.quantity for lot in read_shelf(session, PACK, "ELD", is_lead=True).lots} == lots
    with pytest.raises(Refused, match=r"of those made on .* are there"):
        do(session, replace(request, quantity=lots[newest] + 1), technician)
    with pytest.raises(Refused, match="0 of those made on"):
        do(session, replace(request, made_on=newest + timedelta(days=1)), technician)


def test_parts_under_way_are_coming_for_the_outlook_and_lie_on_no_shelf(session: Session, technician: Recorded) -> None:
    def position() -> int:
        inputs = read_inputs(session)
        holding, _ = holding_of(inputs, next(one for one in inputs.parts if one.number == PART))
        return holding.available + sum(arrival.quantity for arrival in holding.arrivals)

    def planned() -> tuple[int, int]:
        plan = next(row.plan for row in read_outlook(session).rows if row.part.number == PART)
        assert plan is not None
        return plan.position, plan.quantity

    before, plan_before = position(), planned()
    transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 2), technician)
    assert position() == before
    assert planned() == plan_before


def test_a_packed_transfer_can_be_unpacked_and_one_that_left_cannot(session: Session, technician: Recorded) -> None:
    before = buckets(session)
    made = transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 1), technician)
    with pytest.raises(Refused, match="say why"):
        transfers.unpack(session, made.id, " ", 1, technician)
    transfers.unpack(session, made.id, "the boat is full", 1, technician)
    assert buckets(session) == before
    left = transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 1), technician)
    transfers.send(session, left.id, 1, technician)
    with pytest.raises(Refused, match="send it back once it is there"):
        transfers.unpack(session, left.id, "too late", 2, technician)
    with pytest.raises(Refused, match="a transfer is undone by one the other way"):
        undo(session, session.scalars(select(StockAct.id).where(StockAct.transfer_id == left.id)).one(), "back", technician)


def test_who_waits_is_served_in_turn_by_whatever_brings_parts(session: Session, technician: Recorded) -> None:
    held = shelf_at(session, "GUL")
    kept = waits.promise(session, waits.PromiseRequest(PART, "GUL", held + 2, "SK-0012"), technician)
    assert (kept.reserved, kept.waits) == (held, 2)
    assert waits.promise(session, waits.PromiseRequest(PART, "GUL", 1, "SK-0014"), technician) == waits.Promised(0, 1)
    made = transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 2), technician)
    transfers.arrive(session, made.id, transfers.ArrivalRequest(2, "", 1), technician)
    still = waiting(session)
    assert [one.quantity for one in still] == [1]
    first = session.scalars(select(Reservation).order_by(Reservation.id.desc())).first()
    assert first is not None
    waits.release(session, first.id, technician)
    assert waiting(session) == []
    with pytest.raises(NotFound):
        waits.release(session, first.id, technician)


def test_a_delivery_serves_who_waits_at_the_depot(session: Session, technician: Recorded, clock: Clock) -> None:
    held = shelf_at(session, "ELD")
    waits.promise(session, waits.PromiseRequest(PART, "ELD", held + 1), technician)
    line = place_order(session, OrderRequest(PART, 1), clock=clock, author_id=1)
    receive(session, line.id, ReceiptRequest(1, clock.today, 1), clock=clock, author_id=2)
    assert waiting(session) == []


def test_nobody_who_asked_later_is_served_before_the_first(session: Session, technician: Recorded) -> None:
    waits.promise(session, waits.PromiseRequest(PART, "GUL", shelf_at(session, "GUL") + 2, "SK-0012"), technician)
    waits.promise(session, waits.PromiseRequest(PART, "GUL", 1, "SK-0014"), technician)
    do(session, MoveRequest(PART, "GUL", "found", 1, "behind the rack"), technician)
    assert [one.quantity for one in waiting(session)] == [2, 1]
    do(session, MoveRequest(PART, "GUL", "found", 1, "behind the other rack"), technician)
    assert [one.quantity for one in waiting(session)] == [1]


def test_what_goes_back_on_a_shelf_serves_who_waits_there(session: Session, technician: Recorded) -> None:
    packed = transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 1), technician)
    aside = do(session, MoveRequest(PART, "ELD", "set_aside", 1, "dented"), technician)
    waits.promise(session, waits.PromiseRequest(PART, "ELD", shelf_at(session, "ELD") + 1, "SK-0012"), technician)
    waits.promise(session, waits.PromiseRequest(PART, "ELD", 1, "SK-0014"), technician)
    undo(session, aside, "only the box was dented", technician)
    assert [one.quantity for one in waiting(session)] == [1]
    transfers.unpack(session, packed.id, "the boat is full", 1, technician)
    assert waiting(session) == []


def test_one_waits_until_all_of_it_is_there_and_can_give_up(session: Session, technician: Recorded) -> None:
    waits.promise(session, waits.PromiseRequest(PART, "GUL", shelf_at(session, "GUL") + 2), technician)
    do(session, MoveRequest(PART, "GUL", "found", 1, "behind the rack"), technician)
    (still,) = waiting(session)
    waits.give_up(session, still.id, technician)
    with pytest.raises(NotFound):
        waits.give_up(session, still.id, technician)
    assert waits.promise(session, waits.PromiseRequest(PART, "GUL", 1), technician) == waits.Promised(1, 0)


def test_the_tally_says_what_every_shelf_says(session: Session, technician: Recorded) -> None:
    transfers.pack(session, transfers.TransferRequest(PART, "ELD", "GUL", 1), technician)
    waits.promise(session, waits.PromiseRequest(PART, "GUL", 9, "SK-0012"), technician)
    found = read_tally(session)
    row = next(line for line in found.rows if line.number == PART)
    for cell in row.cells:
        plate = read_shelf(session, PART, cell.site, is_lead=True)
        assert cell.on_hand == plate.buckets.get(Bucket.ON_HAND, 0)
        assert cell.waits == sum(one.quantity for one in plate.promised if not one.reserved)
    assert sum(cell.waits for line in found.rows for cell in line.cells) == found.waiting > sum(cell.waits for cell in row.cells) > 0
    assert [(one.part_number, one.quantity) for one in found.transfers if one.part_number == PART] == [(PART, 1)]
