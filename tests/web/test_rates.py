"""The rates of a kind over HTTP."""

from __future__ import annotations

from tests.web.conftest import Client


def test_a_kind_has_survival_hazard_wave_and_pools(reader: Client) -> None:
    fan = reader.get("/api/v1/rates/fan").get_json()["rates"]
    assert fan["school"] == "wear-out"
    assert len(fan["survival"]) <= 300
    assert len(fan["wave"]) == 12
    assert fan["curve"][0]["survival"] == 1
    assert sum(bar["units"] for bar in fan["served"]) == sum(pool["units"] for pool in fan["pools"])
    assert reader.get("/api/v1/rates/hinge").status_code == 404


def test_the_data_check_lists_what_is_left_out(reader: Client) -> None:
    checks = reader.get("/api/v1/data-check").get_json()["checks"]
    assert [check["key"] for check in checks][:2] == ["unrecorded", "before_log"]
    left_out = next(check for check in checks if check["key"] == "no_exposure")
    assert left_out["left_out"]
    assert left_out["count"] >= len(left_out["rows"]) > 0


def test_a_pool_leads_to_its_lives(reader: Client) -> None:
    fan = reader.get("/api/v1/rates/fan").get_json()["rates"]
    pool = fan["pools"][0]
    asked = {name: pool[name] for name in ("part", "model", "duty", "air")}
    found = reader.get("/api/v1/pool-lives", **asked).get_json()
    assert sum(life["counted_as"] == "in_service" for life in found["lives"]) == pool["units"]
    assert found["exposure_years"] > 0
    assert reader.get("/api/v1/pool-lives", **(asked | {"part": "NO-1"})).status_code == 404
    assert reader.get("/api/v1/pool-lives", part=pool["part"]).status_code == 422
    paces = {pace["of_class"]: pace for pace in fan["paces"]}
    assert paces["round_the_clock"]["taken"]
    assert paces["round_the_clock"]["low"] > 1


def test_wear_is_read_by_everyone_and_written_by_those_who_work(reader: Client, technician: Client) -> None:
    wear = reader.get("/api/v1/outlook/parts/OB-P13-45/wear").get_json()
    assert wear["threshold"] == 0.7
    assert wear["usable"] <= len(wear["units"])
    unit = next(unit for unit in wear["units"] if unit["crosses_on"])
    assert unit["low"] <= unit["crosses_on"]
    reading = {"tag": unit["tag"], "position": "battery", "read_on": "2026-10-31", "full": 33.0, "design": 45.0}
    assert reader.post("/api/v1/outlook/readings", reading).status_code == 403
    wrong = technician.post("/api/v1/outlook/readings", reading | {"tag": "NOBODY"})
    assert wrong.status_code == 422
    assert wrong.get_json()["faults"][0]["field"] == "tag"
    assert reader.get("/api/v1/outlook/parts/NO-1/wear").status_code == 404
