"""What a race is: the same thing asked by many at the same moment, and what is counted afterwards."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from threading import Barrier
from typing import Any, Protocol

import requests

from almanac.attack.product import LEAD, TECHNICIAN, Person


@dataclass(frozen=True)
class Race:
    """How a race went: answers by status, what was counted afterwards, what was allowed."""

    name: str
    statuses: Counter[int]
    counted: int
    allowed: tuple[int, int]

    @property
    def held(self) -> bool:
        """Whether what happened was allowed, and nothing was the server's fault."""
        low, high = self.allowed
        return low <= self.counted <= high and not any(status >= 500 and status != 503 for status in self.statuses)


class Target(Protocol):
    """A running product whose database can be asked."""

    @property
    def address(self) -> str: ...
    def scalar(self, query: str, **values: Any) -> Any: ...


def people_of(target: Target) -> tuple[Person, Person]:
    """The demo's lead and its technician."""
    return Person(target.address, LEAD[0], LEAD[3]), Person(target.address, TECHNICIAN[0], TECHNICIAN[3])


class Track:
    """The product, a lead and a technician, and whatever the races need to know of it."""

    def __init__(self, product: Target, crowd: int, people: tuple[Person, Person]) -> None:
        self.product, self.crowd = product, crowd
        self.lead, self.technician = people
        self.today = self.lead.get("/api/v1/session").json()["as_of"]

    def together(self, ask: Callable[[int], requests.Response]) -> list[requests.Response]:
        """Ask so many times at once."""
        barrier = Barrier(self.crowd)

        def one(number: int) -> requests.Response:
            barrier.wait(30)
            return ask(number)

        with ThreadPoolExecutor(self.crowd) as pool:
            return list(pool.map(one, range(self.crowd)))

    def post(self, person: Person, path: str, json: Any, *, key: str | None = None) -> list[requests.Response]:
        """The same post so many times at once, each on a connection of its own."""

        def ask(_: int) -> requests.Response:
            headers = {"X-CSRF-Token": person.token, **({"Idempotency-Key": key} if key else {})}
            return requests.post(person.address + path, json=json, headers=headers, cookies=person.http.cookies, timeout=120)

        return self.together(ask)

    def count(self, query: str, **values: Any) -> int:
        return int(self.product.scalar(query, **values) or 0)

    def machine(self, place: int) -> str:
        """A machine in service that no job is open on."""
        query = "SELECT tag FROM asset WHERE retired_on IS NULL AND id NOT IN (SELECT asset_id FROM job) ORDER BY id LIMIT 1 OFFSET :place"
        return str(self.product.scalar(query, place=place))


def race_of(name: str, replies: list[requests.Response], counted: int, allowed: int | tuple[int, int]) -> Race:
    """A race as it went: what was counted has to be what was allowed, or between two bounds."""
    bounds = allowed if isinstance(allowed, tuple) else (allowed, allowed)
    return Race(name, Counter(reply.status_code for reply in replies), counted, bounds)
