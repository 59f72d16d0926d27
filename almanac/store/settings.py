"""What the company decided, as it holds on a day: the narrowest scope wins, the latest number within it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from almanac.store.models import Setting


@dataclass(frozen=True)
class Settings:
    """Values by (scope, scope key, key) with the number of the entry each comes from; a value of none leaves it to the wider scope."""

    entries: dict[tuple[str, str, str], tuple[Any, int]]
    reasons: dict[tuple[str, str, str], str] = field(default_factory=dict)

    def value(self, key: str, *, kind: str | None = None, part_number: str | None = None, default: Any = None) -> Any:
        """The value that holds for a part, its kind, or the company."""
        for scope, scope_key in (("part", part_number), ("kind", kind), ("company", "")):
            if scope_key is not None and (value := self.entries.get((scope, scope_key, key), (None, 0))[0]) is not None:
                return value
        return default

    def own(self, scope: str, scope_key: str, key: str) -> Any:
        """The value of a scope itself, None where it has none."""
        return self.entries.get((scope, scope_key, key), (None, 0))[0]

    def number(self, scope: str, scope_key: str, key: str) -> int:
        """Number of the entry that holds, 0 when there is none: what an edit has to name."""
        return self.entries.get((scope, scope_key, key), (None, 0))[1]

    def narrower(self, key: str) -> int:
        """How many kinds and parts have a value of their own."""
        return sum(own == key and scope != "company" and value is not None for (scope, _, own), (value, _) in self.entries.items())


def settings_on(session: Session, day: date) -> Settings:
    """Every setting in force on a day."""
    query = (
        select(Setting)
        .where(Setting.from_on <= day)
        .order_by(Setting.scope, Setting.scope_key, Setting.key, Setting.number.desc())
        .ext(distinct_on(Setting.scope, Setting.scope_key, Setting.key))
    )
    rows = list(session.scalars(query))
    entries = {(row.scope, row.scope_key, row.key): (row.value, row.number) for row in rows}
    return Settings(entries, {(row.scope, row.scope_key, row.key): row.reason for row in rows if row.reason})


def last_number(session: Session, scope: str, scope_key: str, key: str) -> int:
    """Highest number given to a setting so far; 0 when it was never set."""
    query = select(func.max(Setting.number)).where(Setting.scope == scope, Setting.scope_key == scope_key, Setting.key == key)
    return session.scalar(query) or 0


def last_change(session: Session, keys: Collection[str]) -> date | None:
    """Day on which the company last chose one of some values; None where it never did."""
    return session.scalar(select(func.max(Setting.from_on)).where(Setting.scope == "company", Setting.key.in_(list(keys))))
