"""Keys for programs: each opens one thing, until it ends; machines bring reports with them, calendars are read by them."""

from __future__ import annotations

import json
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from flask import Flask
from icalendar import Calendar
from sqlalchemy import Connection, text

from tests.web.conftest import Client
from tests.web.test_access import _calls

REPORT = json.dumps({"machine_report": 1, "hottest_c": 61})


def key_of(client: Client, scope: str, days: int = 30) -> str:
    answer = client.post("/api/v1/tokens", {"name": f"for {scope}", "scope": scope, "days": days})
    assert answer.status_code == 201, answer.get_data(as_text=True)
    assert answer.headers["Cache-Control"] == "no-store"
    return str(answer.get_json()["token"])


def bearer(key: str) -> dict[str, str]:
    return {"Authorization": f"Bearer {key}"}


def report(app: Flask, key: str | None, **query: Any) -> Any:
    headers = bearer(key) if key else {}
    return app.test_client().post(
        "/api/v1/reports", query_string={"tag": "SK-0001", **query}, data=REPORT, content_type="text/plain", headers=headers
    )


def test_a_key_for_reading_reads_and_writes_nothing(app: Flask, lead: Client) -> None:
    key, http = key_of(lead, "read"), app.test_client()
    assert http.get("/api/v1/fleet/machines", headers=bearer(key)).status_code == 200
    document = http.get("/api/v1/openapi.json", headers=bearer(key)).get_json()
    assert "/api/v1/reports" in document["paths"]
    writes = [(method, path) for method, path, _ in _calls(app) if method != "GET"]
    assert len(writes) > 60
    for method, path in writes:
        answer = http.open(path, method=method, json={}, headers=bearer(key))
        # Forgery is looked for first: without its token a write comes no further, whatever key it shows.
        assert answer.status_code in (400, 403), (method, path, answer.status_code)


def test_a_key_for_reports_opens_that_door_alone(app: Flask, technician: Client) -> None:
    key, http = key_of(technician, "report"), app.test_client()
    answer = report(app, key)
    assert answer.status_code == 201
    assert answer.get_json()["tag"] == "SK-0001"
    assert report(app, key, tag="SK-0001").get_json()["written"] == []
    for method, path, _ in _calls(app):
        if path != "/api/v1/reports":
            assert http.open(path, method=method, json={}, headers=bearer(key)).status_code in (400, 403), path
    refused = http.get("/api/v1/outlook", headers=bearer(key)).get_json()
    assert "needs a key for read; your key is for report" in refused["detail"]


def test_a_sign_in_brings_no_report_so_that_no_page_can_forge_one(app: Flask, lead: Client) -> None:
    answer = lead.http.post("/api/v1/reports", query_string={"tag": "SK-0001"}, data=REPORT, content_type="text/plain")
    assert answer.status_code == 403
    assert "you are signed in without one" in answer.get_json()["detail"]
    assert report(app, None).status_code == 401


@pytest.mark.parametrize("how", ["ended", "expired", "inactive", "unknown"])
def test_a_key_that_is_over_opens_nothing(app: Flask, lead: Client, technician: Client, demo_connection: Connection, how: str) -> None:
    key = key_of(technician, "report")
    assert report(app, key).status_code == 201
    number = lead.get("/api/v1/tokens").get_json()["tokens"][0]["id"]
    if how == "ended":
        assert lead.delete(f"/api/v1/tokens/{number}").status_code == 200
    elif how == "expired":
        demo_connection.execute(
            text("UPDATE access_token SET made_at = made_at - interval '60 days', expires_at = expires_at - interval '60 days'")
        )
    elif how == "inactive":
        demo_connection.execute(text("UPDATE \"user\" SET active = false WHERE login = 'pell'"))
    else:
        key += "x"
    assert report(app, key).status_code == 401


def test_keys_are_listed_without_what_opens_and_ended_by_owner_or_lead(
    as_user: Callable[[str], Client], demo_connection: Connection
) -> None:
    lead, technician, reader = (as_user(login) for login in ("quay", "pell", "ledger"))
    key = key_of(technician, "report")
    assert key not in str(demo_connection.execute(text("SELECT * FROM access_token")).all())
    assert [row["name"] for row in technician.get("/api/v1/tokens").get_json()["tokens"]] == ["for report"]
    assert reader.get("/api/v1/tokens").get_json()["tokens"] == []
    rows = lead.get("/api/v1/tokens").get_json()["tokens"]
    assert [(row["owner"], row["mine"]) for row in rows] == [("R. Pell", False)]
    assert reader.delete(f"/api/v1/tokens/{rows[0]['id']}").status_code == 404
    assert technician.delete(f"/api/v1/tokens/{rows[0]['id']}").status_code == 200
    assert technician.get("/api/v1/tokens").get_json()["tokens"][0]["ended_at"] is not None


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"name": " ", "scope": "read", "days": 5}, "name"),
        ({"name": "x" * 61, "scope": "read", "days": 5}, "name"),
        ({"name": "x", "scope": "read", "days": 401}, "days"),
        ({"name": "x", "scope": "report", "days": 5}, "scope"),
    ],
)
def test_a_key_that_cannot_be_says_why(reader: Client, body: dict[str, Any], field: str) -> None:
    answer = reader.post("/api/v1/tokens", body)
    assert answer.status_code == 422
    assert [fault["field"] for fault in answer.get_json()["faults"]] == [field]


def test_when_a_key_was_used_is_written_now_and_then(app: Flask, technician: Client, demo_connection: Connection) -> None:
    key = key_of(technician, "report")
    report(app, key)
    first = demo_connection.scalar(text("SELECT last_used_at FROM access_token"))
    report(app, key)
    assert demo_connection.scalar(text("SELECT last_used_at FROM access_token")) == first
    demo_connection.execute(text("UPDATE access_token SET last_used_at = last_used_at - interval '2 hours'"))
    report(app, key)
    assert demo_connection.scalar(text("SELECT last_used_at FROM access_token")) > first


def test_a_calendar_is_read_back_by_a_library(app: Flask, lead: Client, technician: Client) -> None:
    answer = lead.post("/api/v1/tokens", {"name": "mine", "scope": "calendar", "days": 30}).get_json()
    assert answer["address"].endswith(f"/api/v1/calendar/{answer['token']}.ics")
    path = answer["address"].removeprefix("http://localhost")
    reply = app.test_client().get(path)
    assert (reply.status_code, reply.mimetype) == (200, "text/calendar")
    calendar = Calendar.from_ical(reply.get_data())
    events = calendar.walk("VEVENT")
    assert len(events) > 5
    today = lead.get("/api/v1/session").get_json()["as_of"]
    assert min(event.decoded("dtstart") for event in events).isoformat() >= today
    assert all(event.decoded("dtend") - event.decoded("dtstart") == timedelta(days=1) for event in events)
    assert len({str(event["uid"]) for event in events}) == len(events)
    again = Calendar.from_ical(app.test_client().get(path).get_data())
    assert [str(event["uid"]) for event in again.walk("VEVENT")] == [str(event["uid"]) for event in events]
    late = [event for event in events if str(event["summary"]).startswith("Late: ")]
    assert all(event.decoded("dtstart").isoformat() == today for event in late)
    bench = key_of(technician, "calendar")
    own = Calendar.from_ical(app.test_client().get(f"/api/v1/calendar/{bench}.ics").get_data())
    assert not any("order" in str(event["summary"]) for event in own.walk("VEVENT"))
    assert app.test_client().get("/api/v1/calendar/nobodys.ics").status_code == 404
    assert app.test_client().get(f"/api/v1/calendar/{key_of(lead, 'read')}.ics").status_code == 404


def test_keys_last_by_the_real_clock(lead: Client) -> None:
    key_of(lead, "read", days=3)
    row = lead.get("/api/v1/tokens").get_json()["tokens"][0]
    left = datetime.fromisoformat(row["expires_at"]) - datetime.now(UTC)
    assert timedelta(days=2, hours=23) < left <= timedelta(days=3)
