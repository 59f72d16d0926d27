"""Clients of the application, each signed in as one of the demo's users; what they write is rolled back."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from flask import Flask
from sqlalchemy import Connection

from almanac.web.app import create_app
from tests.conftest import PASSWORDS


class Client:
    """A browser without a screen: keeps its cookies and sends the token that guards writes."""

    def __init__(self, app: Flask) -> None:
        self.http = app.test_client()
        self.token = self.http.get("/api/v1/session").get_json()["csrf_token"]

    def get(self, path: str, **query: Any) -> Any:
        return self.http.get(path, query_string=query)

    def post(self, path: str, json: object = None, **more: Any) -> Any:
        return self.http.post(path, json=json, headers={"X-CSRF-Token": self.token}, **more)

    def delete(self, path: str) -> Any:
        return self.http.delete(path, headers={"X-CSRF-Token": self.token})

    def sign_in(self, login: str, password: str) -> Any:
        return self.post("/api/v1/session", {"login": login, "password": password})


@pytest.fixture
def app(demo_connection: Connection) -> Flask:
    return create_app(demo_connection, secret_key="test")


@pytest.fixture
def as_user(app: Flask) -> Callable[[str], Client]:
    def make(login: str) -> Client:
        client = Client(app)
        assert client.sign_in(login, PASSWORDS[login]).status_code == 200
        return client

    return make


@pytest.fixture
def lead(as_user: Callable[[str], Client]) -> Client:
    return as_user("quay")


@pytest.fixture
def technician(as_user: Callable[[str], Client]) -> Client:
    return as_user("pell")


@pytest.fixture
def reader(as_user: Callable[[str], Client]) -> Client:
    return as_user("ledger")


@pytest.fixture
def stranger(app: Flask) -> Client:
    return Client(app)
