"""The curve of money over HTTP."""

from __future__ import annotations

import pytest

from tests.web.conftest import Client


def test_the_curve_falls_and_the_chosen_sum_lies_on_it(reader: Client) -> None:
    found = reader.get("/api/v1/money").get_json()
    money, waiting = ([step[name] for step in found["curve"]] for name in ("money", "waiting"))
    assert money == sorted(money)
    assert waiting == sorted(waiting, reverse=True)
    assert (money[0], money[-1]) == (found["least"], found["most"])
    assert [rule["name"] for rule in found["beside"]] == ["plan", "today", "one-left", "fixed-share"]
    assert found["bound"] <= found["chosen"]["waiting"]
    assert len(found["parts"]) == 38
    less = reader.get("/api/v1/money", budget=5000).get_json()
    assert less["chosen"]["money"] <= 5000
    assert less["chosen"]["waiting"] > found["chosen"]["waiting"]


def test_the_list_says_the_same_as_the_page(reader: Client) -> None:
    found = reader.get("/api/v1/money", budget=9000).get_json()
    lines = reader.get("/api/v1/money/list.csv", budget=9000).get_data(as_text=True).splitlines()
    assert len(lines) == 1 + len(found["parts"])
    first = found["parts"][0]
    assert lines[1].startswith(first["number"])
    assert f",{first['order_at']},{first['most']},{first['buy']}," in lines[1]


@pytest.mark.parametrize("budget", ["-1", "lots", "nan"])
def test_a_sum_that_is_none_is_refused(reader: Client, budget: str) -> None:
    assert reader.get("/api/v1/money", budget=budget).status_code == 422


def test_only_a_lead_takes_a_sum_over(reader: Client, technician: Client, lead: Client) -> None:
    for client in (reader, technician):
        assert client.post("/api/v1/money/aims", {"budget": 9000}).status_code == 403
    assert lead.post("/api/v1/money/aims", {"budget": 20_000}).get_json()["changed"] > 30
    assert lead.get("/api/v1/money").get_json()["own_aims"] > 30
    assert lead.post("/api/v1/money/aims/back", {"confirm": False}).get_json() == {"changed": 0}
    assert lead.post("/api/v1/money/aims/back", {"confirm": True}).get_json()["changed"] > 30
    assert lead.get("/api/v1/money").get_json()["own_aims"] == 0


def test_a_part_is_bought_when_needed_with_its_reason(lead: Client) -> None:
    plate = lead.get("/api/v1/outlook/parts/OF-P15-S").get_json()
    assert (plate["when_needed"]["holds"], plate["line"]["stocked"], plate["target"]["own"]) == ("", True, None)
    decision = {"scope": "part", "scope_key": "OF-P15-S", "key": "when_needed", "value": "GUL", "expected_number": 0}
    refused = lead.post("/api/v1/settings", decision)
    assert refused.get_json()["faults"][0]["field"] == "reason"
    assert lead.post("/api/v1/settings", {**decision, "reason": "one machine there"}).status_code == 201
    plate = lead.get("/api/v1/outlook/parts/OF-P15-S").get_json()
    assert plate["when_needed"] == {"own": "GUL", "holds": "GUL", "number": 1, "reason": "one machine there"}
    assert {site["code"]: site["stocked"] for site in plate["line"]["sites"]}["GUL"] is False
    assert plate["last_buy"]["quantity"] > 0
    assert plate["stocking"]["worth_it"] is True
