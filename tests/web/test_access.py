"""Who may call what, on every view; and what guards a session."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest
from flask import Flask

from almanac.services import accounts
from almanac.services.accounts import BY_COUNTER, Slowing
from almanac.store.models import Role
from almanac.web.access import ANYONE
from tests.web.conftest import Client

OPEN_VIEWS = {
    "people.read_link",
    "people.use_link",
    "provider.come_back",
    "provider.leave",
    "session.begin",
    "session.read_session",
    "session.open_session",
    "session.close_session",
    "_page",
    "health.live",
    "health.ready",
    "agenda.calendar",
}
"""Views that need no sign-in: signing in and out, the first user of all, pages and health, and calendars, whose address holds their key.
This list only shrinks."""


class Patient(Slowing):
    """Waits a minute for each second, so that a busy machine outwaits nothing."""

    def wait(self, failures: int) -> timedelta:
        return super().wait(failures) * 60


@pytest.fixture(autouse=True)
def _slow_clocks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(accounts, "BY_COUNTER", Patient(BY_COUNTER.free, BY_COUNTER.longest_seconds))


def _views(app: Flask) -> dict[str, Any]:
    return {name: view for name, view in app.view_functions.items() if not name.startswith(("openapi", "doc_page"))}


def test_every_view_has_a_rule(app: Flask) -> None:
    rules = {name: getattr(view, "access_rule", None) for name, view in _views(app).items()}
    assert {name for name, rule in rules.items() if rule is None} == set()
    assert {name for name, rule in rules.items() if rule == ANYONE} == OPEN_VIEWS
    assert all(rule == ANYONE or isinstance(rule, Role) for rule in rules.values())


def _calls(app: Flask) -> list[tuple[str, str, Role]]:
    """Every guarded call with its parameters filled in."""
    found = []
    for rule in app.url_map.iter_rules():
        access = getattr(app.view_functions[rule.endpoint], "access_rule", ANYONE)
        if access == ANYONE:
            continue
        path = re.sub(r"<int:\w+>", "1", rule.rule).replace("<tag>", "SK-0001")
        path = (
            path.replace("<number>", "OF-P14")
            .replace("<name>", "sites")
            .replace("<position>", "drive")
            .replace("<digest>", "none")
            .replace("<symptom_id>", "loud_fan")
            .replace("<kind>", "fan")
            .replace("<site>", "GUL")
        )
        for method in (rule.methods or set()) - {"HEAD", "OPTIONS"}:
            found.append((method, path, Role(access)))
    return found


def _asked(client: Client, method: str, path: str) -> Any:
    if method == "GET":
        return client.get(path)
    return client.delete(path) if method == "DELETE" else client.post(path, {})


def test_strangers_get_nothing(app: Flask, stranger: Client) -> None:
    calls = _calls(app)
    assert len(calls) > 12
    for method, path, _ in calls:
        answer = _asked(stranger, method, path)
        assert answer.status_code == 401, (method, path)
        assert answer.mimetype == "application/problem+json"


@pytest.mark.parametrize("login", ["pell", "ledger"])
def test_nobody_gets_what_needs_a_higher_role(app: Flask, as_user: Callable[[str], Client], login: str) -> None:
    client = as_user(login)
    higher = {"pell": {Role.LEAD}, "ledger": {Role.LEAD, Role.TECHNICIAN}}[login]
    for method, path, access in _calls(app):
        if access in higher:
            answer = _asked(client, method, path)
            assert answer.status_code == 403, (method, path)
            assert "needs the role" in answer.get_json()["detail"]


def test_a_write_without_the_token_is_refused(lead: Client) -> None:
    answer = lead.http.post("/api/v1/orders", json={"part_number": "OF-P14", "quantity": 1})
    assert answer.status_code == 400
    assert "Reload the page" in answer.get_json()["detail"]


def test_a_wrong_password_says_so_at_its_place_and_not_which(stranger: Client) -> None:
    for login in ("quay", "nobody"):
        answer = stranger.sign_in(login, "not it")
        assert answer.status_code == 422
        assert answer.get_json()["faults"][0]["field"] == "password"


def test_failed_sign_ins_are_limited_even_for_the_right_password(stranger: Client) -> None:
    for _ in range(BY_COUNTER.free):
        assert stranger.sign_in("quay", "guess").status_code == 422
    answer = stranger.sign_in("quay", "test-lead-password")
    assert answer.status_code == 429
    assert int(answer.headers["Retry-After"]) >= 1
    assert "wait" in answer.get_json()["detail"]
    assert stranger.sign_in("pell", "test-bench-password").status_code == 200


def test_a_known_browser_is_not_held_up_by_strangers_guesses(app: Flask, lead: Client) -> None:
    lead.delete("/api/v1/session")
    stranger = Client(app)
    for _ in range(BY_COUNTER.free + 1):
        stranger.sign_in("quay", "guess")
    assert stranger.sign_in("quay", "test-lead-password").status_code == 429
    assert lead.sign_in("quay", "test-lead-password").status_code == 200


def test_a_device_cookie_signs_nobody_in_and_helps_one_login_only(app: Flask, lead: Client) -> None:
    lead.delete("/api/v1/session")
    assert lead.get("/api/v1/outlook").status_code == 401
    stranger = Client(app)
    for _ in range(BY_COUNTER.free):
        stranger.sign_in("pell", "guess")
    assert lead.sign_in("pell", "test-bench-password").status_code == 429


def test_a_copied_cookie_is_worth_nothing_after_sign_out(app: Flask, reader: Client) -> None:
    copied = reader.http.get_cookie("session")
    assert copied is not None
    thief = app.test_client()
    thief.set_cookie("session", copied.value)
    assert thief.get("/api/v1/outlook").status_code == 200
    reader.delete("/api/v1/session")
    assert thief.get("/api/v1/outlook").status_code == 401


def test_signing_out_ends_the_session(reader: Client) -> None:
    assert reader.get("/api/v1/outlook").status_code == 200
    assert reader.delete("/api/v1/session").get_json()["user"] is None
    assert reader.get("/api/v1/outlook").status_code == 401


def test_cookies_and_headers(stranger: Client) -> None:
    answer = stranger.get("/api/v1/session")
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Strict" in cookie
    policy = answer.headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy
    assert "frame-ancestors 'none'" in policy
    assert answer.headers["X-Content-Type-Options"] == "nosniff"


def test_a_stranger_learns_nothing_of_the_company(stranger: Client) -> None:
    state = stranger.get("/api/v1/session").get_json()
    assert (state["user"], state["company"], state["sites"]) == (None, "", [])
