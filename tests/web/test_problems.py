"""One table from exception to reply: what each failure looks like from outside, and that details never leak."""

from __future__ import annotations

from typing import Any

import psycopg
import pytest
from flask import Blueprint, Flask
from sqlalchemy import Connection, text
from sqlalchemy.exc import DataError, IntegrityError, InternalError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session

from almanac.services.errors import Fault, NeedsConfirmation, NotFound, Refused, Stale
from almanac.web import problems
from almanac.web.app import LARGEST_REQUEST
from tests.services.helpers import bench
from tests.web.conftest import Client


def _raising(error: Exception) -> Any:
    """A reply of an application whose only view raises."""
    app = Flask(__name__)
    problems.register(app)
    blueprint = Blueprint("one", __name__)

    @blueprint.get("/")
    def _view() -> str:
        raise error

    app.register_blueprint(blueprint)
    return app.test_client().get("/")


@pytest.mark.parametrize(
    ("error", "status", "detail"),
    [
        (Refused(Fault("tag", "no such tag")), 422, "no such tag"),
        (NeedsConfirmation("fit", "Was it fitted?"), 409, "Was it fitted?"),
        (Stale("read it again"), 409, "read it again"),
        (NotFound("there is no incident 9"), 404, "there is no incident 9"),
        (OperationalError("SELECT secret", {}, psycopg.OperationalError("password=hunter2")), 503, "Nothing was saved"),
        (IntegrityError("INSERT secret", {}, psycopg.IntegrityError("hunter2")), 409, "Nothing was saved"),
        (OperationalError("INSERT secret", {}, psycopg.errors.DiskFull("hunter2")), 503, "Free some space"),
        (OperationalError("SELECT secret", {}, psycopg.errors.TooManyConnections("hunter2")), 503, "takes no more connections"),
        (InternalError("INSERT secret", {}, psycopg.errors.ReadOnlySqlTransaction("hunter2")), 503, "It can be read"),
        (OperationalError("UPDATE secret", {}, psycopg.errors.DeadlockDetected("hunter2")), 503, "Try again"),
        (DataError("INSERT secret", {}, psycopg.errors.NumericValueOutOfRange("hunter2")), 422, "beyond what can be stored"),
        (PoolTimeout("secret"), 503, "connections to the database are in use"),
        (RuntimeError("hunter2"), 500, "The fault was written to the server's log"),
    ],
)
def test_each_failure_has_its_reply(error: Exception, status: int, detail: str) -> None:
    reply = _raising(error)
    assert reply.status_code == status
    assert reply.mimetype == "application/problem+json"
    body = reply.get_json()
    assert body["status"] == status
    assert detail in body["detail"]
    assert "hunter2" not in reply.get_data(as_text=True)
    assert "secret" not in reply.get_data(as_text=True)


def test_a_rule_of_the_database_refuses_and_its_name_reaches_nobody(
    technician: Client, session: Session, demo_connection: Connection
) -> None:
    """A constraint that no check foresaw still answers clearly; here one is added for the test."""
    where = bench(session, "fan")
    session.execute(text("ALTER TABLE incident ADD CONSTRAINT ck_incident_never_today CHECK (occurred_on < '2026-11-01')"))
    line = {"position_id": where.position_id, "action": "kept"}
    body = {"tag": where.tag, "occurred_on": "2026-11-01", "reason": "grinds", "finding": "open", "lines": [line]}
    before = session.scalar(text("SELECT count(*) FROM incident"))
    demo_connection.begin_nested()
    answer = technician.post("/api/v1/incidents", body)
    assert answer.status_code == 409
    assert "Nothing was saved" in answer.get_json()["detail"]
    assert "ck_" not in answer.get_data(as_text=True)
    assert session.scalar(text("SELECT count(*) FROM incident")) == before


def test_a_request_too_large_is_refused(lead: Client) -> None:
    answer = lead.http.post(
        "/api/v1/orders", data=b"x" * (LARGEST_REQUEST + 1), content_type="application/json", headers={"X-CSRF-Token": lead.token}
    )
    assert answer.status_code == 413
    assert answer.mimetype == "application/problem+json"


def test_a_method_that_is_not_there(lead: Client) -> None:
    answer = lead.delete("/api/v1/outlook")
    assert answer.status_code == 405
    assert answer.mimetype == "application/problem+json"
