"""One table from exception to reply: problem details (RFC 9457) with a fault for every place that is wrong."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from flask import Flask, Response, jsonify, request
from flask_wtf.csrf import CSRFError
from pydantic import ValidationError
from sqlalchemy.exc import IntegrityError, OperationalError
from werkzeug.exceptions import HTTPException, InternalServerError

from almanac.services.accounts import TooManyAttempts
from almanac.services.errors import Fault, NeedsConfirmation, NotFound, Refused, Stale

LOG = logging.getLogger(__name__)


class RequestInvalid(Exception):
    """The request does not follow its schema."""

    def __init__(self, error: ValidationError) -> None:
        self.faults = [Fault(".".join(str(part) for part in item["loc"]), item["msg"]) for item in error.errors()]
        super().__init__(str(error))


def problem(status: int, title: str, detail: str, faults: list[Fault] | None = None, **more: Any) -> Response:
    """A reply of type application/problem+json."""
    body = {
        "type": "about:blank",
        "title": title,
        "status": status,
        "detail": detail,
        "faults": [{"field": fault.field, "message": fault.message} for fault in faults or []],
        **more,
    }
    reply = jsonify(body)
    reply.status_code = status
    reply.mimetype = "application/problem+json"
    return reply


def _conflict(error: IntegrityError) -> Response:
    constraint = getattr(getattr(error.orig, "diag", None), "constraint_name", None)
    LOG.warning("constraint %s refused %s %s", constraint, request.method, request.path)
    return problem(
        409, "This contradicts what is recorded", f"The record breaks the rule {constraint or 'of the database'}; nothing was saved."
    )


def _down(error: OperationalError) -> Response:
    LOG.error("database: %s", error.orig)
    return problem(503, "The database does not answer", "Nothing was saved. Try again in a moment.")


REPLIES: dict[type[Exception], Callable[[Any], Response]] = {
    RequestInvalid: lambda e: problem(422, "The request is incomplete or wrong", "Correct the fields named, then send it again.", e.faults),
    Refused: lambda e: problem(422, "This cannot be done", str(e), e.faults),
    NeedsConfirmation: lambda e: problem(409, "Please confirm", e.message, question=e.question, details=e.details),
    Stale: lambda e: problem(409, "Changed meanwhile", str(e), question="stale"),
    NotFound: lambda e: problem(404, "Not found", str(e)),
    TooManyAttempts: lambda e: problem(429, "Too many attempts", str(e)),
    CSRFError: lambda _: problem(400, "The page is out of date", "Reload the page, then try again: its security token has expired."),
    IntegrityError: _conflict,
    OperationalError: _down,
    HTTPException: lambda e: problem(e.code or 500, e.name, e.description or ""),
    InternalServerError: lambda _: problem(
        500, "Something went wrong here", "Nothing was saved. The fault was written to the server's log."
    ),
}


def register(app: Flask) -> None:
    """Attach the table to an application."""
    for exception, reply in REPLIES.items():
        app.register_error_handler(exception, reply)
