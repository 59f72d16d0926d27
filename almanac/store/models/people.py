"""Who may sign in, and what the company has decided."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import CheckConstraint, DateTime, ForeignKey, Index, Text, UniqueConstraint, false, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base, Id, Moment, one_of


class Role(StrEnum):
    """What a user may do; each role may do all that the later ones may."""

    LEAD = "lead"
    TECHNICIAN = "technician"
    READER = "reader"


class User(Base):
    """A person who signs in; the password is kept as an Argon2 hash only.

    provider_subject : who they are at the company's identity provider, None where they sign in here alone
    provider_awaited : a lead lets whoever has this login there be this person; ends once they came
    """

    __tablename__ = "user"
    __table_args__ = (one_of("role", Role), CheckConstraint("login = lower(login)", name="login_lower_case"))
    id: Mapped[Id]
    login: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    role: Mapped[str]
    password_hash: Mapped[str]
    active: Mapped[bool] = mapped_column(default=True)
    provider_subject: Mapped[str | None] = mapped_column(unique=True)
    provider_awaited: Mapped[bool] = mapped_column(default=False, server_default=false())


class ProviderAttempt(Base):
    """A sign-in through the identity provider on its way; comes back once, to the browser it began in. goes_to : the page wanted"""

    __tablename__ = "provider_attempt"
    __table_args__ = (Index("ix_provider_attempt_began_at", "began_at"),)
    id: Mapped[Id]
    state_hash: Mapped[str] = mapped_column(unique=True)
    browser_hash: Mapped[str]
    nonce: Mapped[str]
    verifier: Mapped[str]
    goes_to: Mapped[str]
    began_at: Mapped[Moment]
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class SignInAttempt(Base):
    """Failed sign-ins of the last minutes, shared by all web processes. `counter` is what they slow: an account, or one known browser."""

    __tablename__ = "sign_in_attempt"
    __table_args__ = (
        Index("ix_sign_in_attempt_counter", "counter", "attempted_at"),
        Index("ix_sign_in_attempt_address", "address", "attempted_at"),
    )
    id: Mapped[Id]
    counter: Mapped[str]
    address: Mapped[str]
    attempted_at: Mapped[Moment]


class WebSession(Base):
    """A sign-in on one browser until it is ended; the cookie's token is kept as a hash only. device : what the browser calls itself

    seen_at : about when it was used last, None where it was used only once or before this was kept
    """

    __tablename__ = "web_session"
    __table_args__ = (Index("ix_web_session_user_id", "user_id"),)
    id: Mapped[Id]
    token_hash: Mapped[str] = mapped_column(unique=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("user.id"))
    began_at: Mapped[Moment]
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    device: Mapped[str] = mapped_column(default="")
    seen_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class PasswordLink(Base):
    """A link by which one person chooses a password, once; made by a lead, kept as a hash only. One of a person's is open at a time."""

    __tablename__ = "password_link"
    __table_args__ = (Index("one_open_link", "user_id", unique=True, postgresql_where=text("ended_at IS NULL")),)
    id: Mapped[Id]
    token_hash: Mapped[str] = mapped_column(unique=True)
    user_id: Mapped[int] = mapped_column(ForeignKey("user.id"))
    made_by_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    made_at: Mapped[Moment]
    expires_at: Mapped[Moment]
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class UserSite(Base):
    """A site whose shelves and machines a technician works on; one who has none works on all."""

    __tablename__ = "user_site"
    user_id: Mapped[int] = mapped_column(ForeignKey("user.id"), primary_key=True)
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"), primary_key=True)


class AuditEntry(Base):
    """Something a person did that no other table keeps. Append-only, by a trigger. subject : login, key or file it was done to"""

    __tablename__ = "audit_entry"
    __table_args__ = (Index("ix_audit_entry_at", "at"), CheckConstraint("event ~ '^[a-z][a-z_]{1,29}$'", name="event_word"))
    id: Mapped[Id]
    at: Mapped[Moment]
    event: Mapped[str]
    user_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    subject: Mapped[str]
    words: Mapped[str] = mapped_column(default="")
    address: Mapped[str] = mapped_column(default="")


class BackupRun(Base):
    """A backup that was made by itself, or failed. words : what it holds, or why not"""

    __tablename__ = "backup_run"
    id: Mapped[Id]
    at: Mapped[Moment]
    file: Mapped[str]
    good: Mapped[bool]
    words: Mapped[str]


class RequestKey(Base):
    """A request of a user that came with a key, and what was answered: sent again, it is answered again and not carried out again."""

    __tablename__ = "request_key"
    __table_args__ = (Index("ix_request_key_made_at", "made_at"),)
    user_id: Mapped[int] = mapped_column(ForeignKey("user.id"), primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    fingerprint: Mapped[str]
    status: Mapped[int | None]
    body: Mapped[str | None] = mapped_column(Text)
    made_at: Mapped[Moment]


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
    reason: Mapped[str] = mapped_column(default="", server_default="")
    recorded_at: Mapped[Moment]
