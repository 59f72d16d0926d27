"""Exports, shares, repeats and the old log over HTTP."""

from __future__ import annotations

import io
import json

import pytest

from tests.web.conftest import Client


@pytest.mark.parametrize("kind", ["csv", "json", "xlsx"])
def test_the_log_is_downloaded(reader: Client, kind: str) -> None:
    answer = reader.get(f"/api/v1/log/export.{kind}", finding="damage")
    assert answer.status_code == 200
    assert f"failure-log.{kind}" in answer.headers["Content-Disposition"]
    assert len(answer.data) > 500


def test_shares_and_repeats_are_read(reader: Client) -> None:
    shares = reader.get("/api/v1/log/shares").get_json()["parts"]
    assert {"number", "no_fault", "complaints"} <= set(shares[0])
    assert isinstance(reader.get("/api/v1/log/repeats").get_json()["repeats"], list)


def _send(client: Client, data: bytes, meaning: dict[str, object] | str) -> object:
    body = meaning if isinstance(meaning, str) else json.dumps(meaning)
    form = {"file": (io.BytesIO(data), "old.csv"), "meaning": body}
    return client.http.post("/api/v1/log/old", data=form, headers={"X-CSRF-Token": client.token})


def test_an_old_log_is_previewed_with_its_faults(lead: Client) -> None:
    answer = _send(lead, b"tag,date,part,result\nSK-9999,2025-01-01,fan,broken\n", {})
    assert answer.status_code == 200  # type: ignore[attr-defined]
    view = answer.get_json()  # type: ignore[attr-defined]
    assert view["columns"] == {"tag": "tag", "occurred_on": "date", "position": "part", "finding": "result"}
    assert (view["rows"], view["understood"], view["faults_total"]) == (1, 0, 1)
    assert view["faults"][0]["field"] == "tag"
    assert _send(lead, b"tag\n", {}).status_code == 422  # type: ignore[attr-defined]
    assert _send(lead, b"tag\nx\n", "{oops").status_code == 422  # type: ignore[attr-defined]
    assert lead.post("/api/v1/log/old").status_code == 422
