"""The declarative base: naming of constraints and the column types all tables share."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from enum import StrEnum
from typing import Annotated, Any

from sqlalchemy import CheckConstraint, DateTime, Identity, Integer, MetaData
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, mapped_column

NAMING = {
    "ix": "ix_%(table_name)s_%(column_0_N_name)s",
    "uq": "uq_%(table_name)s_%(column_0_N_name)s",
    "ck": "ck_%(table_name)s_%(constraint_name)s",
    "fk": "fk_%(table_name)s_%(column_0_N_name)s",
    "pk": "pk_%(table_name)s",
}

Id = Annotated[int, mapped_column(Integer, Identity(), primary_key=True)]
Moment = Annotated[datetime, mapped_column(DateTime(timezone=True))]
Document = Annotated[dict[str, Any], mapped_column(JSONB)]


class Base(DeclarativeBase):
    metadata = MetaData(naming_convention=NAMING)


def kind_word() -> CheckConstraint:
    """A kind of part, or one that an earlier program knew: a word. Which there are is declared in `core/parts/declared/kinds.py` alone."""
    return CheckConstraint("kind ~ '^[a-z][a-z_]{1,29}$'", name="kind_word")


def one_of(column: str, allowed: type[StrEnum] | Iterable[str]) -> CheckConstraint:
    """A text column that takes only the values of an enumeration."""
    values = ", ".join(f"'{value}'" for value in allowed)
    return CheckConstraint(f"{column} IN ({values})", name=f"{column}_known")
