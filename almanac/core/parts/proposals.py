"""Pasted or dictated notes become proposals: graded "told", unit-checked, sums recomputed, each to be accepted or refused."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.kinds import Kind
from almanac.core.parts.labels.read import read_label
from almanac.core.parts.labels.reading import DERIVED
from almanac.core.parts.note_counts import TERM, counted_in
from almanac.core.teardown.counts import total as sum_of
from almanac.core.teardown.operations import Fasteners

TOTAL = re.compile(
    r"\b(?:total|altogether|in all|sum)\D{0,12}(\d{1,3})|(\d{1,3})\s+(?:screws?\s+)?(?:in total|altogether|in all)", re.IGNORECASE
)


@dataclass(frozen=True)
class Proposal:
    """One thing a note may mean. `field` is facts of a position or fasteners of a step; `value` what would be written.

    line : where in the note · text : the words · target : position key proposed, None where it must be chosen · flags : doubts
    """

    line: int
    text: str
    field: str
    target: str | None
    value: dict[str, Any]
    flags: tuple[str, ...]


def read_notes(text: str, positions: Sequence[Mapping[str, Any]]) -> list[Proposal]:
    """Proposals from notes, line by line; what is not understood stays a note.

    Parameters
    ----------
    text : as pasted · positions : of the page, each with key, label and kind

    Returns
    -------
    list of Proposal, in the note's order
    """
    found: list[Proposal] = []
    for number, raw in enumerate(text.splitlines(), 1):
        words = raw.strip(" -*•\t")
        if words:
            found.extend(_read_line(number, words, positions))
    return found


def _read_line(number: int, words: str, positions: Sequence[Mapping[str, Any]]) -> Iterator[Proposal]:
    reading = read_label(words)
    said = {name: value for name, value in reading.facts.items() if name not in DERIVED and name not in reading.computed}
    facts = {name: value for name, value in said.items() if value is not None}
    if reading.kind is not None and facts:
        target = _position(words, reading.kind, positions)
        ask = () if target else (f"which {reading.kind.value} position is meant?",)
        yield Proposal(number, words, "facts", target, facts, (*reading.flags, *ask))
        return
    screws = _screws(number, words) if TERM.search(words) else None
    if screws is not None and screws.value["total"]:
        yield screws
        return
    yield Proposal(number, words, "note", None, {"text": words}, ())


def _position(words: str, kind: Kind, positions: Sequence[Mapping[str, Any]]) -> str | None:
    """The position a line speaks of: by its label, else the only one of the kind."""
    of_kind = [entry for entry in positions if entry["kind"] == kind.value]
    named = [entry for entry in of_kind if entry.get("label", entry["key"]).lower() in words.lower()]
    chosen = named or of_kind
    return chosen[0]["key"] if len(chosen) == 1 else None


def _screws(number: int, words: str) -> Proposal:
    total = TOTAL.search(words)
    counted = counted_in(TOTAL.sub("", words) if total else words)
    summed, flags = sum_of(item.count for item in counted.groups), list(counted.flags)
    if total:
        stated = int(total[1] or total[2])
        if not summed.agrees(stated):
            flags.append(f"the note says {stated}, its groups add up to {summed.words}: which is it?")
    value = {"fasteners": [fastener_entry(item) for item in counted.groups], "total": summed.written if counted.groups else 0}
    return Proposal(number, words, "fasteners", None, value, tuple(flags))


def fastener_entry(item: Fasteners) -> dict[str, Any]:
    """A group of fasteners as a page writes it."""
    entry: dict[str, Any] = {"group": item.group, "count": item.count.written}
    for name in ("bit", "thread", "captive", "hidden"):
        if getattr(item, name) is not None:
            entry[name] = getattr(item, name)
    if item.mostly:
        entry["captive"] = "mostly"
    if item.kind != "screw":
        entry["kind"] = item.kind
    if item.numbered:
        entry["numbered"] = True
    return entry
