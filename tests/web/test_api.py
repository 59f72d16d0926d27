"""The API as its clients see it: answers, problem details, and that the TypeScript client is generated from it."""

from __future__ import annotations

import csv
import io
import json
import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from almanac.web.openapi import document
from tests.services.helpers import bench
from tests.web.conftest import Client

ROOT = Path(__file__).resolve().parents[2]


def test_the_client_is_generated_from_the_code(tmp_path: Path) -> None:
    """bin/schema writes what is committed; run it again when this differs."""
    source = tmp_path / "openapi.json"
    source.write_text(document(answered=True))
    node = shutil.which("node")
    assert node is not None
    program = ROOT / "frontend" / "node_modules" / "openapi-typescript" / "bin" / "cli.js"
    made = tmp_path / "schema.d.ts"
    command = [node, str(program), str(source), "--default-non-nullable=false", "-o", str(made)]
    subprocess.run(command, check=True, capture_output=True, cwd=ROOT / "frontend")
    assert made.read_text() == (ROOT / "frontend" / "src" / "api" / "schema.d.ts").read_text()


def test_nobody_on_the_way_keeps_a_reply_that_is_not_meant_to_be_kept(reader: Client, lead: Client) -> None:
    assert reader.get("/api/v1/account/sign-ins").headers["Cache-Control"] == "no-store"
    assert lead.get("/api/v1/audit.csv").headers["Cache-Control"] == "no-store"
    assert reader.get("/api/v1/outlook").headers["Cache-Control"] == "private, no-cache"


def test_the_document_says_where_a_first_answer_may_be_computed_still() -> None:
    paths, answered = (json.loads(document(answered=only))["paths"] for only in (False, True))
    asked = {path for path, verbs in paths.items() for verb in verbs.values() if "202" in verb["responses"]}
    assert {"/api/v1/outlook", "/api/v1/outlook/parts/{number}"} <= asked
    assert "/api/v1/models" not in asked  # computed where it is asked for
    assert not [path for path, verbs in answered.items() for verb in verbs.values() if {"200", "202"} <= set(verb["responses"])]


def test_the_outlook_of_a_site(reader: Client) -> None:
    whole = reader.get("/api/v1/outlook").get_json()
    site = reader.get("/api/v1/outlook", site="TER").get_json()
    assert whole["as_of"] == "2026-11-01"
    assert len(whole["months"]) == 12
    assert sum(line["in_service"] for line in site["lines"]) < sum(line["in_service"] for line in whole["lines"])
    assert reader.get("/api/v1/outlook", site="XXX").status_code == 404


def test_a_plate_and_the_entries_behind_it(reader: Client) -> None:
    plate = reader.get("/api/v1/outlook/parts/OF-P14").get_json()
    assert plate["line"]["number"] == "OF-P14"
    confirmed = next(row for section in plate["working"] for row in section["rows"] if row["entries"] == "confirmed")
    entries = reader.get("/api/v1/outlook/parts/OF-P14/entries", stream="confirmed").get_json()["entries"]
    assert len(entries) == int(confirmed["value"])
    answer = reader.get("/api/v1/outlook/parts/OF-P14/entries", stream="gossip")
    assert answer.status_code == 422
    assert answer.get_json()["faults"][0]["field"] == "stream"


def test_the_buying_list_opens_in_a_spreadsheet(reader: Client) -> None:
    answer = reader.get("/api/v1/outlook/buying-list.csv")
    assert answer.headers["Content-Disposition"].endswith('buying-list-2026-11-01.csv"')
    rows = list(csv.DictReader(io.StringIO(answer.data.decode("utf-8-sig"))))
    outlook = reader.get("/api/v1/outlook").get_json()
    assert {row["part_number"] for row in rows} == {line["number"] for line in outlook["lines"] if line["quantity"]}


def test_the_buying_list_prints(reader: Client) -> None:
    answer = reader.get("/api/v1/outlook/buying-list.pdf", site="TER")
    assert answer.mimetype == "application/pdf"
    assert answer.data.startswith(b"%PDF-")
    assert len(answer.data) > 5000


def _incident(where: Any, **changes: object) -> dict[str, object]:
    line = {"position_id": where.position_id, "action": "replaced", "part_number": where.part, "shelf_site": where.site}
    values = {"tag": where.tag, "occurred_on": "2026-11-01", "reason": "grinds", "finding": "open", "lines": [line]}
    return values | changes


def test_recording_settling_and_reading_an_incident(technician: Client, session: Session) -> None:
    where = bench(session, "fan")
    before = technician.get("/api/v1/outlook").get_json()
    made = technician.post("/api/v1/incidents", _incident(where))
    assert made.status_code == 201
    number = made.get_json()["incident_id"]
    correction = {
        "expected_number": 1,
        "occurred_on": "2026-11-01",
        "reason": "grinds",
        "finding": "no_fault_found",
        "minutes": 20,
        "note": "",
    }
    assert technician.post(f"/api/v1/incidents/{number}/revisions", correction).status_code == 201
    assert technician.post(f"/api/v1/incidents/{number}/revisions", correction).status_code == 409
    history = technician.get(f"/api/v1/incidents/{number}").get_json()["revisions"]
    assert [revision["finding"] for revision in history] == ["open", "no_fault_found"]
    after = technician.get("/api/v1/outlook").get_json()
    held = [{line["number"]: line["on_hand"] for line in view["lines"]}[where.part] for view in (before, after)]
    assert held[1] == held[0] - 1


def test_a_question_is_answered_by_sending_it_again(technician: Client, session: Session) -> None:
    where = bench(session, "fan")
    kept = _incident(where, lines=[{"position_id": where.position_id, "action": "kept"}])
    assert technician.post("/api/v1/incidents", kept).status_code == 201
    asked = technician.post("/api/v1/incidents", kept)
    assert (asked.status_code, asked.get_json()["question"]) == (409, "duplicate")
    assert technician.post("/api/v1/incidents", kept | {"confirmed": ["duplicate"]}).status_code == 201


def test_faults_name_their_fields_and_nothing_is_saved(technician: Client, session: Session) -> None:
    before = session.scalar(text("SELECT count(*) FROM incident"))
    answer = technician.post("/api/v1/incidents", _incident(bench(session), tag="SK-9999"))
    assert answer.status_code == 422
    assert answer.get_json()["faults"] == [
        {"field": "tag", "message": "no asset has the tag SK-9999: check the label, or import the asset first"}
    ]
    assert session.scalar(text("SELECT count(*) FROM incident")) == before


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"finding": "haunted"}, "finding"),
        ({"occurred_on": "31 Nov 2026"}, "occurred_on"),
        ({"lines": [{"position_id": 1, "action": "glued"}]}, "lines.0.action"),
        ({"minutes": -4}, "minutes"),
        ({"surprise": 1}, "surprise"),
    ],
)
def test_a_request_that_breaks_its_schema_names_the_field(
    technician: Client, session: Session, body: dict[str, object], field: str
) -> None:
    answer = technician.post("/api/v1/incidents", _incident(bench(session), **body))
    assert answer.status_code == 422
    assert field in {fault["field"] for fault in answer.get_json()["faults"]}


@pytest.mark.parametrize("data", [b"{broken", b"[1, 2]", b"\xff\xfe"])
def test_malformed_json_is_a_clear_400(lead: Client, data: bytes) -> None:
    answer = lead.http.post("/api/v1/orders", data=data, content_type="application/json", headers={"X-CSRF-Token": lead.token})
    assert answer.status_code == 400
    assert "no JSON object" in answer.get_json()["detail"]


def test_ordering_and_receiving_whole_or_in_part(lead: Client) -> None:
    placed = lead.post("/api/v1/orders", {"part_number": "OB-P14-60", "quantity": 8})
    assert placed.status_code == 201
    line = placed.get_json()["line_id"]
    assert placed.get_json()["order_number"].startswith("PO-2026-")
    part = {"quantity": 3, "received_on": "2026-11-01", "expected_version": 1}
    assert lead.post(f"/api/v1/order-lines/{line}/receipts", part).status_code == 201
    assert lead.post(f"/api/v1/order-lines/{line}/receipts", part).status_code == 409
    too_many = lead.post(f"/api/v1/order-lines/{line}/receipts", part | {"quantity": 6, "expected_version": 2})
    assert "5 are still to come" in too_many.get_json()["faults"][0]["message"]
    assert lead.post(f"/api/v1/order-lines/{line}/receipts", part | {"quantity": 5, "expected_version": 2}).status_code == 201
    assert lead.post("/api/v1/order-lines/999999/receipts", part).status_code == 404


@pytest.mark.parametrize(
    ("order", "field", "message"),
    [
        ({"part_number": "OB-P14-60", "quantity": 6}, "quantity", "packs of 4"),
        ({"part_number": "OB-P14-60", "quantity": 2}, "quantity", "from 4 parts up"),
        ({"part_number": "NOPE", "quantity": 2}, "part_number", "no part has the number NOPE"),
        ({"part_number": "OF-P14", "quantity": 2, "expected_on": "2026-10-01"}, "expected_on", "is past"),
        ({"part_number": "OF-P14", "quantity": 0}, "quantity", "greater than or equal to 1"),
    ],
)
def test_an_order_that_cannot_be(lead: Client, order: dict[str, object], field: str, message: str) -> None:
    answer = lead.post("/api/v1/orders", order)
    assert answer.status_code == 422
    fault = answer.get_json()["faults"][0]
    assert fault["field"] == field
    assert message in fault["message"]


def test_a_setting_changes_from_today_and_a_stale_one_is_refused(lead: Client) -> None:
    change = {"scope": "company", "scope_key": "", "key": "target", "value": 0.99, "expected_number": 1}
    assert lead.post("/api/v1/settings", change).get_json()["number"] == 2
    assert lead.get("/api/v1/outlook").get_json()["target"] == {"value": 0.99, "number": 2}
    assert lead.post("/api/v1/settings", change).status_code == 409
    assert lead.post("/api/v1/settings", change | {"value": 1.5, "expected_number": 2}).get_json()["faults"][0]["field"] == "value"
    assert lead.post("/api/v1/settings", change | {"key": "as_of_day"}).status_code == 422
    part = change | {"scope": "part", "scope_key": "NOPE", "expected_number": 0}
    assert lead.post("/api/v1/settings", part).get_json()["faults"][0]["field"] == "scope_key"
    assert (
        lead.post("/api/v1/settings", change | {"scope": "kind", "scope_key": "fan", "value": 0.9, "expected_number": 0}).status_code == 201
    )


def test_the_log_pages_and_filters(reader: Client) -> None:
    first = reader.get("/api/v1/incidents", kind="fan", limit=5).get_json()
    second = reader.get("/api/v1/incidents", kind="fan", limit=5, after=first["next_key"]).get_json()
    assert first["total"] > 400
    assert second["total"] is None
    assert {e["incident_id"] for e in first["entries"]}.isdisjoint(e["incident_id"] for e in second["entries"])
    assert reader.get("/api/v1/incidents", after="x").status_code == 422
    assert reader.get("/api/v1/incidents", limit=100000).status_code == 422


def test_a_machines_card_and_the_find_field(reader: Client) -> None:
    card = reader.get("/api/v1/assets/sk-0042").get_json()
    assert card["tag"] == "SK-0042"
    assert {"yes", "no", "unknown"} >= {fit["verdict"] for position in card["positions"] for fit in position["fits"]}
    assert reader.get("/api/v1/assets/SK-9999").status_code == 404
    assert reader.get("/api/v1/find", q="OF-P14").get_json()["found"][0]["key"] == "OF-P14"


def test_pages_of_the_front_end_and_unknown_addresses(reader: Client) -> None:
    for address in ("/outlook/OF-P14", "/"):
        with reader.get(address) as page:
            assert b'<div id="root">' in page.data
    missing = reader.get("/api/v1/nothing")
    assert (missing.status_code, missing.mimetype) == (404, "application/problem+json")
    for outside in ("/../../etc/passwd", "/..%2f..%2f..%2fetc/passwd"):
        with reader.get(outside) as page:
            assert b"root:" not in page.data


def test_files_are_checked_then_imported_all_or_nothing(lead: Client, technician: Client) -> None:
    def send(data: str, write: bool, client: Client = lead) -> Any:
        upload = {"files": (io.BytesIO(data.encode()), "sites.csv")}
        return client.post(f"/api/v1/imports?write={str(write).lower()}", data=upload, content_type="multipart/form-data")

    header = "code,name,environment,log_began_on\n"
    bad = send(header + "NEW,Newhithe,fog,2024-02-30\n", True).get_json()
    assert [(fault["line"], fault["column"]) for fault in bad["faults"]] == [(2, "environment"), (2, "log_began_on")]
    assert not bad["written"]
    good = header + "NEW,Newhithe,salt,2024-02-29\n"
    assert send(good, False).get_json() == {
        "faults": [],
        "faults_total": 0,
        "files": [{"file": "sites.csv", "rows": 1}],
        "written": False,
    }
    assert send(good, True).get_json()["written"]
    assert "NEW" in {site["code"] for site in lead.get("/api/v1/session").get_json()["sites"]}
    assert "already there" in send(good, True).get_json()["faults"][0]["message"]
    assert send(good, True, technician).status_code == 403


def test_templates_can_be_downloaded(reader: Client) -> None:
    formats = reader.get("/api/v1/imports/formats").get_json()
    for file in formats["files"]:
        template = reader.get(f"/api/v1/imports/templates/{file['name']}.csv")
        header = template.data.decode("utf-8-sig").splitlines()[0].split(",")
        assert header == [column["name"] for column in file["columns"]]
    assert reader.get("/api/v1/imports/templates/secrets.csv").status_code == 404


def test_what_changed_names_its_kind(reader: Client) -> None:
    found = reader.get("/api/v1/outlook/changes", kind="ssd", site="ELD").get_json()
    assert found["since"] == "2026-10-01"
    assert {part["part"] for part in found["parts"]} >= {"LD-80512", "LD-25480"}
    answer = reader.get("/api/v1/outlook/changes", kind="hinge")
    assert answer.status_code == 422
    assert "battery" in answer.get_data(as_text=True)
