"""Races of people, lists and machines that report: a link used once, a lead left over, a list applied once, a report taken once."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any
from uuid import uuid4

import requests

from almanac.attack.product import Person
from almanac.attack.track import Race, Track, race_of

PASSWORD = "wall kettle lantern oar"  # noqa: S105 - of people made for a race
WITH_PACK = """
SELECT a.tag FROM asset a JOIN tenure t ON t.asset_id = a.id JOIN part p ON p.id = t.part_id
WHERE t.removed_on IS NULL AND a.retired_on IS NULL AND p.number = 'OB-P14-60'
AND NOT EXISTS (SELECT 1 FROM reading r WHERE r.tenure_id = t.id) ORDER BY a.id LIMIT 1
"""
LEADS = "SELECT count(*) FROM \"user\" WHERE role = 'lead' AND active"


def _added(track: Track, role: str) -> tuple[str, str, int]:
    """A person added for a race: login, the token of their link, and their number."""
    login = f"race-{uuid4().hex[:12]}"
    reply = track.lead.post("/api/v1/people", {"login": login, "name": "R. Ace", "role": role, "sites": []})
    reply.raise_for_status()
    return login, reply.json()["token"], reply.json()["person_id"]


def _choose(track: Track, token: str, password: str) -> requests.Response:
    """A password chosen by a link, in a browser of its own."""
    browser = requests.Session()
    csrf = browser.get(f"{track.product.address}/api/v1/session", timeout=120).json()["csrf_token"]
    body = {"token": token, "password": password}
    return browser.post(f"{track.product.address}/api/v1/password-link/use", json=body, headers={"X-CSRF-Token": csrf}, timeout=120)


def use_link_once(track: Track) -> Race:
    """Everybody has the link; one chooses the password."""
    _, token, _ = _added(track, "reader")
    replies = track.together(lambda number: _choose(track, token, f"wall kettle lantern {number}"))
    return race_of("one use of a link", replies, sum(reply.status_code == 200 for reply in replies), 1)


def leads_end_one_another(track: Track) -> Race:
    """The only two leads end one another at the same moment: one stays."""
    crowd = []
    for _ in range(2):
        login, token, number = _added(track, "lead")
        _choose(track, token, PASSWORD).raise_for_status()
        crowd.append((Person(track.product.address, login, PASSWORD), number))
    everybody = track.lead.get("/api/v1/people").json()["people"]
    kept = [one for one in everybody if one["role"] == "lead" and one["active"] and one["id"] not in {number for _, number in crowd}]
    for one in kept:
        _made(crowd[0][0], one, "technician")

    def ask(place: int) -> requests.Response:
        person, whom = crowd[place % 2][0], crowd[1 - place % 2][1]
        headers = {"X-CSRF-Token": person.token}
        return requests.post(f"{person.address}/api/v1/people/{whom}/end", headers=headers, cookies=person.http.cookies, timeout=120)

    replies = track.together(ask)
    left = track.count(LEADS)
    standing = next(person for person, _ in crowd if person.get("/api/v1/people").status_code == 200)
    for one in kept:
        _made(standing, one, "lead")
    return race_of("the last lead stays", replies, left, 1)


def _made(lead: Person, one: dict[str, Any], role: str) -> None:
    lead.post(f"/api/v1/people/{one['id']}", {"name": one["name"], "role": role, "sites": []}).raise_for_status()


def list_applied_once(track: Track) -> Race:
    """The same list, looked at once, applied by everybody."""
    tag = f"RACE-{uuid4().hex[:8].upper()}"
    model = track.lead.get("/api/v1/models").json()["models"][0]
    name = f"{model['maker']} {model['name']}"
    text = f"Asset tag;Serial;Model;Site;In service since\n{tag};{tag}-S;{name};Eldermouth;01.03.2026\n"
    said: dict[str, Any] = {"kind": "machines", "source": "race", "list_on": track.today, "settled": {"gone": "leave", "day_first": True}}

    def send(path: str) -> requests.Response:
        return requests.post(
            track.lead.address + path,
            data={"said": json.dumps(said)},
            files={"file": ("register.csv", text.encode())},
            headers={"X-CSRF-Token": track.lead.token},
            cookies=track.lead.http.cookies,
            timeout=120,
        )

    look = send("/api/v1/lists/look")
    look.raise_for_status()
    said["digest"] = look.json()["digest"]
    replies = track.together(lambda _: send("/api/v1/lists"))
    return race_of("one list, applied once", replies, track.count("SELECT count(*) FROM asset WHERE tag = :tag", tag=tag), 1)


def report_taken_once(track: Track) -> Race:
    """A machine reports the same wear of its pack so often at once: it is one reading."""
    key = track.lead.post("/api/v1/tokens", {"name": "race", "scope": "report", "days": 1}).json()["token"]
    tag = str(track.product.scalar(WITH_PACK))
    words = json.dumps({"machine_report": 1, "pack": {"design_wh": 60, "full_wh": 51, "cycles": 212}})
    before = track.count("SELECT count(*) FROM reading")

    def ask(_: int) -> requests.Response:
        headers = {"Authorization": f"Bearer {key}", "Content-Type": "text/plain"}
        return requests.post(f"{track.product.address}/api/v1/reports", params={"tag": tag}, data=words, headers=headers, timeout=120)

    replies = track.together(ask)
    return race_of("one report of a machine", replies, track.count("SELECT count(*) FROM reading") - before, 1)


PEOPLE_RACES: tuple[Callable[[Track], Race], ...] = (use_link_once, leads_end_one_another, list_applied_once, report_taken_once)
