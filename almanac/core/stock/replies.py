"""What a supplier can answer to an order, and what each answer says of a line."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from enum import StrEnum


class Reply(StrEnum):
    """One of the five answers."""

    CONFIRMED = "confirmed"
    MOVED = "moved"
    SHORT = "short"
    SUBSTITUTE = "substitute"
    PRICE = "price"


TAKES_EFFECT = frozenset({Reply.CONFIRMED, Reply.MOVED})
"""Answers that nobody has to agree to: the supplier says what will be."""


@dataclass(frozen=True)
class Said:
    """What the supplier says of one line. quantity : it can send, of a short one · part_number : it would send instead"""

    reply: Reply
    expected_on: date | None = None
    quantity: int | None = None
    price: Decimal | None = None
    part_number: str | None = None
    words: str = ""


def faults_of(said: Said, *, to_come: int, placed_on: date, own_number: str) -> list[tuple[str, str]]:
    """What is wrong with an answer, as (field, words).

    Parameters
    ----------
    said : the answer · to_come : parts of its line that are still to come · placed_on : day of the order · own_number : of the part
    """
    checks = [_day_faults(said, placed_on)]
    if to_come <= 0:
        checks.append([("reply", "nothing is to come on this line any more")])
    elif said.reply is Reply.SHORT:
        checks.append(_short_faults(said, to_come))
    elif said.reply is Reply.SUBSTITUTE and (not said.part_number or said.part_number == own_number):
        checks.append([("part_number", "say which other part they would send")])
    elif said.reply is Reply.PRICE and said.price is None:
        checks.append([("price", "say what they ask for one part")])
    return [fault for found in checks for fault in found]


def _day_faults(said: Said, placed_on: date) -> list[tuple[str, str]]:
    if said.reply is Reply.MOVED and said.expected_on is None:
        return [("expected_on", "say the day they name now")]
    if said.expected_on is not None and said.expected_on < placed_on:
        return [("expected_on", "it cannot arrive before the day of the order")]
    return []


def _short_faults(said: Said, to_come: int) -> list[tuple[str, str]]:
    if said.quantity is None or not 0 <= said.quantity < to_come:
        return [("quantity", f"say how many they can send: 0 to {to_come - 1}")]
    return []
