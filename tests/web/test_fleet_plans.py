"""The plan of the fleet over HTTP: who may see it, who may decide, and what a wrong change is told."""

from __future__ import annotations

from typing import Any

import pytest

from tests.web.conftest import Client

BUY = {"do": "buy", "model_id": 12, "on": "2027-01-15", "site": "ELD", "duty": "office_hours", "quantity": 50}
RETIRE = {"do": "retire", "model_id": 12, "on": "2027-03-01", "site": None, "quantity": 4}


def planned(client: Client) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = client.get("/api/v1/plans").get_json()["plans"]
    return found


def test_the_plan_is_in_names_the_next_first(reader: Client) -> None:
    rows = planned(reader)
    assert [row["planned_on"] for row in rows] == sorted(row["planned_on"] for row in rows)
    assert [(row["action"], row["quantity"]) for row in rows] == [("purchase", 60), ("swap", 10), ("retire", 20), ("purchase", 24)]
    swap = rows[1]
    assert (swap["model"], swap["site"], swap["part_number"]) == ("Counter 24", "Brackenquay", "LM-16320")
    assert swap["position"] == "Memory slot B"
    assert {row["author"] for row in rows} == {"M. Quay"}


def test_a_lead_decides_and_withdraws(lead: Client, reader: Client) -> None:
    before = planned(reader)
    made = lead.post("/api/v1/plans", {"changes": [BUY, RETIRE], "note": "  two harbours move  "})
    assert made.status_code == 201
    numbers = made.get_json()["ids"]
    new = [row for row in planned(reader) if row["id"] in numbers]
    assert {row["note"] for row in new} == {"two harbours move"}
    assert sum(row["quantity"] for row in new if row["action"] == "retire") == 4
    assert sum(row["quantity"] for row in new if row["action"] == "purchase") == 50
    for number in numbers:
        assert lead.delete(f"/api/v1/plans/{number}").status_code == 200
    assert planned(reader) == before
    assert lead.delete(f"/api/v1/plans/{numbers[0]}").status_code == 404


def test_the_outlook_counts_on_it_at_once(lead: Client) -> None:
    def year() -> float:
        parts = lead.post("/api/v1/scenarios/look/QB-D15-90", {"changes": []}).get_json()
        return float(sum(parts["planned"]["expected"]))

    before = year()
    numbers = lead.post("/api/v1/plans", {"changes": [BUY], "note": ""}).get_json()["ids"]
    assert year() > before
    lead.delete(f"/api/v1/plans/{numbers[0]}")
    assert year() == pytest.approx(before, rel=1e-9)


def test_only_a_lead_decides(reader: Client, technician: Client) -> None:
    for client in (reader, technician):
        assert client.post("/api/v1/plans", {"changes": [BUY], "note": ""}).status_code == 403
        assert client.delete("/api/v1/plans/1").status_code == 403
        assert len(planned(client)) == 4


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ([], "at least one change"),
        ([BUY, {**BUY, "on": "2026-01-01"}], "changes.1.on"),
        ([{**BUY, "quantity": 0}], "changes.0.quantity"),
        ([{**RETIRE, "model_id": 4711}], "changes.0.model_id"),
        ([{"do": "swap", "model_id": 12, "position": "nowhere", "part_number": "LM-8320", "on": "2027-01-15"}], "changes.0.position"),
        ([{"do": "season", "factor": 2, "on": "2027-01-15", "until": "2027-02-15", "kinds": ["fan"]}], "do"),
    ],
)
def test_what_cannot_be_planned_is_told_where_and_leaves_nothing(lead: Client, changes: list[Any], words: str) -> None:
    before = planned(lead)
    answer = lead.post("/api/v1/plans", {"changes": changes, "note": ""})
    assert answer.status_code == 422
    assert words in answer.get_data(as_text=True)
    assert planned(lead) == before


def test_a_part_that_does_not_fit_is_told_with_those_that_do(lead: Client) -> None:
    models = lead.get("/api/v1/models").get_json()["models"]
    model = next(row["model_id"] for row in models if row["name"] == "Counter 24")
    swap = {"do": "swap", "model_id": model, "position": "memory_b", "part_number": "OF-P14", "on": "2027-01-15"}
    answer = lead.post("/api/v1/plans", {"changes": [swap], "note": ""})
    assert answer.status_code == 422
    assert "LM-16320" in answer.get_data(as_text=True)
