"""Scenarios that were kept: a name and what would be done to the fleet; the data themselves stay as they are."""

from __future__ import annotations

from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment


class Scenario(Base):
    """Changes in the order they were made, as the interface sends them."""

    __tablename__ = "scenario"
    __table_args__ = (CheckConstraint("name <> ''", name="name_given"),)
    id: Mapped[Id]
    name: Mapped[str] = mapped_column(unique=True)
    changes: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)
    kept_at: Mapped[Moment]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
