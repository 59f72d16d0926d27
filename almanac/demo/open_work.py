"""What is open in the demo's stores: two transfers, a count with a difference, a return, an expired pack, parts kept
and waited for, what suppliers answered, and a draft that waits for a lead."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from almanac.core.life.outcomes import Bucket
from almanac.demo import catalog, truth
from almanac.demo.company import Company
from almanac.demo.rows import at

YESTERDAY = truth.AS_OF - timedelta(days=1)
DEPOT = "ELD"


def leave_open(company: Company) -> None:
    """Acts of the last days, on record as the application would have put them there."""
    _transfer(company, "BB-T16-56", "MAR", packed=truth.AS_OF, left=None, due=None)
    left = truth.AS_OF - timedelta(days=3)
    _transfer(company, "BB-T13-50", "WID", packed=left, left=left, due=left + timedelta(days=6))
    _count(company, "QB-D16-94", short=2, reason="the box on A-03 is empty; two may have gone with the Ternhaven order")
    act = _act(company, "send_back", "dead on arrival, both", YESTERDAY)
    shelf = _shelf(company, "LD-30256", DEPOT)
    _move(company, shelf, Bucket.ON_HAND, -2, "returned", act)
    _move(company, shelf, Bucket.RETURNED, 2, "returned", act)
    _expired(company, "QB-D15-90", "TER")
    nobody = {"asset_id": None, "plan_id": None}
    kept = _shelf(company, "OB-P13-45", DEPOT)
    company.rows.add("reservation", shelf_id=kept, quantity=2, reserved_on=YESTERDAY, released_on=None, **nobody)
    waits = _shelf(company, "BB-T16-84", "WID")
    company.rows.add("backorder", shelf_id=waits, quantity=1, asked_on=YESTERDAY, filled_on=None, **nobody)
    _kept_for_the_swap(company)
    _answers(company)
    _draft(company)


def _shelf(company: Company, part: str, site: str) -> int:
    return company.shelves[company.parts[part], company.sites[site]]


def _transfer(company: Company, part: str, goal: str, *, packed: date, left: date | None, due: date | None) -> None:
    transfer = company.rows.add(
        "transfer",
        part_id=company.parts[part],
        from_site_id=company.sites[DEPOT],
        to_site_id=company.sites[goal],
        quantity=1,
        packed_on=packed,
        left_on=left,
        due_on=due,
        arrived_on=None,
        arrived=None,
        cancelled_on=None,
        version=1 if left is None else 2,
        author_id=company.bench_user,
        recorded_at=at(packed),
    )
    act = _act(company, "packed", f"for {goal}", packed, transfer=transfer)
    _move(company, _shelf(company, part, DEPOT), Bucket.ON_HAND, -1, "sent", act)
    _move(company, _shelf(company, part, goal), Bucket.UNDER_WAY, 1, "sent", act)


def _count(company: Company, part: str, *, short: int, reason: str) -> None:
    shelf = _shelf(company, part, DEPOT)
    held = [row for row in company.rows.tables["stock_move"] if row["shelf_id"] == shelf and row["bucket"] == Bucket.ON_HAND.value]
    booked = sum(row["quantity"] for row in held)
    company.rows.add(
        "stock_count",
        shelf_id=shelf,
        booked=booked,
        counted=max(booked - short, 0),
        reason=reason,
        state="waits",
        counted_on=YESTERDAY,
        author_id=company.bench_user,
        approved_by_id=None,
        recorded_at=at(YESTERDAY),
    )


def _expired(company: Company, part: str, site: str) -> None:
    """A pack that arrived with a label older than it keeps."""
    made = truth.AS_OF - timedelta(days=700)
    _move(company, _shelf(company, part, site), Bucket.ON_HAND, 1, "arrived", None, made_on=made)


def _kept_for_the_swap(company: Company) -> None:
    """What lies at the site of the planned swap is kept for it, the rest is waited for."""
    plan = next(row for row in company.rows.tables["fleet_plan"] if row["action"] == "swap")
    shelf = next(number for (part, site), number in company.shelves.items() if (part, site) == (plan["part_id"], plan["site_id"]))
    moves = (row for row in company.rows.tables["stock_move"] if row["shelf_id"] == shelf and row["bucket"] == Bucket.ON_HAND.value)
    held = min(sum(row["quantity"] for row in moves), plan["quantity"])
    own = {"shelf_id": shelf, "asset_id": None, "plan_id": plan["id"]}
    if held:
        company.rows.add("reservation", quantity=held, reserved_on=YESTERDAY, released_on=None, **own)
    if plan["quantity"] > held:
        company.rows.add("backorder", quantity=plan["quantity"] - held, asked_on=YESTERDAY, filled_on=None, **own)


def _answers(company: Company) -> None:
    """Of two open orders the supplier said something: one comes later, of one fewer can be sent."""
    received = {row["line_id"] for row in company.rows.tables["receipt"]}
    lines = {row["part_id"]: row for row in company.rows.tables["purchase_line"] if row["id"] not in received}
    moved, short = lines[company.parts["OB-H14-52"]], lines[company.parts["OF-P14"]]
    named = YESTERDAY + timedelta(days=12)
    _answer(company, moved, "moved", state="accepted", expected_on=named, words="the October boat was full")
    moved["expected_on"], moved["confirmed_on"], moved["version"] = named, YESTERDAY, 2
    _answer(company, short, "short", state="open", quantity=1, words="one in the house, the maker owes them the others")
    short["version"] = 2


def _answer(company: Company, line: dict[str, Any], reply: str, *, state: str, words: str, **said: object) -> None:
    company.rows.add(
        "supplier_answer",
        line_id=line["id"],
        reply=reply,
        state=state,
        quantity=said.get("quantity"),
        expected_on=said.get("expected_on"),
        price=None,
        part_id=None,
        words=words,
        was=f"{line['quantity']} to come on {line['expected_on']:%-d %b %Y} at EUR {line['price']}",
        answered_on=YESTERDAY,
        recorded_at=at(YESTERDAY),
        author_id=company.bench_user,
        decided_by_id=None,
        decided_on=None,
    )


def _draft(company: Company) -> None:
    """What the bench asks for and a lead has to approve."""
    supplier = next(row["id"] for row in company.rows.tables["supplier"] if row["name"] == catalog.OSTREL)
    draft = company.rows.add(
        "order_draft",
        supplier_id=supplier,
        state="waits",
        note="two boards with cracked sockets wait at the bench",
        asked_on=YESTERDAY,
        author_id=company.bench_user,
        sent_by_id=company.bench_user,
        decided_by_id=None,
        decided_on=None,
        decision="",
        order_id=None,
        version=2,
        recorded_at=at(YESTERDAY),
    )
    for part, quantity in (("OX-P14", 3), ("OK-H14", 2)):
        company.rows.link("order_draft_line", draft_id=draft, part_id=company.parts[part], quantity=quantity)


def _act(company: Company, name: str, reason: str, day: date, *, transfer: int | None = None) -> int:
    return company.rows.add(
        "stock_act",
        act=name,
        reason=reason,
        done_on=day,
        recorded_at=at(day),
        author_id=company.bench_user,
        undoes_id=None,
        transfer_id=transfer,
        count_id=None,
    )


def _move(company: Company, shelf: int, bucket: Bucket, quantity: int, cause: str, act: int | None, *, made_on: date | None = None) -> None:
    day = next((row["done_on"] for row in company.rows.tables["stock_act"] if row["id"] == act), YESTERDAY)
    company.rows.add(
        "stock_move",
        shelf_id=shelf,
        bucket=bucket.value,
        quantity=quantity,
        cause=cause,
        lot=None,
        made_on=made_on,
        moved_on=day,
        recorded_at=at(day),
        author_id=company.bench_user,
        incident_id=None,
        receipt_id=None,
        act_id=act,
    )
