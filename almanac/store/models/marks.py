"""What was written, as marks: two readers that see the same mark see the same rows."""

from __future__ import annotations

from sqlalchemy import BigInteger
from sqlalchemy.orm import Mapped, mapped_column

from almanac.store.models.base import Base


class Written(Base):
    """One row a topic and transaction that wrote it, moved on by each of its statements; triggers write it.

    topic : a table, or `lives/` and the part whose lives were written · writers : transactions put together in the row, 1 or more
    """

    __tablename__ = "written"
    topic: Mapped[str] = mapped_column(primary_key=True)
    writer: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    writers: Mapped[int] = mapped_column(BigInteger)
    at: Mapped[int] = mapped_column(BigInteger)
