"""One's own account: a password that is changed ends every other sign-in, and nobody ends another's."""

from __future__ import annotations

from flask import Flask

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
