"""The backtest over HTTP."""

from __future__ import annotations

from tests.web.conftest import Client


def test_the_backtest_comes_piece_by_piece(reader: Client) -> None:
    told = reader.get("/api/v1/calibration", work="false").get_json()
    worked = reader.get("/api/v1/calibration").get_json()
    assert worked["done"] >= max(told["done"], 1)
    assert worked["of"] == 12
    names = [marks["name"] for marks in worked["marks"]]
    assert names == ["all", "memory", "ssd", "battery", "fan"]
    assert len(worked["worst"]) == 12
    assert all(0 <= held["place"] <= 1 for held in worked["worst"])
