"""What no request may hold, whatever it is for: numbers the database cannot keep, control characters, days beyond reason.

Schemas say what a field means; this says what any field can be. It looks at requests only: what is stored already must stay readable.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from datetime import date, datetime
from typing import Any

from flask import request
from pydantic import BaseModel
from werkzeug.exceptions import BadRequest, NotFound, RequestURITooLarge, UnsupportedMediaType

from almanac.core.days import beyond_reason
from almanac.core.text import control_character
from almanac.services.errors import Fault
from almanac.services.stores.files import READERS

LARGEST_WHOLE = 2**31 - 1
LARGEST_NUMBER = 1e12
LONGEST_PATH, LONGEST_QUERY = 1000, 16_000
DEEPEST = 60
TAKES_FILES = (
    "/api/v1/company/archive",
    "/api/v1/imports",
    "/api/v1/lists",
    "/api/v1/lists/long",
    "/api/v1/lists/look",
    "/api/v1/pages/bundle",
    "/api/v1/photos",
    "/api/v1/log/old",
    *(f"/api/v1/stores/files/{name}" for name in READERS),
)
FORMS = ("application/x-www-form-urlencoded", "multipart/form-data")


class BeyondReason(Exception):
    """A request holds what cannot be meant; each fault names its place."""

    def __init__(self, faults: list[Fault]) -> None:
        self.faults = faults
        super().__init__("; ".join(fault.message for fault in faults))


def check_arguments(arguments: Mapping[str, Any]) -> None:
    """Look through what a view is about to get.

    Raises
    ------
    BeyondReason : a value that cannot be meant · NotFound : a number in the address that no row can have
    """
    for value in arguments.values():
        if isinstance(value, int) and not isinstance(value, bool) and value > LARGEST_WHOLE:
            raise NotFound(f"there is nothing with the number {value}")
    faults = [fault for name, value in arguments.items() for fault in _faults(value, "" if isinstance(value, BaseModel) else name)]
    if faults:
        raise BeyondReason(faults)


def _faults(value: Any, place: str) -> Iterator[Fault]:
    """Every fault of a value and of what is in it."""
    for key, item in _inside(value):
        if fault := control_character(key):
            yield Fault(place, fault)
            return
        yield from _faults(item, f"{place}.{key}" if place else key)
    if message := _wrong(value):
        yield Fault(place, message)


def _inside(value: Any) -> Iterator[tuple[str, Any]]:
    if isinstance(value, BaseModel):
        yield from ((name, getattr(value, name)) for name in type(value).model_fields)
    elif isinstance(value, Mapping):
        yield from ((str(key), item) for key, item in value.items())
    elif isinstance(value, list | tuple | set | frozenset):
        yield from ((str(place), item) for place, item in enumerate(value))


def _wrong(value: Any) -> str | None:
    """Why a single value cannot be meant."""
    if isinstance(value, bool):
        return None
    if isinstance(value, str):
        return control_character(value)
    if isinstance(value, int) and abs(value) > LARGEST_WHOLE:
        return f"a whole number between {-LARGEST_WHOLE:,} and {LARGEST_WHOLE:,} was wanted"
    if isinstance(value, float) and (not math.isfinite(value) or abs(value) > LARGEST_NUMBER):
        return "a finite number was wanted, with at most twelve digits before the point"
    day = value.date() if isinstance(value, datetime) else value
    return beyond_reason(day) if isinstance(day, date) else None


def refuse_strange_requests() -> None:
    """Before a view is looked for: addresses too long, control characters in them, bodies of a kind that nobody reads."""
    if len(request.path) > LONGEST_PATH or len(request.query_string) > LONGEST_QUERY:
        raise RequestURITooLarge("the address is too long")
    if control_character(request.path):
        raise NotFound("there is no such address")
    if request.mimetype in FORMS and request.path not in TAKES_FILES and request.path.startswith("/api/"):
        raise UnsupportedMediaType("a JSON body was wanted (Content-Type: application/json)")
    if request.mimetype == "application/json" and request.get_data():
        _refuse_malformed_json()


def _refuse_malformed_json() -> None:
    try:
        body = request.get_json(silent=True)
    except RecursionError:
        body = None
    if not isinstance(body, dict):
        raise BadRequest("the body is no JSON object: check quotes, commas and brackets")
    level: list[Any] = [body]
    for _ in range(DEEPEST):
        level = [item for one in level for _, item in _inside(one)]
    if level:
        raise BadRequest(f"the body nests deeper than {DEEPEST} levels")
