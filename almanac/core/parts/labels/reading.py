"""What was read off a label: the kind of part, its facts, and what must be asked."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from almanac.core.parts.kinds import Kind


@dataclass
class Reading:
    """Facts found in a label by name, and flags: doubts, questions and repairs in words. computed : facts that follow from the others"""

    kind: Kind | None
    facts: dict[str, Any] = field(default_factory=dict)
    flags: list[str] = field(default_factory=list)
    computed: set[str] = field(default_factory=set)

    def work_out(self, fact: str, value: float, how: str) -> None:
        """Note a fact that the label does not state and the others give."""
        self.facts[fact] = value
        self.computed.add(fact)
        self.ask(how)

    def ask(self, flag: str) -> None:
        """Note a question or doubt, once."""
        if flag not in self.flags:
            self.flags.append(flag)


def clean(text: str) -> str:
    """A label on one line, its dashes and spaces made plain. Letters keep their case."""
    plain = re.sub(r"[‐-―−]", "-", text.replace(",", "."))
    return re.sub(r"\s+", " ", plain).strip()


SIZE = re.compile(
    r"(?<![\d.])(?:(?P<count>\d{1,2})\s*[x×]\s*)?(?P<size>\d+(?:\.\d+)?)\s*(?P<unit>[GT])(?:i?B)?(?![A-Za-z]|\s?/\s?s)", re.IGNORECASE
)
"""A size as people write it: 512G, 16 GB, 2x8GB; 6Gb/s is a speed."""


def capacity_gb(text: str, reading: Reading) -> None:
    """A size in GB or TB, written as GB (1 TB is 1,000 GB of drive maker's counting). Of two that differ none is taken."""
    found = [(int(item["count"] or 1), float(item["size"]) * (1000 if item["unit"].upper() == "T" else 1)) for item in SIZE.finditer(text)]
    kits = [(count, each) for count, each in found if count > 1]
    sizes = list(dict.fromkeys(each for count, each in found if count == 1))
    if kits:
        count, each = kits[0]
        reading.facts["capacity_gb"] = None
        reading.ask(f"a kit of {count} x {each:g} GB: is this one of them ({each:g} GB) or the whole ({count * each:g} GB)?")
    elif one_of(reading, "capacity_gb", sizes, "GB"):
        reading.facts["capacity_gb"] = int(sizes[0]) if sizes[0] == int(sizes[0]) else sizes[0]


def one_of(reading: Reading, fact: str, values: Sequence[object], unit: str = "") -> bool:
    """Whether a label names one value of a fact; of several none is taken, and it is asked."""
    different = list(dict.fromkeys(values))
    if len(different) > 1:
        reading.facts[fact] = None
        named = " and ".join(f"{value:g}" if isinstance(value, float) else str(value) for value in different)
        reading.ask(f"the label names {named}{f' {unit}' if unit else ''}: which of them is it?")
    return len(different) == 1


DERIVED = frozenset({"agreement", "series", "cells"})
"""Readings that follow from others, and are no facts of a page."""


Reader = Callable[[str], Reading]
