"""The backtest over HTTP."""

from __future__ import annotations

from tests.web.conftest import Client


def test_the_backtest_is_told_once_it_is_known(reader: Client) -> None:
    assert reader.get("/api/v1/calibration/told").get_json() == {"found": None}
    worked = reader.get("/api/v1/calibration").get_json()
    assert worked["quarters_tried"] == 1
    names = [marks["name"] for marks in worked["marks"]]
    assert names == ["all", "memory", "ssd", "battery", "fan"]
    assert len(worked["worst"]) == 12
    assert all(0 <= held["place"] <= 1 for held in worked["worst"])
    assert reader.get("/api/v1/calibration/told").get_json() == {"found": worked}
