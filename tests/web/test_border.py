"""What a stranger's request may hold: every fault is the sender's, with its place, and none the server's."""

from __future__ import annotations

import json
from typing import Any

import pytest

from almanac.core.text import control_character, printable
from almanac.exchange.tables import read_xlsx, write_csv, write_xlsx
from tests.web.conftest import Client

ORDER = {"part_number": "OF-P14", "quantity": 2}
INCIDENT = {"tag": "SK-0001", "occurred_on": "2026-11-01", "reason": "dead", "finding": "open", "lines": []}


@pytest.mark.parametrize(
    ("path", "body", "place"),
    [
        ("/api/v1/orders", {**ORDER, "expected_on": "9999-12-31"}, "expected_on"),
        ("/api/v1/orders", {**ORDER, "expected_on": "0001-01-01"}, "expected_on"),
        ("/api/v1/orders", {**ORDER, "part_number": "a\x00b"}, "part_number"),
        ("/api/v1/orders", {**ORDER, "quantity": 2**31}, "quantity"),
        ("/api/v1/incidents", {**INCIDENT, "note": "a\x0bb"}, "note"),
        ("/api/v1/incidents", {**INCIDENT, "reason": "half a pair \ud800"}, "reason"),
        ("/api/v1/incidents", {**INCIDENT, "lines": [{"position_id": 2**40, "action": "kept"}]}, "lines.0.position_id"),
        ("/api/v1/incidents", {**INCIDENT, "lines": [{"position_id": 1, "action": "kept", "serial": "\x1b"}]}, "lines.0.serial"),
        ("/api/v1/outlook/readings", {"tag": "x", "position": "p", "read_on": "2026-10-01", "full": 1e308, "design": 5}, "full"),
        ("/api/v1/scenarios/look", {"changes": [{"do": "retire", "model_id": 1, "on": "9999-01-01", "quantity": 1}]}, "changes.0.on"),
        (
            "/api/v1/scenarios/look",
            {"changes": [{"do": "retire", "model_id": 1, "on": "2027-01-01", "quantity": -7703}]},
            "changes.0.quantity",
        ),
        ("/api/v1/scenarios/look", {"changes": [{"do": "retire", "model_id": 999999, "on": "2027-01-01"}]}, "changes.0.model_id"),
        ("/api/v1/pages/check", {"page": {"maker": "a\x00"}}, "page.maker"),
        ("/api/v1/session", {"login": "a\x00", "password": "b"}, "login"),
    ],
)
def test_what_cannot_be_meant_is_named_at_its_place(lead: Client, path: str, body: dict[str, Any], place: str) -> None:
    answer = lead.post(path, body)
    assert answer.status_code == 422, answer.get_data(as_text=True)
    assert [fault["field"] for fault in answer.get_json()["faults"]] == [place]


def _raw(client: Client, path: str, data: bytes, kind: str = "application/json") -> Any:
    return client.http.post(path, data=data, content_type=kind, headers={"X-CSRF-Token": client.token})


@pytest.mark.parametrize(
    ("data", "kind", "status"),
    [
        (b'{"a":' * 100_000, "application/json", 400),
        (b"[" * 100_000 + b"]" * 100_000, "application/json", 400),
        (b'{"a":' * 70 + b"1" + b"}" * 70, "application/json", 400),
        (b"part_number=OF-P14", "application/x-www-form-urlencoded", 415),
        (b"\xff\xfe{", "application/json", 400),
        (b'{"quantity": 1e999, "part_number": "x"}', "application/json", 422),
        (b'{"quantity": NaN, "part_number": "x"}', "application/json", 422),
        (b'"words"', "application/json", 400),
    ],
)
def test_bodies_that_are_no_request(lead: Client, data: bytes, kind: str, status: int) -> None:
    assert _raw(lead, "/api/v1/orders", data, kind).status_code == status


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("POST", "/nowhere", 404),
        ("POST", "/api/v1/nowhere", 404),
        ("DELETE", "/outlook", 404),
        ("POST", "/api/v1/outlook", 405),
        ("GET", "/" + "a" * 300, 200),
        ("GET", "/" + "a" * 5000, 414),
        ("GET", "/api/v1/jobs/99999999999999999999", 404),
        ("GET", "/api/v1/models/2147483648/document", 404),
        ("GET", "/api/v1/outlook/parts/a%00b", 404),
        ("GET", "/api/v1/find?q=a%00b", 422),
        ("GET", "/api/v1/incidents?since=0001-01-01", 422),
        ("GET", "/api/v1/incidents?after=1.9999-99-99.x", 422),
    ],
)
def test_addresses_that_are_none(lead: Client, method: str, path: str, status: int) -> None:
    with lead.http.open(path, method=method, headers={"X-CSRF-Token": lead.token}) as answer:
        assert answer.status_code == status


def test_only_hosts_of_its_own_are_answered(lead: Client) -> None:
    assert lead.http.get("/api/v1/session", headers={"Host": "evil.example"}).status_code == 400


def test_every_answer_has_an_id_and_an_error_shows_it(lead: Client) -> None:
    good, bad = lead.get("/api/v1/outlook"), lead.get("/api/v1/jobs/999999")
    assert len(good.headers["X-Request-Id"]) == 16
    assert bad.get_json()["request_id"] == bad.headers["X-Request-Id"] != good.headers["X-Request-Id"]


def test_health_and_readiness_need_no_sign_in(stranger: Client) -> None:
    assert stranger.get("/health/live").get_json() == {"alive": True}
    assert stranger.get("/health/ready").get_json() == {"ready": True}


def test_exports_survive_whatever_is_stored_and_run_nothing() -> None:
    rows: list[list[object]] = [["=1+1", "a\x0bb", " @SUM(A1)", None, float("nan")], ["\ud800", "-2", "\t=1", 3, "x" * 40_000]]
    sheet = write_csv(["a", "b", "c", "d", "e"], [[printable(str(cell)) for cell in row] for row in rows]).decode("utf-8-sig")
    assert all(not line.startswith(("=", "+", "@")) for line in sheet.splitlines())
    assert "' @SUM" in sheet
    read = read_xlsx(write_xlsx("log", ["a", "b", "c", "d", "e"], rows))
    assert read[0].cells["a"] == "=1+1"
    assert read[0].cells["b"] == "a\ufffdb"


def test_a_control_character_is_named_with_its_place() -> None:
    assert control_character("two\nlines\tand a tab") is None
    assert control_character("ab\x0bc") == "character 3 is a control character (U+000B) that no text can hold: remove it"
    assert json.dumps(printable("a\x00"))


def test_twice_is_once(lead: Client) -> None:
    def post(key: str, quantity: int = 9) -> Any:
        body = {"part_number": "OF-P14", "quantity": quantity}
        return lead.http.post("/api/v1/orders", json=body, headers={"X-CSRF-Token": lead.token, "Idempotency-Key": key})

    first, second = post("key number one"), post("key number one")
    assert (first.status_code, second.status_code) == (201, 201)
    assert first.get_json() == second.get_json()
    assert second.headers["Idempotent-Replay"] == "true"
    other = post("key number one", 11)
    assert other.status_code == 422
    assert "another request" in other.get_json()["detail"]
    assert post("key number two").status_code == 409  # the same order once more is asked about
    assert post("key number two").status_code == 409  # a refusal carried nothing out: it is asked again
    assert post("short").status_code == 422
