"""Who may sign in, and what the company has decided."""

from __future__ import annotations

from datetime import date
from enum import StrEnum
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment, one_of


class Role(StrEnum):
    """What a user may do; each role may do all that the later ones may."""

    LEAD = "lead"
    TECHNICIAN = "technician"
    READER = "reader"


class User(Base):
    """A person who signs in; the password is kept as an Argon2 hash only."""

    __tablename__ = "user"
    __table_args__ = (one_of("role", Role), CheckConstraint("login = lower(login)", name="login_lower_case"))
    id: Mapped[Id]
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    active: Mapped[bool] = mapped_column(default=True)


class SignInAttempt(Base):
    """Failed sign-ins of the last minutes, shared by all web processes for the rate limit."""

    __tablename__ = "sign_in_attempt"
    __table_args__ = (Index("ix_sign_in_attempt_login", "login", "attempted_at"),)
    id: Mapped[Id]
    login: Mapped[str]
    address: Mapped[str]
    attempted_at: Mapped[Moment]


class Setting(Base):
    """A decision with its day and author; the latest that is in force on a day holds, the narrowest scope first."""

    __tablename__ = "setting"
    __table_args__ = (
        one_of("scope", ("company", "kind", "part")),
        UniqueConstraint("scope", "scope_key", "key", "number"),
        CheckConstraint("(scope = 'company') = (scope_key = '')", name="scope_key_given"),
    )
    id: Mapped[Id]
    scope: Mapped[str]
    scope_key: Mapped[str] = mapped_column(default="")
    key: Mapped[str]
    number: Mapped[int]
    value: Mapped[Any] = mapped_column(JSONB)
    from_on: Mapped[date]
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    recorded_at: Mapped[Moment]
