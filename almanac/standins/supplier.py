"""A supplier that answers: it reads an order as it is sent, and confirms, moves the day, ships short, offers another part or asks more."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

ANSWERS = ("confirmed", "moved", "short", "substitute", "price")
LATER_DAYS = 10
DEARER = Decimal("1.08")


def answer(order: str, kind: str, *, others: Sequence[str] = ()) -> str:
    """One answer to the first line with something to come; the other lines are confirmed.

    Parameters
    ----------
    order : JSON in the documented form · kind : one of ANSWERS · others : part numbers it could send instead

    Returns
    -------
    str : JSON in the documented form; an offer of another part becomes a short delivery where there is no other
    """
    document = json.loads(order)
    lines = [line for line in document["lines"] if line["quantity"] > 0]
    answers = [_confirmed(line) for line in lines]
    if lines and kind != "confirmed":
        answers[0] = _MAKERS[kind](lines[0], [number for number in others if number != lines[0]["part_number"]])
    reply = {"format": "parts-almanac-order-answer/1", "order": document["order"], "answers": answers}
    return json.dumps(reply, indent=2)


def _confirmed(line: Mapping[str, Any]) -> dict[str, Any]:
    return {"part_number": line["part_number"], "answer": "confirmed", "expected_on": line["wanted_on"]}


def _later(line: Mapping[str, Any]) -> str:
    return (date.fromisoformat(line["wanted_on"]) + timedelta(days=LATER_DAYS)).isoformat()


def _moved(line: Mapping[str, Any], _: Sequence[str]) -> dict[str, Any]:
    return {"part_number": line["part_number"], "answer": "moved", "expected_on": _later(line), "words": "the boat is full"}


def _short(line: Mapping[str, Any], _: Sequence[str]) -> dict[str, Any]:
    return {"part_number": line["part_number"], "answer": "short", "quantity": line["quantity"] // 2, "words": "no more in the house"}


def _substitute(line: Mapping[str, Any], others: Sequence[str]) -> dict[str, Any]:
    if not others:
        return _short(line, others)
    found = {"part_number": line["part_number"], "answer": "substitute", "substitute": others[0], "unit_price": line["unit_price"]}
    return {**found, "words": "the one you wanted is no longer made"}


def _price(line: Mapping[str, Any], _: Sequence[str]) -> dict[str, Any]:
    dearer = (Decimal(line["unit_price"]) * DEARER).quantize(Decimal("0.01"))
    return {"part_number": line["part_number"], "answer": "price", "unit_price": str(dearer), "words": "prices rose"}


_MAKERS = {"moved": _moved, "short": _short, "substitute": _substitute, "price": _price}
