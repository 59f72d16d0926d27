"""What tells whether lives of parts have to be read again."""

from __future__ import annotations

from sqlalchemy import BigInteger
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base


class LivesMark(Base):
    """One row a transaction that wrote what lives are read from, moved on by each of its statements; triggers write it."""

    __tablename__ = "lives_mark"
    writer: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    at: Mapped[int] = mapped_column(BigInteger)
