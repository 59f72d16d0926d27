"""Signing in through an identity provider: the way there and back, everything it may get wrong, and what groups let people do."""

from __future__ import annotations

import re
import threading
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import parse_qs, urlsplit

import pytest
import requests
from flask import Flask
from sqlalchemy import Connection, text

from almanac.exchange import provider as exchange
from almanac.exchange.provider import Provider, Why
from almanac.services.provided import REFUSED, Allowed, allowed_by, groups_of, page_here
from almanac.standins.provider import FAULTS, Known, Simulated
from almanac.store.models import Role
from almanac.web.app import create_app
from almanac.web.outside import BACK, Outside, Through, outside_of
from tests.conftest import PASSWORDS
from tests.simulated import served
from tests.web.conftest import Client

GROUPS = "it-leads=lead; bench-gul=technician@GUL; bench=technician; office=reader"
WHY_OF = {
    "other audience": Why.OTHER_AUDIENCE,
    "borrowed": Why.OTHER_AUDIENCE,
    "other party": Why.OTHER_AUDIENCE,
    "expired": Why.EXPIRED,
    "away": Why.AWAY,
    "no code": Why.DENIED,
}
"""Why nobody is signed in where the provider gets something wrong; everything else is a forgery."""


@pytest.fixture
def simulated() -> Iterator[Simulated]:
    with served() as provider:
        provider.people = [Known("p-1", "fenn", "T. Fenn", ["it-leads"]), Known("p-2", "pell", "P. Ell", ["bench-gul"])]
        yield provider


@pytest.fixture
def app(demo_connection: Connection, simulated: Simulated) -> Flask:
    provider = Provider(simulated.issuer, "Harbour sign-in", "parts-almanac", "a secret", "groups", f"http://localhost{BACK}")
    return create_app(demo_connection, secret_key="test", outside=Outside(through=Through(provider, groups_of(GROUPS))))


@pytest.fixture
def lead(app: Flask) -> Client:
    client = Client(app)
    assert client.sign_in("quay", PASSWORDS["quay"]).status_code == 200
    return client


def leave(client: Client, subject: str, to: str = "/outlook") -> str:
    """Go to the provider and be picked there; returns the address it sends the browser back to."""
    sent = client.get("/api/v1/session/provider", to=to)
    assert sent.status_code == 303, sent.text
    back = requests.get(f"{sent.location}&subject={subject}", allow_redirects=False, timeout=5)
    return back.headers["Location"].removeprefix("http://localhost")


def come(client: Client, subject: str = "p-1", to: str = "/outlook") -> Any:
    return client.http.get(leave(client, subject, to))


def why(reply: Any) -> str:
    return str(parse_qs(urlsplit(reply.location).query).get("refused", [""])[0])


def who(client: Client) -> Any:
    return client.get("/api/v1/session").get_json()["user"]


def test_whoever_comes_first_is_a_new_person_as_their_groups_say(app: Flask) -> None:
    client = Client(app)
    assert client.get("/api/v1/session").get_json()["provider"]["name"] == "Harbour sign-in"
    reply = come(client, to="/stores?site=GUL")
    assert (reply.status_code, reply.location) == (303, "/stores?site=GUL")
    assert who(client) == {"login": "fenn", "name": "T. Fenn", "role": "lead"}
    assert client.get("/api/v1/session").get_json()["provider"] is None
    assert client.get("/api/v1/people").status_code == 200
    audit = client.get("/api/v1/audit", login="fenn").get_json()["rows"]
    assert (audit[0]["event"], audit[0]["words"]) == ("signed_in", "through Harbour sign-in")
    again = Client(app)
    come(again)
    assert who(again)["login"] == "fenn"


@pytest.mark.parametrize("fault", FAULTS)
def test_whatever_the_provider_gets_wrong_signs_nobody_in(app: Flask, lead: Client, simulated: Simulated, fault: str) -> None:
    client = Client(app)
    if fault == "other person":
        simulated.people = [Known("p-1", "fenn", "T. Fenn", None)]
    simulated.fault = fault
    reply = client.get("/api/v1/session/provider") if fault == "away" else come(client)
    assert why(reply) == WHY_OF.get(fault, Why.FORGED)
    assert who(client) is None
    rows = lead.get("/api/v1/audit", group="sign_ins").get_json()["rows"]
    assert rows[0]["event"] == "sign_in_failed"
    assert rows[0]["words"].startswith("through Harbour sign-in: ")
    simulated.fault = ""
    come(client)
    assert who(client)["login"] == "fenn"


def test_a_way_comes_back_once(app: Flask) -> None:
    client = Client(app)
    back = leave(client, "p-1")
    assert why(client.http.get(back)) == ""
    assert why(client.http.get(back)) == Why.REPLAYED
    other = Client(app)
    stolen = leave(other, "p-1")
    assert why(Client(app).http.get(stolen)) == Why.OTHER_BROWSER, "a link sent to somebody signs nobody in"
    assert why(other.http.get(stolen.replace("state=", "state=x"))) == Why.LATE
    assert why(other.http.get(stolen)) == ""


def test_guesses_at_a_way_fill_no_record(app: Flask, lead: Client) -> None:
    before = len(lead.get("/api/v1/audit", group="sign_ins").get_json()["rows"])
    assert why(Client(app).get("/api/v1/session/provider/back", state="guessed", code="x")) == Why.LATE
    assert len(lead.get("/api/v1/audit", group="sign_ins").get_json()["rows"]) == before


def test_a_slow_provider_holds_up_nobody_else(app: Flask, monkeypatch: pytest.MonkeyPatch) -> None:
    taken = threading.BoundedSemaphore(1)
    taken.acquire()
    monkeypatch.setattr(exchange, "AT_ONCE", taken)
    monkeypatch.setattr(exchange, "TURN_SECONDS", 0)
    client = Client(app)
    assert why(client.get("/api/v1/session/provider")) == Why.AWAY
    assert client.sign_in("quay", PASSWORDS["quay"]).status_code == 200
    taken.release()
    assert "state=" in client.get("/api/v1/session/provider").location


def test_a_code_of_another_way_is_not_taken(app: Flask) -> None:
    mine, theirs = Client(app), Client(app)
    my_way, their_way = leave(mine, "p-1"), leave(theirs, "p-2")
    code = re.search(r"code=([^&]+)", their_way)
    assert code
    injected = re.sub(r"code=[^&]+", f"code={code[1]}", my_way)
    assert why(mine.http.get(injected)) == Why.DENIED
    assert who(mine) is None


def test_a_way_of_ten_minutes_ago_is_late(app: Flask, demo_connection: Connection) -> None:
    client = Client(app)
    back = leave(client, "p-1")
    demo_connection.execute(text("UPDATE provider_attempt SET began_at = :at"), {"at": datetime.now(UTC) - timedelta(minutes=11)})
    assert why(client.http.get(back)) == Why.LATE


def test_a_person_whose_group_is_gone_is_signed_out_everywhere(app: Flask, simulated: Simulated, lead: Client) -> None:
    client, elsewhere = Client(app), Client(app)
    come(client)
    simulated.people = [Known("p-1", "fenn", "T. Fenn", ["kitchen"])]
    assert why(come(elsewhere)) == Why.NO_GROUP
    assert who(elsewhere) is None
    assert who(client) is None
    assert client.get("/api/v1/people").status_code == 401
    simulated.people = [Known("p-1", "fenn-married", "T. Fenn", ["bench-gul", "office"])]
    come(elsewhere)
    assert who(elsewhere) == {"login": "fenn", "name": "T. Fenn", "role": "technician"}, "who they are is not their name there"
    row = next(one for one in lead.get("/api/v1/people").get_json()["people"] if one["login"] == "fenn")
    assert (row["role"], row["sites"], row["through"]) == ("technician", ["GUL"], "provider")
    refused = lead.post(f"/api/v1/people/{row['id']}", {"name": "T. Fenn", "role": "lead", "sites": []})
    assert refused.status_code == 422
    assert lead.post(f"/api/v1/people/{row['id']}", {"name": "Tom Fenn", "role": "technician", "sites": ["GUL"]}).status_code == 200


def test_nobody_becomes_somebody_with_their_login_unless_a_lead_said_so(app: Flask, lead: Client) -> None:
    client = Client(app)
    assert why(come(client, "p-2")) == Why.TAKEN
    pell = next(one for one in lead.get("/api/v1/people").get_json()["people"] if one["login"] == "pell")
    assert lead.post(f"/api/v1/people/{pell['id']}/provider").status_code == 200
    come(client, "p-2")
    assert who(client)["login"] == "pell"
    assert lead.post(f"/api/v1/people/{pell['id']}/provider").status_code == 422
    local = Client(app)
    assert local.sign_in("pell", PASSWORDS["pell"]).status_code == 200, "the password stays for emergencies"
    assert lead.delete(f"/api/v1/people/{pell['id']}/provider").status_code == 200
    assert who(client) is None
    assert why(come(client, "p-2")) == Why.TAKEN
    assert lead.delete(f"/api/v1/people/{pell['id']}/provider").status_code == 422


def test_nobody_locks_themselves_out(app: Flask) -> None:
    client = Client(app)
    come(client)
    own = next(one for one in client.get("/api/v1/people").get_json()["people"] if one["own"])
    refused = client.delete(f"/api/v1/people/{own['id']}/provider")
    assert (refused.status_code, refused.get_json()["faults"][0]["field"]) == (422, "person")
    assert who(client)["login"] == "fenn"


def test_who_was_ended_does_not_come_in_by_another_door(app: Flask, lead: Client) -> None:
    client = Client(app)
    come(client)
    fenn = next(one for one in lead.get("/api/v1/people").get_json()["people"] if one["login"] == "fenn")
    assert lead.post(f"/api/v1/people/{fenn['id']}/end").status_code == 200
    assert who(client) is None
    assert why(come(client)) == Why.ENDED
    assert lead.post(f"/api/v1/people/{fenn['id']}/provider").status_code == 422


def test_the_last_lead_is_not_made_something_else(app: Flask, simulated: Simulated, demo_connection: Connection) -> None:
    client = Client(app)
    come(client)
    demo_connection.execute(text("UPDATE \"user\" SET role = 'reader' WHERE role = 'lead' AND login <> 'fenn'"))
    simulated.people = [Known("p-1", "fenn", "T. Fenn", ["office"])]
    assert why(come(Client(app))) == Why.LAST_LEAD
    assert who(client)["role"] == "lead"


def test_a_group_of_a_site_there_is_none_of_lets_nobody_in(app: Flask, demo_connection: Connection) -> None:
    app.config["PROVIDER"] = Through(app.config["PROVIDER"].provider, groups_of("it-leads=technician@XXX"))
    client = Client(app)
    assert why(come(client)) == Why.NO_GROUP
    assert demo_connection.scalar(text("SELECT count(*) FROM \"user\" WHERE login = 'fenn'")) == 0


def test_more_of_a_person_is_asked_for_where_what_is_signed_names_no_groups(app: Flask, simulated: Simulated) -> None:
    simulated.people = [Known("p-1", "fenn", "T. Fenn", None)]
    client = Client(app)
    come(client)
    assert who(client)["role"] == "reader"


@pytest.mark.parametrize(
    ("to", "page"),
    [
        ("/outlook?part=OF-P14", "/outlook?part=OF-P14"),
        ("//elsewhere.example", "/"),
        ("/\\elsewhere.example", "/"),
        ("https://elsewhere.example", "/"),
        ("/api/v1/session", "/"),
        ("/out\r\nlook", "/"),
        ("", "/"),
    ],
)
def test_nobody_is_sent_elsewhere(to: str, page: str) -> None:
    assert page_here(to) == page


def test_without_a_provider_nothing_leads_there(demo_connection: Connection) -> None:
    client = Client(create_app(demo_connection, secret_key="test"))
    assert client.get("/api/v1/session").get_json()["provider"] is None
    assert client.get("/api/v1/session/provider").status_code == 404
    assert client.get("/api/v1/session/provider/back", state="x", code="y").status_code == 404


def test_the_most_that_groups_allow_holds() -> None:
    may = groups_of("a=lead; b=technician@GUL,BRA; c=technician@ELD; d=technician; e=reader")
    assert allowed_by(("e", "b", "c"), may) == Allowed(Role.TECHNICIAN, ("BRA", "ELD", "GUL"))
    assert allowed_by(("b", "d"), may) == Allowed(Role.TECHNICIAN)
    assert allowed_by(("e", "a", "b"), may) == Allowed(Role.LEAD)
    assert allowed_by(("e",), may) == Allowed(Role.READER)
    assert allowed_by(("kitchen",), may) is None
    assert allowed_by((), may) is None


ENVIRONMENT = {
    "ALMANAC_URL": "https://parts.example.org",
    "ALMANAC_PROVIDER": "https://id.example.org",
    "ALMANAC_PROVIDER_CLIENT": "parts",
    "ALMANAC_PROVIDER_SECRET": "secret",
    "ALMANAC_PROVIDER_GROUPS": "it=lead",
}


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"ALMANAC_PROVIDER_GROUPS": "it=boss"}, "ALMANAC_PROVIDER_GROUPS: .*it=boss"),
        ({"ALMANAC_PROVIDER_GROUPS": "it=lead@GUL"}, "ALMANAC_PROVIDER_GROUPS"),
        ({"ALMANAC_PROVIDER_GROUPS": " ; "}, "no group may sign in"),
        ({"ALMANAC_PROVIDER": "http://id.example.org"}, "ALMANAC_PROVIDER: .*https is wanted"),
        ({"ALMANAC_URL": "parts.example.org"}, "ALMANAC_URL: .*parts.example.org"),
        ({"ALMANAC_PROVIDER_SECRET": ""}, "ALMANAC_PROVIDER_SECRET is not"),
    ],
)
def test_what_the_environment_gets_wrong_is_named(changed: dict[str, str], said: str) -> None:
    with pytest.raises(ValueError, match=said):
        outside_of(ENVIRONMENT | changed)


def test_the_environment_says_who_signs_people_in() -> None:
    outside = outside_of(ENVIRONMENT)
    assert outside.encrypted
    assert outside.through
    assert outside.through.provider.back_to == "https://parts.example.org/api/v1/session/provider/back"
    assert outside_of({}) == Outside()


def test_every_refusal_has_its_words() -> None:
    assert set(REFUSED) == set(Why)


def test_over_https_no_cookie_travels_without(demo_connection: Connection) -> None:
    client = create_app(demo_connection, secret_key="test", outside=Outside(encrypted=True)).test_client()
    reply = client.get("/api/v1/session", base_url="https://localhost")
    assert all("Secure" in cookie for cookie in reply.headers.getlist("Set-Cookie"))
    assert reply.headers.getlist("Set-Cookie")
    assert any(cookie.startswith("__Host-session=") for cookie in reply.headers.getlist("Set-Cookie"))
    assert "max-age" in reply.headers["Strict-Transport-Security"]
