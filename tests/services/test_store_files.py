"""The stores on paper, as files out and in, and what a scan leads to."""

from __future__ import annotations

import csv
import io

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.exchange.tables import read_xlsx, write_xlsx
from almanac.services.errors import NotFound, Refused
from almanac.services.orders.arrivals import ReceiptRequest, receive
from almanac.services.orders.sending import OrderRequest, place_order
from almanac.services.stores import files, labels
from almanac.services.stores.acts import Recorded
from almanac.services.stores.count_sheet import count_table
from almanac.services.stores.scan import act_for
from almanac.services.stores.transfers import TransferRequest, pack, send
from almanac.store import shelves
from almanac.store.books import breaks
from tests.services.helpers import in_bucket

PART, SITE = "OF-P14", "ELD"


def as_csv(*rows: tuple[object, ...]) -> bytes:
    return "\n".join(",".join(str(cell) for cell in row) for row in rows).encode()


class TestOut:
    @pytest.mark.parametrize("name", files.NAMES)
    def test_csv_and_workbook_say_the_same(self, session: Session, name: str) -> None:
        lines = list(csv.reader(io.StringIO(b"".join(files.table_csv(session, name)).decode("utf-8-sig"))))
        book = read_xlsx(files.table_xlsx(session, name))
        assert lines[0] == list(book[0].cells)
        assert len(lines) - 1 == len(book) > 0
        assert [row.cells["part_number"] for row in book] == [line[lines[0].index("part_number")] for line in lines[1:]]

    def test_moves_add_up_to_balances(self, session: Session) -> None:
        def rows(name: str) -> list[dict[str, str]]:
            return list(csv.DictReader(io.StringIO(b"".join(files.table_csv(session, name)).decode("utf-8-sig"))))

        summed: dict[tuple[str, str, str], int] = {}
        for row in rows("moves"):
            key = row["part_number"], row["site"], row["bucket"]
            summed[key] = summed.get(key, 0) + int(row["quantity"].lstrip("'"))
        kept = {(row["part_number"], row["site"], row["bucket"]): int(row["quantity"]) for row in rows("balances")}
        assert {key: quantity for key, quantity in summed.items() if quantity} == kept


class TestIn:
    def test_a_count_sheet_that_was_filled_in_is_booked(self, session: Session, technician: Recorded) -> None:
        before = in_bucket(session, PART, "on_hand", site=SITE)
        sheet = list(csv.DictReader(io.StringIO(count_table(session, SITE).decode("utf-8-sig"))))
        assert {row["counted"] for row in sheet} == {""}
        rows = [("site", "place", "part_number", "counted", "reason")]
        rows += [(row["site"], "C-14", row["part_number"], str(before - 1), "one is gone") for row in sheet if row["part_number"] == PART]
        rows += [(row["site"], "", row["part_number"], "", "") for row in sheet if row["part_number"] != PART]
        taken = files.take_file(session, "counts", as_csv(*rows), technician)
        assert taken.rows == 1  # what is left empty was not counted
        assert in_bucket(session, PART, "on_hand", site=SITE) == before - 1 or taken.waits == 1
        assert (
            session.scalar(
                text(
                    "SELECT place FROM shelf h JOIN part p ON p.id = h.part_id JOIN site s ON s.id = h.site_id WHERE p.number = :p AND s.code = :s"
                ),
                {"p": PART, "s": SITE},
            )
            == "C-14"
        )

    def test_acts_are_carried_out_from_a_workbook(self, session: Session, technician: Recorded) -> None:
        before = in_bucket(session, PART, "quarantine")
        book = write_xlsx("acts", ("site", "part_number", "act", "quantity", "reason"), [(SITE, PART, "set_aside", 2, "dented")])
        assert files.take_file(session, "acts", book, technician).rows == 1
        assert in_bucket(session, PART, "quarantine") == before + 2
        assert breaks(session) == []

    def test_order_lines_become_drafts(self, session: Session, technician: Recorded) -> None:
        taken = files.take_file(session, "orders", as_csv(("part_number", "quantity"), (PART, 3), ("LD-80512", 2)), technician)
        assert len(taken.drafts) == 2

    @pytest.mark.parametrize(
        ("name", "rows", "message"),
        [
            ("stock", (("a",), (1,)), "one of counts, acts, orders was wanted"),
            ("counts", (("site", "part_number"), (SITE, PART)), "missing column counted"),
            ("counts", (("site", "part_number", "counted"),), "no row below the header"),
            ("counts", (("site", "part_number", "counted"), (SITE, PART, "three")), "line 2: counted"),
            ("acts", (("site", "part_number", "act", "quantity"), (SITE, PART, "burn", 1)), "line 2, act"),
            ("orders", (("part_number", "quantity"), (PART, 1), ("NO-1", 2)), "line 3: no part has the number NO-1"),
        ],
    )
    def test_faults_name_the_line(
        self, session: Session, technician: Recorded, name: str, rows: tuple[tuple[object, ...], ...], message: str
    ) -> None:
        with pytest.raises(Refused, match=message):
            files.take_file(session, name, as_csv(*rows), technician)

    def test_one_bad_line_undoes_the_file(self, session: Session, technician: Recorded) -> None:
        before = in_bucket(session, PART, "on_hand")
        rows = (
            ("site", "part_number", "act", "quantity", "reason"),
            (SITE, PART, "set_aside", 1, "dented"),
            (SITE, PART, "scrap", 1, "old"),
        )
        with pytest.raises(Refused, match="line 3, act: scrapped: a lead does that"):
            files.take_file(session, "acts", as_csv(*rows), technician)
        assert in_bucket(session, PART, "on_hand") == before


class TestPaper:
    def test_labels_and_lists_are_printed(self, session: Session, technician: Recorded) -> None:
        assert labels.shelf_labels(session, SITE, None).startswith(b"%PDF")
        assert labels.shelf_labels(session, "eld", PART).startswith(b"%PDF")
        assert labels.packing_list(session, "WID").startswith(b"%PDF")
        line = place_order(session, OrderRequest(PART, 2), clock=technician.clock, author_id=1)
        number = shelves.order_of(session, line).number
        with pytest.raises(NotFound, match="nothing arrived with"):
            labels.lot_labels(session, number)
        receive(session, line.id, ReceiptRequest(2, technician.clock.today, 1, lot="K 88"), clock=technician.clock, author_id=2)
        assert labels.lot_labels(session, number).startswith(b"%PDF")

    def test_what_is_not_there_is_said(self, session: Session) -> None:
        with pytest.raises(Refused, match="no site has the code XXX"):
            labels.shelf_labels(session, "XXX", None)
        with pytest.raises(NotFound, match="holds or held NO-1"):
            labels.shelf_labels(session, SITE, "NO-1")
        with pytest.raises(NotFound, match="nothing is packed"):
            labels.packing_list(session, SITE)
        with pytest.raises(NotFound, match="there is no order"):
            labels.lot_labels(session, "PO-1900-001")


class TestScan:
    def path(self, session: Session, text_: str, site: str | None = None) -> str:
        return act_for(session, text_, site_code=site).path

    def test_each_label_opens_its_act(self, session: Session) -> None:
        assert self.path(session, f"SHELF {PART} {SITE}") == f"/stores/{PART}/{SITE}?act=count"
        assert self.path(session, f"LOT {PART} {SITE} K 88") == f"/stores/{PART}/{SITE}?act=set_aside"

    def test_an_order_is_received(self, session: Session, technician: Recorded) -> None:
        line = place_order(session, OrderRequest(PART, 2), clock=technician.clock, author_id=1)
        number = shelves.order_of(session, line).number
        for scanned in (number, number.lower(), f"ORDER {number}"):
            assert self.path(session, scanned) == f"/stores/orders/{number}?receive={line.id}"
        receive(session, line.id, ReceiptRequest(2, technician.clock.today, 1, serials=("F-1",)), clock=technician.clock, author_id=2)
        assert self.path(session, number) == f"/stores/orders/{number}"
        assert self.path(session, "F-1") == f"/stores/orders/{number}"

    def test_a_part_opens_what_brings_it_else_its_shelf(self, session: Session, technician: Recorded) -> None:
        assert self.path(session, "OF-P13") == f"/stores/OF-P13/{SITE}"
        line = place_order(session, OrderRequest("OF-P13", 2), clock=technician.clock, author_id=1)
        number = shelves.order_of(session, line).number
        assert self.path(session, "of-p13") == f"/stores/orders/{number}?receive={line.id}"
        assert self.path(session, "OF-P13", "gul") == "/stores/OF-P13/GUL"
        transfer = pack(session, TransferRequest(PART, SITE, "GUL", 1), technician)
        assert self.path(session, PART, "GUL") == f"/stores/{PART}/GUL"  # packed, but not under way
        send(session, transfer.id, transfer.version, technician)
        assert self.path(session, PART, "GUL") == f"/stores?arrive={transfer.id}"

    def test_a_serial_leads_to_its_machine(self, session: Session) -> None:
        tag = session.scalar(
            text("""UPDATE unit SET serial = 'SEEN-7' WHERE id = (SELECT min(unit_id) FROM tenure WHERE removed_on IS NULL)
                    RETURNING (SELECT a.tag FROM tenure t JOIN asset a ON a.id = t.asset_id WHERE t.unit_id = unit.id AND t.removed_on IS NULL)""")
        )
        assert self.path(session, "SEEN-7") == f"/ledger?q={tag}"

    @pytest.mark.parametrize("wrong", ["", "NO-1", "SHELF NO-1 ELD", f"SHELF {PART} XXX", "ORDER PO-1900-001"])
    def test_what_nobody_knows_is_said(self, session: Session, wrong: str) -> None:
        with pytest.raises(NotFound, match="nothing on record is called"):
            act_for(session, wrong, site_code=None)
