"""The rehearsal over HTTP."""

from __future__ import annotations

import pytest

from almanac.services.outlook import rehearsal
from tests.web.conftest import Client


@pytest.fixture(autouse=True)
def _few_runs(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(rehearsal, "RUNS", 30)


def test_the_plan_is_told_once_it_was_played(reader: Client) -> None:
    assert reader.get("/api/v1/rehearsal/told").get_json() == {"fill": None, "aim": None, "years": None}
    found = reader.get("/api/v1/rehearsal").get_json()
    assert (found["rule"], found["aim"], found["runs"], found["aim_settings"]) == ("plan", 0.95, 30, 0)
    assert found["places"][0]["code"] == "ELD"
    assert {kind["kind"] for kind in found["kinds"]} == {"memory", "ssd", "battery", "fan"}
    told = reader.get("/api/v1/rehearsal/told").get_json()
    assert told == {"fill": found["whole"]["fill"], "aim": 0.95, "years": 2}
    csv = reader.get("/api/v1/rehearsal/budget.csv").get_data(as_text=True)
    assert csv.splitlines()[-1].endswith(
        f"{round(found['money']['low'])},{round(found['money']['median'])},{round(found['money']['high'])}"
    )
    assert len(csv.splitlines()) == 1 + 4 * 4 + 1


def test_rules_are_named_and_others_refused(reader: Client) -> None:
    rules = reader.get("/api/v1/rehearsal/rules").get_json()["rules"]
    assert rules[0] == "plan"
    refused = reader.get("/api/v1/rehearsal", rule="hope")
    assert refused.status_code == 422
    assert "one of plan" in refused.get_json()["faults"][0]["message"]


def test_an_aim_has_its_own_and_a_rule_of_thumb_none(reader: Client) -> None:
    assert reader.get("/api/v1/rehearsal", rule="aim-0.90").get_json()["aim"] == 0.9
    assert reader.get("/api/v1/rehearsal", rule="one-left").get_json()["aim"] is None


def test_a_scenario_is_rehearsed_like_the_plan(reader: Client) -> None:
    plan = reader.get("/api/v1/rehearsal").get_json()
    same = reader.post("/api/v1/rehearsal/scenario", {"changes": [], "site": None}).get_json()
    assert same["whole"] == plan["whole"]
    season = {"do": "season", "factor": 2.0, "on": "2026-12-01", "until": "2027-10-01", "kinds": ["fan"]}
    hot = reader.post("/api/v1/rehearsal/scenario", {"changes": [season], "site": None}).get_json()
    assert hot["money"]["median"] > plan["money"]["median"]
