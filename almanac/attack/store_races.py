"""Races in the stores: the last parts packed, one arrival, one undoing, one approval, and a shelf that is counted while it moves."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import requests

from almanac.attack.track import Race, Track, race_of

PART, DEPOT, GOAL = "OF-P14", "ELD", "GUL"
SHELF = f"/api/v1/stores/shelves/{PART}/{DEPOT}"


def _shelf(track: Track) -> dict[str, Any]:
    found: dict[str, Any] = track.lead.get(SHELF).json()
    return found


def _move(track: Track, act: str, quantity: int) -> int:
    reply = track.lead.post(f"{SHELF}/acts", {"act": act, "quantity": quantity, "reason": "race"})
    reply.raise_for_status()
    return int(reply.json()["act_id"])


def _created(replies: list[requests.Response]) -> int:
    return sum(reply.status_code == 201 for reply in replies)


def pack_the_last(track: Track) -> Race:
    """Two lie free, everybody packs one."""
    standing = _shelf(track)
    free = standing["on_hand"] - sum(row["quantity"] for row in standing["promised"] if row["reserved"])
    _move(track, "set_aside", free - 2) if free > 2 else None
    replies = track.post(
        track.technician, "/api/v1/stores/transfers", {"part_number": PART, "from_site": DEPOT, "to_site": GOAL, "quantity": 1}
    )
    return race_of("the last two parts packed", replies, _created(replies), min(free, 2))


def pack_both_ways(track: Track) -> Race:
    """Half pack from one site to the other, half the other way: nobody hangs, and nothing is lost."""
    _move(track, "found", 5)
    query = (
        "SELECT sum(m.quantity) FROM stock_move m JOIN shelf h ON h.id = m.shelf_id JOIN part p ON p.id = h.part_id WHERE p.number = :part"
    )
    before = track.count(query, part=PART)

    def ask(number: int) -> requests.Response:
        start, goal = (DEPOT, GOAL) if number % 2 else (GOAL, DEPOT)
        body = {"part_number": PART, "from_site": start, "to_site": goal, "quantity": 1}
        return track.technician.post("/api/v1/stores/transfers", body)

    replies = track.together(ask)
    return race_of("packed both ways at once", replies, track.count(query, part=PART), before)


def arrive_once(track: Track) -> Race:
    """A transfer arrives once."""
    _move(track, "found", 3)
    body = {"part_number": PART, "from_site": DEPOT, "to_site": GOAL, "quantity": 3}
    made = track.lead.post("/api/v1/stores/transfers", body).json()
    act = {"act": "arrive", "quantity": 3, "reason": "", "expected_version": made["version"]}
    replies = track.post(track.technician, f"/api/v1/stores/transfers/{made['id']}/acts", act)
    return race_of("one arrival of a transfer", replies, _created(replies), 1)


def undo_once(track: Track) -> Race:
    """An act is undone once."""
    act = _move(track, "found", 2)
    replies = track.post(track.lead, f"/api/v1/stores/acts/{act}/undoing", {"reason": "race"})
    return race_of("one undoing", replies, track.count("SELECT count(*) FROM stock_act WHERE undoes_id = :act", act=act), 1)


def approve_once(track: Track) -> Race:
    """A count that waits is booked or refused, once."""
    _move(track, "found", 30)
    body = {"counted": 0, "reason": "race", "place": None}
    count = track.technician.post(f"{SHELF}/counts", body).json()["id"]

    def ask(number: int) -> requests.Response:
        return track.lead.post(f"/api/v1/stores/counts/{count}/settlement", {"approve": number % 2 == 0})

    replies = track.together(ask)
    return race_of("one settlement of a count", replies, _created(replies), 1)


STORE_RACES: tuple[Callable[[Track], Race], ...] = (pack_the_last, pack_both_ways, arrive_once, undo_once, approve_once)
