"""The rates of a kind over HTTP."""

from __future__ import annotations

from tests.web.conftest import Client


def test_a_kind_has_survival_hazard_wave_and_pools(reader: Client) -> None:
    fan = reader.get("/api/v1/rates/fan").get_json()
    assert fan["school"] == "wear-out"
    assert len(fan["survival"]) <= 300
    assert len(fan["wave"]) == 12
    assert fan["curve"][0]["survival"] == 1
    assert sum(bar["units"] for bar in fan["served"]) == sum(pool["units"] for pool in fan["pools"])
    assert reader.get("/api/v1/rates/hinge").status_code == 404


def test_the_data_check_lists_what_is_left_out(reader: Client) -> None:
    checks = reader.get("/api/v1/data-check").get_json()["checks"]
    assert [check["key"] for check in checks][:2] == ["before_log", "future"]
    left_out = next(check for check in checks if check["key"] == "no_exposure")
    assert left_out["left_out"]
    assert left_out["count"] >= len(left_out["rows"]) > 0
