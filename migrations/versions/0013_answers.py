"""Answers that were computed, by the key of what they were computed from; dropped when there are too many, and computed again."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    op.create_table(
        "answer",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("value", sa.LargeBinary(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("took_seconds", sa.Float(), nullable=False),
        sa.Column("size_bytes", sa.Integer(), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_answer")),
    )
    op.create_index("ix_answer_used_at", "answer", ["used_at"])
    op.create_index("ix_answer_name", "answer", ["name"])


def downgrade() -> None:
    op.drop_index("ix_answer_name", table_name="answer")
    op.drop_index("ix_answer_used_at", table_name="answer")
    op.drop_table("answer")
