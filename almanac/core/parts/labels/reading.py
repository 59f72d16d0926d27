"""What was read off a label: the kind of part, its facts, and what must be asked."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from almanac.core.parts.kinds import Kind


@dataclass
class Reading:
    """Facts found in a label by name, and flags: doubts, questions and repairs in words."""

    kind: Kind | None
    facts: dict[str, Any] = field(default_factory=dict)
    flags: list[str] = field(default_factory=list)

    def ask(self, flag: str) -> None:
        """Note a question or doubt, once."""
        if flag not in self.flags:
            self.flags.append(flag)


def clean(text: str) -> str:
    """A label on one line, its dashes and spaces made plain. Letters keep their case."""
    plain = re.sub(r"[‐-―−]", "-", text.replace(",", "."))
    return re.sub(r"\s+", " ", plain).strip()


def capacity_gb(text: str, reading: Reading) -> None:
    """A size in GB or TB, written as GB (1 TB is 1,000 GB of drive maker's counting)."""
    found = re.search(r"(?<![\d.])(\d+(?:\.\d+)?)\s*([GT])(?:i?B)\b", text, re.IGNORECASE)
    if found:
        size = float(found[1]) * (1000 if found[2].upper() == "T" else 1)
        reading.facts["capacity_gb"] = int(size) if size == int(size) else size


DERIVED = frozenset({"agreement", "series", "cells"})
"""Readings that follow from others, and are no facts of a page."""


Reader = Callable[[str], Reading]
