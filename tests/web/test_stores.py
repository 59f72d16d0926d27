"""The stores over the API: what is read, what is written, and whose fault a fault is."""

from __future__ import annotations

import csv
import io
from typing import Any

from tests.web.conftest import Client

SHELF = "/api/v1/stores/shelves/OF-P14/ELD"


def cell(tally: Any, number: str, site: str) -> Any:
    row = next(row for row in tally["rows"] if row["number"] == number)
    return next(one for one in row["cells"] if one["site"] == site)


def test_tally_file_and_plate_say_the_same(reader: Client) -> None:
    tally = reader.get("/api/v1/stores").get_json()
    rows = list(csv.DictReader(io.StringIO(reader.get("/api/v1/stores/tally.csv").get_data(as_text=True).lstrip("\ufeff"))))
    assert len(rows) == sum(len(row["cells"]) for row in tally["rows"])
    for row in rows:
        found = cell(tally, row["part_number"], row["site"])
        assert (int(row["on_hand"]), int(row["coming"]), int(row["expired"])) == (found["on_hand"], found["coming"], found["expired"])
    plate = reader.get(SHELF).get_json()
    assert plate["on_hand"] == cell(tally, "OF-P14", "ELD")["on_hand"] == sum(lot["quantity"] for lot in plate["lots"])


def test_the_week_names_what_is_late_first_and_what_is_to_load(reader: Client) -> None:
    tally = reader.get("/api/v1/stores").get_json()
    days = [item["on"] for item in tally["week"]]
    assert days == sorted(days)
    assert tally["week"][0]["late"]
    said = {item["words"] for item in tally["week"]}
    for place, site in enumerate(tally["sites"]):
        load = sum(row["cells"][place]["load"] for row in tally["rows"])
        assert (f"load {site['name']}, {load}" in said) == (load > 0)


def test_an_act_is_written_once_however_often_it_is_sent(technician: Client) -> None:
    before = technician.get(SHELF).get_json()["on_hand"]
    body = {"act": "set_aside", "quantity": 1, "reason": "dented"}
    headers = {"X-CSRF-Token": technician.token, "Idempotency-Key": "an-act-of-this-test"}
    first, again = (technician.http.post(f"{SHELF}/acts", json=body, headers=headers) for _ in range(2))
    assert (first.status_code, first.get_json()) == (201, again.get_json())
    assert technician.get(SHELF).get_json()["on_hand"] == before - 1
    undone = technician.post(f"/api/v1/stores/acts/{first.get_json()['act_id']}/undoing", {"reason": "the wrong box"})
    assert undone.status_code == 201
    assert technician.get(SHELF).get_json()["on_hand"] == before


def test_faults_name_their_place(technician: Client) -> None:
    reply = technician.post(f"{SHELF}/acts", {"act": "set_aside", "quantity": 999, "reason": ""})
    assert reply.status_code == 422
    assert {fault["field"] for fault in reply.get_json()["faults"]} == {"quantity", "reason"}
    assert technician.get("/api/v1/stores/shelves/NO-1/ELD").status_code == 404
    assert technician.get("/api/v1/stores/count-sheet.pdf", site="XXX").status_code == 422
    assert technician.get("/api/v1/stores/count-sheet.pdf", site="gul").mimetype == "application/pdf"
    stale = {"act": "send", "quantity": 0, "reason": "", "expected_version": 99}
    assert technician.post("/api/v1/stores/transfers/1/acts", stale).status_code == 409


def test_only_a_lead_settles_and_only_one_who_did_not_count(lead: Client, technician: Client) -> None:
    (count,) = lead.get("/api/v1/stores").get_json()["counts"]
    path = f"/api/v1/stores/counts/{count['id']}/settlement"
    assert technician.post(path, {"approve": True}).status_code == 403
    assert lead.post(path, {"approve": True}).status_code == 201
    assert lead.post(path, {"approve": True}).status_code == 404
    plate = lead.get(f"/api/v1/stores/shelves/{count['part_number']}/{count['site']}").get_json()
    assert plate["on_hand"] == count["counted"]


def test_files_are_read_in_as_a_whole_and_given_out(technician: Client, reader: Client) -> None:
    reply = reader.get("/api/v1/stores/files/balances.csv")
    assert (reply.status_code, reply.mimetype) == (200, "text/csv")
    assert reader.get("/api/v1/stores/files/moves.xlsx").data.startswith(b"PK")
    assert reader.get("/api/v1/stores/files/secrets.csv").status_code == 404
    before = technician.get(SHELF).get_json()["on_hand"]
    body = f"site,part_number,counted,reason\nELD,OF-P14,{before - 1},one gone\n".encode()
    sent = technician.post("/api/v1/stores/files/counts", None, data={"file": (io.BytesIO(body), "counts.csv")})
    assert (sent.status_code, sent.get_json()["rows"]) == (201, 1)
    wrong = technician.post("/api/v1/stores/files/counts", None, data={"file": (io.BytesIO(b"a\n1\n"), "counts.csv")})
    assert wrong.status_code == 422
    assert technician.post("/api/v1/stores/files/counts", {}).status_code == 422
    denied = reader.post("/api/v1/stores/files/counts", None, data={"file": (io.BytesIO(body), "counts.csv")})
    assert denied.status_code == 403


def test_labels_scans_and_books(lead: Client) -> None:
    for path, query in (("labels", {"site": "ELD"}), ("labels", {"site": "ELD", "part": "OF-P14"}), ("packing-list", {"site": "WID"})):
        assert lead.get(f"/api/v1/stores/{path}.pdf", **query).mimetype == "application/pdf"
    assert lead.get("/api/v1/stores/count-sheet.csv", site="eld").mimetype == "text/csv"
    led = lead.get("/api/v1/stores/scan", text="SHELF OF-P14 ELD").get_json()
    assert led["path"] == "/stores/OF-P14/ELD?act=count"
    assert lead.get("/api/v1/stores/scan", text="nothing").status_code == 404
    assert lead.get("/api/v1/stores/books").get_json() == {"as_of": "2026-11-01", "breaks": []}
    named = {item["key"]: item for item in lead.get("/api/v1/stores/settings").get_json()["settings"]}
    assert (named["order_limit"]["value"], named["stated_weight"]["value"]) == (1000, 5)
