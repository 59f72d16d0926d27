"""One's own account: a password that is changed ends every other sign-in, and nobody ends another's."""

from __future__ import annotations

from flask import Flask
from sqlalchemy import Connection, text

from tests.conftest import PASSWORDS
from tests.web.conftest import Client

NEW = "another long password"


def test_another_password_signs_out_everywhere_else(app: Flask, reader: Client) -> None:
    elsewhere = Client(app)
    assert elsewhere.sign_in("ledger", PASSWORDS["ledger"]).status_code == 200
    assert len(reader.get("/api/v1/account/sign-ins").get_json()["sign_ins"]) == 2
    wrong = reader.post("/api/v1/account/password", {"current": "a wrong one at that", "new": NEW})
    assert wrong.status_code == 422
    assert wrong.get_json()["faults"][0]["field"] == "current"
    changed = reader.post("/api/v1/account/password", {"current": PASSWORDS["ledger"], "new": NEW})
    assert changed.get_json() == {"ended": 1}
    assert elsewhere.get("/api/v1/account/sign-ins").status_code == 401
    (own,) = reader.get("/api/v1/account/sign-ins").get_json()["sign_ins"]
    assert own["own"]
    assert Client(app).sign_in("ledger", PASSWORDS["ledger"]).status_code == 422
    assert Client(app).sign_in("ledger", NEW).status_code == 200


def test_a_page_left_open_keeps_nobody_signed_in(reader: Client, demo_connection: Connection) -> None:
    demo_connection.execute(text("UPDATE web_session SET began_at = now() - interval '1 hour'"))

    def noted(**headers: str) -> bool:
        (own,) = reader.http.get("/api/v1/account/sign-ins", headers=headers).get_json()["sign_ins"]
        return bool(own["seen_at"] > own["began_at"])

    assert not noted(**{"X-Unattended": "yes"})
    assert noted()


def test_leads_decide_when_sign_ins_end(lead: Client, reader: Client) -> None:
    assert reader.get("/api/v1/people/limits").status_code == 403
    idle, longest = lead.get("/api/v1/people/limits").get_json()["settings"]
    assert (idle["value"], longest["value"]) == (168, 30)
    asked = {"scope": "company", "scope_key": "", "key": "idle_hours", "value": 0.5, "expected_number": idle["number"]}
    assert lead.post("/api/v1/settings", asked).status_code == 201
    told = reader.get("/api/v1/account/sign-ins").get_json()
    assert (told["idle_hours"], told["sign_in_days"]) == (0.5, 30)


def test_a_wrong_present_password_is_counted(reader: Client) -> None:
    for _ in range(5):
        assert reader.post("/api/v1/account/password", {"current": "a wrong one at that", "new": NEW}).status_code == 422
    slowed = reader.post("/api/v1/account/password", {"current": PASSWORDS["ledger"], "new": NEW})
    assert slowed.status_code == 429


def test_a_sign_in_elsewhere_is_ended(app: Flask, reader: Client, technician: Client) -> None:
    elsewhere = Client(app)
    elsewhere.sign_in("ledger", PASSWORDS["ledger"])
    other = next(one for one in reader.get("/api/v1/account/sign-ins").get_json()["sign_ins"] if not one["own"])
    assert technician.delete(f"/api/v1/account/sign-ins/{other['id']}").status_code == 404
    assert elsewhere.get("/api/v1/account/sign-ins").status_code == 200
    assert reader.delete(f"/api/v1/account/sign-ins/{other['id']}").status_code == 200
    assert elsewhere.get("/api/v1/account/sign-ins").status_code == 401
    assert reader.delete(f"/api/v1/account/sign-ins/{other['id']}").status_code == 404
