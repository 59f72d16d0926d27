"""What a list says beside the record, whatever it is a list of."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum


class Group(StrEnum):
    """What becomes of a row or of something on record."""

    NEW = "new"
    MOVED = "moved"
    CHANGED = "changed"
    GONE = "gone"
    UNCHANGED = "unchanged"
    TWICE = "twice"
    UNUSABLE = "unusable"
    WAITS = "waits"


WRITTEN = (Group.NEW, Group.MOVED, Group.CHANGED, Group.GONE)


class Gone(StrEnum):
    """What becomes of what a list names no more."""

    LEAVE = "leave"
    ON = "on"
    SPREAD = "spread"


@dataclass(frozen=True)
class Change:
    """What would be done. subject : of what, as people call it · words : what, for a person · record_id : of what is on record
    on : day it is done · values : as they are written · holds : what a new machine was delivered with, (position, part)
    """

    group: Group
    subject: str
    line: int | None
    words: str
    record_id: int | None = None
    on: date | None = None
    values: Mapping[str, object] = field(default_factory=dict)
    model: str | None = None
    site: str | None = None
    holds: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True)
class Difference:
    """What a list says beside the record. open_gone : how many it names no more, while nobody said what became of them"""

    changes: list[Change]
    open_gone: int = 0

    def counts(self) -> dict[str, int]:
        """How many of each group."""
        found = Counter(change.group.value for change in self.changes)
        return {group.value: found[group.value] for group in Group}

    @property
    def done(self) -> list[Change]:
        """What is written."""
        return [change for change in self.changes if change.group in WRITTEN]


def in_order(changes: list[Change]) -> list[Change]:
    """By group, and as the list has them."""
    order = list(Group)
    return sorted(changes, key=lambda change: (order.index(change.group), change.line or 0, change.subject))
