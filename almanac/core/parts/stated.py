"""Entries that are plain where the page's own evidence holds, and statements where they are graded or sources differ (rule U3)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanac.core.parts.answers import known
from almanac.core.parts.declared.understand import said_of
from almanac.core.parts.kinds import Grade

HEARSAY = frozenset({Grade.TOLD, Grade.ASSUMED})


@dataclass(frozen=True)
class Said:
    """What holds of an entry.

    value : None where nobody knows · grade : None where the page's own evidence holds · differ : all values said, where they differ
    """

    value: Any
    grade: Grade | None = None
    differ: tuple[Any, ...] = ()

    @property
    def doubt(self) -> str:
        """Why it is not to be relied on, empty where it is."""
        if self.differ:
            return f"sources differ ({' or '.join(said_of(one).replace('_', ' ') for one in self.differ)})"
        return f"only {self.grade}" if self.grade in HEARSAY else ""


def said(entry: object) -> Said:
    """What holds of an entry of a page.

    Parameters
    ----------
    entry : a plain value, or statements as facts have them

    Returns
    -------
    Said : of several statements the strongest, as for any fact
    """
    if not isinstance(entry, list):
        return Said(entry)
    holds = known({"entry": entry}, "entry")
    differ = differing(entry)
    return Said(holds.value, holds.grade, differ) if holds else Said(None, None, differ)


def differing(statements: Sequence[Mapping[str, Any]]) -> tuple[Any, ...]:
    """Values that stand against one another: what somebody measured is contradicted only by what somebody else measured."""
    measured = [item for item in statements if item["grade"] == Grade.MEASURED]
    values: list[Any] = []
    for item in measured or statements:
        if item["value"] is not None and item["value"] not in values:
            values.append(item["value"])
    return tuple(values) if len(values) > 1 and not all(item.get("when") for item in statements) else ()


def field(entry: Mapping[str, Any], name: str) -> Said:
    """What holds of one field of an entry."""
    return said(entry.get(name))
