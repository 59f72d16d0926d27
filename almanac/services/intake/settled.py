"""What a person settled of a source's lists, what is asked, and what was taken without asking."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

NOT_FOR_US, NEW = "-", "+"
"""What a name means that is none of ours, and one that is ours and not on record yet."""


@dataclass(frozen=True)
class Settled:
    """What a person said. columns : header by field, "" for none · names : by field, plain text to its meaning or answer
    decimal : "," or "." · gone : "leave", "on" (the list's day) or "spread" since the last list
    delivered : new machines hold what their model is delivered with, where that is beyond doubt
    """

    sheet: str | None = None
    columns: Mapping[str, str] = field(default_factory=dict)
    day_first: bool | None = None
    names: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    gone: str | None = None
    delivered: bool | None = None
    decimal: str | None = None


def together(kept: Mapping[str, Any], said: Settled) -> Settled:
    """What was remembered of a source, and what is said now: that wins."""
    names = {name: dict(own) for name, own in dict(kept.get("names", {})).items()}
    for name, own in said.names.items():
        names[name] = {**names.get(name, {}), **own}
    return Settled(
        sheet=said.sheet or kept.get("sheet"),
        columns={**dict(kept.get("columns", {})), **said.columns},
        day_first=said.day_first if said.day_first is not None else kept.get("day_first"),
        names=names,
        gone=said.gone or kept.get("gone"),
        delivered=said.delivered if said.delivered is not None else kept.get("delivered"),
        decimal=said.decimal or kept.get("decimal"),
    )


class Asks(StrEnum):
    """What an answer is: one of what is on record, a number of days, a day, an amount, or words."""

    CHOICE = "choice"
    DAYS = "days"
    DAY = "day"
    AMOUNT = "amount"
    WORDS = "words"


@dataclass(frozen=True)
class Question:
    """Something only a person can say, once. proposal : what it is most like, None where like nothing · lines : some rows it stands in
    may_be_new : whether it may be one that is ours and not on record yet · about : what is asked, where the text alone does not say it
    optional : whether a list can be applied without an answer · key : under which the answer is kept, None for the plain text
    options : meanings with their words, where they are this question's own
    """

    field: str
    text: str
    rows: int
    lines: tuple[int, ...]
    proposal: str | None
    asks: Asks = Asks.CHOICE
    may_be_new: bool = False
    about: str = ""
    optional: bool = False
    key: str | None = None
    options: tuple[tuple[str, str], ...] = ()
