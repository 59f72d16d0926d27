"""What every kind of list can do: read its rows, hold them against the record, write what is new, and take it back."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, ClassVar

from sqlalchemy.orm import Session

from almanac.services.clock import Clock
from almanac.services.intake.changes import Change, Difference, Gone
from almanac.services.intake.columns import Field
from almanac.services.intake.settled import Question, Settled
from almanac.services.intake.table import Table
from almanac.store.models import Intake

Kept = dict[str, Any]
"""What a change was and became, as plain values, so that it can be undone."""


@dataclass(frozen=True)
class ListDay:
    """When a list was made, and the one before it. gone : what becomes of what it names no more, None while nobody said"""

    on: date
    before: date | None
    gone: Gone | None


@dataclass(frozen=True)
class By:
    """Who applies a list, and when."""

    clock: Clock
    author_id: int | None


@dataclass(frozen=True)
class Found:
    """Rows as they were understood and what they say. shown : the first of them, a text for each of the fields `shown_fields`"""

    rows: Sequence[Any]
    questions: list[Question]
    taken: list[tuple[str, str, str]]
    not_ours: int
    difference: Difference
    shown_fields: tuple[str, ...]
    shown: list[tuple[int, tuple[str, ...]]]


SHOWN = 20
READING, HOLDING, WRITING = "reading its rows", "holding it against the record", "writing"
"""What is told while a long list is worked through."""


class Subject(ABC):
    """A kind of list. kind : its name · title : in words · one, many : what a row is
    usual : what its source is called where nobody says
    """

    kind: ClassVar[str]
    title: ClassVar[str]
    usual: ClassVar[str]
    one: ClassVar[str]
    many: ClassVar[str]
    fields: ClassVar[tuple[Field, ...]]

    @abstractmethod
    def known(self, session: Session) -> Mapping[str, set[str]]:
        """Plain names on record by field, to tell columns by what stands in them."""

    @abstractmethod
    def look(self, session: Session, table: Table, settled: Settled, when: ListDay) -> Found:
        """What the rows say beside the record; nothing is written."""

    @abstractmethod
    def write(self, session: Session, changes: Sequence[Change], by: By) -> list[Kept]:
        """Write changes, in the caller's transaction."""

    @abstractmethod
    def undo(self, session: Session, row: Intake, by: By) -> list[str]:
        """Take back what a list wrote; returns what stays on record nevertheless.

        Raises
        ------
        Refused : something was done with it since
        """

    @abstractmethod
    def choices(self, session: Session) -> Mapping[str, Mapping[str, str]]:
        """What a name of a field may mean: words by meaning."""
