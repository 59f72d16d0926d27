"""A short, seeded part of what bin/attack does at length: races, hostile files, random requests."""

from __future__ import annotations

from typing import Any

from almanac.attack.fuzz import fuzz
from almanac.attack.hostile import meet
from almanac.attack.product import Person
from almanac.attack.races import RACES, run_races
from tests.attack.conftest import Target
from tests.conftest import PASSWORDS


def _lead(target: Target) -> Person:
    return Person(target.address, "quay", PASSWORDS["quay"])


def test_what_may_happen_once_happens_once(target: Target) -> None:
    people = (_lead(target), Person(target.address, "pell", PASSWORDS["pell"]))
    done = run_races(target, crowd=6, say=lambda _: None, people=people)
    assert len(done) == len(RACES) >= 15
    assert [(race.name, race.counted, dict(race.statuses)) for race in done if not race.held] == []


def test_hostile_files_are_refused_or_read_as_what_they_are(target: Target) -> None:
    sites = target.scalar("SELECT count(*) FROM site")
    met = meet(_lead(target).send_file)
    assert len(met) >= 60
    assert [(one.what, one.status, one.words) for one in met if not one.held] == []
    assert target.scalar("SELECT count(*) FROM site") <= sites + 3  # a formula or a long name for a site is only a name


def test_random_requests_are_never_the_servers_fault(target: Target) -> None:
    person = _lead(target)
    document = person.get("/api/v1/openapi.json").json()

    def send(case: Any) -> Any:
        return case.call(base_url=person.address, session=person.http, headers={"X-CSRF-Token": person.token}, timeout=120)

    done = fuzz(document, send, wanted=120, start=7)
    assert done.sent >= 120
    assert done.faults == []
