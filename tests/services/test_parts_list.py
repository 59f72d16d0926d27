"""A company's own list of parts, or of what lies on its shelves: held against the record, applied as one and undone as one."""

from __future__ import annotations

from datetime import date, timedelta
from decimal import Decimal

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.services.catalog_edit import read_part
from almanac.services.clock import Clock
from almanac.services.errors import Refused
from almanac.services.intake.apply import ListRequest, Looked, apply_list, look_at, undo_list
from almanac.services.intake.changes import Change, Group
from almanac.services.intake.settled import NEW, NOT_FOR_US, Asks, Settled
from almanac.services.outlook.summary import read_builder
from almanac.services.stores.acts import MoveRequest, Recorded, do, undo
from tests.services.stocks import PACK, PART, shelf_at
from tests.services.ugly import LIST_ON, as_csv, as_xlsx

HEADER = ["Artikelnummer", "Bezeichnung", "Lieferant", "Preis", "Lieferzeit", "VE"]
SHELVES = ["Artikel-Nr.", "Lagerort", "Bestand"]


def request(rows: list[list[str]], header: list[str] = HEADER, *, on: date = LIST_ON, **settled: object) -> ListRequest:
    return ListRequest("Storeroom", "Teile.csv", as_csv(rows, header), on, Settled(**settled))  # type: ignore[arg-type]


def apply(session: Session, clock: Clock, asked: ListRequest) -> int:
    return apply_list(session, asked, look_at(session, asked, clock=clock).digest, clock=clock, author_id=1)


def of(looked: Looked, group: Group) -> list[Change]:
    return [change for change in looked.difference.changes if change.group is group]


def parts(session: Session) -> list[str]:
    query = text("SELECT row_to_json(x)::text FROM (SELECT * FROM part UNION ALL SELECT * FROM part WHERE false) x ORDER BY x.id")
    return [*session.execute(query).scalars(), *session.execute(text("SELECT row_to_json(s)::text FROM supplier s ORDER BY id")).scalars()]


def own_rows(session: Session) -> list[list[str]]:
    """Parts as they are on record, in a German list."""
    query = text(
        """SELECT p.number, p.name, s.name, p.price, p.pack FROM part p JOIN supplier s ON s.id = p.supplier_id ORDER BY p.number"""
    )
    return [[number, name, seller, german(price), "", str(pack)] for number, name, seller, price, pack in session.execute(query)]


def german(price: Decimal) -> str:
    return f"{price:,.2f}".replace(",", "t").replace(".", ",").replace("t", ".")


class TestParts:
    def test_the_record_s_own_list_says_nothing_new(self, session: Session, clock: Clock) -> None:
        rows = own_rows(session)
        looked = look_at(session, request(rows), clock=clock)
        assert looked.subject.kind == "parts"
        assert looked.difference.counts() == {**dict.fromkeys(Group, 0), Group.UNCHANGED: len(rows)}
        assert looked.open == 0
        assert looked.understood.table.decimal == ","

    def test_prices_change_with_their_history_and_come_back(self, session: Session, clock: Clock) -> None:
        before, was = parts(session), read_part(session, PACK)
        asked = request([[PACK, "", "", "64,50 €", "", ""], [PART, "", "", "", "", "5"]])
        looked = look_at(session, asked, clock=clock)
        first, second = of(looked, Group.CHANGED)
        assert first.words == f"price 64.50, was {was.edit.price:.2f}"
        assert second.words.startswith("parts in a pack 5, was ")
        number = apply(session, clock, asked)
        after = read_part(session, PACK)
        assert after.edit.price == Decimal("64.50")
        assert after.changes[0].field == "price"
        assert look_at(session, asked, clock=clock).difference.done == []
        undo_list(session, number, clock=clock, author_id=1)
        session.expire_all()
        assert parts(session) == before
        assert read_part(session, PACK).number_of_changes == was.number_of_changes + 2

    def test_new_parts_are_ours_once_somebody_says_so(self, session: Session, clock: Clock) -> None:
        before = parts(session)
        rows = [
            ["NP-1", "Ersatzakku 48 Wh", "Tangle Parts", "1.061,00", "3 Wochen", "1"],
            ["NP-2", "Toner", "Tangle Parts", "9,90", "", ""],
        ]
        looked = look_at(session, request(rows), clock=clock)
        (question,) = looked.understood.questions
        assert (question.field, question.rows) == ("new", 2)
        assert looked.difference.done == []
        assert look_at(session, request(rows, names={"new": {"": NOT_FOR_US}}), clock=clock).open == 0
        ours = {"new": {"": NEW}}
        (question,) = look_at(session, request(rows, names=ours), clock=clock).understood.questions
        assert (question.field, question.text, question.may_be_new) == ("supplier", "Tangle Parts", True)
        ours["supplier"] = {"tangle parts": NEW}
        looked = look_at(session, request(rows, names=ours), clock=clock)
        assert looked.open == 0
        supplier, pack, toner = of(looked, Group.NEW)
        assert supplier.words == "supplier; days until it comes: 21"
        assert pack.words == "Ersatzakku 48 Wh; battery; 1061.00 from Tangle Parts"
        assert "nothing tells its kind" in toner.words
        number = apply(session, clock, request(rows, names=ours))
        found = session.execute(text("SELECT kind, price, pack FROM part WHERE number = 'NP-1'")).one()
        assert tuple(found) == ("battery", Decimal("1061.00"), 1)
        assert undo_list(session, number, clock=clock, author_id=1) == (3, [])
        assert parts(session) == before

    def test_days_nobody_stated_are_asked_with_the_company_s_median(self, session: Session, clock: Clock) -> None:
        rows = [["NP-1", "Lüfter", "Tangle Parts", "12,00", "", ""]]
        names = {"new": {"": NEW}, "supplier": {"tangle parts": NEW}}
        (question,) = look_at(session, request(rows, names=names), clock=clock).understood.questions
        assert (question.asks, question.field, question.text) == (Asks.DAYS, "lead_time", "Tangle Parts")
        assert question.proposal is not None
        looked = look_at(session, request(rows, names={**names, "lead_time": {"tangle parts": "17"}}), clock=clock)
        assert looked.open == 0
        assert of(looked, Group.NEW)[0].words == "supplier; days until it comes: 17"

    def test_a_part_without_a_price_or_in_another_currency_is_told(self, session: Session, clock: Clock) -> None:
        names = {"new": {"": NEW}}
        rows = [["NP-1", "Akku", "Ostrel Spares", "", "", ""], [PACK, "", "", "$ 64.50", "", ""], [PART, "", "", "teuer", "", ""]]
        told = {change.subject: change.words for change in of(look_at(session, request(rows, names=names), clock=clock), Group.UNUSABLE)}
        assert "no price" in told["NP-1"]
        assert told[PACK] == "its price is in USD, and the company counts in EUR"
        assert told[PART].startswith("teuer is no number")

    def test_a_price_that_the_list_does_not_say_may_be_said(self, session: Session, clock: Clock) -> None:
        names: dict[str, dict[str, str]] = {"new": {"": NEW}}
        rows = [["NP-1", "Akku", "Ostrel Spares", "", "", ""], [PACK, "Akku", "", "", "", ""]]
        (question,) = look_at(session, request(rows, names=names), clock=clock).understood.questions
        assert (question.field, question.text, question.asks, question.optional) == ("price", "NP-1", Asks.AMOUNT, True)
        for said, price in (("61.50", "61.50"), ("1.061,5", "1061.50"), ("0", "0.00")):
            looked = look_at(session, request(rows, names={**names, "price": {question.key or "": said}}), clock=clock)
            (new,) = of(looked, Group.NEW)
            assert (new.values["price"], looked.open) == (Decimal(price), 0)
            assert looked.understood.questions == []
        for nonsense in ("dear", "-4", "99999999"):
            looked = look_at(session, request(rows, names={**names, "price": {question.key or "": nonsense}}), clock=clock)
            assert (of(looked, Group.NEW), len(looked.understood.questions)) == ([], 1)

    def test_one_part_said_twice_is_told(self, session: Session, clock: Clock) -> None:
        looked = look_at(session, request([[PACK, "", "", "60,10", "", ""], [PACK, "", "", "64,50", "", "7"]]), clock=clock)
        (twice,) = of(looked, Group.TWICE)
        assert twice.words.startswith("line 6 says price otherwise") or twice.words.startswith("line 7 says price otherwise")
        (change,) = of(looked, Group.CHANGED)
        assert change.values == {"price": Decimal("64.50"), "pack": 7}

    def test_a_part_that_fits_a_model_is_listed_for_its_positions(self, session: Session, clock: Clock) -> None:
        header = ["Part number", "Description", "Supplier", "Price", "Fits"]
        rows = [["NP-7", "Fan for a packet", "Ostrel Spares", "12.00", "Packet 14"]]
        asked = request(rows, header, names={"new": {"": NEW}})
        apply(session, clock, asked)
        query = (
            """SELECT p.kind FROM fits f JOIN position p ON p.id = f.position_id JOIN part q ON q.id = f.part_id WHERE q.number = 'NP-7'"""
        )
        assert set(session.execute(text(query)).scalars()) == {"fan"}
        assert look_at(session, asked, clock=clock).difference.done == []


def shelf_request(rows: list[list[str]], *, on: date = LIST_ON, **settled: object) -> ListRequest:
    return request(rows, SHELVES, on=on, **{"gone": "leave", **settled})


class TestShelves:
    def test_what_is_booked_says_nothing_new_and_a_difference_is_a_count(self, session: Session, clock: Clock) -> None:
        here = shelf_at(session, "ELD")
        assert look_at(session, shelf_request([[PART, "ELD", str(here)]], on=clock.today), clock=clock).difference.done == []
        asked = shelf_request([[PART, "ELD", str(here + 1)], [PART, "ELD", "1"]], on=clock.today)
        (change,) = of(look_at(session, asked, clock=clock), Group.CHANGED)
        assert change.words == f"{here + 2} parts there, {here} booked"
        number = apply(session, clock, asked)
        assert shelf_at(session, "ELD") == here + 2
        assert look_at(session, asked, clock=clock).difference.done == []
        assert undo_list(session, number, clock=clock, author_id=1)[0] == 1
        assert shelf_at(session, "ELD") == here

    def test_what_moved_since_the_list_is_not_counted_away(self, session: Session, clock: Clock) -> None:
        moved = text("""SELECT p.number, s.code, m.moved_on, sum(m.quantity) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id
                        JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id WHERE m.bucket = 'on_hand'
                        GROUP BY 1, 2, 3 HAVING sum(m.quantity) > 0 ORDER BY m.moved_on DESC LIMIT 1""")
        part, site, day, quantity = session.execute(moved).one()
        held = session.execute(
            text("""SELECT sum(m.quantity) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id
                    JOIN site s ON s.id = h.site_id WHERE m.bucket = 'on_hand' AND p.number = :part AND s.code = :site AND m.moved_on < :day"""),
            {"part": part, "site": site, "day": day},
        ).scalar() or 0  # fmt: skip
        before = date.fromordinal(day.toordinal() - 1)
        looked = look_at(session, shelf_request([[part, site, str(held)]], on=before), clock=clock)
        assert quantity > 0
        assert looked.difference.done == []

    def test_a_list_of_last_week_is_counted_on_its_day_and_says_nothing_twice(self, session: Session, clock: Clock) -> None:
        here = shelf_at(session, "ELD")
        on = clock.today - timedelta(days=2)
        asked = shelf_request([[PART, "ELD", str(here + 4)]], on=on)
        before = look_at(session, asked, clock=clock).difference.done
        number = apply(session, clock, asked)
        assert look_at(session, asked, clock=clock).difference.done == []
        day = session.execute(text("SELECT max(counted_on) FROM stock_count c JOIN shelf h ON h.id = c.shelf_id JOIN part p ON p.id = h.part_id "
                                   "WHERE p.number = :part"), {"part": PART}).scalar()  # fmt: skip
        assert day == on
        undo_list(session, number, clock=clock, author_id=1)
        assert look_at(session, asked, clock=clock).difference.done == before

    def test_stock_the_list_does_not_name_is_asked_once(self, session: Session, clock: Clock) -> None:
        here = shelf_at(session, "ELD")
        rows = [[PACK, "ELD", str(shelf_at(session, "ELD", PACK))]]
        looked = look_at(session, shelf_request(rows, on=clock.today, gone=None), clock=clock)
        assert looked.difference.open_gone > 0
        assert PART in {change.subject.split()[0] for change in of(looked, Group.WAITS)}
        emptied = look_at(session, shelf_request(rows, on=clock.today, gone="on"), clock=clock)
        change = next(one for one in of(emptied, Group.CHANGED) if one.subject == f"{PART} at ELD")
        assert change.words == f"not on the list: none there, {here} booked"

    def test_a_name_that_is_none_of_ours_is_asked_and_remembered(self, session: Session, clock: Clock) -> None:
        rows = [["Fan, old number", "Elderbay?", "3"], ["Paper", "ELD", "9"]]
        looked = look_at(session, shelf_request(rows, on=clock.today), clock=clock)
        assert [(one.field, one.text) for one in looked.understood.questions] == [
            ("number", "Fan, old number"), ("number", "Paper"), ("site", "Elderbay?"),
        ]  # fmt: skip
        names = {"number": {"fan old number": PART, "paper": NOT_FOR_US}, "site": {"elderbay": "ELD"}}
        looked = look_at(session, shelf_request(rows, on=clock.today, names=names), clock=clock)
        assert looked.open == 0
        (change,) = looked.difference.changes
        assert (change.subject, change.values["counted"]) == (f"{PART} at ELD", 3)

    def test_a_new_part_with_its_count_opens_its_shelf_and_stays_once_undone(self, session: Session, clock: Clock) -> None:
        header = ["Part number", "Description", "Supplier", "Price", "Warehouse", "Qty", "Made on"]
        rows: list[list[object]] = [
            ["NP-9", "Battery 50 Wh", "Ostrel Spares", 61.5, "ELD", 4, date(2026, 8, 1)],
            ["NP-9", "Battery 50 Wh", "Ostrel Spares", 61.5, "ELD", 2, date(2026, 9, 1)],
        ]
        asked = ListRequest("Storeroom", "s.xlsx", as_xlsx(rows, header), clock.today, Settled(names={"new": {"": NEW}}, gone="leave"))
        number = apply(session, clock, asked)
        assert shelf_at(session, "ELD", "NP-9") == 6
        lots = text(
            "SELECT made_on FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id WHERE p.number = 'NP-9'"
        )
        assert set(session.execute(lots).scalars()) == {date(2026, 8, 1), date(2026, 9, 1)}
        assert read_builder(session) is not None
        assert look_at(session, asked, clock=clock).difference.done == []
        assert undo_list(session, number, clock=clock, author_id=1) == (2, ["NP-9"])
        assert shelf_at(session, "ELD", "NP-9") == 0

    def test_parts_used_since_are_not_taken_back(self, session: Session, clock: Clock) -> None:
        rows = [["NP-9", "Battery 50 Wh", "Ostrel Spares", "61,50", "", ""]]
        number = apply(session, clock, request(rows, names={"new": {"": NEW}}))
        session.execute(
            text(
                "INSERT INTO unit (part_id, serial, condition, received_on) SELECT id, 'X1', 'unknown', '2026-10-20' FROM part WHERE number = 'NP-9'"
            )
        )
        with pytest.raises(Refused, match="NP-9: fitted, ordered or promised"):
            undo_list(session, number, clock=clock, author_id=1)

    def test_while_another_count_waits_a_shelf_is_left_alone(self, session: Session, clock: Clock) -> None:
        session.execute(
            text("""INSERT INTO stock_count (shelf_id, booked, counted, reason, state, counted_on, recorded_at)
                    SELECT h.id, 1, 2, 'dear', 'waits', '2026-10-30', now() FROM shelf h JOIN part p ON p.id = h.part_id
                    JOIN site s ON s.id = h.site_id WHERE p.number = :part AND s.code = 'ELD'"""),
            {"part": PART},
        )
        (change,) = look_at(session, shelf_request([[PART, "ELD", "99"]], on=clock.today), clock=clock).difference.changes
        assert (change.group, change.words.split(":")[0]) == (Group.UNUSABLE, "another count of this shelf waits for a lead")

    def test_empty_shelves_are_not_missed(self, session: Session, clock: Clock) -> None:
        rows = [[PACK, "ELD", str(shelf_at(session, "ELD", PACK))]]
        before = look_at(session, shelf_request(rows, on=clock.today, gone=None), clock=clock).difference.open_gone
        undo_of = look_at(session, shelf_request(rows, on=clock.today, gone="on"), clock=clock)
        assert all(int(str(change.values["booked"])) > 0 for change in of(undo_of, Group.CHANGED))
        session.execute(
            text("INSERT INTO shelf (part_id, site_id) SELECT p.id, s.id FROM part p, site s WHERE s.code = 'ELD' "
                 "AND NOT EXISTS (SELECT 1 FROM shelf h WHERE h.part_id = p.id AND h.site_id = s.id)")
        )  # fmt: skip
        assert look_at(session, shelf_request(rows, on=clock.today, gone=None), clock=clock).difference.open_gone == before

    def test_what_was_done_and_undone_since_never_moved(self, session: Session, clock: Clock) -> None:
        here = shelf_at(session, "ELD")
        by = Recorded(clock, 1, is_lead=True)
        act = do(session, MoveRequest(PART, "ELD", "found", 5, "behind the shelf"), by)
        undo(session, act, "it was another part", by)
        assert (
            look_at(session, shelf_request([[PART, "ELD", str(here)]], on=clock.today - timedelta(days=1)), clock=clock).difference.done
            == []
        )
