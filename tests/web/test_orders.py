"""Orders over the API: drafted, approved, sent, answered as a file, received and undone; and the faults of each."""

from __future__ import annotations

import json
from typing import Any

from tests.web.conftest import Client

FAN, BOARD = "OF-P14", "OX-P14"


def draft(client: Client, *lines: tuple[str, int]) -> int:
    reply = client.post("/api/v1/drafts", {"lines": [{"part_number": part, "quantity": many} for part, many in lines]})
    assert reply.status_code == 201, reply.get_json()
    found: int = reply.get_json()["ids"][0]
    return found


def act(client: Client, number: int, name: str, **more: Any) -> Any:
    version = client.get(f"/api/v1/drafts/{number}").get_json()["version"]
    return client.post(f"/api/v1/drafts/{number}/acts", {"act": name, "expected_version": version, **more})


def test_an_order_from_the_draft_to_the_shelf_and_back(lead: Client, technician: Client, reader: Client) -> None:
    number = draft(technician, (FAN, 3), ("OF-P13", 2))
    assert lead.get("/api/v1/outlook/parts/OF-P14").get_json()["line"]["drafted"] == 3
    asked = act(technician, number, "send").get_json()
    assert asked["order_number"] is None
    shown = lead.get(f"/api/v1/drafts/{number}").get_json()
    assert (shown["state"], shown["is_own"], shown["refusal"]) == ("waits", False, None)
    order = act(lead, number, "approve").get_json()["order_number"]
    page = reader.get(f"/api/v1/orders/{order}").get_json()
    assert (page["standing"], page["approved_by"], len(page["lines"])) == ("sent", "M. Quay", 2)
    assert lead.get("/api/v1/outlook/parts/OF-P14").get_json()["line"]["drafted"] == 0
    answers = {
        "format": "parts-almanac-order-answer/1",
        "order": order,
        "answers": [{"part_number": FAN, "answer": "short", "quantity": 1}],
    }
    made = technician.post(f"/api/v1/orders/{order}/answers", {"file": json.dumps(answers)})
    assert made.status_code == 201
    assert technician.post(f"/api/v1/order-answers/{made.get_json()['ids'][0]}/settlement", {"accept": True}).status_code == 403
    assert lead.post(f"/api/v1/order-answers/{made.get_json()['ids'][0]}/settlement", {"accept": True}).status_code == 201
    line = next(one for one in reader.get(f"/api/v1/orders/{order}").get_json()["lines"] if one["part_number"] == FAN)
    assert (line["to_come"], line["cancelled"]) == (1, 2)
    arrived = {"quantity": 1, "received_on": page["placed_on"], "expected_version": line["version"], "serials": ["N-1"], "lot": "L7"}
    assert technician.post(f"/api/v1/order-lines/{line['id']}/receipts", arrived).status_code == 201
    receipt = reader.get(f"/api/v1/orders/{order}").get_json()["history"]
    identifier = next(item["receipt_id"] for item in receipt if item["receipt_id"])
    assert technician.post(f"/api/v1/receipts/{identifier}/undoing", {"reason": "the other box"}).status_code == 201
    assert {one["number"] for one in reader.get("/api/v1/orders").get_json()["orders"] if one["to_come"]} >= {order}


def test_the_files_of_an_order(reader: Client) -> None:
    number = reader.get("/api/v1/orders").get_json()["orders"][0]["number"]
    for kind, mime in (("pdf", "application/pdf"), ("csv", "text/csv"), ("json", "application/json"), ("eml", "message/rfc822")):
        reply = reader.get(f"/api/v1/orders/{number}/document.{kind}")
        assert (reply.status_code, reply.mimetype) == (200, mime)
        assert f"{number}.{kind}" in reply.headers["Content-Disposition"]
    assert reader.get(f"/api/v1/orders/{number}/document.docx").status_code == 404
    assert reader.get("/api/v1/orders/PO-1900-001").status_code == 404
    assert reader.get("/api/v1/drafts/999999").status_code == 404


def test_faults_name_their_place(lead: Client) -> None:
    reply = lead.post("/api/v1/drafts", {"lines": [{"part_number": FAN, "quantity": 1}, {"part_number": "NO", "quantity": 1}]})
    assert reply.status_code == 422
    assert [fault["field"] for fault in reply.get_json()["faults"]] == ["lines.1.part_number"]
    number = draft(lead, (FAN, 4000))
    asked = act(lead, number, "send")
    assert (asked.status_code, asked.get_json()["question"]) == (409, "far")
    order = lead.get("/api/v1/orders").get_json()["orders"][0]["number"]
    both = lead.post(f"/api/v1/orders/{order}/answers", {"answers": [{"part_number": FAN, "reply": "confirmed"}], "file": "{}"})
    assert both.status_code == 422
    wrong = lead.post(f"/api/v1/orders/{order}/answers", {"answers": [{"part_number": FAN, "reply": "short"}]})
    assert wrong.status_code == 422
    simulated = lead.post(f"/api/v1/orders/{order}/simulation", {"kind": "moved"})
    assert simulated.status_code == 201


def test_two_who_act_on_one_draft_are_told(lead: Client) -> None:
    number = draft(lead, (FAN, 2))
    body = {"act": "send", "expected_version": 1}
    assert lead.post(f"/api/v1/drafts/{number}/acts", body).status_code == 201
    assert lead.post(f"/api/v1/drafts/{number}/acts", body).status_code == 409
    change = {"lines": [{"part_number": FAN, "quantity": 1}], "expected_version": 2}
    assert lead.post(f"/api/v1/drafts/{number}/lines", change).status_code == 409


def test_a_part_is_edited_by_a_lead(lead: Client, technician: Client) -> None:
    path = "/api/v1/catalog/parts/OF-P14"
    found = technician.get(path).get_json()
    body = {"fields": {**found["fields"], "price": 20.5, "price_breaks": "10:19; 50:18.25"}, "expected_changes": found["number_of_changes"]}
    assert technician.post(path, body).status_code == 403
    assert lead.post(path, body).get_json() == {"changed": 2}
    assert lead.post(path, body).status_code == 409
    again = lead.get(path).get_json()
    assert (again["fields"]["price"], again["fields"]["price_breaks"]) == (20.5, "10:19.00; 50:18.25")
    wrong = {"fields": {**again["fields"], "price_breaks": "ten"}, "expected_changes": again["number_of_changes"]}
    reply = lead.post(path, wrong)
    assert (reply.status_code, reply.get_json()["faults"][0]["field"]) == (422, "price_breaks")
