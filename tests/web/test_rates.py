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
