"""Device models: the revision is the truth, positions are its projection."""

from __future__ import annotations

from typing import Any

from sqlalchemy import Boolean, CheckConstraint, Computed, ForeignKey, LargeBinary, UniqueConstraint
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from almanac.core.parts.kinds import Serviceability
from almanac.store.models.base import Base, Document, Id, Moment, kind_word, one_of

FORMS = ("notebook", "convertible", "all_in_one", "mini_pc", "workstation")


class DeviceModel(Base):
    """One model of the fleet, as its maker names it."""

    __tablename__ = "device_model"
    __table_args__ = (UniqueConstraint("maker", "name"), one_of("form", FORMS))
    id: Mapped[Id]
    maker: Mapped[str]
    name: Mapped[str]
    family: Mapped[str]
    form: Mapped[str]


class ModelRevision(Base):
    """A model's page as it was written at one moment; the newest that is no draft holds, and none is ever taken away."""

    __tablename__ = "model_revision"
    __table_args__ = (UniqueConstraint("model_id", "number"),)
    id: Mapped[Id]
    model_id: Mapped[int] = mapped_column(ForeignKey("device_model.id"))
    number: Mapped[int]
    page: Mapped[Document]
    page_key: Mapped[str] = mapped_column(Computed("md5(page::text)", persisted=True))
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    reason: Mapped[str]
    draft: Mapped[bool] = mapped_column(Boolean, default=False)
    recorded_at: Mapped[Moment]


class Position(Base):
    """A place for one part in a model; `key` is what revisions agree on, so tenures outlive a rewrite of the page."""

    __tablename__ = "position"
    __table_args__ = (
        UniqueConstraint("model_id", "key"),
        UniqueConstraint("id", "model_id", name="uq_position_id_model"),
        kind_word(),
        one_of("serviceability", Serviceability),
    )
    id: Mapped[Id]
    model_id: Mapped[int] = mapped_column(ForeignKey("device_model.id"))
    revision_id: Mapped[int] = mapped_column(ForeignKey("model_revision.id"))
    key: Mapped[str]
    label: Mapped[str]
    kind: Mapped[str]
    serviceability: Mapped[str]
    ordered_unit: Mapped[str | None]
    option_condition: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))


class Photo(Base):
    """A picture a fact, label or plug of a page may name; stored without its metadata, once for equal bytes."""

    __tablename__ = "photo"
    __table_args__ = (UniqueConstraint("digest"), CheckConstraint("width > 0 AND height > 0", name="has_a_size"))
    id: Mapped[Id]
    digest: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    png: Mapped[bytes] = mapped_column(LargeBinary)
    author_id: Mapped[int | None] = mapped_column(ForeignKey("user.id"))
    recorded_at: Mapped[Moment]
