"""Random requests drawn from the application's own OpenAPI document: no answer may be a fault of the server."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import requests
import schemathesis
from hypothesis import HealthCheck, Phase, given, seed, settings
from schemathesis import GenerationMode
from schemathesis.core.result import Ok

MOST_ROUNDS = 5
HARMLESS = (
    "/api/v1/session",
    "/api/v1/people/{person_id}",
    "/api/v1/people/{person_id}/end",
    "/api/v1/people/{person_id}/sign-ins",
)
"""Addresses left alone: they would sign the attacker out or make every later try wait."""


@dataclass
class Fuzzed:
    """Requests sent, answers by status, and every answer that was the server's fault."""

    sent: int = 0
    statuses: Counter[int] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)
    slowest: tuple[float, str] = (0.0, "")


Sender = Callable[[Any], requests.Response]


def fuzz(document: Mapping[str, Any], send: Callable[[Any], Any], *, wanted: int, start: int = 0) -> Fuzzed:
    """Send about so many requests, evenly over all operations, half of them as the document asks and half not.

    Parameters
    ----------
    document : OpenAPI · send : answers a case with something that has a status code · wanted : requests · start : seed

    Returns
    -------
    Fuzzed
    """
    schema = schemathesis.openapi.from_dict(dict(document))
    operations = [found.ok() for found in schema.get_all_operations() if isinstance(found, Ok)]
    operations = [operation for operation in operations if operation.path not in HARMLESS]
    done = Fuzzed()
    rounds = 0
    while done.sent < wanted and rounds < MOST_ROUNDS:  # not every operation yields as many as it is asked for
        each = max((wanted - done.sent) // len(operations), 2)
        for number, operation in enumerate(operations):
            for mode, share in ((GenerationMode.POSITIVE, each - each // 2), (GenerationMode.NEGATIVE, each // 2)):
                _one(operation, mode, share, send, done, start + number + 1000 * rounds)
        rounds += 1
    return done


def _one(operation: Any, mode: GenerationMode, examples: int, send: Callable[[Any], Any], done: Fuzzed, start: int) -> None:
    quiet = [HealthCheck.too_slow, HealthCheck.filter_too_much, HealthCheck.data_too_large, HealthCheck.large_base_example]

    @seed(start)
    @settings(max_examples=examples, phases=[Phase.generate], deadline=None, database=None, suppress_health_check=quiet)
    @given(case=operation.as_strategy(generation_mode=mode))
    def try_it(case: Any) -> None:
        begun = time.perf_counter()
        reply = send(case)
        seconds = time.perf_counter() - begun
        done.sent += 1
        done.statuses[reply.status_code] += 1
        name = f"{operation.method.upper()} {operation.path}"
        done.slowest = max(done.slowest, (seconds, name))
        if reply.status_code >= 500:
            done.faults.append(f"{name}: {reply.status_code} after {seconds:.1f} s; {case.as_curl_command()[:600]}")

    try:
        try_it()
    except Exception as error:  # noqa: BLE001 - what cannot be drawn or sent is said, and the attack goes on
        if "Unsatisfiable" not in type(error).__name__:
            done.faults.append(f"{operation.method.upper()} {operation.path}: {type(error).__name__}: {str(error)[:300]}")
