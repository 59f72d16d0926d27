"""What comes back when it is killed, how fast, and whether a write that was acknowledged is ever lost."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from uuid import uuid4

import requests

from almanac.attack.product import LEAD, Person, Product, kill
from almanac.launch.processes import process_of

CHANGE = {"do": "season", "factor": 2.0, "on": "2027-06-01", "until": "2027-09-01", "kinds": ["fan"]}
PARTS = ("launcher", "postmaster", "web process", "database backend")


@dataclass
class Outcome:
    """Seconds until it answered again, and writes acknowledged and lost."""

    part: str
    seconds: list[float] = field(default_factory=list)
    acknowledged: int = 0
    lost: int = 0
    doubled: int = 0


class Writer(threading.Thread):
    """Somebody who keeps scenarios under names all the time, and remembers which were acknowledged."""

    def __init__(self, person: Person) -> None:
        super().__init__(daemon=True)
        self.person, self.stopped = person, threading.Event()
        self.acknowledged: list[str] = []

    def run(self) -> None:
        while not self.stopped.is_set():
            name = f"attack {uuid4()}"
            for _ in range(40):
                if self.stopped.is_set() or self._kept(name):
                    break
                time.sleep(0.25)
            time.sleep(0.02)

    def _kept(self, name: str) -> bool:
        """The same request until somebody answers: it has a key, so that it counts once."""
        with contextlib.suppress(requests.RequestException):
            reply = self.person.post("/api/v1/scenarios", {"name": name, "changes": [CHANGE]}, key=name)
            if reply.status_code == 201:
                self.acknowledged.append(name)
                return True
        return False


def kill_often(product: Product, times: int, say: Callable[[str], None]) -> list[Outcome]:
    """Kill each part so many times while somebody writes."""
    return [_kill_part(product, part, times, say) for part in PARTS]


def _kill_part(product: Product, part: str, times: int, say: Callable[[str], None]) -> Outcome:
    outcome = Outcome(part)
    for number in range(times):
        writer = Writer(Person(product.address, LEAD[0], LEAD[3]))
        writer.start()
        time.sleep(0.4)
        outcome.seconds.append(_killed(product, part))
        time.sleep(0.3)
        writer.stopped.set()
        writer.join(20)
        _count(product, writer.acknowledged, outcome)
        say(f"{part}, {number + 1} of {times}: back after {outcome.seconds[-1]:.1f} s")
    return outcome


def _killed(product: Product, part: str) -> float:
    """Kill a part; seconds until the product is ready again."""
    launcher = product.launcher
    assert launcher is not None
    if part == "launcher":
        launcher.kill()
        launcher.wait(10)
        product.start()  # what a supervisor such as systemd would do, or whoever started it
        begun = time.monotonic()
        _wait_for_register(product)
        product.seconds_until_ready()
        return time.monotonic() - begun
    victim = {"postmaster": product.postmaster, "database backend": product.backend}.get(part, lambda: product.web()[0])()
    assert victim is not None
    kill(victim)
    begun = time.monotonic()
    while victim.is_running():
        time.sleep(0.01)
    _wait_until_gone_and_back(product, part, victim.pid)
    return time.monotonic() - begun


def _wait_for_register(product: Product) -> None:
    """Until the new launcher has a web process of its own: the old one answered until it was ended."""
    assert product.launcher is not None
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        parents = [_parent_of(one.pid) for one in product.web()]
        if parents and product.launcher.pid in parents:
            return
        time.sleep(0.02)
    raise TimeoutError("the new launcher started no web process")


def _parent_of(pid: int) -> int | None:
    with contextlib.suppress(OSError, IndexError):
        from pathlib import Path

        return int(Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[1])
    return None


def _wait_until_gone_and_back(product: Product, part: str, pid: int) -> None:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        now = product.postmaster() if part == "postmaster" else next(iter(product.web()), None)
        if part == "database backend" or (now is not None and now.pid != pid and process_of(now.pid)):
            break
        time.sleep(0.02)
    product.seconds_until_ready()


def _count(product: Product, names: list[str], outcome: Outcome) -> None:
    outcome.acknowledged += len(names)
    for name in names:
        kept = product.scalar("SELECT count(*) FROM scenario WHERE name = :name", name=name)
        outcome.lost += kept == 0
        outcome.doubled += kept > 1
