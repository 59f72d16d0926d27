"""The whole company over the API: written by a lead, read into an empty one, and every figure there the same."""

from __future__ import annotations

import io
from collections.abc import Callable
from math import isclose
from typing import Any

import pytest
from sqlalchemy.orm import Session

from almanac.services.accounts import create_user
from almanac.store.models import Role
from almanac.web.app import create_app
from tests.web.conftest import Client

PASSWORD = "a long enough password"
FIGURES = (
    "outlook", "outlook?site=GUL", "outlook/others", "outlook/parts/OB-P14-60", "outlook/parts/OF-P14", "outlook/changes?kind=battery",
    "rates/battery", "rates/fan", "data-check", "calibration", "models", "incidents", "log/shares", "log/repeats", "jobs",
    "bench/exceptions", "scenarios", "plans", "stores", "stores/claims", "stores/retiring", "stores/books", "orders", "lists", "money",
)  # fmt: skip


@pytest.fixture
def elsewhere(empty_session: Session) -> Client:
    """A lead of an empty company."""
    create_user(empty_session, login="boss", name="Boss", role=Role.LEAD, password=PASSWORD)
    empty_session.commit()
    client = Client(create_app(empty_session.connection(), secret_key="test"))
    assert client.sign_in("boss", PASSWORD).status_code == 200
    return client


MOMENTS = ("made_at", "computed_at")


def differences(here: Any, there: Any, path: str) -> list[str]:
    """Where two answers differ, but for the moment they were worked out at."""
    if isinstance(here, dict) and isinstance(there, dict) and here.keys() == there.keys():
        return [found for key in here if key not in MOMENTS for found in differences(here[key], there[key], f"{path}.{key}")]
    if isinstance(here, list) and isinstance(there, list) and len(here) == len(there):
        return [found for at, (a, b) in enumerate(zip(here, there, strict=True)) for found in differences(a, b, f"{path}[{at}]")]
    if isinstance(here, float) and isinstance(there, float) and isclose(here, there, rel_tol=1e-9, abs_tol=1e-12):
        return []
    return [] if here == there else [f"{path}: {here!r} here, {there!r} there"]


def test_every_figure_is_the_same_there(lead: Client, elsewhere: Client) -> None:
    archive = lead.get("/api/v1/company/archive")
    assert archive.status_code == 200
    assert archive.headers["Content-Disposition"] == 'attachment; filename="company-2026-11-01.zip"'
    sent = {"file": (io.BytesIO(archive.data), "company.zip")}
    read = elsewhere.http.post("/api/v1/company/archive", data=sent, headers={"X-CSRF-Token": elsewhere.token})
    assert read.status_code == 201, read.get_json()
    assert read.get_json()["machines"] == 2126
    for address in (f"/api/v1/{figure}" for figure in FIGURES):
        here, there = lead.http.get(address), elsewhere.http.get(address)
        assert here.status_code == 200, (address, here.get_json())
        assert differences(here.get_json(), there.get_json(), address) == []


def test_it_is_a_leads(as_user: Callable[[str], Client]) -> None:
    for login in ("pell", "ledger"):
        assert as_user(login).get("/api/v1/company/archive").status_code == 403


def test_a_company_with_records_reads_none(lead: Client) -> None:
    archive = lead.get("/api/v1/company/archive").data
    sent = {"file": (io.BytesIO(archive), "company.zip")}
    refused = lead.http.post("/api/v1/company/archive", data=sent, headers={"X-CSRF-Token": lead.token})
    assert refused.status_code == 422
    assert "is not empty" in refused.get_json()["faults"][0]["message"]
    empty = lead.http.post("/api/v1/company/archive", data={}, content_type="multipart/form-data", headers={"X-CSRF-Token": lead.token})
    assert "choose the zip" in empty.get_json()["faults"][0]["message"]
