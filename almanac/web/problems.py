"""One table from exception to reply: problem details (RFC 9457) with a fault for every place that is wrong."""

from __future__ import annotations

import logging
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from flask import Flask, Response, current_app, jsonify, request
from flask_wtf.csrf import CSRFError
from pydantic import ValidationError
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from werkzeug.exceptions import HTTPException, InternalServerError, MethodNotAllowed

from almanac.services.accounts import TooManyAttempts
from almanac.services.errors import Fault, NeedsConfirmation, NotFound, Refused, Stale
from almanac.services.workplaces import Elsewhere
from almanac.web.border import BeyondReason
from almanac.web.requests import request_id

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
        "request_id": request_id(),
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
    words = CONSTRAINTS.get(constraint or "", "it contradicts something that is on record, perhaps written a moment ago")
    return problem(409, "This contradicts what is recorded", f"Nothing was saved: {words}. Read it again, then decide.")


def _down(error: DBAPIError) -> Response:
    code = getattr(error.orig, "sqlstate", None) or ""
    LOG.error("database %s: %s", code, str(error.orig).strip().splitlines()[:1])
    for start, (title, words) in DOWN.items():
        if code.startswith(start):
            return problem(503, title, words)
    if isinstance(error, OperationalError):
        return problem(503, "The database does not answer", "Nothing was saved. Try again in a moment.")
    return problem(500, "Something went wrong here", "Nothing was saved. The fault was written to the server's log.")


def _out_of_range(error: DataError) -> Response:
    LOG.warning("a value the database cannot keep, %s %s: %s", request.method, request.path, str(error.orig).strip().splitlines()[:1])
    return problem(422, "A value cannot be kept", "A number, day or text of this request is beyond what can be stored. Nothing was saved.")


def _no_connection(_: PoolTimeout) -> Response:
    return problem(503, "Too busy", "All connections to the database are in use. Nothing was saved. Try again in a moment.")


def _slow_down(error: TooManyAttempts) -> Response:
    reply = problem(429, "Too many attempts", str(error))
    reply.headers["Retry-After"] = str(error.seconds)
    return reply


def _wrong_method(error: MethodNotAllowed) -> Response:
    """An address only the front end routes takes no writes: there is nothing there to write to."""
    adapter = current_app.url_map.bind("")
    for method in error.valid_methods or ():
        with suppress(HTTPException):
            if adapter.match(request.path, method=method)[0] != "_page":
                return problem(405, error.name, f"{request.path} does not take {request.method}")
    return problem(404, "Not found", f"there is no {request.method} {request.path}")


DOWN = {
    "53100": ("The disk is full", "Nothing was saved. Free some space where the data folder is, then try again."),
    "53300": ("Too busy", "The database takes no more connections. Nothing was saved. Try again in a moment."),
    "25006": ("The database is read-only", "Nothing was saved. It can be read; whoever runs it has to let it be written again."),
    "58030": ("The disk cannot be written", "Nothing was saved. Look at the disk the data folder is on."),
    "40": ("Somebody else was faster", "Nothing was saved: another change of the same record was under way. Try again."),
}
CONSTRAINTS = {
    "ck_shelf_balance_not_negative": "a shelf would hold less than nothing",
    "one_at_a_time": "another part is on record in that position at that time",
    "one_place_at_a_time": "that part is on record in another machine at that time",
}
"""What a constraint guards, in words; its name never reaches a person."""


REPLIES: dict[type[Exception], Callable[[Any], Response]] = {
    RequestInvalid: lambda e: problem(422, "The request is incomplete or wrong", "Correct the fields named, then send it again.", e.faults),
    Refused: lambda e: problem(422, "This cannot be done", str(e), e.faults),
    NeedsConfirmation: lambda e: problem(409, "Please confirm", e.message, question=e.question, details=e.details),
    Elsewhere: lambda e: problem(403, "Not where you work", str(e)),
    Stale: lambda e: problem(409, "Changed meanwhile", str(e), question="stale"),
    NotFound: lambda e: problem(404, "Not found", str(e)),
    TooManyAttempts: _slow_down,
    BeyondReason: lambda e: problem(422, "This cannot be meant", "Correct the fields named, then send it again.", e.faults),
    CSRFError: lambda _: problem(400, "The page is out of date", "Reload the page, then try again: its security token has expired."),
    IntegrityError: _conflict,
    DataError: _out_of_range,
    DBAPIError: _down,
    PoolTimeout: _no_connection,
    MethodNotAllowed: _wrong_method,
    HTTPException: lambda e: problem(e.code or 500, e.name, e.description or ""),
    InternalServerError: lambda _: problem(
        500, "Something went wrong here", "Nothing was saved. The fault was written to the server's log."
    ),
}


def register(app: Flask) -> None:
    """Attach the table to an application."""
    for exception, reply in REPLIES.items():
        app.register_error_handler(exception, reply)
