"""Scenarios over HTTP."""

from __future__ import annotations

from tests.web.conftest import Client

BUY = {"do": "buy", "model_id": 12, "on": "2027-01-15", "site": "ELD", "duty": "office_hours", "quantity": 50}


def test_anybody_may_look_and_a_lead_may_keep(reader: Client, lead: Client) -> None:
    seen = reader.post("/api/v1/scenarios/look", {"changes": [BUY]}).get_json()
    assert seen["scenario_year"] > seen["planned_year"]
    pack = next(pair for pair in seen["parts"] if pair["number"] == "QB-D15-90")
    assert pack["scenario"]["year"] > pack["planned"]["year"]
    both = reader.post("/api/v1/scenarios/look/QB-D15-90", {"changes": [BUY]}).get_json()
    assert len(both["months"]) == len(both["planned"]["expected"]) == 12
    assert sum(both["scenario"]["expected"]) > sum(both["planned"]["expected"])

    assert reader.post("/api/v1/scenarios", {"name": "More", "changes": [BUY]}).status_code == 403
    number = lead.post("/api/v1/scenarios", {"name": "More", "changes": [BUY]}).get_json()["id"]
    listed = reader.get("/api/v1/scenarios").get_json()["scenarios"]
    assert [(one["name"], one["changes"]) for one in listed] == [("More", [BUY])]
    assert reader.delete(f"/api/v1/scenarios/{number}").status_code == 403
    assert lead.delete(f"/api/v1/scenarios/{number}").status_code == 200


def test_a_change_that_cannot_be_done_names_its_place(reader: Client) -> None:
    answer = reader.post("/api/v1/scenarios/look", {"changes": [BUY, {**BUY, "site": "ATL"}]})
    assert answer.status_code == 422
    assert "changes.1.site" in answer.get_data(as_text=True)
    assert reader.post("/api/v1/scenarios/look", {"changes": [{"do": "paint"}]}).status_code == 422
